import type { PlanRun } from './plan.ts';
import { placesAfterFrames } from './soundPart.ts';

const run = (kind: PlanRun['kind'], from: number, count: number, more: Partial<PlanRun> = {}): PlanRun => ({
  kind,
  from,
  fromStep: 1,
  to: 1,
  toStep: 1,
  count,
  ...more,
});

test.each<[string, PlanRun[], number | undefined]>([
  ['a row', [run('write', 5, 20)], -5],
  ['behind a title', [run('title', 0, 3), run('write', 5, 20)], -2],
  ['a frame that is missing held', [run('write', 1, 36), run('write', 36, 1), run('write', 38, 23)], -1],
  ['a slate for it', [run('write', 1, 36), run('slate', 37, 1), run('write', 38, 23)], -1],
  ['it is left out', [run('write', 1, 36), run('missing', 37, 1), run('write', 38, 23)], undefined],
  ['two ranges', [run('write', 1, 5), run('write', 20, 5)], undefined],
  ['every second one', [run('write', 1, 5, { fromStep: 2 })], undefined],
  ['backwards', [run('write', 20, 5, { fromStep: -1 })], undefined],
  ['another pace', [run('write', 1, 5, { den: 2 })], undefined],
  ['another shot', [run('write', 1, 5), run('write', 6, 5, { shot: 1 })], undefined],
  ['nothing', [run('missing', 1, 5)], undefined],
])('where results lie against their frames: %s', (_name, runs, places) => {
  expect(placesAfterFrames({ runs })).toBe(places);
});
