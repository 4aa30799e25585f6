import { mkdir, rm, stat, utimes } from 'node:fs/promises';
import type { Image } from '@shale/core';
import { usualSettings, writeStill } from '@shale/media';
import { routes, type ListedSource, type SearchView } from '@shale/contract';
import { Searches } from './searches.ts';
import { Ground, until } from './testing/ground.ts';
import { Served } from './testing/served.ts';

let ground: Ground;
let served: Served;
let source: ListedSource;

/** Discs that move over a ramp. */
function moving(frame: number): Image {
  const [width, height] = [96, 64];
  const data = new Uint8Array(width * height * 4);
  for (let y = 0, at = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1, at += 4) {
      const inside = (x - 20 - frame * 4) ** 2 + (y - 32) ** 2 < 300;
      data.set(inside ? [220, 180 - y, 40, 255] : [x * 2, y * 3, 90 + ((x * y + frame) % 17), x < 6 ? 0 : 255], at);
    }
  return { width, height, channels: 4, sample: 'u8', data };
}

async function put(frames: readonly number[], seconds = 3600): Promise<void> {
  const then = new Date(Date.now() - seconds * 1000);
  for (const frame of frames) {
    const path = ground.in('shots', 'disc', `disc.${String(frame).padStart(4, '0')}.png`);
    await rm(path, { force: true });
    await writeStill(path, 'png', moving(frame), usualSettings);
    await utimes(path, then, then);
  }
}

const specOf = (video: object, format = 'gif') => ({
  ...{ version: 1, write: { format, sample: 'u8', alpha: 'straight', transfer: 'srgb' } },
  ...{ into: { root: 'out', folder: 'small' }, video },
});
const start = (video: object, format?: string) =>
  served.ask(routes.startSearch, { body: { source: source.id, spec: specOf(video, format) } });

/** A search once it is at work no more. */
async function ended({ id }: SearchView): Promise<SearchView> {
  let view: SearchView | undefined;
  await until(async () => {
    view = await served.ask(routes.getSearch, { params: { search: id } });
    return view.state !== 'searching';
  }, 'the end of a search');
  return view!;
}

beforeAll(async () => {
  ground = await Ground.make();
  await mkdir(ground.in('shots', 'disc'), { recursive: true });
  await put([1, 2, 3, 4, 5, 6, 7, 8, 9, 10]);
  await ground.roots.scan('shots');
  source = await ground.source('shots', 'disc', 'disc.####.png');
  served = await Served.on(ground);
  await served.ask(routes.declareMany, {
    body: { sources: [source.id], set: { rate: { num: 24, den: 1 }, alpha: 'straight', transfer: 'srgb' } },
  });
});
afterAll(async () => {
  await served.close();
  await ground.leave();
});

test('without a limit one try of what is wanted is made, and its file is there', async () => {
  const view = await ended(await start({}));
  expect(view).toMatchObject({ state: 'ended', limit: null, best: 0, cannot: false, problem: null });
  expect(view.tries).toMatchObject([{ given: 0, words: '', width: 96, height: 64, frames: 10 }]);
  const [one] = view.tries;
  expect(one!.ssim).toBeGreaterThan(0.9);
  // What pictures do not take is the header, the palette and the end.
  const sum = one!.frameBytes!.reduce((total, bytes) => total + bytes, 0);
  expect(one!.frameBytes).toHaveLength(10);
  expect(one!.bytes - sum).toBeGreaterThan(0);
  expect(one!.bytes - sum).toBeLessThan(900);
  const file = await served.fetch(routes.tryFile, { params: { search: view.id, try: 0 } });
  expect([file.status, file.headers.get('content-type')]).toEqual([200, 'image/gif']);
  const bytes = Buffer.from(await file.arrayBuffer());
  expect([bytes.toString('latin1', 0, 6), bytes.length]).toEqual(['GIF89a', one!.bytes]);
});

test('within a limit, every try is kept and told; the same search is the same, whatever its names', async () => {
  const free = await ended(await start({}));
  const limit = Math.round(free.tries[0]!.bytes * 0.55);
  const [one, two] = await Promise.all([start({ limit }), start({ limit, given: 0.4, name: 'other.gif' })]);
  expect(one.id).toBe(two.id);
  const view = await ended(one);
  const best = view.tries[view.best!]!;
  expect([view.state, view.limit, best.bytes <= limit, view.tries.length <= 8]).toEqual(['ended', limit, true, true]);
  expect(best.bytes).toBeGreaterThan(0.92 * limit);
  expect(best.words).toMatch(/^\d+ x \d+, \d+ colours$/);
  // One more by hand stands behind the others; the same amount is not made twice.
  const more = await ended(await served.ask(routes.tryOne, { params: { search: view.id }, body: { given: 1 } }));
  expect(more.tries.at(-1)).toMatchObject({ given: 1, words: '19 x 13, 32 colours' });
  expect(more.tries.at(-1)!.ssim).toBeLessThan(view.tries[0]!.ssim);
  expect(
    (await ended(await served.ask(routes.tryOne, { params: { search: view.id }, body: { given: 1 } }))).tries,
  ).toEqual(more.tries);
  // A run with a try chosen makes just that file.
  const job = await served.ask(routes.startJob, {
    body: { source: source.id, spec: specOf({ limit, given: best.given }) },
  });
  await until(
    async () => (await served.ask(routes.getJob, { params: { job: job.id } })).state === 'done',
    'the job of the try',
  );
  const receipt = await served.ask(routes.getReceipt, { params: { job: job.id } });
  expect([receipt.bytes, receipt.video!.tries]).toEqual([
    best.bytes,
    [{ given: best.given, bytes: best.bytes, words: best.words }],
  ]);
});

