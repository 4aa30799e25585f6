import { createHash } from 'node:crypto';
import { mkdir, mkdtemp, readdir, readFile, rm, truncate, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  codecs,
  declare,
  makePlan,
  parseSpec,
  pieceLength,
  resultsOf,
  type CodecId,
  type Plan,
  type Source,
} from '@shale/core';
import { ClipReader, usualSettings, writeStill } from '@shale/media';
import { numberIn, numbered } from '@shale/media/video/testClips.ts';
import { carryOut } from './carry-out.ts';
import type { VideoProgress } from './encodeOnce.ts';
import { sweepPieces } from './ending.ts';
import { FrameMaker } from './frame.ts';
import { encodePieces } from './pieces.ts';
import { spansPerProcess, WorkerPool } from './pool.ts';
import { scanFolders } from './scan.ts';
import { makeVideo } from './video.ts';

// A video that is stopped goes on after its last whole piece, and ends with the bytes of one that was never stopped.
let folder: string;
let pool: WorkerPool;
let source: Source;
const count = 250;
// The least that all codecs hold.
const size = { width: 256, height: 120 };
const places = (to: string) => ({ source: join(folder, 'in'), target: join(folder, to) });

beforeAll(async () => {
  pool = new WorkerPool(1, { together: spansPerProcess });
  folder = await mkdtemp(join(tmpdir(), 'shale-pieces-'));
  await mkdir(join(folder, 'in'));
  for (let at = 0; at < count; at += 1) {
    const grey = numbered(at, size.width, size.height);
    const data = Uint8Array.from({ length: grey.length * 3 }, (_, sample) => grey[Math.floor(sample / 3)]!);
    const image = { ...size, channels: 3 as const, sample: 'u8' as const, data };
    await writeStill(join(folder, 'in', `f_${at}.png`), 'png', image, { ...usualSettings, effort: 1 });
  }
  const found = [];
  for await (const { sources } of scanFolders(join(folder, 'in'), pool)) found.push(...sources);
  source = found[0]!;
});
afterAll(async () => {
  await pool.close();
  await rm(folder, { recursive: true, force: true });
});
beforeEach(async () => {
  for (const name of ['whole', 'stopped']) {
    await rm(join(folder, name), { recursive: true, force: true });
    await mkdir(join(folder, name));
  }
});

function planOf(format: CodecId): Plan {
  const spec = parseSpec({
    version: 1,
    write: { format, sample: codecs[format].writes.samples[0], alpha: 'none', transfer: 'bt709' },
    names: { stem: 'g' },
    into: { root: 'out', folder: '' },
    // Where every picture is held against what went in, it takes its time.
    readBack: codecs[format].controls === 'lossless',
    video: { speed: 8, keyDistance: 60 },
  });
  const plan = makePlan('in', source, declare(source, { rate: { num: 24, den: 1 }, transfer: 'bt709' }), spec);
  expect(plan.problems).toEqual([]);
  return plan;
}

const digest = async (path: string) =>
  createHash('sha256')
    .update(await readFile(path))
    .digest('hex');

/** Stops a video's making once so many pictures are done. */
async function stopAfter(plan: Plan, pictures: number): Promise<void> {
  const stop = new AbortController();
  await carryOut({
    plan,
    places: places('stopped'),
    job: 'j',
    pool,
    goesOn: true,
    onWritten: () => undefined,
    onFailed: () => undefined,
    onVideo: ({ done }) => {
      if (done >= pictures) stop.abort();
    },
    signal: stop.signal,
  });
}

const joined = (Object.keys(codecs) as CodecId[]).filter((id) => 'joins' in codecs[id]);

test('every codec of a video but one can be put together of pieces', () => {
  const videos = Object.values(codecs).filter((codec) => !('animation' in codec));
  expect(joined).toHaveLength(videos.length - 1);
});

/** Encodes a video's first pictures in pieces of 20. @returns what is known of them; undefined where it was stopped */
async function inPieces(plan: Plan, to: string, onProgress: (told: VideoProgress) => void, signal?: AbortSignal) {
  const rows = resultsOf(plan, 0, 50);
  const whole = { plan, places: places(to), rows, path: join(folder, to, 'v.part') };
  return encodePieces({ ...whole, folder: join(folder, to, 'pieces'), length: 20 }, onProgress, signal);
}

