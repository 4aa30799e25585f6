import { PictureCache, Refused, type Source } from './pictureCache.ts';

/** A stand-in for what the browser decodes: Node has no bitmaps. */
const bitmap = (name: string): ImageBitmap & { name: string; closed: boolean } => {
  const one = { name, width: 1000, height: 1000, closed: false, close: () => void (one.closed = true) };
  return one;
};

const settle = () => new Promise((done) => setTimeout(done, 5));

function cacheOf(load: Source<string>['load'], sizeOf = () => 1) {
  let changes = 0;
  const made: ReturnType<typeof bitmap>[] = [];
  const cache = new PictureCache<string>(
    { load, sizeOf },
    (text) => {
      const one = bitmap(text);
      made.push(one);
      return Promise.resolve(one);
    },
    () => void (changes += 1),
  );
  cache.open();
  return { cache, made, changes: () => changes };
}

test('what is wanted is loaded and decoded; a frame is only ever its own picture', async () => {
  const { cache } = cacheOf((key) => Promise.resolve(`frame ${key}`));
  cache.want([5, 6]);
  expect(cache.get(5).state).toBe('loading');
  await settle();
  expect(cache.get(5)).toMatchObject({ state: 'ready', picture: { name: 'frame 5' } });
  expect(cache.get(7).state).toBe('loading');
  expect(cache.hereOf([5, 6, 7])).toBe(2);
});

test('a hundred quick clicks load little: what is no longer wanted is given up', async () => {
  let begun = 0;
  let aborted = 0;
  const { cache } = cacheOf(
    (key, signal) =>
      new Promise((resolve, reject) => {
        begun += 1;
        const timer = setTimeout(() => resolve(`frame ${key}`), 2);
        signal.addEventListener('abort', () => {
          aborted += 1;
          clearTimeout(timer);
          reject(new Error('aborted'));
        });
      }),
  );
  for (let frame = 1; frame <= 100; frame += 1) cache.want([frame]);
  await new Promise((done) => setTimeout(done, 30));
  expect(cache.get(100)).toMatchObject({ state: 'ready', picture: { name: 'frame 100' } });
  // Four at a time are begun before their places are free again.
  expect(begun).toBeLessThan(20);
  expect(aborted).toBe(begun - 1);
});

test('what the server refuses is told in its words and not asked again', async () => {
  let asked = 0;
  const { cache } = cacheOf(() => {
    asked += 1;
    return Promise.reject(new Refused('n_2.png is cut short.', false));
  });
  cache.want([2]);
  await settle();
  cache.want([2]);
  await settle();
  expect(cache.get(2)).toEqual({ state: 'failed', words: 'n_2.png is cut short.' });
  expect(cache.isSettled(2)).toBe(true);
  expect(asked).toBe(1);
});

test('a lost connection is told, asked again, and forgotten once there is an answer', async () => {
  let asked = 0;
  const { cache } = cacheOf((key) => {
    asked += 1;
    return asked === 1 ? Promise.reject(new TypeError('fetch failed')) : Promise.resolve(`frame ${key}`);
  });
  cache.want([3]);
  await settle();
  expect(cache.get(3).state).toBe('lost');
  await new Promise((done) => setTimeout(done, 1100));
  expect(cache.get(3)).toMatchObject({ state: 'ready', picture: { name: 'frame 3' } });
});

test('decoded another way, the old picture stays until the new one is there, and is given back then', async () => {
  const { cache, made } = cacheOf(() => Promise.resolve('plain'));
  cache.want([1]);
  await settle();
  let give: (picture: ImageBitmap) => void = () => undefined;
  cache.decodeBy(() => new Promise((resolve) => (give = resolve)));
  await settle();
  expect(cache.get(1)).toMatchObject({ picture: { name: 'plain' } });
  give(bitmap('brighter'));
  await settle();
  expect(cache.get(1)).toMatchObject({ picture: { name: 'brighter' } });
  expect(made[0]!.closed).toBe(true);
});

test('memory is bounded: the longest unused pictures go, those that are wanted stay', async () => {
  const { cache, made } = cacheOf(
    (key) => Promise.resolve(`frame ${key}`),
    () => 40 * 2 ** 20,
  );
  for (let frame = 1; frame <= 100; frame += 1) {
    cache.want([frame]);
    await settle();
  }
  const open = made.filter(({ closed }) => !closed).length;
  expect(open * 4_000_000).toBeLessThanOrEqual(256 * 2 ** 20);
  expect(open).toBeGreaterThan(50);
  expect(cache.loadedOf(100)).toBe('frame 100');
  expect(cache.loadedOf(1)).toBeUndefined();
});

test('of many large ones that are wanted, only as many are loaded as there is room for', async () => {
  const { cache } = cacheOf(
    (key) => Promise.resolve(`frame ${key}`),
    () => 20 * 2 ** 20,
  );
  const all = Array.from({ length: 240 }, (_, frame) => frame);
  cache.want(all);
  await new Promise((done) => setTimeout(done, 60));
  expect(cache.hereOf(all)).toBeLessThanOrEqual(17);
  expect(cache.hereOf(all.slice(0, 12))).toBe(12);
  cache.want(all.slice(100));
  await new Promise((done) => setTimeout(done, 60));
  expect(cache.hereOf(all.slice(100, 112))).toBe(12);
  expect(cache.hereOf(all)).toBeLessThanOrEqual(17);
});

test('closed, it gives every picture back, and what comes late too', async () => {
  let late: (text: string) => void = () => undefined;
  const { cache, made } = cacheOf((key) =>
    key === 1 ? Promise.resolve('one') : new Promise((resolve) => (late = resolve)),
  );
  cache.want([1, 2]);
  await settle();
  cache.close();
  late('two');
  await settle();
  expect(made.every(({ closed }) => closed)).toBe(true);
});
