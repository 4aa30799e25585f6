import { deflateSync } from 'node:zlib';
import { fromArrayBuffer } from 'geotiff';
import { numberToHalf, type Image } from '@shale/core';
import type { WriteSettings } from './format.ts';
import { lzwEncode } from './lzw.ts';

/** The first picture of a TIFF of floats, in strips or tiles. Halves are told apart by the header; the reader gives their values. */
export async function readFloats(bytes: Buffer, sample: 'f16' | 'f32'): Promise<Image> {
  const own = bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer;
  const picture = await (await fromArrayBuffer(own)).getImage();
  const values = await picture.readRasters({ interleave: true });
  const [width, height, channels] = [picture.getWidth(), picture.getHeight(), picture.getSamplesPerPixel()];
  if (channels > 4) throw new Error(`it has ${channels} channels, of which Shale reads up to 4`);
  if (values.length !== width * height * channels) throw new Error('its picture is not whole');
  const data = sample === 'f16' ? Uint16Array.from(values as Float32Array, numberToHalf) : Float32Array.from(values);
  return { width, height, channels: channels as Image['channels'], sample, data };
}

/** Types of a field (TIFF 6.0, section 2). */
const short = 3;
const long = 4;

/** Rows that are compressed together: about 256 KiB. */
const rowsOf = (rowBytes: number, height: number): number =>
  Math.min(height, Math.max(1, Math.floor(262_144 / rowBytes)));

/**
 * A TIFF of floats, low byte first, in strips (TIFF 6.0, sections 8, 18 and 19; deflate by Adobe's supplement 2). Nothing is
 * predicted, so that any reader takes it.
 */
export function floatTiff(
  image: Image,
  { alpha, tiffCompression }: Pick<WriteSettings, 'alpha' | 'tiffCompression'>,
): Buffer {
  const { width, height, channels, data } = image;
  const bytes = Buffer.from(data.buffer, data.byteOffset, data.byteLength);
  const row = width * channels * 4;
  const rows = rowsOf(row, height);
  const strips: Buffer[] = [];
  for (let y = 0; y < height; y += rows) {
    const strip = bytes.subarray(y * row, Math.min(height, y + rows) * row);
    strips.push(
      tiffCompression === 'deflate'
        ? deflateSync(strip, { level: 1 })
        : tiffCompression === 'lzw'
          ? lzwEncode(strip)
          : strip,
    );
  }
  const each = (value: number) => Array<number>(channels).fill(value);
  let at = 8;
  const offsets = strips.map(({ length }) => {
    const from = at;
    at += length;
    return from;
  });
  const hasAlpha = channels === 2 || channels === 4;
  const fields: [tag: number, type: number, values: number[]][] = [
    [256, long, [width]],
    [257, long, [height]],
    [258, short, each(32)],
    [259, short, [{ none: 1, lzw: 5, deflate: 8 }[tiffCompression]]],
    [262, short, [channels <= 2 ? 1 : 2]],
    [273, long, offsets],
    [277, short, [channels]],
    [278, long, [rows]],
    [279, long, strips.map(({ length }) => length)],
    [284, short, [1]],
    // Associated alpha is premultiplied (section 18).
    ...(hasAlpha ? [[338, short, [alpha === 'premultiplied' ? 1 : 2]] as [number, number, number[]]] : []),
    [339, short, each(3)],
  ];
  return Buffer.concat([head(at), ...strips, directory(fields, at)]);
}

function head(directoryAt: number): Buffer {
  const bytes = Buffer.from('II*\0\0\0\0\0', 'latin1');
  bytes.writeUInt32LE(directoryAt, 4);
  return bytes;
}

/** The directory, and behind it the values that do not fit into a field. */
function directory(fields: [tag: number, type: number, values: number[]][], at: number): Buffer {
  const list = Buffer.alloc(2 + fields.length * 12 + 4);
  list.writeUInt16LE(fields.length, 0);
  const behind: Buffer[] = [];
  let next = at + list.length;
  fields.forEach(([tag, type, values], index) => {
    const from = 2 + index * 12;
    const size = type === short ? 2 : 4;
    const bytes = Buffer.alloc(Math.max(4, values.length * size));
    values.forEach((value, place) =>
      size === 2 ? bytes.writeUInt16LE(value, place * 2) : bytes.writeUInt32LE(value, place * 4),
    );
    list.writeUInt16LE(tag, from);
    list.writeUInt16LE(type, from + 2);
    list.writeUInt32LE(values.length, from + 4);
    if (values.length * size <= 4) bytes.copy(list, from + 8);
    else {
      list.writeUInt32LE(next, from + 8);
      behind.push(bytes);
      next += bytes.length;
    }
  });
  return Buffer.concat([list, ...behind]);
}
