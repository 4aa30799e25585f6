import { mkdir, mkdtemp, readdir, readFile, rm, stat, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Receipt } from '@shale/core';
import { barText } from './bar.ts';
import { outside, shale } from './testing/outside.ts';
import { Shale } from './testing/shale.ts';

// Many sources in one call. What goes in was made by another library, what comes out is read back by it.

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-many-'));
  const made = { with: 'oiio', width: 24, height: 16, channels: 4 };
  for (const [line, count] of [
    ['line_01', 4],
    ['line_02', 3],
  ] as const) {
    await mkdir(join(folder, 'shots', line), { recursive: true });
    outside([{ do: 'make', path: join(folder, 'shots', line, 'bell.%04d.png'), count, ...made }]);
  }
  await mkdir(join(folder, 'shots', 'line_03'));
  outside([{ do: 'make', path: join(folder, 'shots', 'line_03', 'loop.%04d.png'), count: 2, ...made }]);
  const hourAgo = new Date(Date.now() - 3_600_000);
  for (const line of ['line_01', 'line_02', 'line_03'])
    for (const name of await readdir(join(folder, 'shots', line)))
      await utimes(join(folder, 'shots', line, name), hourAgo, hourAgo);
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** Waits for something that comes. */
async function until(holds: () => Promise<boolean>): Promise<void> {
  for (let tries = 0; tries < 400; tries += 1) {
    if (await holds().catch(() => false)) return;
    await new Promise((done) => setTimeout(done, 100));
  }
  throw new Error('it does not come');
}

const shots = (...path: string[]) => join(folder, 'shots', ...path);
const out = (...path: string[]) => join(folder, ...path);
const declared = ['--alpha', 'straight', '--transfer', 'srgb'];
const png = ['--format', 'png', '--depth', '8', ...declared];
const listed = async (...path: string[]) => (await readdir(out(...path))).sort();
const receiptsOf = (text: string) =>
  text
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Receipt);

test('a folder with all below it: each source in a folder of its own, a receipt a line', async () => {
  const said = await shale('convert', shots(), ...png, '--scale', '50%', '--out', out('half'), '--json');
  expect([said.code, said.err]).toEqual([0, '']);
  const receipts = receiptsOf(said.out);
  expect(receipts.map(({ into, written }) => [into.folder, written]).sort()).toEqual([
    ['line_01', 4],
    ['line_02', 3],
    ['line_03', 2],
  ]);
  const small = out('half', 'line_02', 'bell.0002.png');
  expect(outside([{ do: 'apart', path: small, than: small }])).toEqual([{ shape: [8, 12, 4], most: 0 }]);
});

test('stills of a folder are converted beside its sequences, side by side; of a video they are left out, which is said', async () => {
  await mkdir(out('mixed', 'shot'), { recursive: true });
  const made = { with: 'pillow', width: 34, height: 22, channels: 3 };
  outside([
    { do: 'make', path: out('mixed', 'shot', 'bell.%04d.png'), count: 3, ...made },
    { do: 'make', path: out('mixed', 'Bell tower.png'), count: 1, ...made },
    { do: 'make', path: out('mixed', 'ticket.png'), count: 1, ...made },
  ]);
  const plain = ['--alpha', 'none', '--transfer', 'srgb', '--rate', '24'];
  expect((await shale('convert', out('mixed'), '--format', 'tiff', ...plain, '--out', out('flat'))).code).toBe(0);
  expect(await listed('flat')).toEqual(['Bell tower.tif', 'bell', 'ticket.tif']);
  const [from, to] = [out('mixed', 'ticket.png'), out('flat', 'ticket.tif')];
  expect(outside([{ do: 'apart', path: to, than: from }])).toEqual([{ shape: [22, 34, 3], most: 0 }]);

  const film = await shale('convert', out('mixed'), '--format', 'h264', ...plain, '--out', out('film'));
  expect([film.code, await listed('film')]).toEqual([0, ['bell.mp4']]);
  expect(film.err).toContain('2 stills are not made into a video: Bell tower.png, ticket.png.');
  const named = ['--format', 'h264', ...plain, '--out', out('film')];
  expect((await shale('convert', out('mixed', 't*.png'), ...named)).code).toBe(0);
  expect(await listed('film')).toEqual(['bell.mp4', 'ticket.mp4']);
  await mkdir(out('odd'));
  // A side that the codec cannot hold, by either way.
  outside([
    { do: 'make', path: out('odd', 'odd.%04d.png'), count: 2, with: 'pillow', width: 33, height: 21, channels: 3 },
  ]);
  expect((await shale('convert', out('odd'), ...named)).code).toBe(2);
  for (const [way, size] of [
    ['pad', '34 x 22'],
    ['crop', '32 x 20'],
  ] as const) {
    const odd = await shale('convert', out('odd'), ...named, '--odd-size', way, '--to', `${way}.{ext}`);
    expect([odd.code, odd.err]).toEqual([0, '']);
    expect(odd.out).toContain(size);
  }
  const none = await shale('convert', out('mixed', 'shot', 'bell.0001.png'), out('nowhere'), ...named);
  expect(none.code).toBe(2);
});

