import fc from 'fast-check';
import { curveProblems, curveStretches, frameParts, speedAlong, type RetimeCurve } from './curve.ts';
import { onLine } from './line.ts';

const listed = (curve: RetimeCurve, parts = 1, round: 'near' | 'down' = 'near'): number[] =>
  curveStretches(curve, parts, round).flatMap(({ line, count }) =>
    Array.from({ length: count }, (_, at) => onLine(line, at)),
  );
const curveOf = (keys: [from: number, to: number][], bend: RetimeCurve['bend'] = 'straight', backward = false) => ({
  keys: keys.map(([from, to]) => ({ from, to })),
  bend,
  backward,
});

/** The cubic of a part with big integers throughout, from the formula of the paper, rounded as asked. */
function exactly({ keys }: RetimeCurve, to: number, parts: number, round: 'near' | 'down'): number {
  const at = Math.max(
    0,
    keys.findLastIndex((key) => key.to <= to),
  );
  if (at === keys.length - 1) return keys[at]!.from * parts;
  const d = keys.slice(1).map((key, k) => BigInt(key.from - keys[k]!.from));
  const h = keys.slice(1).map((key, k) => BigInt(key.to - keys[k]!.to));
  const tangent = (k: number): [bigint, bigint] => {
    if (k === 0) return [d[0]!, h[0]!];
    if (k === d.length) return [d[k - 1]!, h[k - 1]!];
    const [d1, d2, h1, h2] = [d[k - 1]!, d[k]!, h[k - 1]!, h[k]!];
    if (d1 * d2 <= 0n) return [0n, 1n];
    const [w1, w2] = [2n * h2 + h1, h2 + 2n * h1];
    // (w1 + w2) / (w1 h1 / d1 + w2 h2 / d2)
    const [num, den] = [(w1 + w2) * d1 * d2, w1 * h1 * d2 + w2 * h2 * d1];
    return den < 0n ? [-num, -den] : [num, den];
  };
  const [[p, q], [r, s]] = [tangent(at), tangent(at + 1)];
  const [D, H, t] = [d[at]!, h[at]!, BigInt(to - keys[at]!.to)];
  // D (3u^2 - 2u^3) + H m0 (u^3 - 2u^2 + u) + H m1 (u^3 - u^2) with u = t / H, over H^3 q s.
  const sum =
    D * (3n * t * t * H - 2n * t * t * t) * q * s +
    H * p * s * (t * t * t - 2n * t * t * H + t * H * H) +
    H * r * q * (t * t * t - t * t * H);
  const den = 2n * H ** 3n * q * s;
  const num = 2n * sum * BigInt(parts) + (round === 'near' ? den / 2n : 0n) + BigInt(keys[at]!.from * parts) * den;
  const cut = num / den;
  return Number(num % den < 0n ? cut - 1n : cut);
}

const keysOf = (least: number) =>
  fc
    .array(fc.tuple(fc.integer({ min: least, max: 300 }), fc.integer({ min: 1, max: 60 })), {
      minLength: 2,
      maxLength: 8,
    })
    .map((steps) => {
      let [from, to] = [1001, 0];
      return steps.map(([more, later], at) => {
        if (at > 0) [from, to] = [from + more, to + later];
        return [from, to] as [number, number];
      });
    });

test('positions on a smooth curve are those of the formula with big integers, to the part of a frame', () => {
  fc.assert(
    fc.property(
      keysOf(-300),
      fc.constantFrom(1, frameParts),
      fc.constantFrom('near' as const, 'down' as const),
      (keys, parts, round) => {
        const curve = curveOf(keys, 'smooth', true);
        const last = keys[keys.length - 1]![1];
        expect(listed(curve, parts, round)).toEqual(
          Array.from({ length: last + 1 }, (_, to) => exactly(curve, to, parts, round)),
        );
      },
    ),
    { numRuns: 200 },
  );
});

test('a curve that does not run backward never does, goes through its keys and never beyond them', () => {
  fc.assert(
    fc.property(keysOf(0), fc.constantFrom('straight' as const, 'smooth' as const), (keys, bend) => {
      const values = listed(curveOf(keys, bend));
      keys.forEach(([from, to]) => expect(values[to]).toBe(from));
      values.slice(1).forEach((value, at) => expect(value).toBeGreaterThanOrEqual(values[at]!));
    }),
  );
});

test('straight parts give the frames that a person would count', () => {
  // Twice as fast, frozen for three, backward.
  expect(
    listed(
      curveOf(
        [
          [10, 0],
          [16, 3],
          [16, 6],
          [13, 9],
        ],
        'straight',
        true,
      ),
    ),
  ).toEqual([10, 12, 14, 16, 16, 16, 16, 15, 14, 13]);
  // Half as fast, a half going up.
  expect(
    listed(
      curveOf([
        [0, 0],
        [3, 6],
      ]),
    ),
  ).toEqual([0, 1, 1, 2, 2, 3, 3]);
  expect(
    listed(
      curveOf([
        [0, 0],
        [3, 6],
      ]),
      1,
      'down',
    ),
  ).toEqual([0, 0, 1, 1, 2, 2, 3]);
  expect(
    listed(
      curveOf([
        [0, 0],
        [3, 6],
      ]),
      frameParts,
    ),
  ).toEqual([0, 512, 1024, 1536, 2048, 2560, 3072]);
});

test('speed is told along it: on straight parts theirs, standing still 0, at the ends and in the middle of a bend', () => {
  const curve = curveOf(
    [
      [0, 0],
      [20, 10],
      [20, 15],
      [10, 20],
    ],
    'straight',
    true,
  );
  expect([0, 9, 12, 17].map(speedAlong(curve))).toEqual([2, 2, 0, -2]);
  expect(speedAlong(curve, { pictures: { num: 24, den: 1 }, results: { num: 12, den: 1 } })(0)).toBe(1);
  const smooth = curveOf(
    [
      [0, 0],
      [10, 10],
      [40, 20],
    ],
    'smooth',
  );
  expect(speedAlong(smooth)(0)).toBe(1);
  // Equal lengths: the harmonic mean of 1 and 3.
  expect(speedAlong(smooth)(10)).toBeCloseTo(1.5, 12);
  expect(speedAlong(smooth)(20)).toBe(3);
});

test('what is wrong with a curve is said by its key', () => {
  const span = { first: 1, last: 50 };
  const codes = (curve: RetimeCurve) => curveProblems(curve, span).map(({ code }) => code);
  expect(codes(curveOf([]))).toEqual(['curve-too-short']);
  expect(codes(curveOf([[1, 0]]))).toEqual(['curve-too-short']);
  expect(
    codes(
      curveOf([
        [1, 0],
        [51, 10],
      ]),
    ),
  ).toEqual(['key-outside']);
  expect(
    codes(
      curveOf([
        [1, 0],
        [9, 0],
      ]),
    ),
  ).toEqual(['key-order']);
  expect(
    codes(
      curveOf([
        [9, 0],
        [1, 5],
      ]),
    ),
  ).toEqual(['runs-backward']);
  expect(
    codes(
      curveOf(
        [
          [9, 0],
          [1, 5],
        ],
        'smooth',
        true,
      ),
    ),
  ).toEqual([]);
  expect(
    codes(
      curveOf([
        [1, 0],
        [2, 10_000_001],
      ]),
    ),
  ).toEqual(['curve-too-long']);
  expect(
    curveProblems(
      curveOf([
        [9, 0],
        [1, 5],
      ]),
      span,
    )[0]!.fact,
  ).toContain('from frame 9 to 1');
});
