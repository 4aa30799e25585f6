import type * as Reader from 'geotiff';
import { filled, numberToHalf, type Image } from '@shale/core';
import { textsAsFields } from './exifTexts.ts';
import type { WriteSettings } from './format.ts';
import { makeProfile } from './iccWrite.ts';
import { tiffAddon } from '../tiff/addon.ts';
import { NotRead } from '../notRead.ts';

/** The reader, loaded with the first file that needs it, with a decoder of Zstandard of our own. */
let loaded: Promise<typeof Reader> | undefined;

async function load(): Promise<typeof Reader> {
  const reader = await import('geotiff');
  const { ZSTDDecoder } = await import('zstddec');
  const zstd = new ZSTDDecoder();
  /**
   * Zstandard into a bounded piece of memory: the reader's own decoder asks damaged data for more until there is no memory left.
   * @throws Error where the data is damaged
   */
  class BoundedZstd extends reader.BaseDecoder {
    override decodeBlock(buffer: ArrayBufferLike): ArrayBufferLike {
      const { tileWidth, tileHeight, bitsPerSample, planarConfiguration } = this.parameters;
      const bits = typeof bitsPerSample === 'number' ? [bitsPerSample] : [...bitsPerSample];
      const pixel = planarConfiguration === 2 ? bits[0]! : bits.reduce((sum, one) => sum + one, 0);
      const found = zstd.decode(new Uint8Array(buffer), Math.ceil((tileWidth * pixel) / 8) * tileHeight);
      // An error is told as a length below 0, of which nothing is left.
      if (found.length === 0) throw new Error('its compressed data is damaged (Zstandard)');
      return found.buffer;
    }
  }
  const start = async () => {
    await zstd.init();
    return BoundedZstd;
  };
  reader.addDecoder([50_000], start, undefined, false);
  return reader;
}

/**
 * The first picture of a TIFF, in strips or tiles: grey or colour, as its samples stand. Halves are told apart by the header;
 * the reader gives their values. Whole numbers of 32 bits become shares of the greatest.
 * @param channels colours, and alpha behind them where `hasAlpha`; what the file has beyond them is left out
 */
export async function readPlainly(
  bytes: Buffer,
  sample: 'u8' | 'u16' | 'f16' | 'f32',
  channels: number,
  hasAlpha: boolean,
): Promise<Image> {
  const own = bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer;
  const { fromArrayBuffer } = await (loaded ??= load());
  const picture = await (await fromArrayBuffer(own)).getImage();
  // 1 is grey, 2 colour (section 8); grey from white, palettes and the like would have to be worked out.
  const kind = picture.fileDirectory.getValue('PhotometricInterpretation');
  if (kind !== undefined && kind !== 1 && kind !== 2)
    throw new NotRead(`its colours are of kind ${kind}, which is read of 8 and 16 bits without zstd only`);
  const stored = picture.getSamplesPerPixel();
  const colours = kind === 1 ? 1 : 3;
  if (channels !== colours + (hasAlpha ? 1 : 0) || channels > stored)
    throw new NotRead(`it has ${stored} channels for ${colours} ${colours === 1 ? 'colour' : 'colours'}`);
  const values = await picture.readRasters({
    interleave: true,
    samples: Array.from({ length: channels }, (_, at) => at),
  });
  const [width, height] = [picture.getWidth(), picture.getHeight()];
  if (values.length !== width * height * channels) throw new Error('its picture is not whole');
  return { width, height, channels: channels as Image['channels'], sample, data: samplesOf(values, sample) };
}

function samplesOf(values: ArrayLike<number>, sample: 'u8' | 'u16' | 'f16' | 'f32'): Image['data'] {
  if (sample === 'u8') return Uint8Array.from(values);
  if (sample === 'u16') return Uint16Array.from(values);
  if (sample === 'f16') return filled(new Uint16Array(values.length), (at) => numberToHalf(values[at]!));
  return values instanceof Uint32Array
    ? filled(new Float32Array(values.length), (at) => values[at]! / 0xffff_ffff)
    : Float32Array.from(values);
}

/** Types of a field (TIFF 6.0, section 2). */
const ascii = 2;
const short = 3;
const long = 4;
const rational = 5;
const undefinedBytes = 7;

/** Rows that are compressed together: about 256 KiB. */
const rowsOf = (rowBytes: number, height: number): number =>
  Math.min(height, Math.max(1, Math.floor(262_144 / rowBytes)));

/** The strips of a picture as they go into a file, one after another, and the length of each. */
async function stripsOf(
  { width, height, channels, data }: Image,
  { tiffCompression, effort }: WriteSettings,
  rows: number,
  size: 1 | 2 | 4,
  predicts: boolean,
): Promise<{ strips: Buffer; lengths: number[] }> {
  const bytes = Buffer.from(data.buffer, data.byteOffset, data.byteLength);
  if (tiffCompression !== 'none')
    return tiffAddon.encode(
      bytes,
      {
        width,
        height,
        pieceWidth: width,
        pieceHeight: rows,
        stored: channels,
        taken: channels,
        bytes: size,
        compression: tiffCompression === 'lzw' ? 5 : 8,
        predictor: predicts ? 2 : 1,
        tiles: false,
        planes: false,
        little: true,
      },
      effort,
    );
  const whole = rows * width * channels * size;
  const count = Math.ceil(height / rows);
  return {
    strips: bytes,
    lengths: Array.from({ length: count }, (_, at) => Math.min(whole, bytes.length - at * whole)),
  };
}

