import fc from 'fast-check';
import type { Source } from '../numbering/source.ts';
import { declare } from '../spec/declaration.ts';
import { parseSpec } from '../spec/parse.ts';
import type { SpecInput } from '../spec/schema.ts';
import { frameParts } from '../timing/curve.ts';
import { parseRate } from '../timing/rate.ts';
import { changesTime, resultsInTime } from './inTime.ts';
import { makePlan } from './make.ts';
import { resultsOf, rowCount, rowsOf, type PlanRow } from './rows.ts';

const sourceOf = (name: string, coverage: [number, number][]): Source => ({
  ...{ kind: 'sequence', folder: 'shots', name: `${name}.####.png` },
  pattern: { prefix: `${name}.`, padding: 4, suffix: '.png' },
  coverage: coverage.map(([first, last]) => ({ first, last, step: 1 })),
  ...{ irregular: [], doubled: [], files: 1, bytes: 0, modified: 0, weights: [1], findings: [] },
  facts: {
    ...{ width: 64, height: 48, format: 'png', sample: 'u8', channels: ['R', 'G', 'B'], hasAlpha: false },
    ...{ transfer: 'srgb', primaries: 'bt709', more: [] },
  },
});
const depot = sourceOf('depot', [[1, 10]]);
const rails = sourceOf('rails', [
  [101, 104],
  [107, 108],
]);
const taken = (source: Source) => ({ source, declaration: declare(source, { rate: parseRate('24') }), root: 'museum' });
const planned = (source: Source, format: string, more: Partial<SpecInput> = {}, then: Source[] = []) =>
  makePlan(
    'museum',
    source,
    taken(source).declaration,
    parseSpec({
      version: 1,
      write: { format, sample: 'u8', alpha: 'none', transfer: format === 'png' ? 'srgb' : 'bt709' },
      ...more,
      then: then.map(({ folder, name }) => ({ source: { root: 'museum', folder, name } })),
    }),
    { shots: then.map(taken) },
  );
/** What a row of the plan shows most of. */
const most = ({ kind, shot, sourceFrame, mixed }: PlanRow) =>
  kind === 'write'
    ? { shot, frame: mixed && mixed.weight > frameParts / 2 ? mixed.frame : sourceFrame, mixed: mixed !== undefined }
    : undefined;

test('shots behind one another, with the place of each cut', () => {
  const made = planned(depot, 'h264', { frames: '3-5' }, [rails, depot]);
  const inTime = resultsInTime(made);
  expect(inTime.count).toBe(3 + 6 + 10);
  expect(inTime.cuts).toEqual([
    { place: 0, shot: 0 },
    { place: 3, shot: 1 },
    { place: 9, shot: 2 },
  ]);
  expect([0, 3, 7, 9, 18].map(inTime.at)).toEqual([
    { shot: 0, frame: 3, mixed: false },
    { shot: 1, frame: 101, mixed: false },
    { shot: 1, frame: 107, mixed: false },
    { shot: 2, frame: 1, mixed: false },
    { shot: 2, frame: 10, mixed: false },
  ]);
  expect([inTime.at(-1), inTime.at(19)]).toEqual([undefined, undefined]);
  expect(changesTime(made)).toBe(true);
});

test('numbers of missing frames keep their place in files, and have none in a video', () => {
  const files = resultsInTime(planned(rails, 'png'));
  expect(files.coverage).toEqual([
    { first: 0, last: 3, step: 1 },
    { first: 6, last: 7, step: 1 },
  ]);
  expect([files.count, files.at(4)]).toEqual([8, undefined]);
  expect(resultsInTime(planned(rails, 'png', { names: { closeUp: true } })).count).toBe(6);
  expect(resultsInTime(planned(rails, 'h264')).count).toBe(6);
  const slated = resultsInTime(planned(rails, 'h264', { missing: 'slate' }));
  expect([slated.count, slated.at(4), slated.at(6)?.frame]).toEqual([8, undefined, 107]);
});

test('what changes time, and what does not', () => {
  expect(changesTime(planned(depot, 'h264'))).toBe(false);
  expect(changesTime(planned(depot, 'h264', { frames: '3-7' }))).toBe(false);
  // A gap keeps its place among numbered files, and closes in a video.
  expect(changesTime(planned(rails, 'png'))).toBe(false);
  expect(changesTime(planned(rails, 'h264'))).toBe(true);
  expect(changesTime(planned(depot, 'h264', { frames: '1-9x2' }))).toBe(true);
  expect(changesTime(planned(depot, 'h264', { time: { how: 'hold', hold: 2 } }))).toBe(true);
  expect(changesTime(planned(depot, 'h264', { time: { rate: parseRate('12') } }))).toBe(true);
});

test('for any change of time every place shows what the plan writes there', () => {
  const times: fc.Arbitrary<SpecInput['time']> = fc.oneof(
    fc.record({ how: fc.constant('hold' as const), hold: fc.integer({ min: 1, max: 4 }) }),
    fc.record({ stand: fc.integer({ min: 1, max: 4 }) }),
    fc.record({
      how: fc.constant('rate' as const),
      rate: fc.constantFrom('12', '25', '30', '48').map((text) => parseRate(text)),
      between: fc.constantFrom('nearest' as const, 'before' as const, 'blend' as const),
    }),
  );
  fc.assert(
    fc.property(times, fc.constantFrom('png', 'h264'), fc.boolean(), (time, format, follows) => {
      const made = planned(depot, format, { time }, follows ? [rails] : []);
      const inTime = resultsInTime(made);
      const rows = format === 'png' ? rowsOf(made, 0, rowCount(made)) : resultsOf(made, 0, made.frames);
      expect(rows.map((_, place) => inTime.at(place))).toEqual(rows.map(most));
      expect(inTime.count).toBe(rows.length);
    }),
    { numRuns: 60 },
  );
});
