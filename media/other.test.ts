import { spawnSync } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { compareImages, formatRules, makeSamples, numberToHalf, type Format, type Image } from '@shale/core';
import { fitLayout, probeStill, readStill, readWhole, usualSettings, writeStill } from './formats/index.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-other-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

interface Task {
  do: 'read' | 'write';
  path: string;
  raw: string;
  sample: Image['sample'];
  width?: number;
  height?: number;
  channels?: number;
  attributes?: Record<string, string | number>;
  tell?: string[];
}

/** What the other library answers to each task. */
function other(tasks: Task[]): Record<string, unknown>[] {
  const script = fileURLToPath(new URL('./testing/other.py', import.meta.url));
  const { status, stdout, stderr } = spawnSync('/usr/bin/python3', [script], {
    input: JSON.stringify(tasks),
    encoding: 'utf8',
  });
  if (status !== 0) throw new Error(stderr);
  return JSON.parse(stdout) as Record<string, unknown>[];
}

/** A ramp, edges and noise in every channel; odd sides. */
function pattern(sample: Image['sample'], channels: Image['channels'], width = 53): Image {
  const height = 31;
  const data = makeSamples(sample, width * height * channels);
  const max = { u8: 255, u10: 1023, u12: 4095, u16: 65_535 }[sample as string];
  for (let at = 0; at < data.length; at += 1) {
    const pixel = Math.floor(at / channels);
    const row = Math.floor(pixel / width);
    const noise = ((Math.imul(at + 1, 2_654_435_761) >>> 8) % 100_003) / 100_003;
    const value = row < 10 ? (pixel % width) / (width - 1) : row < 20 ? (pixel >> 2) & 1 : noise;
    data[at] = max
      ? Math.round(value * max)
      : sample === 'f16'
        ? numberToHalf(value * 4 - 1)
        : Math.fround(value * 40 - 8);
  }
  return { width, height, channels, sample, data };
}

const bytesOf = ({ data }: Image): Buffer => Buffer.from(data.buffer, data.byteOffset, data.byteLength);

/** Formats, depths and channels that both know. */
const matrix: [Format, Image['sample'], Image['channels'][]][] = [
  ['png', 'u8', [1, 2, 3, 4]],
  ['png', 'u16', [1, 2, 3, 4]],
  ['tiff', 'u8', [1, 2, 3, 4]],
  ['tiff', 'u16', [1, 2, 3, 4]],
  ['tiff', 'f32', [1, 3, 4]],
  ['tga', 'u8', [3, 4]],
  ['bmp', 'u8', [3, 4]],
  ['dpx', 'u8', [3]],
  ['dpx', 'u10', [3]],
  ['dpx', 'u12', [3]],
  ['dpx', 'u16', [3]],
  ['exr', 'f16', [1, 3, 4]],
  ['exr', 'f32', [1, 3, 4]],
  ['pnm', 'u8', [1, 3]],
  ['pnm', 'u16', [1, 3]],
];
const cases = matrix.flatMap(([format, sample, counts]) =>
  counts.map((channels) => ({ name: `${format}-${sample}-${channels}`, format, sample, channels })),
);

test('what another library writes is read bit for bit', async () => {
  // Its BMP of 32 bits has no mask for alpha, so that the fourth byte is none by the format's documents; PPM it writes in 8 bits.
  const known = cases.filter(({ name }) => name !== 'bmp-u8-4' && !name.startsWith('pnm-u16'));
  const tasks: Task[] = [];
  for (const { name, format, sample, channels } of known) {
    const image = pattern(sample, channels);
    const raw = join(folder, `${name}.theirs.raw`);
    await writeFile(raw, bytesOf(image));
    const path = join(folder, `${name}.theirs.${formatRules[format].ext}`);
    tasks.push({ do: 'write', path, raw, sample, width: image.width, height: image.height, channels });
  }
  other(tasks);
  const seen: [string, ...unknown[]][] = [];
  for (const [at, { name, sample, channels }] of known.entries()) {
    const image = await readStill(tasks[at]!.path);
    seen.push([name, image.sample, image.channels, compareImages(image, pattern(sample, channels))]);
  }
  expect(seen).toEqual(known.map(({ name, sample, channels }) => [name, sample, channels, { samples: 0, most: 0 }]));
});

/** How far the other library's samples are from ours at the most; floats by their bits alone. */
function mostApart(theirs: Buffer, image: Image): number {
  const ours = bytesOf(image);
  if (ours.equals(theirs)) return 0;
  if (theirs.length !== ours.length || image.sample === 'f32') return Infinity;
  const data = image.sample === 'u8' ? theirs : new Uint16Array(theirs.buffer, theirs.byteOffset, theirs.length / 2);
  return Math.max(...image.data.map((value, at) => Math.abs(value - data[at]!)));
}

