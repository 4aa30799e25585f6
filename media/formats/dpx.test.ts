import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { probeStill, readStill } from './index.ts';
import { samplesOf, type Samples } from './dpxSamples.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-dpx-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const numbers = (count: number, bits: number): number[] =>
  Array.from({ length: count }, (_, at) => (Math.imul(at + 3, 2_654_435_761) >>> 7) % 2 ** bits);

/** Samples of a row as a string of bits, laid out by the words of SMPTE ST 268-1, and read off bytewise: another way than the reader's. */
function laid(row: number[], { bits, packing, big }: Pick<Samples, 'bits' | 'packing' | 'big'>): Buffer {
  const words: string[] = [];
  const binary = (value: number) => value.toString(2).padStart(bits, '0');
  if (bits === 12 && packing !== 0) {
    const halves = row.map((value) => (packing === 1 ? `${binary(value)}0000` : `0000${binary(value)}`));
    return Buffer.concat(halves.map((half) => bytesOf(half, big)));
  }
  if (packing === 0) {
    // From the low end of each word on: the whole row is one long number, last sample first.
    const all = [...row].reverse().map(binary).join('');
    const padded = all.padStart(Math.ceil(all.length / 32) * 32, '0');
    for (let end = padded.length; end > 0; end -= 32) words.push(padded.slice(end - 32, end));
  } else
    for (let at = 0; at < row.length; at += 3) {
      const three = [0, 1, 2].map((more) => binary(row[at + more] ?? 0)).join('');
      words.push(packing === 1 ? `${three}00` : `00${three}`);
    }
  return Buffer.concat(words.map((word) => bytesOf(word, big)));
}
function bytesOf(word: string, big: boolean): Buffer {
  const bytes = Buffer.from(word.match(/.{8}/g)!.map((byte) => parseInt(byte, 2)));
  return big ? bytes : bytes.reverse();
}

const layouts = [10, 12].flatMap((bits) =>
  [0, 1, 2].flatMap((packing) => [true, false].map((big) => [bits, packing, big] as const)),
);
test.each(layouts)('%d bits with packing %d, high byte first: %s', (bits, packing, big) => {
  for (const perRow of [1, 2, 3, 7, 16, 21, 35]) {
    const rows = [numbers(perRow, bits), numbers(perRow + 5, bits).slice(5)];
    const bytes = Buffer.concat([Buffer.alloc(64), ...rows.map((row) => laid(row, { bits, packing, big }))]);
    const found = samplesOf(bytes, { big, bits, packing, dataAt: 64, perRow, rows: 2 });
    expect([...found]).toEqual(rows.flat());
    expect(() => samplesOf(bytes.subarray(0, -1), { big, bits, packing, dataAt: 64, perRow, rows: 2 })).toThrow(
      'ends within',
    );
  }
});

interface Header {
  width: number;
  height: number;
  descriptor: number;
  bits: number;
  packing: number;
  colorimetric?: number;
  low?: number;
  high?: number;
  encoding?: number;
}

/** A DPX of one element, high byte first (SMPTE ST 268-1, tables 1 and 2). */
async function put(name: string, header: Header, rows: Buffer): Promise<string> {
  const head = Buffer.alloc(2048, 0xff);
  head.write('SDPX', 0);
  head.writeUInt32BE(2048, 4);
  head.write('V2.0\0', 8);
  head.writeUInt16BE(0, 768);
  head.writeUInt16BE(1, 770);
  head.writeUInt32BE(header.width, 772);
  head.writeUInt32BE(header.height, 776);
  head.writeUInt32BE(0, 780);
  head.writeUInt32BE(header.low ?? 0xffffffff, 784);
  head.writeUInt32BE(header.high ?? 0xffffffff, 792);
  head[800] = header.descriptor;
  head[801] = 6;
  head[802] = header.colorimetric ?? 6;
  head[803] = header.bits;
  head.writeUInt16BE(header.packing, 804);
  head.writeUInt16BE(header.encoding ?? 0, 806);
  const path = join(folder, name);
  await writeFile(path, Buffer.concat([head, rows]));
  return path;
}

