import type { Source } from '../numbering/source.ts';
import { makePlan } from '../plan/make.ts';
import { sizeOfPlan } from '../plan/pictureProblems.ts';
import { declare } from '../spec/declaration.ts';
import { parseSpec } from '../spec/parse.ts';
import { parseRate } from '../timing/rate.ts';
import { parseBytes } from './bytes.ts';
import { fitsLimit, givenWords, limitOf, modelledLoss, planGiven, stepOf } from './movable.ts';

const source: Source = {
  ...{ kind: 'sequence', folder: 'shots', name: 'f.####.png', irregular: [], doubled: [], findings: [] },
  ...{ pattern: { prefix: 'f.', padding: 4, suffix: '.png' }, coverage: [{ first: 1, last: 60, step: 1 }] },
  ...{ files: 60, bytes: 0, modified: 0, weights: [1] },
  facts: {
    ...{ width: 960, height: 540, format: 'png', sample: 'u8', channels: ['R', 'G', 'B', 'A'], hasAlpha: true },
    ...{ transfer: 'srgb', primaries: 'bt709', more: [] },
  },
};
const declared = declare(source, { rate: parseRate('24'), alpha: 'straight', transfer: 'srgb' });
const planOf = (format: string, video: object = {}, more: object = {}) =>
  makePlan(
    'museum',
    source,
    declared,
    parseSpec({
      ...{ version: 1, write: { format, sample: 'u8', alpha: 'straight', transfer: 'srgb' } },
      ...{ video: { limit: 100_000, ...video }, ...more },
    }),
  );
const nothing = { giveSize: null, giveColours: null, giveQuality: null };

test('nothing given up is the plan as it is; all of it is every floor', () => {
  const plan = planOf('gif');
  expect(planGiven(plan, 0).plan).toEqual(plan);
  const { plan: all, results } = planGiven(plan, 1);
  expect(all.spec.video).toMatchObject({
    colours: 32,
    ditherAmount: plan.spec.video.ditherAmount,
    quality: plan.spec.video.quality,
  });
  expect([sizeOfPlan(all), results.length]).toEqual([{ width: 192, height: 108 }, 60]);
  // What makes the pictures has the same size as what is told.
  expect(all.recipe!.picture.resize).toEqual(all.spec.picture.resize);
  expect(givenWords(plan, 1)).toBe('192 x 108, 32 colours');
  expect(givenWords(plan, 0)).toBe('');
  expect(planGiven(planOf('webpanim'), 1).plan.spec.video.quality).toBe(40);
  expect(planGiven(planOf('webpanim', { lossless: true }), 1).plan.spec.video.quality).toBe(80);
});

test('what weighs more is at its floor sooner; what may not move does not', () => {
  const plan = planOf('gif', { giveSize: { floor: 25 }, giveColours: { floor: 64, weight: 2 } });
  const { plan: half } = planGiven(plan, 0.5);
  expect(half.spec.video.colours).toBe(64);
  // Half way from 100 to 25 per cent by even proportions is 50.
  expect(half.spec.picture.resize!.to).toEqual({ by: 'size', width: 480, height: 270 });
  expect(planGiven(planOf('gif', nothing), 1).plan.spec).toEqual(planOf('gif', nothing).spec);
});

test('a size that was asked for is made smaller by its own filter; a padded picture keeps its size', () => {
  const picture = { resize: { to: { by: 'limit', width: 320, height: 320 }, filter: 'nearest' } };
  expect(planGiven(planOf('gif', {}, { picture }), 1).plan.spec.picture.resize).toMatchObject({
    to: { by: 'size', width: 64, height: 36 },
    filter: 'nearest',
  });
  const padded = planOf('gif', {}, { picture: { pad: { multiple: 1000 } } });
  expect(sizeOfPlan(planGiven(padded, 1).plan)).toEqual({ width: 1000, height: 1000 });
});

test('a lower rate shows what stands there at that time, a shorter one ends sooner', () => {
  const slow = planGiven(planOf('gif', { ...nothing, giveRate: { floor: 12 } }), 1);
  expect(slow.plan.rate).toEqual({ num: 12, den: 1 });
  expect(slow.results).toEqual(Array.from({ length: 30 }, (_, at) => at * 2));
  // Picture k of 10 a second shows what stood at k / 10 seconds of 24.
  const ten = planGiven(planOf('gif', { ...nothing, giveRate: { floor: 10 } }), 1);
  expect(ten.results.slice(0, 6)).toEqual([0, 2, 4, 7, 9, 12]);
  expect([ten.results.length, ten.plan.frames, ten.results.at(-1)]).toEqual([25, 25, 57]);
  const short = planGiven(planOf('gif', { ...nothing, giveLength: { floor: 50 } }), 1);
  expect([short.results.length, short.plan.rate]).toEqual([30, { num: 24, den: 1 }]);
  expect(givenWords(planOf('gif', { ...nothing, giveRate: { floor: 12 } }), 1)).toBe('12 fps, 30 pictures');
});

test('amounts that come to the same are one step; the model grows with what may be given up', () => {
  const colours = planOf('gif', { ...nothing, giveColours: { floor: 250 } });
  expect(stepOf(colours, 0.01)).toBe(stepOf(colours, 0));
  expect(stepOf(colours, 1)).not.toBe(stepOf(colours, 0));
  expect(modelledLoss(planOf('gif'))).toBeGreaterThan(modelledLoss(colours));
  expect(modelledLoss(planOf('gif', nothing))).toBe(0);
});

test('a limit is of an animation: others leave it aside, as they do what was chosen to be given up', () => {
  expect(limitOf(planOf('gif').spec)).toBe(100_000);
  expect([limitOf(planOf('h264').spec), fitsLimit(planOf('h264', { given: 0.5 }).spec)]).toEqual([null, false]);
  expect(fitsLimit(planOf('gif', { limit: null, given: 0.5 }).spec)).toBe(true);
  expect(fitsLimit(planOf('gif', { limit: null }).spec)).toBe(false);
});

test('bytes as people write them', () => {
  for (const [text, bytes] of [
    ['500000', 500_000],
    ['256KB', 256_000],
    ['256 KiB', 262_144],
    ['1.5MB', 1_500_000],
    ['500,000 bytes', 500_000],
    ['2 mib', 2_097_152],
  ] as const)
    expect(parseBytes(text)).toBe(bytes);
  for (const text of ['', 'little', '-5', '0', '1.5.2MB', '3 bits'])
    expect(() => parseBytes(text)).toThrow('is not a number of bytes');
});
