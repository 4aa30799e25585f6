import fc from 'fast-check';
import { frameSeconds, makeRate, parseRate, printRate, printSeconds, rateFraction, standardRates } from './rate.ts';
import { printTimecode } from './timecode.ts';

describe('rates', () => {
  test.each([
    ['24', '24'],
    ['24 fps', '24'],
    ['23.976', '24000/1001'],
    ['23.98', '24000/1001'],
    ['29.97', '30000/1001'],
    ['59.94', '60000/1001'],
    ['24000/1001', '24000/1001'],
    ['48/2', '24'],
    ['12.5', '25/2'],
  ])('%s is %s', (text, fraction) => expect(rateFraction(parseRate(text))).toBe(fraction));

  test.each(['0', '0/1', '24/0', '-24', 'fast', '', '1e3', '1001', '24,5'])('refuses "%s"', (text) =>
    expect(() => parseRate(text)).toThrow(expect.objectContaining({ code: 'bad-rate', subject: 'rate' })),
  );

  test('every standard rate is read back from its fraction', () => {
    for (const rate of standardRates) expect(parseRate(rateFraction(rate))).toEqual(rate);
    expect(printRate(makeRate(24_000, 1001))).toBe('23.976 fps');
  });

  test('fractions come in lowest terms and keep their value', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 9999 }), fc.integer({ min: 1, max: 9999 }), (num, den) => {
        const rate = makeRate(num, den);
        expect(BigInt(rate.num) * BigInt(den)).toBe(BigInt(rate.den) * BigInt(num));
      }),
    );
  });

  test('time of a frame', () => {
    expect(frameSeconds(96, { num: 24, den: 1 })).toBe(4);
    expect(frameSeconds(30_000, { num: 30_000, den: 1001 })).toBe(1001);
    expect(printSeconds(83.5)).toBe('1 min 23.50 s');
  });
});

describe('timecode (SMPTE ST 12-1)', () => {
  const ntsc = makeRate(30_000, 1001);
  test.each([
    [0, '00:00:00;00'],
    [1799, '00:00:59;29'],
    [1800, '00:01:00;02'],
    [17_981, '00:09:59;29'],
    [17_982, '00:10:00;00'],
    [107_892, '01:00:00;00'],
    [2_589_407, '23:59:59;29'],
    [2_589_408, '00:00:00;00'],
  ])('drop-frame %i', (frame, text) => expect(printTimecode(frame, ntsc, true)).toBe(text));

  test('drop-frame over 24 hours counts the labels that a clock with the skips gives', () => {
    // The other way round: walk the clock, skip ;00 and ;01 of each minute but the tenth, and count.
    let frame = 0;
    for (let minute = 0; minute < 1440; minute += 1) {
      const skip = minute % 10 === 0 ? 0 : 2;
      for (const label of [skip, 1799]) {
        const at = frame + label - skip;
        const clock = [Math.floor(minute / 60), minute % 60, Math.floor(label / 30)]
          .map((part) => part.toString().padStart(2, '0'))
          .join(':');
        expect(printTimecode(at, ntsc, true)).toBe(`${clock};${(label % 30).toString().padStart(2, '0')}`);
      }
      frame += 1800 - skip;
    }
    expect(frame).toBe(2_589_408);
  });

  test('non-drop', () => {
    expect(printTimecode(86_400, makeRate(24, 1))).toBe('01:00:00:00');
    expect(printTimecode(1800, ntsc)).toBe('00:01:00:00');
    expect(printTimecode(99, makeRate(25, 1), true)).toBe('00:00:03:24');
  });
});
