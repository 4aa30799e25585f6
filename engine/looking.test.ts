import { execFileSync } from 'node:child_process';
import { mkdir, mkdtemp, readFile, rm, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  declare,
  makePlan,
  parseSpec,
  samplesAt,
  unpackPiece,
  unpackView,
  viewOf,
  takenAs,
  type Image,
  type Plan,
  type Source,
  type SpecInput,
} from '@shale/core';
import { readStill, usualSettings, writeStill } from '@shale/media';
import { WorkerPool } from './pool.ts';
import { scanFolders } from './scan.ts';

let pool: WorkerPool;
let folder: string;
let source: Source;

const frameOf = (frame: number): Image => ({
  width: 30,
  height: 20,
  channels: 4,
  sample: 'u16',
  data: Uint16Array.from({ length: 30 * 20 * 4 }, (_, at) => (at * 977 + frame * 4001) & 0xffff),
});

beforeAll(async () => {
  pool = new WorkerPool(2);
  folder = await mkdtemp(join(tmpdir(), 'shale-looking-'));
  for (const name of ['in', 'out']) await mkdir(join(folder, name));
  for (const frame of [1, 2, 3])
    await writeStill(join(folder, 'in', `f.${frame}.png`), 'png', frameOf(frame), usualSettings);
  for await (const { sources } of scanFolders(join(folder, 'in'), pool)) [source] = sources as [Source];
});
afterAll(async () => {
  await pool.close();
  await rm(folder, { recursive: true, force: true });
});

const shown = (frame: number) => ({ path: join(folder, 'in', `f.${frame}.png`), clip: false, picture: 0 });
const declaration = () => declare(source, { alpha: 'straight' });
const places = (target = 'out') => ({ source: join(folder, 'in'), target: join(folder, target) });
const planOf = (write: object, more: Partial<SpecInput> = {}): Plan =>
  makePlan(
    'in',
    source,
    declaration(),
    parseSpec({ version: 1, write, into: { root: 'out', folder: 'sub' }, ...more }),
  );

test('a view comes packed, as half or as 32-bit floats, and is what core makes', async () => {
  const want = viewOf(frameOf(2), takenAs(declaration()), 10);
  for (const format of ['half', 'float'] as const) {
    const to = join(folder, `view.${format}`);
    await pool.run('preview', { file: shown(2), declaration: declaration(), width: 10, format, to });
    const view = unpackView(new Uint8Array(await readFile(to)));
    expect([view.width, view.height, view.alpha]).toEqual([10, 7, 'straight']);
    const furthest = Math.max(...view.data.map((value, at) => Math.abs(value - want.data[at]!)));
    expect(furthest).toBeLessThanOrEqual(format === 'float' ? 0 : 1 / 2048);
  }
});

test('a piece has the very samples of the file, and a file that changes is read anew', async () => {
  const box = { left: 28, top: 5, width: 10, height: 4 };
  const piece = unpackPiece(await pool.run('piece', { file: shown(3), box }));
  expect([piece.left, piece.top, piece.image.width, piece.image.height]).toEqual([28, 5, 2, 4]);
  expect(samplesAt(piece.image, 1, 2)).toEqual(samplesAt(frameOf(3), 29, 7));
  await expect(pool.run('piece', { file: shown(3), box: { ...box, left: 30 } })).rejects.toMatchObject({
    code: 'outside-picture',
  });
  const path = shown(3).path;
  await writeStill(`${path}.new.png`, 'png', frameOf(9), usualSettings);
  await writeFile(path, await readFile(`${path}.new.png`));
  await utimes(path, new Date(), new Date(Date.now() + 5000));
  const again = unpackPiece(await pool.run('piece', { file: shown(3), box }));
  expect(samplesAt(again.image, 1, 2)).toEqual(samplesAt(frameOf(9), 29, 7));
});

