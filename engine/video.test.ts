import { execFileSync } from 'node:child_process';
import { copyFile, mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  declare,
  makePlan,
  parseSpec,
  type Failure,
  type Image,
  type Plan,
  type Source,
  type SpecInput,
  type Word,
  type Written,
} from '@shale/core';
import { ClipReader, probeClip, probeSound, readStill, usualSettings, writeStill } from '@shale/media';
import { numberIn, numbered, writeTestClip } from '@shale/media/video/testClips.ts';
import { carryOut } from './carry-out.ts';
import { spansPerProcess, WorkerPool } from './pool.ts';
import { preflight } from './preflight.ts';
import { scanFolders } from './scan.ts';
import type { WrittenSound } from './sound.ts';

const demo = process.env.SHALE_DEMO ?? join(import.meta.dirname, '..', '.shale', 'demo', 'tram_museum');
let pool: WorkerPool;
let folder: string;
beforeAll(() => {
  pool = new WorkerPool(2, { together: spansPerProcess });
});
afterAll(() => pool.close());
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-film-'));
  await mkdir(join(folder, 'in'));
  await mkdir(join(folder, 'out'));
});
afterEach(() => rm(folder, { recursive: true, force: true }));

const [width, height] = [96, 64];

/** A coloured picture that shows its number. */
function frameOf(frame: number, hasAlpha: boolean, sample: 'u8' | 'u16'): Image {
  const grey = numbered(frame, width, height);
  const channels = hasAlpha ? 4 : 3;
  const data = sample === 'u8' ? new Uint8Array(width * height * channels) : new Uint16Array(width * height * channels);
  const scale = sample === 'u8' ? 1 : 257;
  grey.forEach((value, pixel) => {
    data[pixel * channels] = value * scale;
    data[pixel * channels + 1] = (value ^ (pixel & 15)) * scale;
    data[pixel * channels + 2] = (value ^ (pixel & 7)) * scale;
    if (hasAlpha) data[pixel * channels + 3] = ((pixel * 5) % 256) * scale;
  });
  return { width, height, channels, sample, data };
}

async function putFrames(
  frames: readonly number[],
  { hasAlpha = false, sample = 'u8' }: { hasAlpha?: boolean; sample?: 'u8' | 'u16' } = {},
): Promise<void> {
  for (const frame of frames)
    await writeStill(join(folder, 'in', `f_${frame}.png`), 'png', frameOf(frame, hasAlpha, sample), usualSettings);
}
const upTo = (count: number) => Array.from({ length: count }, (_, at) => at + 1);

async function sourceOf(): Promise<Source> {
  for await (const { sources } of scanFolders(join(folder, 'in'), pool))
    for (const source of sources) if (source.kind !== 'sound') return source;
  throw new Error('nothing scanned');
}

async function planOf(
  spec: Partial<SpecInput> & Pick<SpecInput, 'write'>,
  word: Word = { rate: { num: 24, den: 1 } },
  sound?: Source,
): Promise<Plan> {
  const source = await sourceOf();
  const whole = parseSpec({ version: 1, names: { stem: 'g' }, into: { root: 'out', folder: '' }, ...spec });
  return makePlan(
    'in',
    source,
    declare(source, word),
    whole,
    sound ? { sound: { root: join(folder, 'in'), source: sound } } : {},
  );
}

const places = (target = 'out') => ({
  source: join(folder, 'in'),
  target: join(folder, target),
  sound: join(folder, 'in'),
});

async function carry(plan: Plan, target?: string, signal?: AbortSignal) {
  const written: Written[] = [];
  const failed: Failure[] = [];
  let done = 0;
  let sound: WrittenSound | undefined;
  expect(await preflight(plan, places(target), 'j1')).toEqual([]);
  await carryOut({
    plan,
    places: places(target),
    job: 'j1',
    pool,
    onWritten: (one) => written.push(one),
    onFailed: (failure) => failed.push(failure),
    onVideo: (film) => (done = film.done),
    onSound: (one) => (sound = one),
    ...(signal ? { signal } : {}),
  });
  return { written, failed, done, sound };
}

