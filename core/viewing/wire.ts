import { ShaleError } from '../errors.ts';
import { halfTable, numberToHalf } from '../pixels/half.ts';
import { makeSamples, type Image, type Samples } from '../pixels/image.ts';
import { sampleSchema, type SampleFormat } from '../numbering/source.ts';
import { cutOff } from './samples.ts';
import type { View } from './view.ts';

/**
 * Pictures on their way from the server to the page, little-endian. A head of 24 bytes: `Shale` and a letter for what it is,
 * then a byte each for sample format, channels, alpha and nothing, then width and height of this piece, and where it begins in its picture.
 */
const headBytes = 24;
const samples = sampleSchema.options;
const alphas = ['none', 'straight', 'premultiplied'] as const;

interface Head {
  kind: 'V' | 'P';
  sample: SampleFormat;
  channels: number;
  alpha: View['alpha'];
  width: number;
  height: number;
  left: number;
  top: number;
}

function putHead(bytes: Uint8Array, head: Head): void {
  for (const [at, letter] of [...`Shale${head.kind}`].entries()) bytes[at] = letter.charCodeAt(0);
  bytes[6] = samples.indexOf(head.sample);
  bytes[7] = head.channels | (alphas.indexOf(head.alpha) << 4);
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  [head.width, head.height, head.left, head.top].forEach((value, at) => view.setUint32(8 + at * 4, value, true));
}

function headOf(bytes: Uint8Array, kind: Head['kind']): Head {
  const said = bytes.length >= headBytes ? String.fromCharCode(...bytes.subarray(0, 6)) : '';
  const sample = samples[bytes[6]!];
  if (said !== `Shale${kind}` || !sample) {
    throw new ShaleError({
      code: 'bad-picture',
      fact: 'What the server sent is not a picture.',
      wayOut: 'Load the page again; it may be of another version than the server.',
    });
  }
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  const [width, height, left, top] = [8, 12, 16, 20].map((at) => view.getUint32(at, true)) as [number, ...number[]] &
    number[];
  return {
    kind,
    sample,
    channels: bytes[7]! & 15,
    alpha: alphas[bytes[7]! >> 4]!,
    width: width,
    height: height!,
    left: left!,
    top: top!,
  };
}

const short = (): ShaleError =>
  new ShaleError({
    code: 'bad-picture',
    fact: 'The picture that the server sent is not whole.',
    wayOut: 'It is fetched again.',
  });

/** How exactly a view is sent: `half` is enough to look at, `float` where two are held against each other. */
export type Precision = 'half' | 'float';

/** A view as bytes. */
export function packView({ width, height, alpha, data, warnings }: View, precision: Precision): Uint8Array {
  const sample = precision === 'half' ? 'f16' : 'f32';
  const each = precision === 'half' ? 2 : 4;
  const bytes = new Uint8Array(headBytes + data.length * each + warnings.length);
  putHead(bytes, { kind: 'V', sample, channels: 4, alpha, width, height, left: 0, top: 0 });
  if (precision === 'half') {
    const halves = new Uint16Array(bytes.buffer, headBytes, data.length);
    for (let at = 0; at < data.length; at += 1) halves[at] = quickHalf(data[at]!);
  } else new Float32Array(bytes.buffer, headBytes, data.length).set(data);
  bytes.set(warnings, headBytes + data.length * each);
  return bytes;
}

const one = new Float32Array(1);
const oneBits = new Uint32Array(one.buffer);

/** {@link numberToHalf} by the bits of a 32-bit float, for normal halves; all others go the slow way. */
function quickHalf(value: number): number {
  one[0] = value;
  const bits = oneBits[0]!;
  const exponent = (bits >>> 23) & 0xff;
  if (exponent < 113 || exponent > 141) return numberToHalf(value);
  const rounded = bits + 0xfff + ((bits >>> 13) & 1);
  return ((bits >>> 16) & 0x8000) | (((rounded & 0x7fffffff) - 0x38000000) >>> 13);
}

/** A view of half floats as it lies in its bytes. */
export interface PackedView extends Pick<View, 'width' | 'height' | 'alpha' | 'warnings'> {
  halves: Uint16Array;
}

/** The view in bytes without a copy; undefined where it is of 32-bit floats. @throws ShaleError `bad-picture` */
export function halvesIn(bytes: Uint8Array): PackedView | undefined {
  const { sample, alpha, width, height } = headOf(bytes, 'V');
  if (sample !== 'f16') return undefined;
  const count = width * height * 4;
  if (bytes.length !== headBytes + count * 2 + width * height) throw short();
  const from = bytes.byteOffset + headBytes;
  const halves = new Uint16Array(bytes.buffer, from, count);
  return { width, height, alpha, halves, warnings: bytes.subarray(headBytes + count * 2) };
}

/** The view in bytes. @throws ShaleError `bad-picture` */
export function unpackView(bytes: Uint8Array): View {
  const { sample, alpha, width, height } = headOf(bytes, 'V');
  const count = width * height * 4;
  const each = sample === 'f16' ? 2 : 4;
  if (bytes.length !== headBytes + count * each + width * height) throw short();
  const from = bytes.byteOffset + headBytes;
  const data = new Float32Array(count);
  if (sample === 'f16') {
    const table = halfTable();
    const halves = new Uint16Array(bytes.buffer, from, count);
    for (let at = 0; at < count; at += 1) data[at] = table[halves[at]!]!;
  } else data.set(new Float32Array(bytes.buffer, from, count));
  return { width, height, alpha, data, warnings: bytes.slice(headBytes + count * each) };
}

/** A piece of a picture in its file's own samples. */
export interface Piece {
  /** Where its first pixel stands in the picture. */
  left: number;
  top: number;
  image: Image;
}

/** The piece of a picture that begins at a pixel, cut off at the picture's edges. @throws ShaleError `outside-picture` */
export function pieceOf(image: Image, left: number, top: number, width: number, height: number): Piece {
  const box = cutOff({ left, top, width, height }, image);
  const { channels, sample, data: source } = image;
  const data = makeSamples(sample, box.width * box.height * channels);
  const across = box.width * channels;
  for (let y = top, to = 0; y < top + box.height; y += 1, to += across) {
    const at = (y * image.width + left) * channels;
    data.set(source.subarray(at, at + across), to);
  }
  return { left, top, image: { width: box.width, height: box.height, channels, sample, data } };
}

/** A piece as bytes. */
export function packPiece({ left, top, image }: Piece): Uint8Array {
  const { width, height, channels, sample, data } = image;
  const bytes = new Uint8Array(headBytes + data.byteLength);
  putHead(bytes, { kind: 'P', sample, channels, alpha: 'none', width, height, left, top });
  bytes.set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength), headBytes);
  return bytes;
}

/** The piece in bytes. @throws ShaleError `bad-picture` */
export function unpackPiece(bytes: Uint8Array): Piece {
  const { sample, channels, width, height, left, top } = headOf(bytes, 'P');
  const data: Samples = makeSamples(sample, width * height * channels);
  if (bytes.length !== headBytes + data.byteLength) throw short();
  new Uint8Array(data.buffer).set(bytes.subarray(headBytes));
  return { left, top, image: { width, height, channels: channels as Image['channels'], sample, data } };
}

/** The media type of a preview that was coded as quickly as can be, by its first bytes: JPEG (ISO/IEC 10918-1) begins with its start of image. */
export const previewType = (bytes: Uint8Array): 'image/jpeg' | 'image/png' =>
  bytes[0] === 0xff && bytes[1] === 0xd8 ? 'image/jpeg' : 'image/png';