/**
 * A TIFF of one picture, low byte first, in strips (TIFF 6.0, sections 8, 13, 14, 18 and 19; deflate by its technical note 2). It
 * says how alpha is meant, the pixel's shape, and curve and primaries by a profile. Floats are not predicted, so that any
 * reader takes them.
 */
export async function tiffPieces(image: Image, settings: WriteSettings): Promise<Buffer[]> {
  const { alpha, tiffCompression, transfer, primaries, pixelAspect, texts } = settings;
  const { width, height, channels, sample } = image;
  const size = sample === 'u8' ? 1 : sample === 'u16' ? 2 : 4;
  // Of samples in place of which the differences to the pixel before stand, far less is left.
  const predicts = sample !== 'f32' && tiffCompression !== 'none';
  const rows = rowsOf(width * channels * size, height);
  const { strips, lengths } = await stripsOf(image, settings, rows, size, predicts);
  const each = (value: number) => Array<number>(channels).fill(value);
  let at = 8;
  const offsets = lengths.map((length) => {
    const from = at;
    at += length;
    return from;
  });
  // A directory begins on a word (section 2).
  const padding = Buffer.alloc(at % 2);
  const hasAlpha = channels === 2 || channels === 4;
  const profile = makeProfile(transfer, primaries, channels <= 2);
  const fields: Field[] = [
    [256, long, [width]],
    [257, long, [height]],
    [258, short, each(size * 8)],
    [259, short, [{ none: 1, lzw: 5, deflate: 8 }[tiffCompression]]],
    [262, short, [channels <= 2 ? 1 : 2]],
    [273, long, offsets],
    [277, short, [channels]],
    [278, long, [rows]],
    [279, long, lengths],
    // The wider the pixel, the fewer of them there are across.
    ...(pixelAspect
      ? ([
          [282, rational, [pixelAspect.den * 72, pixelAspect.num]],
          [283, rational, [72, 1]],
        ] as Field[])
      : []),
    [284, short, [1]],
    ...(predicts ? ([[317, short, [2]]] as Field[]) : []),
    // Associated alpha is premultiplied (section 18).
    ...(hasAlpha ? ([[338, short, [alpha === 'premultiplied' ? 1 : 2]]] as Field[]) : []),
    [339, short, each(sample === 'f32' ? 3 : 1)],
    ...(profile ? ([[34_675, undefinedBytes, [...profile]]] as Field[]) : []),
    ...textFields(texts),
  ];
  return [head(at + padding.length), strips, padding, directory(fields, at + padding.length)];
}

type Field = [tag: number, type: number, values: number[]];

const textFields = (texts: WriteSettings['texts']): Field[] =>
  textsAsFields(texts).map(([tag, bytes]) => [tag, ascii, [...bytes]]);

/** A TIFF of texts alone, as EXIF has it (EXIF 2.32, 4.5); undefined where there are none. */
export function textsAlone(texts: WriteSettings['texts']): Buffer | undefined {
  const fields = textFields(texts);
  return fields.length > 0 ? Buffer.concat([head(8), directory(fields, 8)]) : undefined;
}

function head(directoryAt: number): Buffer {
  const bytes = Buffer.from('II*\0\0\0\0\0', 'latin1');
  bytes.writeUInt32LE(directoryAt, 4);
  return bytes;
}

/** The directory, by tag (section 2), and behind it the values that do not fit into a field. */
function directory(given: Field[], at: number): Buffer {
  const fields = given.toSorted(([a], [b]) => a - b);
  const list = Buffer.alloc(2 + fields.length * 12 + 4);
  list.writeUInt16LE(fields.length, 0);
  const behind: Buffer[] = [];
  let next = at + list.length;
  fields.forEach(([tag, type, values], index) => {
    const from = 2 + index * 12;
    const size = type === short ? 2 : type === undefinedBytes || type === ascii ? 1 : 4;
    const bytes = Buffer.alloc(Math.max(4, values.length * size + ((values.length * size) % 2)));
    values.forEach((value, place) => bytes.writeUIntLE(value, place * size, size));
    list.writeUInt16LE(tag, from);
    list.writeUInt16LE(type, from + 2);
    list.writeUInt32LE(type === rational ? 1 : values.length, from + 4);
    if (values.length * size <= 4) bytes.copy(list, from + 8);
    else {
      list.writeUInt32LE(next, from + 8);
      behind.push(bytes);
      next += bytes.length;
    }
  });
  return Buffer.concat([list, ...behind]);
}