test('levels are of the whole frame, or of a box that is cut off at the edges', async () => {
  const all = await pool.run('scopes', { file: shown(1) });
  expect(all.box).toEqual({ left: 0, top: 0, width: 30, height: 20 });
  expect(all.channels.map(({ name }) => name)).toEqual(['red', 'green', 'blue', 'alpha']);
  const part = await pool.run('scopes', { file: shown(1), box: { left: 29, top: 19, width: 9, height: 9 } });
  expect(part.box).toEqual({ left: 29, top: 19, width: 1, height: 1 });
  expect(part.channels.map(({ mean }) => mean)).toEqual(samplesAt(frameOf(1), 29, 19));
  await expect(
    pool.run('scopes', { file: shown(1), box: { left: 30, top: 0, width: 1, height: 1 } }),
  ).rejects.toMatchObject({ code: 'outside-picture' });
});

test('a frame compared with itself is the same, with another it is not', async () => {
  const one = (frame: number) => ({ file: shown(frame), declaration: declaration() });
  expect(await pool.run('comparison', { a: one(1), b: one(1) })).toMatchObject({ changed: 0, psnr: null });
  const found = (await pool.run('comparison', { a: one(1), b: one(2) }))!;
  expect(found.changed).toBe(600);
  await writeStill(join(folder, 'small.png'), 'png', { ...frameOf(1), width: 20, height: 30 }, usualSettings);
  const small = { file: { path: join(folder, 'small.png'), clip: false, picture: 0 }, declaration: declaration() };
  expect(await pool.run('comparison', { a: one(1), b: small })).toBeNull();
});

test('a proof is the file that a run would write, and again the same', async () => {
  const plan = planOf({ format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' });
  const made = await pool.run('proof', { plan, places: places(), sourceFrame: 2 });
  expect(made).toMatchObject({ index: 1, sourceFrame: 2, check: 'identical' });
  const path = join(folder, 'out', 'sub', made.name);
  const image = await readStill(path);
  expect([...image.data.slice(0, 8)]).toEqual([...frameOf(2).data.slice(0, 8)].map((code) => Math.round(code / 257)));
  expect((await pool.run('proof', { plan, places: places(), sourceFrame: 2 })).sha256).toBe(made.sha256);
  await expect(pool.run('proof', { plan, places: places(), sourceFrame: 77 })).rejects.toMatchObject({
    code: 'no-such-frame',
  });
});

test('beside the exact result only depth and format are lost, also where the plan crops and resizes', async () => {
  // By area nothing goes beyond the range, so that nothing is clipped either.
  const resize = { to: { by: 'size' as const, width: 15, height: null }, filter: 'area' as const };
  const picture = { crop: { left: 2, top: 2, width: 20, height: 16 }, resize };
  const plan = planOf({ format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' }, { picture });
  expect(plan.problems).toEqual([]);
  const made = await pool.run('proof', { plan, places: places(), sourceFrame: 1 });
  const found = await pool.run('exactness', {
    plan,
    places: places(),
    sourceFrame: 1,
    made: join(folder, 'out', 'sub', made.name),
  });
  expect([found.width, found.height]).toEqual([15, 12]);
  expect(found.most).toBeLessThanOrEqual(0.5 / 255 + 1e-6);
  expect(found.most).toBeGreaterThan(0.3 / 255);
  expect(found.beyondRounding).toBe(0);
  const jpeg = planOf({ format: 'jpeg', sample: 'u8', alpha: 'none', transfer: 'srgb', quality: 30 });
  const rough = await pool.run('proof', { plan: jpeg, places: places(), sourceFrame: 1 });
  const lost = await pool.run('exactness', {
    plan: jpeg,
    places: places(),
    sourceFrame: 1,
    made: join(folder, 'out', 'sub', rough.name),
  });
  expect(lost.beyondRounding).toBeGreaterThan(300);
});

test('a proof on a disk that is full says so, and leaves nothing half', async () => {
  const tiny = join(folder, 'tiny');
  await mkdir(tiny);
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=4k', 'tmpfs', tiny], { stdio: 'ignore' });
  } catch {
    // Without the right to mount there is no small disk to fill.
    return;
  }
  try {
    const plan = planOf({
      format: 'exr',
      sample: 'f32',
      alpha: 'premultiplied',
      transfer: 'linear',
      exrCompression: 'NONE',
    });
    await expect(pool.run('proof', { plan, places: places('tiny'), sourceFrame: 1 })).rejects.toMatchObject({
      code: 'disk-full',
    });
  } finally {
    execFileSync('umount', [tiny]);
  }
});
