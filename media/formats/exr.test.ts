import { spawnSync } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import fc from 'fast-check';
import { halfTable, makeSamples, numberToHalf, type Image } from '@shale/core';
import { exrAddon } from '../exr/addon.ts';
import { writeExr } from './exr.ts';
import { carryChannels } from './exrChannels.ts';
import { probeStill, readStill, readWhole, usualSettings, writeStill } from './index.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-exr-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** Noise of a fixed seed. */
function known(sample: 'f16' | 'f32', channels: Image['channels'], width: number, height: number): Image {
  const data = makeSamples(sample, width * height * channels);
  for (let at = 0; at < data.length; at += 1) {
    const value = ((Math.imul(at + 1, 2_654_435_761) >>> 8) & 0xffff) / 65_536;
    data[at] = sample === 'f16' ? numberToHalf(value * 8 - 1) : Math.fround(value * 1e6 - 1);
  }
  return { width, height, channels, sample, data };
}

const data: [number, number, number, number] = [-3, -2, 60, 45];
const display: [number, number, number, number] = [0, 0, 49, 39];
async function write(name: string, sample: 'f16' | 'f32' = 'f16') {
  const path = join(folder, name);
  await rm(path, { force: true });
  const image = known(sample, 4, 64, 48);
  const attributes = [{ name: 'owner', type: 'string', value: 'tram museum' }];
  await writeExr(path, image, { compression: 'ZIP', attributes, windows: { data, display } });
  return { path, image };
}

test('what is shown, or all of the data window, is the picture', async () => {
  const { path, image } = await write('windows.exr');
  const facts = await probeStill(path);
  expect(facts).toMatchObject({ width: 50, height: 40, window: { left: -3, top: -2, width: 64, height: 48 } });
  const all = await readWhole(path, { window: 'data' });
  expect(all.image).toEqual(image);
  expect(all.carried.windows).toEqual({ data, display });
  const shown = await readStill(path);
  expect([shown.width, shown.height]).toEqual([50, 40]);
  const places = [
    [0, 0],
    [49, 39],
    [20, 7],
  ] as const;
  for (const [x, y] of places) expect(shown.data[(y * 50 + x) * 4]).toBe(image.data[((y + 2) * 64 + x + 3) * 4]);
});

test('a data window of another size than its picture is refused', async () => {
  const windows = { data: [0, 0, 8, 7] as typeof data, display: [0, 0, 7, 7] as typeof data };
  const writing = writeExr(join(folder, 'none.exr'), known('f16', 3, 8, 8), { compression: 'ZIP', windows });
  await expect(writing).rejects.toThrow('the data window is not as large as the picture');
});

test('ZIP of our own is what the library reads, whatever is in it; noise that does not shrink is kept as it is', async () => {
  let made = 0;
  const paths: { path: string; image: Image }[] = [];
  await fc.assert(
    fc.asyncProperty(
      fc.record({
        compression: fc.constantFrom('ZIP', 'ZIPS'),
        sample: fc.constantFrom<'f16' | 'f32'>('f16', 'f32'),
        channels: fc.constantFrom<Image['channels']>(1, 2, 3, 4),
        width: fc.integer({ min: 1, max: 60 }),
        height: fc.integer({ min: 1, max: 40 }),
        zipLevel: fc.integer({ min: 1, max: 9 }),
        noise: fc.boolean(),
        left: fc.integer({ min: -9, max: 9 }),
        long: fc.boolean(),
      }),
      async ({ compression, sample, channels, width, height, zipLevel, noise, left, long }) => {
        const image = known(sample, channels, width, height);
        let state = width * 31 + height;
        if (noise)
          image.data.forEach((_, at) => {
            state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
            image.data[at] = sample === 'f32' ? state / 7 : (state >>> 17) & 0x7bff;
          });
        const path = join(folder, `zip${(made += 1)}.exr`);
        const window: typeof data = [left, 3, left + width - 1, height + 2];
        const name = long ? 'nameOfAnAttributeThatIsLongerThanOldFilesHave' : 'owner';
        const attributes = [{ name, type: 'string', value: 'tram museum' }];
        const windows = { data: window, display: window };
        await writeExr(path, image, { compression, zipLevel, attributes, windows });
        const read = await readStill(path);
        expect(Buffer.from(read.data.buffer).equals(Buffer.from(image.data.buffer))).toBe(true);
        const [part] = await exrAddon.readHeader(path);
        expect([part!.compression, part!.dataWindow]).toEqual([compression, window]);
        expect(part!.attributes.find((one) => one.name === name)?.value).toBe('tram museum');
        if (channels !== 2) paths.push({ path, image });
      },
    ),
    { numRuns: 120 },
  );
  const tasks = paths.map(({ path, image: { sample } }) => ({ do: 'read', path, raw: `${path}.raw`, sample }));
  const script = fileURLToPath(new URL('../testing/other.py', import.meta.url));
  const { status, stderr } = spawnSync('/usr/bin/python3', [script], {
    input: JSON.stringify(tasks),
    encoding: 'utf8',
  });
  expect([status, stderr]).toEqual([0, '']);
  for (const { path, image } of paths)
    expect([path, (await readFile(`${path}.raw`)).equals(Buffer.from(image.data.buffer))]).toEqual([path, true]);
});