const film = (format: 'h264' | 'ffv1' | 'pngmov' | 'prores4444' | 'vp9' | 'av1' | 'h265', more = {}) => ({
  format,
  sample: 'u8' as const,
  alpha: 'none' as const,
  transfer: 'srgb' as const,
  ...more,
});

async function numbersIn(path: string): Promise<number[]> {
  const reader = await ClipReader.open(path);
  const found = [];
  for (let at = 0; at < reader.count; at += 1) found.push(numberIn(await reader.picture(at)));
  await reader.close();
  return found;
}

describe('frames out of a clip', () => {
  const still = { format: 'png' as const, sample: 'u8' as const, alpha: 'none' as const, transfer: 'bt709' as const };

  test('every picture once, by its number, as the reader gives it; ranges and every third', async () => {
    await writeTestClip(join(folder, 'in', 'c.mp4'), { count: 50, options: { g: '20', bf: '3', crf: '18' } });
    const { written, failed } = await carry(
      await planOf({ write: still, into: { root: 'out', folder: '{stem}_{rate}fps' } }, {}),
    );
    expect([written.length, failed]).toEqual([50, []]);
    expect((await readdir(join(folder, 'out', 'g_25fps'))).length).toBe(50);
    const numbers = await Promise.all(
      written.map(async ({ name, sourceFrame }) => [
        numberIn(await readStill(join(folder, 'out', 'g_25fps', name))),
        sourceFrame,
      ]),
    );
    expect(numbers.filter(([shown, meant]) => shown !== meant)).toEqual([]);
    const reader = await ClipReader.open(join(folder, 'in', 'c.mp4'));
    expect(await readStill(join(folder, 'out', 'g_25fps', 'g.0033.png'))).toEqual(await reader.picture(33));
    await reader.close();
    const some = await planOf(
      { write: still, frames: '3-5,10-40x15', names: { stem: 's', closeUp: true, first: 1 } },
      {},
    );
    expect((await carry(some)).written.map(({ name, sourceFrame }) => [name, sourceFrame]).sort()).toEqual([
      ['s.0001.png', 3],
      ['s.0002.png', 4],
      ['s.0003.png', 5],
      ['s.0004.png', 10],
      ['s.0005.png', 25],
      ['s.0006.png', 40],
    ]);
  });

  test('a rate that varies becomes a constant one by its times: held and dropped as told', async () => {
    // Picture 10 stays for five frames of 25 a second, every second one from 20 on for half a frame.
    const time = (at: number) => (at <= 10 ? at * 40 : at <= 20 ? 160 + at * 40 : 160 + 800 + (at - 20) * 20);
    await writeTestClip(join(folder, 'in', 'v.mkv'), {
      count: 41,
      container: 'matroska',
      time,
      options: { g: '12', bf: '2', crf: '18' },
    });
    const clip = { timing: 'constant-rate' as const, rate: { num: 25, den: 1 } };
    const plan = await planOf({ write: still, clip }, {});
    expect(plan.losses.map(({ code, amount }) => [code, amount])).toEqual(
      expect.arrayContaining([
        ['pictures-doubled', '4'],
        ['pictures-dropped', '10'],
      ]),
    );
    const { written } = await carry(plan);
    const from = written.sort((a, b) => a.frame - b.frame).map(({ sourceFrame }) => sourceFrame);
    expect(from.slice(0, 22)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 10, 10, 10, 10, 11, 12, 13, 14, 15, 16, 17]);
    expect(from.length).toBe(35);
    expect(numberIn(await readStill(join(folder, 'out', written.find(({ frame }) => frame === 13)!.name)))).toBe(10);
  });

  test('of a damaged clip the good part is written, and each picture that is lost is named', async () => {
    const path = join(folder, 'in', 'd.mp4');
    await writeTestClip(path, { count: 60, options: { g: '10', bf: '2', crf: '18' } });
    const bytes = await readFile(path);
    const at = Math.floor(bytes.length * 0.4);
    for (let byte = at; byte < at + 500; byte += 1) bytes[byte] = (byte * 91) & 255;
    await writeFile(path, bytes);
    const { written, failed } = await carry(await planOf({ write: still }, {}));
    expect(written.length + failed.length).toBe(60);
    expect(written.length).toBeGreaterThan(35);
    expect(new Set(failed.map(({ code }) => code))).toEqual(new Set(['damaged-frame']));
    expect(failed.every(({ fact, sourceFrame }) => fact.startsWith(`Picture ${sourceFrame} of d.mp4`))).toBe(true);
    const shown = await Promise.all(
      written.map(
        async ({ name, sourceFrame }) => numberIn(await readStill(join(folder, 'out', name))) === sourceFrame,
      ),
    );
    expect(shown.every(Boolean)).toBe(true);
  });

  test('its sound is taken out beside them, as long as they are, to the sample', async () => {
    await copyFile(join(demo, 'plates', 'platform_plate.mp4'), join(folder, 'in', 'p.mp4'));
    const plan = await planOf({ write: still, frames: '50-74', sound: { beside: true } }, {});
    const { sound } = await carry(plan);
    expect(sound).toMatchObject({ name: 'g.wav' });
    expect((await probeSound(join(folder, 'out', 'g.wav'))).seconds).toEqual({ num: 1, den: 1 });
    expect(await preflight(plan, places(), 'j2')).toMatchObject([{ code: 'output-exists' }]);
  });
});