test.each(joined)('%s goes on after its last whole piece, with the bytes of one run', async (format) => {
  const plan = planOf(format);
  const whole = await inPieces(plan, 'whole', () => undefined);
  const stop = new AbortController();
  const stopped = await inPieces(plan, 'stopped', ({ done }) => done >= 30 && stop.abort(), stop.signal);
  expect(stopped).toBeUndefined();
  expect(await readdir(join(folder, 'stopped'))).toEqual(['pieces']);
  const told: VideoProgress[] = [];
  const made = await inPieces(plan, 'stopped', (progress) => told.push(progress));
  expect(told[0]).toMatchObject({ before: 20, safe: 20, done: 20 });
  expect(told.at(-1)).toMatchObject({ done: 50, safe: 50, of: 50, before: 20 });
  expect(await digest(join(folder, 'stopped', 'v.part'))).toBe(await digest(join(folder, 'whole', 'v.part')));
  expect({ ...made, kept: made!.kept.size }).toEqual({ ...whole, kept: whole!.kept.size });
  expect(made!.files).toHaveLength(50);
  // Pictures are where they belong, over the joints too.
  const reader = await ClipReader.open(join(folder, 'stopped', 'v.part'));
  try {
    expect(reader.count).toBe(50);
    for (let at = 0; at < 50; at += 1) expect(numberIn(await reader.picture(at))).toBe(at);
  } finally {
    await reader.close();
  }
});

test('a job that is stopped leaves its pieces, and the next run ends with the video alone', async () => {
  const plan = planOf('ffv1');
  const whole = await makeVideo({ plan, places: places('whole'), job: 'w' }, () => undefined);
  await stopAfter(plan, 244);
  expect(await readdir(join(folder, 'stopped'))).toEqual(['.shale-j.pieces']);
  const made = await makeVideo({ plan, places: places('stopped'), job: 'j' }, () => undefined);
  expect(await readdir(join(folder, 'stopped'))).toEqual([made!.name]);
  expect({ ...made, modified: 0 }).toEqual({ ...whole, modified: 0 });
  expect(made).toMatchObject({ check: 'identical', video: { frames: count } });
});

test('pictures that are held against what went in are kept with their piece', async () => {
  const plan = planOf('prores422');
  const made = await inPieces({ ...plan, spec: { ...plan.spec, readBack: true } }, 'whole', () => undefined);
  expect([...made!.kept.keys()]).toEqual(Array.from({ length: 50 }, (_, at) => at));
  const maker = new FrameMaker(plan, places('whole'), 'x');
  const { image } = await maker.picture(resultsOf(plan, 37, 38)[0]!);
  await maker.close();
  expect(await made!.kept.get(37)!()).toEqual(image);
});

test.each<[string, (pieces: string) => Promise<unknown>]>([
  ['is cut short', (pieces) => truncate(join(pieces, '0.packets'), 1000)],
  [
    'was made by other libraries',
    async (pieces) => {
      const note = join(pieces, '0.json');
      await writeFile(note, (await readFile(note, 'utf8')).replace(/"versions":"[^"]*"/, '"versions":"others"'));
    },
  ],
])('a piece that %s is encoded again', async (_, spoil) => {
  const plan = planOf('ffv1');
  const whole = await inPieces(plan, 'whole', () => undefined);
  await inPieces(plan, 'stopped', () => undefined);
  await spoil(join(folder, 'stopped', 'pieces'));
  const told: VideoProgress[] = [];
  const made = await inPieces(plan, 'stopped', (progress) => told.push(progress));
  // The second and the third piece are as they were.
  expect(told.at(-1)!.before).toBe(30);
  expect(made!.digests).toEqual(whole!.digests);
});

test('pieces do not stay where a job cannot go on, or will not', async () => {
  const plan = planOf('prores422');
  await stopAfter(plan, 244);
  sweepPieces(join(folder, 'stopped'), '', 'j');
  expect(await readdir(join(folder, 'stopped'))).toEqual([]);
  sweepPieces(join(folder, 'gone'), '', 'j');
});

test('a bitrate is shared out over the whole: such a video is made in one', () => {
  const { spec, rate } = planOf('h264');
  expect(pieceLength('h264', spec.video, rate!)).toBe(240);
  expect(pieceLength('h264', { ...spec.video, keyDistance: 100 }, rate!)).toBe(300);
  expect(pieceLength('h264', { ...spec.video, control: 'bitrate' }, rate!)).toBeNull();
  expect(pieceLength('h264', { ...spec.video, maxBitrate: 900 }, rate!)).toBeNull();
  expect(pieceLength('mpeg2', spec.video, rate!)).toBeNull();
});