test('what we write another library reads bit for bit', async () => {
  const tasks: Task[] = [];
  for (const { name, format, sample, channels } of cases) {
    const path = join(folder, `${name}.ours.${formatRules[format].ext}`);
    await writeStill(path, format, pattern(sample, channels), usualSettings);
    tasks.push({ do: 'read', path, raw: join(folder, `${name}.ours.raw`), sample });
  }
  const told = other(tasks);
  const seen: [string, ...unknown[]][] = [];
  const wanted: typeof seen = [];
  for (const [at, { name, format, sample, channels }] of cases.entries()) {
    const image = fitLayout(pattern(sample, channels), format);
    seen.push([name, told[at], mostApart(await readFile(tasks[at]!.raw), image)]);
    // It reads 16-bit PPM over floats and is a code off in some.
    const most = format === 'pnm' && sample === 'u16' ? 1 : 0;
    wanted.push([name, { width: image.width, height: image.height, channels: image.channels }, most]);
  }
  expect(seen).toEqual(wanted);
});

test('DPX of which rows end on a whole word, and of which they do not, is read by another library', async () => {
  const tasks: Task[] = [];
  const pictures: Image[] = [];
  for (const sample of ['u8', 'u10', 'u12', 'u16'] as const)
    for (const width of [50, 51, 52, 53]) {
      const path = join(folder, `words-${sample}-${width}.dpx`);
      pictures.push(pattern(sample, 3, width));
      await writeStill(path, 'dpx', pictures.at(-1)!, usualSettings);
      expect(compareImages(await readStill(path), pictures.at(-1)!)).toEqual({ samples: 0, most: 0 });
      tasks.push({ do: 'read', path, raw: `${path}.raw`, sample });
    }
  other(tasks);
  for (const [at, { raw }] of tasks.entries())
    expect([raw, (await readFile(raw)).equals(bytesOf(pictures[at]!))]).toEqual([raw, true]);
});

test.each(['none', 'lzw', 'deflate'] as const)(
  'float TIFF with %s is read by another library',
  async (tiffCompression) => {
    // Long runs and noise, so that a table of codes fills and is begun anew.
    const data = Float32Array.from({ length: 200 * 90 * 3 }, (_, at) =>
      at < 20_000 ? Math.floor(at / 900) : Math.sin(at * 12.9),
    );
    const image: Image = { width: 200, height: 90, channels: 3, sample: 'f32', data };
    const path = join(folder, `float-${tiffCompression}.tif`);
    await writeStill(path, 'tiff', image, { ...usualSettings, tiffCompression });
    const raw = `${path}.raw`;
    other([{ do: 'read', path, raw, sample: 'f32' }]);
    expect((await readFile(raw)).equals(bytesOf(image))).toBe(true);
    expect(compareImages(await readStill(path), image)).toEqual({ samples: 0, most: 0 });
  },
);

test('half TIFF of another library is read to its bits', async () => {
  const image = pattern('f16', 3);
  const [path, raw] = [join(folder, 'half.tif'), join(folder, 'half.raw')];
  await writeFile(raw, bytesOf(image));
  const attributes = { 'tiff:half': 1 };
  other([{ do: 'write', path, raw, sample: 'f16', width: image.width, height: image.height, channels: 3, attributes }]);
  expect(compareImages(await readStill(path), image)).toEqual({ samples: 0, most: 0 });
});

test('rate, timecode, pixel aspect and transfer of DPX and OpenEXR are read by another library, and by us', async () => {
  const says = {
    ...usualSettings,
    rate: { num: 24_000, den: 1001 },
    timecode: '01:02:03:04',
    pixelAspect: { num: 2, den: 1 },
  };
  const dpx = join(folder, 'says.dpx');
  const exr = join(folder, 'says.exr');
  await writeStill(dpx, 'dpx', pattern('u10', 3), { ...says, transfer: 'film-log' });
  await writeStill(exr, 'exr', pattern('f16', 3), {
    ...says,
    primaries: 'acescg',
    attributes: [
      { name: 'museum', type: 'string', value: 'the tram museum' },
      { name: 'worldToCamera', type: 'm44f', value: Array.from({ length: 16 }, (_, at) => at) },
      { name: 'focus', type: 'float', value: [2.5] },
    ],
  });
  const tell = ['dpx:FramePosition', 'dpx:FrameRate', 'dpx:TimeCode', 'dpx:Transfer', 'PixelAspectRatio'];
  const [told] = other([{ do: 'read', path: dpx, raw: `${dpx}.raw`, sample: 'u10', tell }]);
  expect(told).toMatchObject({
    'dpx:TimeCode': '01:02:03:04',
    'dpx:Transfer': 'Printing density',
    PixelAspectRatio: 2,
  });
  expect(told!['dpx:FrameRate']).toBeCloseTo(24_000 / 1001, 4);
  const [header] = other([
    {
      do: 'read',
      path: exr,
      raw: `${exr}.raw`,
      sample: 'f16',
      tell: ['FramesPerSecond', 'PixelAspectRatio', 'museum', 'focus', 'chromaticities'],
    },
  ]);
  expect(header).toMatchObject({ PixelAspectRatio: 2, museum: 'the tram museum', focus: 2.5 });
  expect((header!.chromaticities as number[])[0]).toBeCloseTo(0.713, 5);
  expect(await probeStill(dpx)).toMatchObject({
    transfer: 'film-log',
    timecode: '01:02:03:04',
    pixelAspect: { num: 2, den: 1 },
  });
  expect(await probeStill(exr)).toMatchObject({
    primaries: 'acescg',
    rate: { num: 24_000, den: 1001 },
    timecode: '01:02:03:04',
    pixelAspect: { num: 2, den: 1 },
  });
});