describe('a video out of frames', () => {
  test.each([
    ['ffv1', 'u8', false],
    ['ffv1', 'u10', true],
    ['ffv1', 'u12', false],
    ['ffv1', 'u16', true],
    ['pngmov', 'u8', true],
    ['pngmov', 'u16', false],
  ] as const)('%s of %s, alpha %s: read back bit for bit, and again from outside', async (format, sample, hasAlpha) => {
    await putFrames(upTo(8), { hasAlpha, sample: 'u16' });
    const write = film(format, { sample, alpha: hasAlpha ? 'straight' : 'none' });
    const { written } = await carry(await planOf({ write }));
    expect(written).toMatchObject([
      { check: 'identical', video: { frames: 8, width, height, rate: { num: 24, den: 1 } } },
    ]);
    const name = written[0]!.name;
    const { facts } = await probeClip(join(folder, 'out', name));
    expect(facts).toMatchObject({ frames: 8, hasAlpha, sample, rate: { num: 24, den: 1 } });
    if (sample !== 'u16') return;
    const reader = await ClipReader.open(join(folder, 'out', name));
    expect((await reader.picture(5)).data).toEqual(frameOf(6, hasAlpha, 'u16').data);
    await reader.close();
  });

  test('lossy ones hold what went in, in order, and their receipt says how near', async () => {
    await putFrames(upTo(30));
    for (const format of ['h264', 'h265', 'vp9', 'av1'] as const) {
      const { written, done } = await carry(
        await planOf({ write: film(format), names: { stem: format }, video: { speed: 6 } }),
      );
      expect(done).toBe(30);
      expect(written[0]!.video!.psnr).toBeGreaterThan(25);
      expect(await numbersIn(join(folder, 'out', written[0]!.name))).toEqual(upTo(30));
    }
  });

  test('two passes reach a bitrate', async () => {
    await putFrames(upTo(48));
    const { written } = await carry(
      await planOf({
        write: film('h264'),
        video: { control: 'bitrate', bitrate: 200, maxBitrate: 400, passes: 2, chroma: '4:4:4' },
      }),
    );
    expect(written[0]!.bytes).toBeGreaterThan(38_000);
    expect(written[0]!.bytes).toBeLessThan(62_000);
    expect(await readdir(join(folder, 'out'))).toEqual(['g.mp4']);
  });

  test.each([
    ['leave-out', [1, 2, 3, 6, 7]],
    ['hold', [1, 2, 3, 3, 3, 6, 7]],
    ['slate', [1, 2, 3, -2, -2, 6, 7]],
  ] as const)('missing frames: %s', async (missing, shown) => {
    await putFrames([1, 2, 3, 6, 7]);
    const { written } = await carry(await planOf({ write: film('ffv1'), missing }));
    const reader = await ClipReader.open(join(folder, 'out', 'g.mkv'));
    const found = [];
    for (let at = 0; at < reader.count; at += 1) {
      const image = await reader.picture(at);
      const isSlate = image.data[1]! > 130 && image.data[1]! < 145;
      found.push(isSlate ? -2 : numberIn(image));
    }
    await reader.close();
    expect([found, written[0]!.video!.frames]).toEqual([shown, shown.length]);
  });

  test('odd sides are explained, and padded or cropped by choice', async () => {
    await writeStill(
      join(folder, 'in', 'f_1.png'),
      'png',
      { ...frameOf(1, false, 'u8'), width: 95, height: 63, data: new Uint8Array(95 * 63 * 3).fill(90) },
      usualSettings,
    );
    const plan = await planOf({ write: film('h264') });
    expect(plan.problems).toMatchObject([{ code: 'odd-size', fact: expect.stringContaining('95 x 63') }]);
    for (const [oddSize, size] of [
      ['pad', [96, 64]],
      ['crop', [94, 62]],
    ] as const) {
      const { written } = await carry(
        await planOf({ write: film('h264'), video: { oddSize, blankEnd: 'write' }, names: { stem: oddSize } }),
      );
      expect([written[0]!.video!.width, written[0]!.video!.height]).toEqual(size);
    }
  });

  test('a sound is laid under: moved, cut or filled to the length of the picture, with timecode', async () => {
    await putFrames(upTo(48));
    await copyFile(join(demo, 'sounds', 'announcement.wav'), join(folder, 'in', 'a.wav'));
    let sound: Source | undefined;
    for await (const { sources } of scanFolders(join(folder, 'in'), pool))
      sound = sources.find(({ kind }) => kind === 'sound');
    for (const format of ['h264', 'prores4444', 'vp9', 'ffv1'] as const) {
      const plan = await planOf(
        {
          write: film(format, { sample: format === 'prores4444' ? 'u10' : 'u8' }),
          names: { stem: format },
          video: { timecode: '10:00:00:12' },
          sound: { from: { root: '', folder: '', name: 'a.wav' }, offset: 12 },
        },
        undefined,
        sound,
      );
      expect(plan.problems).toEqual([]);
      const { written } = await carry(plan);
      const path = join(folder, 'out', written[0]!.name);
      const { facts } = await probeClip(path);
      expect([facts.clip!.sound !== undefined, facts.frames]).toEqual([true, 48]);
      if (format !== 'vp9') expect(facts.timecode).toBe('10:00:00:12');
      const { seconds } = await probeSound(path);
      expect(Math.abs(seconds!.num / seconds!.den - 2)).toBeLessThan(0.05);
    }
  });

  test('a blank end is noticed before anything is written; cut off or written by choice', async () => {
    await putFrames(upTo(6));
    for (const frame of [7, 8])
      await writeStill(
        join(folder, 'in', `f_${frame}.png`),
        'png',
        { ...frameOf(1, false, 'u8'), data: new Uint8Array(width * height * 3) },
        usualSettings,
      );
    const write = film('ffv1');
    await expect(carry(await planOf({ write }))).rejects.toMatchObject({
      code: 'blank-end',
      fact: expect.stringContaining('last 2 frames'),
    });
    expect(await readdir(join(folder, 'out'))).toEqual([]);
    expect((await carry(await planOf({ write, video: { blankEnd: 'cut' } }))).written[0]!.video!.frames).toBe(6);
    await rm(join(folder, 'out', 'g.mkv'));
    expect((await carry(await planOf({ write, video: { blankEnd: 'write' } }))).written[0]!.video!.frames).toBe(8);
  });

  test('what cannot be: no rate, a size the encoder refuses, a frame that is damaged; nothing is left', async () => {
    await putFrames(upTo(3));
    expect((await planOf({ write: film('h264') }, {})).problems).toMatchObject([{ code: 'rate-not-declared' }]);
    const tiny = await planOf({ write: film('h265'), picture: { crop: { left: 0, top: 0, width: 2, height: 2 } } });
    await expect(carry(tiny)).rejects.toMatchObject({
      code: 'encoder-refused',
      fact: expect.stringContaining('2 x 2'),
    });
    const plan = await planOf({ write: film('ffv1') });
    const path = join(folder, 'in', 'f_2.png');
    await writeFile(path, (await readFile(path)).subarray(0, 900));
    await expect(carry(plan)).rejects.toMatchObject({ fact: expect.stringContaining('f_2.png') });
    expect(await readdir(join(folder, 'out'))).toEqual([]);
  });

  test('a disk that fills during the encode: said so, and no half video under any name', async () => {
    await mkdir(join(folder, 'tiny'));
    try {
      execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64k', 'tmpfs', join(folder, 'tiny')], { stdio: 'ignore' });
    } catch {
      return;
    }
    try {
      await putFrames(upTo(40), { sample: 'u16' });
      await expect(carry(await planOf({ write: film('ffv1', { sample: 'u16' }) }), 'tiny')).rejects.toMatchObject({
        code: 'disk-full',
      });
      expect(await readdir(join(folder, 'tiny'))).toEqual([]);
    } finally {
      execFileSync('umount', [join(folder, 'tiny')]);
    }
  });

  test('stopped, nothing of it is left; a process that dies is given a second try', async () => {
    await putFrames(upTo(40));
    const plan = await planOf({ write: film('ffv1') });
    const stop = new AbortController();
    setTimeout(() => stop.abort(), 30);
    expect((await carry(plan, 'out', stop.signal)).written).toEqual([]);
    expect(await readdir(join(folder, 'out'))).toEqual([]);
    setTimeout(() => {
      for (const pid of pool.pids) process.kill(pid, 'SIGKILL');
    }, 60);
    expect((await carry(plan)).written[0]!.video!.frames).toBe(40);
    expect(await readdir(join(folder, 'out'))).toEqual(['g.mkv']);
  });

  test('a trial encodes some of it for real, and proves a picture as it will be seen', async () => {
    await putFrames(upTo(60));
    const plan = await planOf({ write: film('h264') });
    const measured = await pool.run('measure', { plan, places: places(), results: [0, 19, 59] });
    expect(measured.problems).toEqual([]);
    const whole = (await carry(plan)).written[0]!.bytes;
    expect(measured.bytes * 60).toBeGreaterThan(whole * 0.6);
    expect(measured.bytes * 60).toBeLessThan(whole * 1.7);
    const proof = await pool.run('proof', { plan, places: places(), sourceFrame: 30 });
    expect(numberIn(await readStill(join(folder, 'out', proof.name)))).toBe(30);
  });

  test('a clip into another: its sound comes along from where its pictures begin', async () => {
    await copyFile(join(demo, 'plates', 'platform_plate.mp4'), join(folder, 'in', 'p.mp4'));
    const plan = await planOf({ write: film('h264', { transfer: 'bt709' }), frames: '25-74', video: { speed: 8 } }, {});
    const { written } = await carry(plan);
    const { facts } = await probeClip(join(folder, 'out', written[0]!.name));
    expect(facts).toMatchObject({ frames: 50, rate: { num: 25, den: 1 }, seconds: { num: 2, den: 1 } });
    expect(facts.clip!.sound).toMatchObject({ codec: 'aac' });
    expect(written[0]!.video!.sound).toBe(true);
  });
});