test('ZIP of the library, halves and floats side by side, is read channel by channel; other bytes are refused', async () => {
  const half = await write('mixed-half.exr');
  const float = await write('mixed-float.exr', 'f32');
  for (const exrCompression of ['ZIP', 'ZIPS'] as const) {
    const path = join(folder, `mixed-${exrCompression}.exr`);
    const channels = [
      { path: half.path, from: 'G', as: 'G' },
      { path: float.path, from: 'A', as: 'depth.Z' },
      { path: half.path, from: 'R', as: 'R' },
    ];
    await carryChannels(path, channels, { exrCompression, dwaLevel: 45, effort: 4 }, true);
    const halves = new Uint16Array((await exrAddon.readPixels(path, 0, ['R', '', 'G'], false, true)).data);
    const floats = new Float32Array((await exrAddon.readPixels(path, 0, ['depth.Z', 'R'], true, true)).data);
    const values = halfTable();
    for (let at = 0; at < 64 * 48; at += 1) {
      const [red, green] = [half.image.data[at * 4]!, half.image.data[at * 4 + 1]!];
      expect([...halves.subarray(at * 3, at * 3 + 3)]).toEqual([red, numberToHalf(1), green]);
      expect([...floats.subarray(at * 2, at * 2 + 2)]).toEqual([float.image.data[at * 4 + 3]!, values[red]!]);
    }
    const whole = await readFile(path);
    let refused = 0;
    for (let at = 0; at < 150; at += 1) {
      const bent = Buffer.from(whole);
      const place = 900 + Math.floor((at / 150) * (whole.length - 900));
      bent[place]! ^= 1 << (at & 7);
      const other = join(folder, `bent-${exrCompression}-${at}.exr`);
      await writeFile(other, bent);
      const read = await exrAddon.readPixels(other, 0, ['R', '', 'G'], false, true).catch(() => undefined);
      if (read) expect(Buffer.from(read.data).equals(Buffer.from(halves.buffer))).toBe(true);
      else refused += 1;
    }
    expect(refused).toBeGreaterThan(140);
    await writeFile(join(folder, 'short.exr'), whole.subarray(0, whole.length - 40));
    await expect(exrAddon.readPixels(join(folder, 'short.exr'), 0, ['R'], false, true)).rejects.toThrow();
  }
});

test('a disk that cannot be written to is said', async () => {
  await expect(writeExr('/dev/full', known('f16', 3, 64, 64), { compression: 'ZIP' })).rejects.toThrow('No space left');
});

const settings = { exrCompression: 'PIZ', dwaLevel: 45, effort: 4 } as const;

test('channels are carried over bit for bit, each in its own kind of sample, from several files', async () => {
  const half = await write('half.exr');
  const float = await write('float.exr', 'f32');
  const path = join(folder, 'carried.exr');
  const channels = [
    { path: half.path, from: 'G', as: 'R' },
    { path: half.path, from: 'G', as: 'copy.R' },
    { path: float.path, from: 'A', as: 'depth.Z' },
  ];
  expect(await carryChannels(path, channels, settings, true)).toEqual({ samples: 0, most: 0 });
  const [part] = await exrAddon.readHeader(path);
  expect(part!.channels).toMatchObject([
    { name: 'R', type: 'half' },
    { name: 'copy.R', type: 'half' },
    { name: 'depth.Z', type: 'float' },
  ]);
  expect([part!.dataWindow, part!.displayWindow, part!.compression]).toEqual([data, display, 'PIZ']);
  expect(part!.attributes.find(({ name }) => name === 'owner')?.value).toBe('tram museum');
  const depth = await exrAddon.readPixels(path, 0, ['depth.Z'], true, true);
  const alphas = Float32Array.from({ length: 64 * 48 }, (_, at) => float.image.data[at * 4 + 3]!);
  expect(new Float32Array(depth.data)).toEqual(alphas);
  const greens = Uint16Array.from({ length: 64 * 48 }, (_, at) => half.image.data[at * 4 + 1]!);
  for (const as of ['R', 'copy.R'])
    expect(new Uint16Array((await exrAddon.readPixels(path, 0, [as], false, true)).data)).toEqual(greens);
});

