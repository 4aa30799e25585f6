import fc from 'fast-check';
import { gainTo, planSound, soundConversionSchema, soundFormats, type SoundFormatName } from './conversion.ts';
import type { SoundFacts } from './facts.ts';
import { isKept, keepMix, mixed, mixTo } from './mix.ts';
import { Quantiser } from './quantise.ts';

const facts = (more: Partial<SoundFacts> = {}): SoundFacts => ({
  rate: 48_000,
  channels: 2,
  names: ['Left', 'Right'],
  codec: 'pcm_s24le',
  depth: '24',
  samples: 96_000,
  streams: 1,
  begins: 0,
  loudness: -20,
  range: 3,
  peaks: [0.5, 0.5],
  truePeaks: [0.5, 0.5],
  sounds: { from: 0, to: 96_000 },
  silences: { count: 0, listed: [] },
  clipped: { count: 0, samples: 0, listed: [] },
  damaged: null,
  ...more,
});
const plan = (asked: object = {}, more: Partial<SoundFacts> = {}) =>
  planSound({ name: 'bell.wav', stem: 'bell', facts: facts(more) }, soundConversionSchema.parse(asked));

describe('a mix', () => {
  test('by ITU-R BS.775: what each of six channels gives to two and to one, before it is lowered', () => {
    const [left, right] = mixTo(6, 'stereo')!;
    const lowest = left![0]!;
    expect(left!.map((one) => one / lowest)).toEqual([1, 0, Math.SQRT1_2, 0, Math.SQRT1_2, 0]);
    expect(right!.map((one) => one / lowest)).toEqual([0, 1, Math.SQRT1_2, 0, 0, Math.SQRT1_2]);
    const [one] = mixTo(6, 'mono')!;
    expect(one!.map((part) => part / one![2]!)).toEqual([Math.SQRT1_2, Math.SQRT1_2, 1, 0, 0.5, 0.5]);
    expect(mixTo(2, 'mono')).toEqual([[0.5, 0.5]]);
    expect(mixTo(1, 'stereo')).toEqual([[1], [1]]);
    expect(mixTo(5, 'stereo')).toBeUndefined();
  });

  test('never clips what did not clip', () => {
    for (const channels of [1, 2, 6, 8])
      for (const to of ['mono', 'stereo'] as const)
        for (const row of mixTo(channels, to)!) expect(row.reduce((sum, one) => sum + one, 0)).toBeLessThan(1 + 1e-12);
  });

  test('of every channel as it is changes nothing; another gives each sum', () => {
    const samples = Float64Array.of(0.1, 0.2, -0.3, 0.4);
    expect([...mixed(samples, 2, keepMix(2))]).toEqual([...samples]);
    expect(isKept(keepMix(3))).toBe(true);
    expect([...mixed(samples, 2, [[0.5, 0.5]], 2)]).toEqual([0.1 + 0.2, -0.3 + 0.4]);
    expect([
      ...mixed(samples, 2, [
        [1, 0],
        [1, 0],
        [0, 1],
      ]),
    ]).toEqual([0.1, 0.1, 0.2, -0.3, -0.3, 0.4]);
  });
});

describe('rounding', () => {
  test('whole numbers stay what they are, of 16 and of 24 bits', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -32_768, max: 32_767 })), (codes) => {
        const samples = Float64Array.from(codes, (code) => code / 32_768);
        expect([...new Quantiser(16, false).put(samples)]).toEqual(codes.map((code) => code + 0));
        expect([...new Quantiser(24, false).put(samples)]).toEqual(codes.map((code) => code * 65_536 + 0));
      }),
    );
  });

  test('dither of a triangular density: its mean error is none whatever the sample, its power a quarter of a step squared', () => {
    for (const between of [0, 0.25, 0.5, 0.9]) {
      const quantiser = new Quantiser(16, true);
      const count = 200_000;
      const out = quantiser.put(new Float64Array(count).fill((1000 + between) / 32_768));
      let sum = 0;
      let squares = 0;
      for (const code of out) {
        sum += code - 1000 - between;
        squares += (code - 1000 - between) ** 2;
      }
      expect(Math.abs(sum / count)).toBeLessThan(0.01);
      // Lipshitz and others, 1992: the whole error has a variance of a quarter of a step squared, not depending on the sample.
      expect(squares / count).toBeCloseTo(0.25, 2);
    }
  });

  test('what is beyond full scale is held there and counted', () => {
    const quantiser = new Quantiser(16, false);
    expect([...quantiser.put(Float64Array.of(1, -1, 1.5, -1.5, 0))]).toEqual([32_767, -32_768, 32_767, -32_768, 0]);
    expect(quantiser.clipped).toBe(3);
  });
});