/** ITU-R BT.709-6, items 3.2 to 3.5, and the same with the weights of BT.601: codes of a colour, 0 to 1. */
function codes([r, g, b]: number[], bits: number, matrix: 'bt709' | 'bt601', full: boolean): [number, number, number] {
  const [kr, kb] = matrix === 'bt709' ? [0.2126, 0.0722] : [0.299, 0.114];
  const y = kr * r! + (1 - kr - kb) * g! + kb * b!;
  const [cb, cr] = [(b! - y) / (2 * (1 - kb)), (r! - y) / (2 * (1 - kr))];
  const most = 2 ** bits - 1;
  const scale = 2 ** (bits - 8);
  const at = (value: number, zero: number, reach: number) =>
    Math.max(0, Math.min(most, Math.round(zero + value * reach)));
  return full
    ? [at(cb, 2 ** (bits - 1), most), at(y, 0, most), at(cr, 2 ** (bits - 1), most)]
    : [at(cb, 128 * scale, 224 * scale), at(y, 16 * scale, 219 * scale), at(cr, 128 * scale, 224 * scale)];
}

const colours = [
  [0.75, 0.25, 0.5],
  [0.1, 0.8, 0.3],
  [1, 1, 1],
  [0, 0, 0],
];

test.each([
  ['4:2:2 of 8 bits', 100, 8, 0, 6, undefined],
  ['4:2:2 of 10 bits, filled', 100, 10, 1, 6, undefined],
  ['4:2:2 of 10 bits, packed', 100, 10, 0, 7, undefined],
  ['4:2:2 of 16 bits, full range', 100, 16, 0, 6, [0, 65_535]],
  ['4:4:4 of 10 bits', 102, 10, 1, 6, [64, 940]],
  ['4:4:4 of 8 bits in BT.601', 102, 8, 0, 7, undefined],
] as const)('%s is read as colours', async (name, descriptor, bits, packing, colorimetric, range) => {
  const matrix = colorimetric === 6 ? 'bt709' : 'bt601';
  const full = range?.[0] === 0;
  // Eight pixels of each colour in a row, so that no neighbour's colour is mixed into the middle of them.
  const rows = colours.map((colour) => {
    const [cb, y, cr] = codes(colour, bits, matrix, full);
    const one = descriptor === 100 ? [cb, y, cr, y] : [cb, y, cr, cb, y, cr];
    return Array.from({ length: 4 }, () => one).flat();
  });
  const bytes = rows.map((row) =>
    bits === 10
      ? laid(row, { bits, packing, big: true })
      : Buffer.concat(row.map((value) => bytesOf(value.toString(2).padStart(bits, '0'), true))),
  );
  const path = await put(
    `${name.replace(/\W+/g, '_')}.dpx`,
    { width: 8, height: 4, descriptor, bits, packing, colorimetric, low: range?.[0], high: range?.[1] },
    Buffer.concat(bytes),
  );
  const facts = await probeStill(path);
  expect(facts).toMatchObject({ width: 8, height: 4, channels: ['R', 'G', 'B'], sample: bits === 8 ? 'u8' : 'u16' });
  const words = `${descriptor === 100 ? '4:2:2' : '4:4:4'}, ${bits} bits, ${matrix === 'bt709' ? 'BT.709' : 'BT.601'}, ${full ? 'full' : 'limited'} range`;
  expect(facts.more).toContainEqual(['Stored as', words]);
  const image = await readStill(path);
  const most = image.sample === 'u8' ? 255 : 65_535;
  // Colours of one row reach into the next only where colour is shared between rows, which it is not.
  colours.forEach((colour, row) =>
    colour.forEach((value, channel) =>
      expect(image.data[(row * 8 + 4) * 3 + channel]! / most).toBeCloseTo(value, bits === 8 ? 1.6 : 2.3),
    ),
  );
});

test('what cannot be is refused by what it is', async () => {
  const base = { width: 8, height: 4, bits: 10, packing: 0 };
  const code = async (name: string, header: Header) =>
    readStill(await put(name, header, Buffer.alloc(4096))).then(
      () => 'read',
      (error: { code: string; message: string }) => error.code,
    );
  expect(await code('runs.dpx', { ...base, descriptor: 50, encoding: 1 })).toBe('format-not-read');
  expect(await code('odd.dpx', { ...base, width: 7, descriptor: 100 })).toBe('damaged-file');
  expect(await code('alpha.dpx', { ...base, descriptor: 101 })).toBe('format-not-read');
  expect(await code('packed.dpx', { ...base, descriptor: 50 })).toBe('read');
});