/** As that library calls them, and as they are called here. */
const said = {
  DocumentName: ['Title', 'Depot'],
  ImageDescription: ['Description', 'Tram 7 in the yard'],
  Artist: ['Author', 'H. Vogt'],
  Copyright: ['Copyright', '(c) the tram museum'],
  Make: ['Make', 'Kern'],
  Model: ['Model', 'Kern 4'],
  DateTime: ['DateTime', '2026:05:01 10:20:30'],
} as const;

test.each(['tiff', 'jpeg'] as const)(
  'texts of %s by another library are told, kept, and read by it again',
  async (format) => {
    const [theirs, ours, raw] = ['theirs', 'ours', 'raw'].map((name) =>
      join(folder, `texts.${format}.${name}.${format}`),
    );
    const image = pattern('u8', 3);
    await writeFile(raw!, bytesOf(image));
    // EXIF has no field for a document's name.
    const had = Object.entries(said).filter(([name]) => format === 'tiff' || name !== 'DocumentName');
    const attributes = Object.fromEntries(had.map(([name, [, text]]) => [name, text]));
    const { width, height, channels } = image;
    other([{ do: 'write', path: theirs!, raw: raw!, sample: 'u8', width, height, channels, attributes }]);
    const { facts, carried } = await readWhole(theirs!);
    const meant = had.map(([, [name, text]]) => [name, text]);
    expect(facts.texts).toEqual(expect.arrayContaining(meant));
    await writeStill(ours!, format, image, { ...usualSettings, ...carried });
    const [told] = other([{ do: 'read', path: ours!, raw: raw!, sample: 'u8', tell: Object.keys(said) }]);
    expect(told).toMatchObject(attributes);
    expect((await probeStill(ours!)).texts).toEqual(expect.arrayContaining(meant));
  },
);

test('texts go between formats where both have a place: PNG, TIFF, JPEG', async () => {
  const texts: [string, string][] = [
    ['Author', 'H. Vogt'],
    ['Description', 'Straßenbahn im Hof'],
  ];
  const image = pattern('u8', 3);
  for (const [from, to] of [
    ['png', 'tiff'],
    ['tiff', 'png'],
    ['jpeg', 'tiff'],
    ['png', 'jpeg'],
  ] as const) {
    const [before, after] = [join(folder, `t.${from}.${to}.a.${from}`), join(folder, `t.${from}.${to}.b.${to}`)];
    await writeStill(before, from, image, { ...usualSettings, texts });
    const { carried } = await readWhole(before);
    await writeStill(after, to, image, { ...usualSettings, ...carried });
    expect((await probeStill(after)).texts).toEqual(expect.arrayContaining(texts));
  }
});

test('a text that lies beyond the file, or is damaged, is no reason not to take the picture', async () => {
  const path = join(folder, 'astray.tif');
  await writeStill(path, 'tiff', pattern('u8', 3), {
    ...usualSettings,
    texts: [['Description', 'Tram 7 in the yard']],
  });
  const bytes = await readFile(path);
  const list = bytes.readUInt32LE(4);
  for (let entry = 0; entry < bytes.readUInt16LE(list); entry += 1) {
    const at = list + 2 + entry * 12;
    if (bytes.readUInt16LE(at) === 270) bytes.writeUInt32LE(0x7fff_ffff, at + 8);
  }
  await writeFile(path, bytes);
  expect((await probeStill(path)).texts).toBeUndefined();
  expect(compareImages(await readStill(path), pattern('u8', 3))).toEqual({ samples: 0, most: 0 });
});