test('windows that differ are joined, and a display window that differs is refused', async () => {
  const { path } = await write('one.exr');
  const other = join(folder, 'other.exr');
  await writeExr(other, known('f16', 1, 10, 10), {
    compression: 'ZIP',
    windows: { data: [55, 40, 64, 49], display },
  });
  const joined = join(folder, 'joined.exr');
  const channels = [
    { path, from: 'R', as: 'R' },
    { path: other, from: 'Y', as: 'far.Y' },
  ];
  await carryChannels(joined, channels, settings, true);
  const [part] = await exrAddon.readHeader(joined);
  expect(part!.dataWindow).toEqual([-3, -2, 64, 49]);
  const strange = join(folder, 'strange.exr');
  await writeExr(strange, known('f16', 1, 10, 10), { compression: 'ZIP' });
  await expect(
    carryChannels(join(folder, 'never.exr'), [channels[0]!, { path: strange, from: 'Y', as: 'Y' }], settings, true),
  ).rejects.toMatchObject({ fact: expect.stringContaining('display window') });
});

test('a lossy compression is counted, a channel that is not there and a damaged file are refused by name', async () => {
  const { path } = await write('whole.exr');
  const out = join(folder, 'lossy.exr');
  const lossy = { exrCompression: 'DWAA', dwaLevel: 500, effort: 4 } as const;
  const found = await carryChannels(out, [{ path, from: 'R', as: 'R' }], lossy, true);
  expect(found.samples).toBeGreaterThan(0);
  expect(found.most).toBeGreaterThan(0);
  await rm(out, { force: true });
  await expect(carryChannels(out, [{ path, from: 'Q', as: 'R' }], settings, true)).rejects.toMatchObject({
    fact: expect.stringContaining('it has no channel Q'),
  });
  const bytes = await readFile(path);
  await writeFile(path, bytes.subarray(0, bytes.length / 2));
  await expect(carryChannels(out, [{ path, from: 'R', as: 'R' }], settings, true)).rejects.toMatchObject({
    fact: expect.stringContaining('whole.exr'),
  });
});

test('texts go from OpenEXR, DPX and PNG to each other, whole, and facts have their beginnings', async () => {
  const long = 'the bell of the last tram '.repeat(40).trim();
  const texts: [string, string][] = [
    ['project', 'Yard film'],
    ['keycode', '0102030405060708'],
    ['user bits', '12345678'],
    ['note', long],
  ];
  const image: Image = { ...known('f16', 3, 16, 8), sample: 'u16', data: new Uint16Array(16 * 8 * 3).fill(700) };
  const said = async (format: 'png' | 'dpx' | 'exr', picture: Image) => {
    const path = join(folder, `texts.${format}`);
    await rm(path, { force: true });
    const transfer = format === 'exr' ? 'linear' : 'bt709';
    await writeStill(path, format, picture, { ...usualSettings, transfer, alpha: 'none', texts });
    const { facts, carried } = await readWhole(path);
    return { facts: new Map(facts.texts), carried: new Map(carried.texts) };
  };
  const png = await said('png', image);
  expect([...png.carried]).toEqual(texts);
  expect(png.facts.get('note')).toHaveLength(124);
  const dpx = await said('dpx', image);
  expect(Object.fromEntries(dpx.carried)).toEqual({
    creator: 'Shale',
    project: 'Yard film',
    keycode: '0102030405060708',
    'user bits': '12345678',
  });
  const exr = await said('exr', known('f16', 3, 16, 8));
  expect(Object.fromEntries(exr.carried)).toMatchObject({
    project: 'Yard film',
    userBits: '12345678',
    note: long,
  });
});
