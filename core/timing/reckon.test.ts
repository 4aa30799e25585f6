import fc from 'fast-check';
import { makeRate, standardRates } from './rate.ts';
import {
  framesIn,
  parseSeconds,
  printExactSeconds,
  rawBytes,
  sameTime,
  secondsOf,
  sequenceBytes,
  sizeOfSource,
  slipAfter,
  timecodeWords,
  timeLeft,
  videoBytes,
} from './reckon.ts';

const ntsc = makeRate(30_000, 1001);
const whole = makeRate(30, 1);

test('thirty frames read as 29.97 slip by 1.8 frames in a minute', () => {
  expect(slipAfter({ num: 60, den: 1 }, ntsc, whole).frames).toBeCloseTo(1.798_201_8, 6);
  expect(slipAfter({ num: 60, den: 1 }, whole, whole).answer).toBe('0 frames, 0 s');
  expect(slipAfter({ num: 3600, den: 1 }, ntsc, whole).formula).toBe('3600 x (30 - 30000/1001)');
});

test('frames, seconds and other rates are exact', () => {
  expect(secondsOf(1, ntsc).answer).toBe('0.033366...');
  expect(secondsOf(30_000, ntsc)).toEqual({ answer: '1001', formula: '30000 x 1001 / 30000' });
  expect(secondsOf(12, makeRate(24, 1)).answer).toBe('0.5');
  expect(framesIn(parseSeconds('1:30'), makeRate(24, 1))).toMatchObject({ frames: 2160, exact: true });
  expect(framesIn({ num: 1, den: 1 }, ntsc)).toMatchObject({ frames: 29, exact: false });
  expect(sameTime(24, makeRate(24, 1), whole)).toMatchObject({ frame: 30, exact: true });
  fc.assert(
    fc.property(
      fc.constantFrom(...standardRates),
      fc.constantFrom(...standardRates),
      fc.integer({ min: 0, max: 10_368_000 }),
      (a, b, frame) => {
        const exact = (BigInt(frame) * BigInt(b.num) * BigInt(a.den)) / (BigInt(b.den) * BigInt(a.num));
        expect(BigInt(sameTime(frame, a, b).frame)).toBe(exact);
        // A frame begins when it begins: as many frames are in the time up to it.
        expect(framesIn(makeRate(frame * a.den || 0, a.num), a).frames).toBe(frame);
      },
    ),
  );
});

test('lengths of time are read as they are written', () => {
  expect(parseSeconds('1:02:03.5')).toEqual({ num: 7447, den: 2 });
  expect(parseSeconds('1001/24000')).toEqual({ num: 1001, den: 24_000 });
  expect(parseSeconds('0,25')).toEqual({ num: 1, den: 4 });
  for (const bad of ['', '-1', '1/0', 'soon', '1:2:3:4', '1e3'])
    expect(() => parseSeconds(bad)).toThrow('not a length of time');
  expect(printExactSeconds(1, 3)).toBe('0.333333...');
  expect(printExactSeconds(1, 8)).toBe('0.125');
  expect(printExactSeconds(1, 1024)).toBe('0.000976...');
});

test('sizes are what the samples take, and what a source’s files really took', () => {
  const hd = { width: 1920, height: 1080, channels: 'RGB' as const, bits: 10 };
  expect(rawBytes(hd)).toMatchObject({ bytes: 8_294_400 });
  expect(rawBytes({ ...hd, channels: 'RGBA', bits: 16 }).bytes).toBe(16_588_800);
  expect(rawBytes({ ...hd, bits: 32 }).formula).toBe('1920 x 1080 x 3 x 4');
  expect(sequenceBytes({ ...hd, bits: 8 }, 100, 40).bytes).toBe(248_832_000);
  const facts = {
    width: 100,
    height: 50,
    format: 'png',
    sample: 'u16' as const,
    channels: ['R', 'G', 'B', 'A'],
    hasAlpha: true,
    more: [],
  };
  expect(sizeOfSource({ facts, coverage: [{ first: 1, last: 10, step: 1 }], bytes: 200_000 })).toEqual({
    size: { width: 100, height: 50, channels: 'RGBA', bits: 16 },
    frames: 10,
    percent: 50,
  });
  expect(videoBytes(8000, { num: 60, den: 1 })).toEqual({
    bytes: 60_000_000,
    answer: '60000000',
    formula: '8000 x 1000 / 8 x 60',
  });
  expect(timeLeft(25, 100, { num: 60, den: 1 }).seconds).toBe(180);
  expect(() => timeLeft(0, 100, { num: 60, den: 1 })).toThrow('Nothing is done');
  expect(() => timeLeft(101, 100, { num: 60, den: 1 })).toThrow('101 are done of 100');
});

test('what timecode does at a rate is said', () => {
  expect(timecodeWords(ntsc)).toContain('skips 2 labels');
  expect(timecodeWords(makeRate(60_000, 1001))).toContain('skips 4 labels');
  expect(timecodeWords(makeRate(24_000, 1001))).toContain('3.6 s behind');
  expect(timecodeWords(makeRate(25, 2))).toContain('no standard');
});
