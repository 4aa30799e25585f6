import { readFile } from 'node:fs/promises';
import { makeSamples, type Facts, type Image, type SampleFormat } from '@shale/core';
import { lacking, refuseAbsurdSize, writePieces, type StillFormat, type StillHeader } from './format.ts';

const depths: Record<number, SampleFormat> = { 1023: 'u10', 4095: 'u12' };
const sampleFor = (most: number): SampleFormat => depths[most] ?? (most > 255 ? 'u16' : 'u8');

const channelNames: Record<number, string[]> = {
  1: ['Y'],
  2: ['Y', 'A'],
  3: ['R', 'G', 'B'],
  4: ['R', 'G', 'B', 'A'],
};

interface Told {
  width: number;
  height: number;
  count: number;
  sample: SampleFormat;
  /** The greatest sample. */
  most: number;
  dataAt: number;
  /** Bytes of the picture; undefined where it is written in text. */
  bytes?: number;
}

/** A PAM header: words and values, a line each, to ENDHDR. */
function pamHeader(text: string): Told {
  const end = /\nENDHDR\n/.exec(text);
  const value = (word: string): number => Number(new RegExp(`\n${word}[ \t]+(\\d+)`).exec(text)?.[1]);
  if (!end) throw new Error('its header has no end');
  const [width, height, count, most] = ['WIDTH', 'HEIGHT', 'DEPTH', 'MAXVAL'].map(value) as [
    number,
    number,
    number,
    number,
  ];
  const bytes = width * height * count * (most > 255 ? 2 : 1);
  if (![width, height, count, most].every((number) => number >= 1) || most > 65_535)
    throw new Error('its header is damaged');
  return { width, height, count, most, sample: sampleFor(most), dataAt: end.index + end[0].length, bytes };
}

