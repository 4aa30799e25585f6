import fc from 'fast-check';
import { maxCode, numberToHalf, plainLooking, showView, viewOf, type Image, type Taken } from '@shale/core';
import { displayView, gatherQuickly } from './view.ts';

const picture = fc.record({
  width: fc.integer({ min: 1, max: 70 }),
  height: fc.integer({ min: 1, max: 40 }),
  channels: fc.constantFrom(1 as const, 2 as const, 3 as const, 4 as const),
  sample: fc.constantFrom(
    'u8' as const,
    'u10' as const,
    'u12' as const,
    'u16' as const,
    'f16' as const,
    'f32' as const,
  ),
  across: fc.integer({ min: 1, max: 80 }),
  seed: fc.nat(),
});
const taken = fc.record<Taken>({
  alpha: fc.constantFrom('straight', 'premultiplied', 'none', 'on-colour'),
  transfer: fc.constantFrom('linear', 'srgb', 'film-log'),
  primaries: fc.constantFrom('bt709', 'bt2020'),
  matte: fc.constant([0, 0.25, 1]),
});

/** Values of every kind that a file may hold: clear, opaque, out of range, not numbers. */
function drawn({
  width,
  height,
  channels,
  sample,
  seed,
}: typeof picture extends fc.Arbitrary<infer T> ? T : never): Image {
  let state = seed;
  const next = () => (state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) / 2 ** 32;
  const most = maxCode(sample);
  const value = (): number => {
    const chance = next();
    if (chance < 0.2) return 0;
    if (chance < 0.4) return most ?? 1;
    if (most !== undefined) return Math.floor(next() * (most + 1));
    if (chance < 0.45) return chance < 0.42 ? NaN : chance < 0.43 ? Infinity : -Infinity;
    return next() * 3 - 1;
  };
  const samples = Array.from({ length: width * height * channels }, value);
  const stored = sample === 'f16' ? samples.map(numberToHalf) : samples;
  const data =
    sample === 'u8' ? Uint8Array.from(stored) : sample === 'f32' ? Float32Array.from(stored) : Uint16Array.from(stored);
  return { width, height, channels, sample, data };
}

test('a view is gathered to the same bit as core does it, whatever its size, channels, samples and alpha', () => {
  fc.assert(
    fc.property(picture, taken, (wanted, as) => {
      const image = drawn(wanted);
      const [quick, plain] = [viewOf(image, as, wanted.across, gatherQuickly), viewOf(image, as, wanted.across)];
      expect(Buffer.from(quick.data.buffer).equals(Buffer.from(plain.data.buffer))).toBe(true);
      expect(quick.warnings).toEqual(plain.warnings);
      expect([quick.width, quick.height, quick.alpha]).toEqual([plain.width, plain.height, plain.alpha]);
    }),
    { numRuns: 300 },
  );
});

test('a view is displayed with the very codes that core shows', () => {
  fc.assert(
    fc.property(picture, taken, (wanted, as) => {
      const view = viewOf(drawn(wanted), as, wanted.across);
      const { channels, data } = displayView(view);
      const shown = showView(view, plainLooking);
      expect(data).toEqual(Uint8Array.from(shown).filter((_, at) => channels === 4 || at % 4 !== 3));
    }),
  );
});

test('samples that no table has are refused, not read beside it', () => {
  const image: Image = { width: 2, height: 1, channels: 1, sample: 'u10', data: Uint16Array.of(5, 1024) };
  const as: Taken = { alpha: 'none', transfer: 'srgb', primaries: 'bt709', matte: null };
  expect(() => viewOf(image, as, 1, gatherQuickly)).toThrow('do not fit');
});