describe('a plan', () => {
  test('keeps every sample where nothing is asked for that changes one', () => {
    for (const asked of [{}, { format: 'flac' }, { depth: '24' }, { depth: 'float' }, { channels: 'split' }])
      expect(plan(asked)).toMatchObject({ exact: true, dithers: false, losses: [] });
    expect(plan().sentence).toBe('All of bell.wav as WAV, 24 bits, 48 kHz; every sample unchanged.');
    expect(plan({ part: { from: 10, to: 20 } }).sentence).toMatch(/^Samples 10 to 19 of bell.wav/);
  });

  test('dithers where bits or levels change, and says what is lost', () => {
    expect(plan({ depth: '16' })).toMatchObject({ dithers: true, losses: ['Samples are rounded to 16 bits.'] });
    expect(plan({ gain: -3 })).toMatchObject({ dithers: true, exact: false, losses: [] });
    expect(plan({ gain: -3, depth: 'float' })).toMatchObject({ dithers: false, exact: false });
    expect(plan({ depth: '16', dither: 'none' }).losses).toHaveLength(2);
    expect(plan({ rate: 44_100 }).losses).toEqual(['Tones above 22.05 kHz are lost: it has fewer samples a second.']);
    expect(plan({}, { depth: '32' }).losses).toEqual(['Samples are rounded to 24 bits.']);
    expect(plan({ format: 'flac' }, { depth: 'float' })).toMatchObject({ depth: '24', dithers: true });
  });

  test('takes the next rate that a format has', () => {
    expect(plan({ format: 'opus' }, { rate: 44_100 }).rate).toBe(48_000);
    expect(plan({ format: 'aac' }, { rate: 44_056 }).rate).toBe(44_100);
    expect(plan({ format: 'aac' }, { rate: 192_000 }).rate).toBe(96_000);
  });

  test.each([
    [{ format: 'flac', depth: 'float' }, {}, 'float'],
    [{ format: 'opus', rate: 44_100 }, {}, '44.1 kHz'],
    [{ channels: 'stereo' }, { channels: 5 }, 'nothing says where'],
    [{ format: 'flac' }, { channels: 12 }, 'holds 8 channels'],
    [{ loudness: -23 }, { loudness: null }, 'too quiet'],
    [{}, { samples: 0 }, 'no samples'],
    [{ part: { from: 96_000, to: 96_001 } }, {}, 'ends before sample 96,000'],
  ])('%j of %j is refused', (asked, more, words) => {
    expect(() => plan(asked, more)).toThrow(
      expect.objectContaining({ code: 'bad-sound', message: expect.stringContaining(words) }),
    );
  });

  test('every format, channel count and wish gives names that differ, a sentence and losses without gaps', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...(Object.keys(soundFormats) as SoundFormatName[])),
        fc.constantFrom(1, 2, 6, 8),
        fc.constantFrom('keep', 'mono', 'stereo', 'split'),
        fc.constantFrom('16', '24', '32', 'float', 'coded'),
        (format, channels, to, depth) => {
          const made = plan({ format, channels: to }, { channels, depth });
          expect(new Set(made.files.map(({ name }) => name)).size).toBe(made.files.length);
          expect(made.files).toHaveLength(to === 'split' ? channels : 1);
          for (const { mix } of made.files) for (const row of mix) expect(row).toHaveLength(channels);
          expect([made.sentence, ...made.losses].join(' ')).not.toMatch(/undefined|NaN|null/);
        },
      ),
    );
  });

  test('a loudness is a gain; the true peak holds it back', () => {
    expect(gainTo({ loudness: -23, peak: -1 }, { loudness: -20, truePeak: 0.5 })).toEqual({ gain: -3, held: false });
    const { gain, held } = gainTo({ loudness: -10, peak: -1 }, { loudness: -20, truePeak: 0.5 });
    expect(held).toBe(true);
    expect(20 * Math.log10(0.5) + gain).toBeCloseTo(-1, 10);
  });
});
