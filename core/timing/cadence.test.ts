import fc from 'fast-check';
import { framesOf } from '../numbering/ranges.ts';
import { CadenceFinder, cadenceWords, type Cadence } from './cadence.ts';
import { onLine } from './line.ts';
import { weave } from './pulldown.ts';

/** The cadence of frames by what each shows: places of something that moves, a noise on top, in the top and the bottom lines. */
function cadenceOf(shown: readonly (readonly [top: number, bottom: number])[], noise = 0): Cadence {
  const finder = new CadenceFinder();
  let seed = 1;
  const random = () => {
    seed = (seed * 48_271) % 2_147_483_647;
    return (seed / 2_147_483_647) * noise;
  };
  shown.forEach(([top, bottom], at) => {
    const before = shown[at - 1];
    if (!before) return finder.add(at, null);
    const [even, odd] = [Math.abs(top - before[0]) * 3 + random(), Math.abs(bottom - before[1]) * 3 + random()];
    finder.add(at, { whole: (even + odd) / 2, even, odd });
  });
  return finder.result();
}
const whole = (numbers: readonly number[], noise = 0) =>
  cadenceOf(
    numbers.map((one) => [one, one] as const),
    noise,
  );
const upTo = (count: number) => Array.from({ length: count }, (_, at) => at);
const fps = (num: number, den = 1) => ({ num, den });

test.each([
  ['On twos', upTo(48).map((at) => Math.floor(at / 2)), fps(24)],
  ['On threes', upTo(48).map((at) => Math.floor(at / 3)), fps(24)],
  ['24 in 30', upTo(100).map((at) => Math.floor((at * 4) / 5)), fps(30)],
  ['23.976 in 29.97', upTo(100).map((at) => Math.floor((at * 4) / 5)), fps(30_000, 1001)],
  ['24 in 25', upTo(200).map((at) => Math.floor((at * 24) / 25)), fps(25)],
  ['25 in 30', upTo(100).map((at) => Math.floor((at * 5) / 6)), fps(30)],
  ['12 in 30', upTo(100).map((at) => Math.floor((at * 2) / 5)), fps(30)],
  ['Every frame is new', upTo(50), fps(24)],
  ['Nothing moves', upTo(50).map(() => 1), fps(24)],
])('%s', (words, shown, rate) => {
  const clean = whole(shown);
  expect(cadenceWords(clean, rate)).toBe(words);
  // A codec's noise changes nothing.
  if (!clean.still) {
    const noisy = whole(shown, 0.2);
    expect(cadenceWords(noisy, rate)).toBe(words);
    expect(noisy.repeats).toEqual(clean.repeats);
  }
});

test('exactly the repeated frames are found, whatever the pattern', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 1, max: 4 }), { minLength: 20, maxLength: 60 }), (holds) => {
      const shown = holds.flatMap((count, at) => new Array<number>(count).fill(at));
      const found = new Set(framesOf(whole(shown).repeats));
      expect(upTo(shown.length).filter((at) => found.has(at))).toEqual(
        upTo(shown.length).filter((at) => at > 0 && shown[at] === shown[at - 1]),
      );
    }),
  );
});

test('a frame that is missing shows as a jump, a cut does not', () => {
  const shown = upTo(40).filter((at) => at !== 17);
  expect(whole(shown).jumps).toEqual([{ first: 17, last: 17, step: 1 }]);
  expect(whole(upTo(40).map((at) => (at < 20 ? at : at + 30))).jumps).toEqual([]);
  expect(cadenceWords(whole(shown), fps(24))).toBe('Every frame is new, and some seem to be missing');
});

test('the phase of pulldown and its lines are told, in every phase', () => {
  for (const lines of ['top', 'bottom'] as const)
    for (let phase = 0; phase < 5; phase += 1) {
      const { top, bottom } = weave(phase, lines);
      const found = cadenceOf(
        upTo(60).map((at) => [onLine(top, at), onLine(bottom, at)] as const),
        0.2,
      );
      expect(found.pulldown).toMatchObject({ phase, lines });
      expect(cadenceWords(found, fps(30))).toBe(`3:2 pulldown, phase ${phase}, ${lines} lines first`);
    }
});

test('behind a gap nothing is compared, and 10,000 frames are told in few numbers', () => {
  const finder = new CadenceFinder();
  upTo(10_000).forEach((at) => finder.add(at * 2, at % 100 === 0 ? null : { whole: 3, even: 3, odd: 3 }));
  const found = finder.result();
  expect(found.apart).toEqual([{ first: 0, last: 19_800, step: 200 }]);
  expect(found.repeats).toEqual([]);
  expect(found.differences.length).toBe(2000);
});