/** PBM, PGM, PPM and PFM: numbers between white space, comments from # to the line's end. */
function plain(text: string, kind: string): Told {
  const values = kind === '1' || kind === '4' ? 2 : 3;
  const match = new RegExp(`^P.(?:(?:\\s|#[^\n]*\n)+(-?[\\d.]+)){${values}}\\s`).exec(text);
  const numbers = match?.[0]
    .replace(/#[^\n]*\n/g, ' ')
    .slice(2)
    .trim()
    .split(/\s+/)
    .map(Number);
  if (!match || !numbers) throw new Error('its header is damaged');
  const [width, height, most = 1] = numbers as [number, number, number?];
  const dataAt = match[0].length;
  const count = /[36F]/.test(kind) ? 3 : 1;
  if (/[Ff]/.test(kind))
    return { width, height, count, most, sample: 'f32', dataAt, bytes: width * height * count * 4 };
  if (!(most >= 1 && most <= 65_535)) throw new Error('its header is damaged');
  const row = kind === '4' ? Math.ceil(width / 8) : width * count * (most > 255 ? 2 : 1);
  return {
    width,
    height,
    count,
    most,
    sample: sampleFor(most),
    dataAt,
    bytes: /[456]/.test(kind) ? row * height : undefined,
  };
}

const headerText = (bytes: Buffer): string => bytes.toString('latin1', 0, 2048);

function told(text: string): Told {
  const values = text[1] === '7' ? pamHeader(text) : plain(text, text[1]!);
  refuseAbsurdSize(values.width, values.height);
  return values;
}

/** Numbers in text (kinds 1 to 3); a bitmap's may stand without space between. */
function fromText(text: string, kind: string, length: number): number[] {
  const bare = text.replace(/#[^\n]*\n/g, ' ');
  const numbers = kind === '1' ? [...bare.replace(/\s+/g, '')].map(Number) : bare.trim().split(/\s+/).map(Number);
  if (numbers.length < length || numbers.some((value) => !(value >= 0))) throw new Error('its numbers are damaged');
  return numbers.slice(0, length);
}

/** A greatest sample that is none of a depth's is widened to the depth's. */
function scaled(data: Image['data'], most: number, sample: SampleFormat): Image['data'] {
  const max = { u8: 255, u10: 1023, u12: 4095, u16: 65_535 }[sample as string] ?? most;
  for (let at = 0; at < data.length; at += 1) {
    if (data[at]! > most) throw new Error('it holds samples above the greatest that it names');
    if (most !== max) data[at] = Math.floor((data[at]! * max) / most + 0.5);
  }
  return data;
}

async function read(path: string): Promise<Image> {
  const bytes = await readFile(path);
  const { width, height, count, most, sample, dataAt } = told(headerText(bytes));
  const kind = String.fromCharCode(bytes[1]!);
  const length = width * height * count;
  const channels = count as Image['channels'];
  const data = makeSamples(sample, length);
  const rest = bytes.subarray(dataAt);
  if (/[Ff]/.test(kind)) {
    // A negative scale means that the low byte is first; rows stand from the bottom.
    const little = /\s-[\d.]+\s$/.test(bytes.toString('latin1', 0, dataAt));
    const row = width * count;
    for (let y = 0; y < height; y += 1)
      for (let x = 0; x < row; x += 1) {
        const at = ((height - 1 - y) * row + x) * 4;
        data[y * row + x] = little ? rest.readFloatLE(at) : rest.readFloatBE(at);
      }
    return { width, height, channels, sample, data };
  }
  if (/[123]/.test(kind)) data.set(fromText(rest.toString('latin1'), kind, length));
  else if (kind === '4') {
    const row = Math.ceil(width / 8);
    for (let at = 0; at < length; at += 1) {
      const x = at % width;
      data[at] = (rest[Math.floor(at / width) * row + (x >> 3)]! >> (7 - (x & 7))) & 1;
    }
  } else if (sample === 'u8') data.set(rest.subarray(0, length));
  else for (let at = 0; at < length; at += 1) data[at] = rest.readUInt16BE(at * 2);
  // A bitmap's 1 is black.
  if (/[14]/.test(kind)) return { width, height, channels, sample, data: data.map((bit) => (bit ? 0 : 255)) };
  return { width, height, channels, sample, data: scaled(data, most, sample) };
}

/** What the samples of a pixel are, by the format's own words. */
const tupleOf = (channels: number): string =>
  `${channels <= 2 ? 'GRAYSCALE' : 'RGB'}${channels % 2 === 0 ? '_ALPHA' : ''}`;

function headerOf({ width, height, channels, sample }: Image, id: string): string {
  const most = sample === 'u8' ? 255 : 65_535;
  if (id === 'pfm') return `P${channels === 1 ? 'f' : 'F'}\n${width} ${height}\n-1.0\n`;
  if (id === 'pnm') return `P${channels === 1 ? 5 : 6}\n${width} ${height}\n${most}\n`;
  return `P7\nWIDTH ${width}\nHEIGHT ${height}\nDEPTH ${channels}\nMAXVAL ${most}\nTUPLTYPE ${tupleOf(channels)}\nENDHDR\n`;
}

/** The samples as the file has them: 16 bits with the high byte first; floats with the low one first, rows from the bottom. */
function body({ width, height, channels, sample, data }: Image): Buffer {
  const bytes = Buffer.from(data.buffer, data.byteOffset, data.byteLength);
  if (sample === 'u8') return bytes;
  if (sample === 'u16') return Buffer.from(bytes).swap16();
  const row = width * channels * 4;
  return Buffer.concat(
    Array.from({ length: height }, (_, y) => bytes.subarray((height - 1 - y) * row, (height - y) * row)),
  );
}

/** One kind of these files: they share their headers' shape. */
const kindOf = (
  id: 'pnm' | 'pam' | 'pfm',
  recognised: RegExp,
): Required<Pick<StillFormat, 'read' | 'write'>> & StillFormat => ({
  recognises: (head) => recognised.test(head.toString('latin1', 0, 3)),
  header(file): StillHeader {
    const { width, height, count, sample, dataAt, bytes } = told(headerText(file.head));
    const channels = channelNames[count];
    if (!channels) throw new Error(`it has ${count} channels, which Shale does not know`);
    const facts: Facts = {
      width,
      height,
      format: id,
      sample,
      channels,
      hasAlpha: channels.includes('A'),
      compression: 'none',
      more: [],
    };
    return { facts, dataAt, cutShort: bytes === undefined ? undefined : lacking(file.size, dataAt + bytes) };
  },
  read,
  async write(path, image) {
    await writePieces(path, [Buffer.from(headerOf(image, id), 'latin1'), body(image)]);
  },
});

/** PBM, PGM and PPM, in bytes or in text on read. */
export const pnm = kindOf('pnm', /^P[1-6]\s/);
/** PAM: grey and colour, each with or without alpha. */
export const pam = kindOf('pam', /^P7\s/);
/** PFM: floats, grey or colour. */
export const pfm = kindOf('pfm', /^P[Ff]\s/);