test('fields in the folder and in the name; frames, a stem, patterns and wildcards', async () => {
  const one = await shale(
    'convert',
    shots('line_01', 'bell.####.png'),
    ...png,
    '--frames',
    '1-2',
    '--to',
    '{folder}_{stem}.####.{ext}',
    '--out',
    out('named', '{folder}'),
  );
  expect(one.code).toBe(0);
  expect(await listed('named', 'line_01')).toEqual(['line_01_bell.0001.png', 'line_01_bell.0002.png']);
  const wild = await shale(
    'convert',
    shots('line_0[13]', '*').replace('[13]', '?'),
    ...png,
    '--to',
    'shot',
    '--out',
    out('wild', '{folder}'),
  );
  expect(wild.code).toBe(0);
  expect(await listed('wild')).toEqual(['line_01', 'line_02', 'line_03']);
  expect(await listed('wild', 'line_03')).toEqual(['shot.0000.png', 'shot.0001.png']);
});

test('files that a shell listed are taken as their sequence, and no others of it', async () => {
  const files = ['0000', '0001', '0003'].map((number) => shots('line_01', `bell.${number}.png`));
  const { code, out: text } = await shale('convert', ...files, ...png, '--out', out('listed'), '--json');
  expect(code).toBe(0);
  expect((JSON.parse(text) as Receipt).written).toBe(3);
  expect(await listed('listed')).toEqual(['bell.0000.png', 'bell.0001.png', 'bell.0003.png']);
});

