import { execFileSync } from 'node:child_process';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { crc32, deflateSync } from 'node:zlib';
import fc from 'fast-check';
import sharp from 'sharp';
import { readStill } from '@shale/media';
import { isLong } from '@shale/core/testRuns.ts';

// Files of every colour type, depth and interlacing, written below by the standard's own words, read here, by libvips and by Pillow.

interface Kind {
  colour: number;
  depth: number;
}
/** PNG, third edition, table 12. */
const kinds: Kind[] = [
  ...[1, 2, 4, 8, 16].map((depth) => ({ colour: 0, depth })),
  ...[8, 16].flatMap((depth) => [2, 4, 6].map((colour) => ({ colour, depth }))),
  ...[1, 2, 4, 8].map((depth) => ({ colour: 3, depth })),
];

const channelsOf: Record<number, number> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 };
/** Where the pixels of each pass begin, and how far the next are (8.2). */
const passes: [number, number, number, number][] = [
  [0, 0, 8, 8],
  [4, 0, 8, 8],
  [0, 4, 4, 8],
  [2, 0, 4, 4],
  [0, 2, 2, 4],
  [1, 0, 2, 2],
  [0, 1, 1, 2],
];

const files = fc.record({
  kind: fc.constantFrom(...kinds),
  width: fc.integer({ min: 1, max: 40 }),
  height: fc.integer({ min: 1, max: 20 }),
  interlaced: fc.boolean(),
  clear: fc.boolean(),
  seed: fc.integer({ min: 1, max: 1_000_000 }),
});
type Of = typeof files extends fc.Arbitrary<infer T> ? T : never;

function chunk(type: string, data: Buffer): Buffer {
  const named = Buffer.concat([Buffer.from(type, 'latin1'), data]);
  const around = Buffer.alloc(8);
  around.writeUInt32BE(data.length, 0);
  around.writeUInt32BE(crc32(named), 4);
  return Buffer.concat([around.subarray(0, 4), named, around.subarray(4)]);
}

/** Rows of samples, packed from the high end of each byte (7.2), each behind a filter of its own. */
function filtered(rows: number[][], { colour, depth }: Kind): Buffer {
  const pixel = Math.max(1, (channelsOf[colour]! * depth) / 8);
  let above = Buffer.alloc(0);
  return Buffer.concat(
    rows.map((samples, y) => {
      const row = Buffer.alloc(Math.ceil((samples.length * depth) / 8));
      samples.forEach((sample, at) => {
        if (depth === 16) row.writeUInt16BE(sample, at * 2);
        else row[(at * depth) >> 3]! |= sample << (8 - depth - ((at * depth) & 7));
      });
      if (y === 0) above = Buffer.alloc(row.length);
      const filter = y % 5;
      const out = Buffer.alloc(row.length + 1);
      out[0] = filter;
      for (let x = 0; x < row.length; x += 1) {
        const a = row[x - pixel] ?? 0;
        const b = above[x]!;
        const c = above[x - pixel] ?? 0;
        const p = a + b - c;
        const [pa, pb, pc] = [Math.abs(p - a), Math.abs(p - b), Math.abs(p - c)];
        const paeth = pa <= pb && pa <= pc ? a : pb <= pc ? b : c;
        out[x + 1] = row[x]! - [0, a, b, (a + b) >> 1, paeth][filter]!;
      }
      above = row;
      return out;
    }),
  );
}

function made({ kind, width, height, interlaced, clear, seed }: Of) {
  const { colour, depth } = kind;
  let state = seed;
  const next = () => (state = (Math.imul(state, 1_103_515_245) + 12_345) & 0x7fffffff) >> 8;
  const most = 2 ** depth - 1;
  const channels = channelsOf[colour]!;
  const colours = colour === 3 ? 1 + (next() % 2 ** depth) : 0;
  const few = Math.min(most, 3);
  // Few values, so that the clear one is met.
  const sample = () =>
    colour === 3 ? next() % colours : clear ? Math.round(((next() % (few + 1)) / few) * most) : next() & most;
  const pixels = Array.from({ length: width * height }, () => Array.from({ length: channels }, sample));
  const palette = Buffer.from(Array.from({ length: colours * 3 }, () => next() & 255));
  const hasClear = clear && (colour === 0 || colour === 2 || colour === 3);
  const alphas = Buffer.from(Array.from({ length: 1 + (next() % Math.max(1, colours)) }, () => next() & 255));
  const key = pixels[next() % pixels.length]!;
  const said = colour === 3 ? alphas : Buffer.from(key.flatMap((one) => [one >> 8, one & 255]));

  const data = (interlaced ? passes : [[0, 0, 1, 1] as const]).map(([left, top, across, down]) => {
    const rows: number[][] = [];
    for (let y = top; y < height; y += down) {
      const row: number[] = [];
      for (let x = left; x < width; x += across) row.push(...pixels[y * width + x]!);
      if (row.length > 0) rows.push(row);
    }
    return filtered(rows, kind);
  });
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head[8] = depth;
  head[9] = colour;
  head[12] = interlaced ? 1 : 0;
  const file = Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk('IHDR', head),
    ...(colour === 3 ? [chunk('PLTE', palette)] : []),
    ...(hasClear ? [chunk('tRNS', said)] : []),
    chunk('IDAT', deflateSync(Buffer.concat(data))),
    chunk('IEND', Buffer.alloc(0)),
  ]);
  const full = depth === 16 ? 65_535 : 255;
  const expected = pixels.flatMap((pixel) => {
    if (colour === 3) {
      const at = pixel[0]!;
      return [...palette.subarray(at * 3, at * 3 + 3), ...(hasClear ? [alphas[at] ?? 255] : [])];
    }
    const shown = pixel.map((one) => (depth < 8 ? (one * 255) / most : one));
    return hasClear ? [...shown, pixel.every((one, at) => one === key[at]) ? 0 : full] : shown;
  });
  return { file, expected };
}

