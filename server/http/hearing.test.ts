import { execFileSync } from 'node:child_process';
import { mkdir, readdir, readFile, rm, utimes, writeFile } from 'node:fs/promises';
import { randomFillSync } from 'node:crypto';
import { routes, problemDetailsSchema } from '@shale/contract';
import { Ground, until } from '../testing/ground.ts';
import { Served } from '../testing/served.ts';

// Sounds that are measured and written by the server: two askers at once, an asker who goes, a process that ends, a full disk, bad sounds.

/** A WAV of 16-bit samples as RIFF has it. */
function wav(channels: number, rate: number, samples: Int16Array): Buffer {
  const data = Buffer.from(samples.buffer);
  const head = Buffer.alloc(44);
  head.write('RIFF');
  head.writeUInt32LE(36 + data.length, 4);
  head.write('WAVEfmt ', 8);
  head.writeUInt32LE(16, 16);
  for (const [at, value] of [1, channels].entries()) head.writeUInt16LE(value, 20 + at * 2);
  head.writeUInt32LE(rate, 24);
  head.writeUInt32LE(rate * channels * 2, 28);
  head.writeUInt16LE(channels * 2, 32);
  head.writeUInt16LE(16, 34);
  head.write('data', 36);
  head.writeUInt32LE(data.length, 40);
  return Buffer.concat([head, data]);
}
const tone = (count: number) => Int16Array.from({ length: count }, (_, at) => Math.round(9000 * Math.sin(at / 7)));
/** Ten minutes of noise: what takes seconds to write. */
const long = () => randomFillSync(new Int16Array(600 * 48_000));

let ground: Ground;
let served: Served;
const ids: Record<string, string> = {};
beforeAll(async () => {
  ground = await Ground.make();
  await mkdir(ground.in('shots', 'bells'), { recursive: true });
  const files: Record<string, Buffer> = {
    'bell.wav': wav(1, 48_000, tone(96_000)),
    'long.wav': wav(1, 48_000, long()),
    'none.wav': wav(1, 48_000, new Int16Array(0)),
    'eight.wav': wav(8, 48_000, tone(8 * 4800)),
    'cut.wav': wav(2, 44_100, tone(88_200)).subarray(0, 100_001),
    'gone.wav': wav(1, 48_000, tone(4800)),
  };
  const hourAgo = new Date(Date.now() - 3_600_000);
  for (const [name, bytes] of Object.entries(files)) {
    await writeFile(ground.in('shots', 'bells', name), bytes);
    await utimes(ground.in('shots', 'bells', name), hourAgo, hourAgo);
  }
  await ground.roots.scan('shots');
  await ground.roots.scan('out');
  served = await Served.on(ground);
  for (const name of Object.keys(files)) ids[name] = (await ground.source('shots', 'bells', name)).id;
});
afterAll(async () => {
  await served.close();
  await ground.leave();
});

const body = (folder: string, conversion: object = {}) =>
  ({ conversion, into: { root: 'out', folder }, stem: null }) as never;
const write = (name: string, folder: string, conversion: object = {}) =>
  served.fetch(routes.writeSound, { params: { source: ids[name]! }, body: body(folder, conversion) });
const problem = async (answer: Response) => problemDetailsSchema.parse(await answer.json());
const left = (folder: string) => readdir(ground.in('out', folder)).catch(() => []);

test('is measured, written, and found as a source at once', async () => {
  const facts = await served.ask(routes.getSound, { params: { source: ids['bell.wav']! } });
  expect(facts).toMatchObject({ samples: 96_000, rate: 48_000, channels: 1 });
  const answer = await write('bell.wav', 'written', { format: 'flac' });
  expect(await answer.json()).toMatchObject({ same: true, files: [{ name: 'bell.flac', samples: 96_000 }] });
  const listed = () => served.ask(routes.listSources, { query: { root: 'out', folder: 'written' } });
  await until(async () => (await listed()).length === 1, 'the sound is listed');
  expect(await listed()).toMatchObject([{ kind: 'sound', name: 'bell.flac' }]);
});