test('several specs are several outputs; a video says BT.709 where nothing else is said', async () => {
  const spec = (name: string, value: object) => writeFile(out(name), JSON.stringify({ version: 1, ...value }));
  await spec('frames.json', {
    write: { format: 'tiff', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
    into: { folder: '{folder}' },
  });
  await spec('review.json', {
    write: { format: 'h264', sample: 'u8', alpha: 'none', transfer: 'bt709' },
    video: { name: '{folder}_review.mp4' },
    into: { folder: 'reviews' },
  });
  const specs = ['--spec', out('frames.json'), out('review.json')];
  const both = await shale(
    'convert',
    shots('line_01'),
    shots('line_02'),
    '--rate',
    '24',
    ...declared,
    ...specs,
    '--out',
    out('both'),
  );
  expect([both.code, both.err]).toEqual([0, '']);
  expect(await listed('both')).toEqual(['line_01', 'line_02', 'reviews']);
  expect(await listed('both', 'reviews')).toEqual(['line_01_review.mp4', 'line_02_review.mp4']);
  const review = await shale(
    'convert',
    shots('line_03'),
    '--format',
    'h264',
    '--rate',
    '25',
    ...declared,
    '--out',
    out('quick'),
    '--json',
  );
  expect((JSON.parse(review.out) as Receipt).spec.write.transfer).toBe('bt709');
  expect(await listed('quick')).toEqual(['loop.mp4']);
});

test('nothing is written where one of many cannot run, unless it is left out; the exit code tells', async () => {
  const call = ['convert', shots(), '--format', 'h264', ...declared, '--out', out('none')];
  const refused = await shale(...call);
  expect(refused.code).toBe(2);
  expect(refused.err).toContain('line_02/bell.####.png: Nothing gives the rate');
  await expect(stat(out('none'))).rejects.toThrow();
  // Names that meet are refused as well, and each is told.
  const same = await shale('convert', shots(), ...png, '--out', out('same', '{ext}'));
  expect([same.code, same.err.match(/same-names/g)?.length]).toEqual([2, 2]);
  const skipped = await shale('convert', shots(), ...png, '--out', out('same', '{ext}'), '--skip');
  expect([skipped.code, await listed('same', 'png')]).toEqual([1, ['loop.0000.png', 'loop.0001.png']]);
});

test('only what is new: kept where source and way are the same, made where one is missing or changed', async () => {
  const call = ['convert', shots(), ...png, '--out', out('new', '{folder}'), '--only-new'];
  expect((await shale(...call)).code).toBe(0);
  const times = async () =>
    Promise.all(
      (await listed('new', 'line_01')).map(async (name) => (await stat(out('new', 'line_01', name))).mtimeMs),
    );
  const before = await times();
  expect(await shale(...call)).toMatchObject({ code: 0, out: '3 of 3 are there already.\n' });
  await rm(out('new', 'line_01', 'bell.0001.png'));
  const bytes = await readFile(shots('line_02', 'bell.0000.png'));
  outside([
    {
      do: 'make',
      path: shots('line_02', 'bell.%04d.png'),
      count: 1,
      with: 'pillow',
      width: 24,
      height: 16,
      channels: 4,
    },
  ]);
  const { code, out: text } = await shale(...call, '--json');
  expect(code).toBe(0);
  expect(
    receiptsOf(text)
      .map(({ written, kept }) => [written, kept])
      .sort(),
  ).toEqual([
    [3, 2],
    [4, 3],
  ]);
  const after = await times();
  expect(after.filter((time, at) => time === before[at])).toHaveLength(3);
  // Another way keeps nothing: what is there was made otherwise, and is in the way.
  const other = await shale(...call, '--scale', '50%');
  expect([other.code, other.err]).toEqual([2, expect.stringContaining('output-exists')]);
  await writeFile(shots('line_02', 'bell.0000.png'), bytes);
});

test('what is not known is refused in words', async () => {
  const refusal = async (...args: string[]) => {
    const { code, err } = await shale('convert', ...args);
    return [code, err];
  };
  const at = ['--out', out('x')];
  expect(await refusal(shots(), ...at)).toEqual([2, expect.stringContaining('No output format is given.')]);
  expect(await refusal(shots(), '--format', 'png')).toEqual([2, expect.stringContaining('No output folder is given.')]);
  expect(await refusal(shots(), '--format', 'gem', ...at)).toEqual([
    2,
    expect.stringContaining('--format gem is not known.'),
  ]);
  expect(await refusal(shots(), ...png, '--scale', 'big', ...at)).toEqual([2, expect.stringContaining('Write 50%')]);
  expect(await refusal(shots('nobody*'), ...png, ...at)).toEqual([2, expect.stringContaining('source-not-found')]);
  expect(await refusal(out('shots', 'line_09'), ...png, ...at)).toEqual([
    2,
    expect.stringContaining('source-not-found'),
  ]);
  await expect(stat(out('x'))).rejects.toThrow();
});

test('plan prints what convert would write, and writes nothing', async () => {
  const { code, out: text } = await shale('plan', shots('line_03'), ...png, '--first', '5', '--out', out('planned'));
  expect([code, text]).toEqual([2, '']);
  const plan = await shale('plan', shots('line_03'), ...png, '--out', out('planned'));
  expect([plan.code, plan.out]).toEqual([0, expect.stringContaining('loop.0001.png -> loop.0001.png')]);
  await expect(stat(out('planned'))).rejects.toThrow();
});

test('a bar tells how far it is, and how long it takes once that is known', () => {
  expect(barText(0, 10, 1)).toBe(`[${' '.repeat(24)}] 0/10`);
  expect(barText(5, 10, 2)).toBe(`[${'='.repeat(12)}${' '.repeat(12)}] 5/10, 2.5 a second, 2 s left`);
  expect(barText(10, 10, 2)).toBe(`[${'='.repeat(24)}] 10/10, 5.0 a second`);
});

test('a shell is told of every command and option', async () => {
  const { out: script } = await shale('completion', 'bash');
  for (const word of ['convert', 'plan', 'verify', '--only-new', '--receiver']) expect(script).toContain(word);
  expect((await shale('completion', 'zsh')).out).toContain('bashcompinit');
});

test('what is watched is made once it is there, told once where it cannot be, and made once', async () => {
  const program = new Shale();
  const stop = new AbortController();
  await mkdir(out('coming'));
  const made = { with: 'oiio', width: 8, height: 8, channels: 3 };
  const hourAgo = new Date(Date.now() - 3_600_000);
  const put = async (name: string) => {
    outside([{ do: 'make', path: out('coming', name), count: 2, ...made }]);
    for (const one of await readdir(out('coming'))) await utimes(out('coming', one), hourAgo, hourAgo);
  };
  await put('first.%04d.png');
  await writeFile(out('coming', 'hurt.0001.png'), 'no picture');
  await writeFile(out('coming', 'hurt.0002.png'), 'no picture');
  const call = ['convert', out('coming'), '--format', 'tiff', '--alpha', 'none', '--transfer', 'srgb'];
  const watching = program.runUntil(stop.signal, ...call, '--out', out('came'), '--watch');
  try {
    await until(() => readdir(out('came', 'first')).then((names) => names.length === 2));
    await put('second.%04d.png');
    await until(() => readdir(out('came', 'second')).then((names) => names.length === 2));
    // Several looks later.
    await new Promise((done) => setTimeout(done, 7000));
  } finally {
    stop.abort();
  }
  const { err, out: text } = await watching;
  await program.close();
  const told = err.split('\n').filter((line) => line.startsWith('shale: hurt'));
  expect(told.length).toBeGreaterThan(0);
  expect(new Set(told).size).toBe(told.length);
  expect(err).not.toContain('MaxListeners');
  expect(text.match(/named first/g)).toHaveLength(1);
  expect(text.match(/named second/g)).toHaveLength(1);
});