/** Samples as red, green, blue and alpha. */
function asColour(samples: number[], channels: number, sample: string): number[] {
  const full = sample === 'u16' ? 65_535 : 255;
  return Array.from({ length: samples.length / channels }, (_, at) => {
    const [a, b, c, d] = samples.slice(at * channels, (at + 1) * channels) as [number, ...number[]] & number[];
    return channels < 3 ? [a, a, a, b ?? full] : [a, b!, c!, d ?? full];
  }).flat();
}

async function ofLibvips(file: Buffer, sample: string): Promise<number[]> {
  const wide = sample === 'u16';
  const raw = await sharp(file)
    .toColourspace(wide ? 'rgb16' : 'srgb')
    .ensureAlpha()
    .raw({ depth: wide ? 'ushort' : 'uchar' })
    .toBuffer();
  return Array.from(wide ? new Uint16Array(raw.buffer, raw.byteOffset, raw.length / 2) : raw);
}

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-kinds-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

test('every colour type, depth, interlacing and clear colour is read sample for sample', async () => {
  const path = join(folder, 'one.png');
  await fc.assert(
    fc.asyncProperty(files, async (of) => {
      const { file, expected } = made(of);
      await writeFile(path, file);
      const { width, height, channels, sample, data } = await readStill(path);
      expect([width, height, channels * width * height]).toEqual([of.width, of.height, expected.length]);
      expect(sample).toBe(of.kind.depth === 16 ? 'u16' : 'u8');
      expect(Array.from(data)).toEqual(expected);
      expect(await ofLibvips(file, sample)).toEqual(asColour(expected, channels, sample));
    }),
    { numRuns: isLong ? 1000 : 150 },
  );
});

test('Pillow reads the same in files of 8 bits or fewer', async () => {
  const all = fc.sample(files, { numRuns: 60, seed: 7 }).filter(
    // Pillow holds a clear grey of few bits against greys that it has spread over 8 already.
    ({ kind: { colour, depth }, clear }) => depth <= 8 && !(clear && colour === 0 && depth < 8),
  );
  const told: { path: string; mode: string }[] = [];
  const expected: number[][] = [];
  for (const [at, of] of all.entries()) {
    const path = join(folder, `p${at}.png`);
    await writeFile(path, made(of).file);
    const { channels, data } = await readStill(path);
    told.push({ path, mode: ['L', 'LA', 'RGB', 'RGBA'][channels - 1]! });
    expected.push(Array.from(data));
  }
  const theirs = execFileSync(
    '/usr/bin/python3',
    [
      '-c',
      `import json,sys
from PIL import Image
out=[]
for one in json.load(sys.stdin):
  image=Image.open(one['path'])
  image=image.convert('RGBA') if one['mode'] in ('LA','RGBA') else image.convert(one['mode'])
  pixels=list(image.getdata())
  if one['mode']=='LA': pixels=[(p[0],p[3]) for p in pixels]
  out.append([v for p in pixels for v in (p if isinstance(p,tuple) else (p,))])
json.dump(out,sys.stdout)`,
    ],
    { input: JSON.stringify(told), maxBuffer: 1 << 28, encoding: 'utf8' },
  );
  expect(JSON.parse(theirs)).toEqual(expected);
});

test('a header of a kind that there is not, a palette that is not there or too short are refused', async () => {
  const path = join(folder, 'odd.png');
  const of = (kind: Kind): Of => ({ kind, width: 9, height: 5, interlaced: true, clear: false, seed: 11 });
  const bent = async (file: Buffer) => {
    await writeFile(path, file);
    return readStill(path).catch((error: { code: string }) => error.code);
  };
  for (const [colour, depth] of [
    [2, 4],
    [3, 16],
    [4, 2],
    [5, 8],
  ] as const) {
    const { file } = made(of({ colour: 2, depth: 8 }));
    file[24] = depth;
    file[25] = colour;
    file.writeUInt32BE(crc32(file.subarray(12, 29)), 29);
    expect(await bent(file)).toBe('damaged-file');
  }
  const { file } = made(of({ colour: 3, depth: 8 }));
  const at = file.indexOf('PLTE') - 4;
  const length = file.readUInt32BE(at);
  expect(await bent(Buffer.concat([file.subarray(0, at), file.subarray(at + 12 + length)]))).toBe('damaged-file');
  const short = Buffer.concat([file.subarray(0, at), chunk('PLTE', Buffer.alloc(3)), file.subarray(at + 12 + length)]);
  expect(await bent(short)).toBe('damaged-file');
});
