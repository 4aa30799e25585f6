import { mkdir, mkdtemp, readdir, readFile, rm, stat, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { outside, shale } from './testing/outside.ts';

// Small moving pictures by the command line: what goes in was made by another library, what comes out is read by another.

interface Read {
  size: [number, number];
  loop: number | null;
  format: string;
  delays: number[];
  count: number;
  /** Greatest differences of 255 in colour and in alpha, and the mean square of those in colour. */
  most: number;
  alpha: number;
  square: number;
}

let folder: string;
const at = (...path: string[]) => join(folder, ...path);
const declared = ['--alpha', 'straight', '--transfer', 'srgb'];

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-small-'));
  const hourAgo = new Date(Date.now() - 3_600_000);
  for (const [name, width, height, count] of [
    ['loop', 45, 31, 14],
    ['dot', 1, 1, 3],
    ['one', 20, 12, 1],
  ] as const) {
    await mkdir(at(name));
    outside([{ do: 'make loop', path: at(name, `${name}.%04d.png`), width, height, count }]);
    for (const file of await readdir(at(name))) await utimes(at(name, file), hourAgo, hourAgo);
  }
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** Converts a loop, and reads what came of it. */
async function made(name: string, format: string, out: string, ...options: string[]): Promise<Read> {
  const said = await shale(
    'convert',
    at(name, `${name}.####.png`),
    ...['--format', format, ...declared, '--rate', '24', '--out', at(out), ...options],
  );
  expect([said.code, said.err]).toEqual([0, '']);
  const ending = format === 'webpanim' ? 'webp' : format;
  const cut = format === 'gif' ? { from: 128 } : {};
  const [read] = outside<Read>([
    { do: 'animation', path: at(out, `${name}.${ending}`), than: at(name, `${name}.%04d.png`), ...cut },
  ]);
  return read!;
}

test('a GIF: every picture at its time, clear where it is clear, near in colour whatever is chosen', async () => {
  for (const [out, options, square] of [
    ['gif', [], 12],
    ['each', ['--dither', 'none'], 12],
    ['few', ['--colours', '16', '--dither', 'ordered'], 500],
    ['two', ['--colours', '2', '--dither', 'none'], 9000],
  ] as const) {
    const read = await made('loop', 'gif', out, ...options);
    expect(read).toMatchObject({ size: [45, 31], count: 14, alpha: 0, format: 'GIF', loop: 0 });
    expect(read.delays.slice(0, 6)).toEqual([40, 40, 50, 40, 40, 40]);
    expect(read.square).toBeLessThan(square);
  }
});

test('an animated PNG is what went in, sample for sample, and plays as often as is said', async () => {
  const read = await made('loop', 'apng', 'apng', '--plays', '3');
  expect(read).toMatchObject({ size: [45, 31], count: 14, most: 0, alpha: 0, loop: 3, format: 'PNG' });
  for (const delay of read.delays) expect(delay).toBeCloseTo(1000 / 24, 6);
  // As a source it is what it was made of.
  const back = await shale('convert', at('apng', 'loop.apng'), '--format', 'png', ...declared, '--out', at('back'));
  expect([back.code, (await readdir(at('back'))).length]).toEqual([0, 14]);
  const [same] = outside([{ do: 'apart', path: at('back', 'loop.0007.png'), than: at('loop', 'loop.0007.png') }]);
  expect(same).toEqual({ shape: [31, 45, 4], most: 0 });
});

test('an animated PNG of 16 bits', async () => {
  const read = await made('loop', 'apng', 'deep', '--depth', '16');
  expect(read).toMatchObject({ count: 14, most: 0, alpha: 0 });
});

test('an animated WebP: near by quality; what is seen is kept where it is lossless', async () => {
  const read = await made('loop', 'webpanim', 'webp', '--quality', '90');
  expect(read).toMatchObject({ size: [45, 31], count: 14, loop: 0, format: 'WEBP' });
  expect(read.square).toBeLessThan(120);
  expect(await made('loop', 'webpanim', 'kept', '--lossless')).toMatchObject({ count: 14, most: 0, alpha: 0 });
});

test('one picture, and one pixel', async () => {
  for (const format of ['gif', 'apng', 'webpanim']) {
    expect((await made('dot', format, `dot-${format}`)).size).toEqual([1, 1]);
    expect(await made('one', format, `one-${format}`)).toMatchObject({ size: [20, 12], count: 1 });
  }
});

test('within a limit of bytes: nearly reached, read back whole; what cannot be is proved', async () => {
  const size = async (...path: string[]) => (await stat(at(...path))).size;
  for (const [format, ending] of [
    ['gif', 'gif'],
    ['webpanim', 'webp'],
  ] as const) {
    await made('loop', format, `free-${format}`);
    const limit = Math.round(0.6 * (await size(`free-${format}`, `loop.${ending}`)));
    const said = await shale(
      'convert',
      at('loop', 'loop.####.png'),
      ...['--format', format, ...declared, '--rate', '24', '--limit', String(limit), '--out', at(`held-${format}`)],
    );
    expect(said.code).toBe(0);
    // A line a try; eight at most.
    const tries = said.out.split('\n').filter((line) => /^ {2}[\d,]+ bytes: /.test(line));
    expect([tries.length > 1, tries.length <= 8, tries[0]!.endsWith('nothing given up')]).toEqual([true, true, true]);
    // Nothing of the tries is left beside it.
    expect(await readdir(at(`held-${format}`))).toEqual([`loop.${ending}`]);
    const bytes = await size(`held-${format}`, `loop.${ending}`);
    expect(bytes).toBeLessThanOrEqual(limit);
    expect(bytes).toBeGreaterThan(limit * 0.9);
    const [read] = outside<{ count: number; delays: number[] }>([
      { do: 'animation', path: at(`held-${format}`, `loop.${ending}`), than: at('loop', 'loop.%04d.png'), alone: true },
    ]);
    expect(read).toMatchObject({ count: 14 });
  }
  const ask = (format: string, limit: string, ...more: string[]) =>
    shale(
      'convert',
      at('loop', 'loop.####.png'),
      ...['--format', format, ...declared, '--rate', '24', '--limit', limit, '--out', at('never'), ...more],
    );
  const never = await ask('apng', '300');
  expect([never.code, (never.out + never.err).includes('loop.apng cannot be within 300 bytes')]).toEqual([2, true]);
  expect(await readdir(at('never'))).toEqual([]);
  expect((await ask('png', '300')).err).toContain('--limit is for small moving pictures');
  expect((await ask('gif', '9KB', '--give', 'shape=3')).err).toContain(
    'it may be size, colours, dither, quality, rate, length',
  );
  expect((await ask('gif', 'little')).err).toContain('Write bytes, as 500000, 256KB, 256KiB or 1.5MB.');
});

test('what a GIF cannot be is said, and how it can', async () => {
  const quick = await shale(
    'convert',
    at('loop', 'loop.####.png'),
    ...['--format', 'gif', ...declared, '--rate', '60', '--out', at('quick')],
  );
  expect(quick.code).toBe(2);
  expect(quick.err).toContain('none shows more than 50 pictures a second');
  const odd = await shale(
    'convert',
    at('loop', 'loop.####.png'),
    ...['--format', 'gif', ...declared, '--rate', '24', '--colours', '300', '--out', at('odd')],
  );
  expect(odd.code).toBe(2);
  expect(odd.err).toContain('video.colours');
});

test('what may be given up is said: half the pictures and no size', async () => {
  await made('loop', 'apng', 'whole-apng');
  const limit = Math.round(0.55 * (await stat(at('whole-apng', 'loop.apng'))).size);
  const said = await shale(
    'convert',
    at('loop', 'loop.####.png'),
    ...['--format', 'apng', ...declared, '--rate', '24', '--limit', String(limit), '--give', 'rate=6'],
    ...['--out', at('fewer')],
  );
  expect([said.code, said.err]).toEqual([0, '']);
  const [read] = outside<Read>([
    { do: 'animation', path: at('fewer', 'loop.apng'), than: at('loop', 'loop.%04d.png'), alone: true },
  ]);
  expect(read!.size).toEqual([45, 31]);
  expect(read!.count).toBeLessThan(14);
  // It plays as long as it did.
  expect(read!.delays.reduce((sum, one) => sum + one, 0)).toBeGreaterThan((1000 * 13) / 24);
});

test('an animated JPEG XL keeps every sample of 8 and 16 bits, and is a source again', async () => {
  for (const depth of ['8', '16']) {
    const said = await shale(
      'convert',
      at('loop', 'loop.####.png'),
      ...[
        '--format',
        'jxlanim',
        '--lossless',
        '--depth',
        depth,
        ...declared,
        '--rate',
        '24',
        '--out',
        at(`jxl-${depth}`),
      ],
    );
    expect([said.code, said.err, said.out.includes('1 read back identical')]).toEqual([0, '', true]);
    const file = at(`jxl-${depth}`, 'loop.jxl');
    const hourAgo = new Date(Date.now() - 3_600_000);
    await utimes(file, hourAgo, hourAgo);
    const back = await shale(
      'convert',
      file,
      ...['--format', 'png', '--depth', '8', ...declared, '--out', at(`back-${depth}`)],
    );
    expect([back.code, (await readdir(at(`back-${depth}`))).length]).toEqual([0, 14]);
    const [same] = outside([
      { do: 'apart', path: at(`back-${depth}`, 'loop.0007.png'), than: at('loop', 'loop.0007.png') },
    ]);
    expect(same).toMatchObject({ shape: [31, 45, 4], most: 0 });
  }
});

test('a Lottie animation holds every picture, as another library reads those that it embeds', async () => {
  const said = await shale(
    'convert',
    at('loop', 'loop.####.png'),
    ...['--format', 'lottie', '--lossless', ...declared, '--rate', '24', '--out', at('lottie')],
  );
  expect([said.code, said.err]).toEqual([0, '']);
  const made = JSON.parse(await readFile(at('lottie', 'loop.json'), 'utf8')) as { fr: number; assets: { p: string }[] };
  expect([made.fr, made.assets.length]).toEqual([24, 14]);
  await writeFile(at('lottie', 'seven.png'), Buffer.from(made.assets[7]!.p.split(',')[1]!, 'base64'));
  const [same] = outside([{ do: 'apart', path: at('lottie', 'seven.png'), than: at('loop', 'loop.0007.png') }]);
  expect(same).toEqual({ shape: [31, 45, 4], most: 0 });
  await isSourceAgain(at('lottie', 'loop.json'));
});

/** Converts a file of fourteen pictures into frames, and holds them against those that it was made of. */
async function isSourceAgain(file: string): Promise<void> {
  const hourAgo = new Date(Date.now() - 3_600_000);
  await utimes(file, hourAgo, hourAgo);
  const out = `${file}-frames`;
  const said = await shale('convert', file, '--format', 'png', '--transfer', 'srgb', '--out', out);
  expect([said.code, said.err, said.out.includes('as 24 fps'), (await readdir(out)).length]).toEqual([0, '', true, 14]);
  for (const number of ['0000', '0007', '0013']) {
    const task = { path: join(out, `loop.${number}.png`), than: at('loop', `loop.${number}.png`) };
    const [same] = outside([{ do: 'apart', seen: true, ...task }]);
    expect(same).toMatchObject({ shape: [31, 45, 4], most: 0 });
  }
}

test('a WebP that mixes keeps what is smaller lossless so, and is as near as its quality elsewhere', async () => {
  await writeFile(
    at('mixed.json'),
    JSON.stringify({
      version: 1,
      write: { format: 'webpanim', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
      video: { mixed: true },
    }),
  );
  const said = await shale(
    'convert',
    at('loop', 'loop.####.png'),
    ...['--spec', at('mixed.json'), ...declared, '--rate', '24', '--out', at('mixed')],
  );
  expect([said.code, said.err, said.out.includes('quality 80 or lossless')]).toEqual([0, '', true]);
  const [read] = outside<Read>([
    { do: 'animation', path: at('mixed', 'loop.webp'), than: at('loop', 'loop.%04d.png') },
  ]);
  expect(read).toMatchObject({ count: 14, size: [45, 31] });
  expect(read!.square).toBeLessThan(60);
});

test('a sprite sheet: every frame lies where its JSON says, as another library reads it, and is a source again', async () => {
  for (const [out, options] of [
    ['sheet-png', []],
    ['sheet-webp', ['--container', 'webp', '--side', '256']],
  ] as const) {
    const said = await shale(
      'convert',
      at('loop', 'loop.####.png'),
      ...['--format', 'sheet', ...declared, '--rate', '24', '--out', at(out), ...options],
    );
    expect([said.code, said.err, said.out.includes('1 read back identical')]).toEqual([0, '', true]);
    expect((await readdir(at(out))).sort()).toEqual(['loop.json', `loop.${out.slice(6)}`]);
    const [read] = outside<{ size: number[] }>([
      { do: 'sheet', path: at(out, 'loop.json'), than: at('loop', 'loop.%04d.png') },
    ]);
    expect(read).toMatchObject({ count: 14, most: 0, overlap: false });
    expect(Math.max(...read!.size)).toBeLessThanOrEqual(256);
    await isSourceAgain(at(out, 'loop.json'));
  }
});

test('of a sprite sheet only what is new is made: it stays with its JSON, and is made again without', async () => {
  const convert = () =>
    shale(
      'convert',
      at('loop', 'loop.####.png'),
      ...['--format', 'sheet', ...declared, '--rate', '24', '--out', at('sheet-new'), '--only-new'],
    );
  expect((await convert()).code).toBe(0);
  const stamp = async () => (await stat(at('sheet-new', 'loop.png'))).mtimeMs;
  const [first, json] = [await stamp(), await readFile(at('sheet-new', 'loop.json'), 'utf8')];
  const again = await convert();
  expect([again.code, again.err, await stamp()]).toEqual([0, '', first]);
  await rm(at('sheet-new', 'loop.json'));
  expect((await convert()).code).toBe(0);
  expect(await readFile(at('sheet-new', 'loop.json'), 'utf8')).toBe(json);
  // What somebody made of it since is not written over.
  await writeFile(at('sheet-new', 'loop.json'), '{"mine": true}');
  expect((await convert()).err).toMatch(/exist already.*loop\.json/);
  expect(await readFile(at('sheet-new', 'loop.json'), 'utf8')).toBe('{"mine": true}');
});

test('a sprite sheet that is too small, or whose JSON would go over another, says so and leaves nothing', async () => {
  const convert = (out: string, ...options: string[]) =>
    shale(
      'convert',
      at('loop', 'loop.####.png'),
      ...['--format', 'sheet', ...declared, '--rate', '24', '--out', at(out), ...options],
    );
  const small = await convert('sheet-small', '--side', '40');
  expect(small.code).not.toBe(0);
  expect(small.out + small.err).toMatch(/a side of the sheet may have at most 40/);
  expect(await readdir(at('sheet-small'))).toEqual([]);
  await mkdir(at('sheet-there'));
  await writeFile(at('sheet-there', 'loop.json'), '{"not": "ours"}');
  const there = await convert('sheet-there');
  expect(there.err).toMatch(/1 of 2 names exist already.*loop\.json/);
  expect(await readFile(at('sheet-there', 'loop.json'), 'utf8')).toBe('{"not": "ours"}');
  expect(await readdir(at('sheet-there'))).toEqual(['loop.json']);
});

test('an AVIF sequence: another library reads every picture at its rate, and it is a source again', async () => {
  await mkdir(at('wide'));
  outside([{ do: 'make loop', path: at('wide', 'wide.%04d.png'), width: 61, height: 43, count: 9 }]);
  const hourAgo = new Date(Date.now() - 3_600_000);
  for (const file of await readdir(at('wide'))) await utimes(at('wide', file), hourAgo, hourAgo);
  const convert = (out: string, ...options: string[]) =>
    shale(
      'convert',
      at('wide', 'wide.####.png'),
      ...['--format', 'avifanim', '--write-alpha', 'matte', ...declared, '--rate', '24000/1001', '--out', at(out)],
      ...options,
    );
  const said = await convert('sequence');
  expect([said.code, said.err]).toEqual([0, '']);
  const still = await shale(
    'convert',
    at('wide', 'wide.####.png'),
    ...['--format', 'png', '--write-alpha', 'matte', ...declared, '--out', at('flat')],
  );
  expect(still.code).toBe(0);
  const [read] = outside<{ count: number; rate: string; mean: number }>([
    { do: 'near', path: at('sequence', 'wide.avif'), than: at('flat', 'wide.%04d.png') },
  ]);
  expect(read).toMatchObject({ count: 9, rate: '24000/1001' });
  expect(read!.mean).toBeLessThan(6);
  const [best, worst] = [await convert('best', '--quality', '100'), await convert('worst', '--quality', '5')];
  expect([best.code, worst.code]).toEqual([0, 0]);
  const bytes = async (out: string) => (await stat(at(out, 'wide.avif'))).size;
  expect(
    [await bytes('worst'), await bytes('sequence'), await bytes('best')].map(
      (one, at, all) => at === 0 || one > all[at - 1]!,
    ),
  ).toEqual([true, true, true]);
  const file = at('sequence', 'wide.avif');
  await utimes(file, hourAgo, hourAgo);
  const back = await shale('convert', file, '--format', 'png', '--alpha', 'none', '--out', at('sequence-frames'));
  expect([back.code, back.out.includes('as 23.976 fps'), (await readdir(at('sequence-frames'))).length]).toEqual([
    0,
    true,
    9,
  ]);
  // Narrower pictures are refused in words: the encoder would never end.
  const narrow = await convert('narrow', '--scale', '20x');
  expect([narrow.code, narrow.err.includes('takes none below 32 x 16')]).toEqual([2, true]);
});

test('an animated AVIF that another library wrote is a source: every picture, at its rate', async () => {
  await mkdir(at('avis'));
  outside([{ do: 'make avif', path: at('avis', 'light.avif'), width: 64, height: 48, count: 7, rate: 12 }]);
  const hourAgo = new Date(Date.now() - 3_600_000);
  await utimes(at('avis', 'light.avif'), hourAgo, hourAgo);
  const said = await shale(
    'convert',
    at('avis', 'light.avif'),
    ...['--format', 'png', '--transfer', 'srgb', '--alpha', 'none', '--out', at('avis-out')],
  );
  expect([said.code, said.out.includes('as 12 fps'), (await readdir(at('avis-out'))).length]).toEqual([0, true, 7]);
  for (const picture of [0, 3, 6]) {
    const [found] = outside<number[]>([{ do: 'middle', path: at('avis-out', `light.000${picture}.png`) }]);
    for (const code of found!) expect(Math.abs(code - (20 + 30 * picture))).toBeLessThanOrEqual(4);
  }
});