test('how far the measuring is, is told while it goes on', async () => {
  const asked = served.ask(routes.getSound, { params: { source: ids['long.wav']! } });
  const told: number[] = [];
  await until(async () => {
    const { seconds } = await served.ask(routes.soundMeasured, { params: { source: ids['long.wav']! } });
    if (seconds !== null) told.push(seconds);
    return told.length > 1;
  }, 'it tells how far it is');
  expect(told).toEqual([...told].sort((a, b) => a - b));
  expect(told.at(-1)).toBeLessThan(600);
  expect(await asked).toMatchObject({ samples: 600 * 48_000 });
  const after = await served.ask(routes.soundMeasured, { params: { source: ids['long.wav']! } });
  expect(after).toEqual({ seconds: null });
});

test('two askers for one name: one has it, the other is told, and the file is whole', async () => {
  const answers = await Promise.all([
    write('bell.wav', 'both', { depth: '16' }),
    write('bell.wav', 'both', { depth: '24' }),
  ]);
  expect(answers.map(({ status }) => status).sort()).toEqual([200, 409]);
  const refused = answers.find(({ status }) => status === 409)!;
  expect(await problem(refused)).toMatchObject({ code: 'output-exists' });
  const { files } = (await answers.find(({ status }) => status === 200)!.json()) as { files: { bytes: number }[] };
  expect(await left('both')).toEqual(['bell.wav']);
  expect((await readFile(ground.in('out', 'both', 'bell.wav'))).length).toBe(files[0]!.bytes);
});

test('an asker who goes leaves nothing, and the next is served', async () => {
  const stop = new AbortController();
  const asked = fetch(`${served.url}/api/sources/${ids['long.wav']}/sound/written`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body('away', { format: 'flac', loudness: -30 })),
    signal: stop.signal,
  }).catch(() => 'gone');
  await until(async () => (await left('away')).length > 0, 'it is being written');
  stop.abort();
  expect(await asked).toBe('gone');
  await until(async () => (await left('away')).length === 0, 'nothing is left');
  expect((await write('bell.wav', 'away')).status).toBe(200);
});

test('a process that ends while it writes is told, and leaves nothing half', async () => {
  const asked = write('long.wav', 'ended', { format: 'flac' });
  await until(async () => (await left('ended')).length > 0, 'it is being written');
  for (const pid of ground.pool.pids) process.kill(pid, 'SIGKILL');
  expect(await problem(await asked)).toMatchObject({ code: 'worker-crashed' });
  expect(await left('ended')).toEqual([]);
});

test('a disk that fills up is told with the way out, and nothing is left', async () => {
  const folder = ground.in('out', 'full');
  await mkdir(folder);
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64k', 'tmpfs', folder]);
  } catch {
    // No right to mount here (a container without it): nothing can be shown.
    return;
  }
  try {
    expect(await problem(await write('bell.wav', 'full'))).toMatchObject({
      code: 'disk-full',
      wayOut: expect.stringContaining('Free some space'),
    });
    expect(await left('full')).toEqual([]);
  } finally {
    execFileSync('umount', [folder]);
  }
});

test('sounds of another kind: none, eight channels, cut off, gone; and a root that is not to be written', async () => {
  expect(await problem(await write('none.wav', 'odd'))).toMatchObject({ code: 'bad-sound' });
  const eight = (await (await write('eight.wav', 'odd', { channels: 'stereo' })).json()) as object;
  expect(eight).toMatchObject({ same: true, files: [{ channels: 2, samples: 4800 }] });
  // What is there of a file that was cut off is measured and written; that it was cut is told.
  const facts = await served.ask(routes.getSound, { params: { source: ids['cut.wav']! } });
  expect(facts.samples).toBe(Math.floor((100_001 - 44) / 4));
  expect((await write('cut.wav', 'odd')).status).toBe(200);
  await rm(ground.in('shots', 'bells', 'gone.wav'));
  expect(await problem(await write('gone.wav', 'odd'))).toMatchObject({ code: 'file-gone' });
  const elsewhere = served.fetch(routes.writeSound, {
    params: { source: ids['bell.wav']! },
    body: { ...(body('x') as object), into: { root: 'more', folder: 'x' } } as never,
  });
  expect((await elsewhere).status).toBeGreaterThanOrEqual(400);
  expect(await left('odd')).toEqual(expect.arrayContaining(['eight.wav', 'cut.wav']));
});