test('what cannot be is proved; APNG and WebP tell the bytes of their pictures too', async () => {
  const view = await ended(await start({ limit: 100 }));
  expect([view.state, view.cannot, view.best]).toEqual(['ended', true, null]);
  for (const format of ['apng', 'webpanim', 'jxlanim', 'lottie']) {
    const all = await ended(await start({}, format));
    const shown = await served.fetch(routes.tryFile, { params: { search: all.id, try: 0 }, query: { shown: 'yes' } });
    // What no browser shows is shown as WebP.
    const type = { apng: 'image/apng', lottie: 'application/json' }[format] ?? 'image/webp';
    expect([shown.status, shown.headers.get('content-type')?.split(';')[0]]).toEqual([200, type]);
  }
  for (const format of ['apng', 'webpanim']) {
    const { tries } = await ended(await start({}, format));
    const sum = tries[0]!.frameBytes!.reduce((total, bytes) => total + bytes, 0);
    expect([tries[0]!.frameBytes!.length, tries[0]!.bytes - sum < 300]).toEqual([10, true]);
  }
  expect((await ended(await start({}, 'apng'))).tries[0]!.ssim).toBeCloseTo(1, 6);
});

test('a try is handed to the upload desk, which reads it for itself', async () => {
  const { id } = await ended(await start({}));
  const hand = (counter: string) => served.ask(routes.handTry, { params: { search: id, try: 0 }, body: { counter } });
  expect(await hand('sticker')).toEqual({ taken: true, reasons: [] });
  expect((await hand('nowhere')).taken).toBe(false);
  const once = await ended(await start({ plays: 1 }));
  const refused = await served.ask(routes.handTry, {
    params: { search: once.id, try: 0 },
    body: { counter: 'small-sign' },
  });
  expect(refused).toEqual({ taken: false, reasons: ['It plays once, and has to play for ever.'] });
});

test('what is no animation, or may not run, is refused; so is a search that is not there', async () => {
  await expect(start({}, 'h264')).rejects.toThrow('not-an-animation');
  await expect(start({ colours: 1 })).rejects.toThrow('video.colours');
  await expect(served.ask(routes.getSearch, { params: { search: 'none' } })).rejects.toThrow('search-not-found');
  const { id } = await start({});
  expect((await served.fetch(routes.tryFile, { params: { search: id, try: 99 } })).status).toBe(404);
});

test('it stops and goes on, keeping its tries; nobody who asks for it ends it', async () => {
  const searches = new Searches(ground.in('searches-2'), ground.pool, ground.roots, 0);
  await searches.begin();
  const given = { ...source, declaration: source.declaration };
  const declared = (await served.ask(routes.getSource, { params: { source: source.id } })).declaration;
  const plan = ground.planOf({ ...given, declaration: declared }, 'small', specOf({ limit: 3000 }));
  const { id } = searches.start(source, plan);
  await until(() => searches.get(id).state !== 'searching', 'its being given up');
  // The first try was begun before anybody could look.
  expect(searches.get(id).state).toBe('stopped');
  searches.close();

  const slow = await start({ limit: 9000, ditherAmount: 90 });
  const stopped = await served.ask(routes.stopSearch, { params: { search: slow.id } });
  expect(stopped.state).toBe('stopped');
  const before = stopped.tries.length;
  const view = await ended(await served.ask(routes.continueSearch, { params: { search: slow.id } }));
  expect([view.state, view.tries.length >= before]).toEqual(['ended', true]);
});

test('a source that changes during a search is told, and nothing of it is taken', async () => {
  await put([4], 60);
  const later = await ended(await start({ limit: 6000, ditherAmount: 70 }));
  expect(later).toMatchObject({ state: 'failed', problem: { code: 'source-changed' }, tries: [] });
  // Asked for again it is tried again.
  expect((await start({ limit: 6000, ditherAmount: 70 })).state).toBe('searching');
  expect((await stat(ground.in('shots', 'disc', 'disc.0004.png'))).size).toBeGreaterThan(0);
});
