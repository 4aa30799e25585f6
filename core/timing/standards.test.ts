import { gauges, parseFeet, printFeet, type Gauge } from './feet.ts';
import { mulDiv, mulDivNear } from './exact.ts';
import { unweave, unwovenCount, weave, wovenCount } from './pulldown.ts';
import { onLine } from './line.ts';
import { frameSeconds, standardRates, type Rate } from './rate.ts';
import { mayDropFrames, nominalRate, parseTimecode, printTimecode } from './timecode.ts';
import { isLong } from '../testRuns.ts';

const two = Array.from({ length: 120 }, (_, value) => String(value).padStart(2, '0'));

/** Hours whose every label is looked at: those around midnight, noon and an evening; all of them where tests run long. */
const hours = isLong ? Array.from({ length: 24 }, (_, hour) => hour) : [0, 11, 12, 19, 23];

/** Every label of hours of a day as the rule has it: counted on, the first two or four of each minute but the tenth left out (SMPTE ST 12-1, 5.2.2). */
function eachLabel(rate: Rate, drop: boolean, work: (label: string, frame: number) => void): void {
  const nominal = nominalRate(rate);
  // Of six minutes in an hour no label is left out.
  const anHour = nominal * 3600 - (drop ? (nominal / 15) * 54 : 0);
  for (const hour of hours) {
    let count = hour * anHour;
    for (let minute = 0; minute < 60; minute += 1)
      for (let second = 0; second < 60; second += 1)
        for (let frame = 0; frame < nominal; frame += 1) {
          if (drop && second === 0 && minute % 10 !== 0 && frame < nominal / 15) continue;
          work(`${two[hour]}:${two[minute]}:${two[second]}${drop ? ';' : ':'}${two[frame]}`, count);
          count += 1;
        }
    expect(count).toBe((hour + 1) * anHour);
  }
}

test.each([
  [{ num: 30_000, den: 1001 }, true, 2_589_408],
  [{ num: 60_000, den: 1001 }, true, 5_178_816],
])('timecode over 24 hours, every label of its hours both ways: %j, drop-frame %s', (rate, drop, total) => {
  let looked = 0;
  let wrong = 0;
  eachLabel(rate, drop, (label, frame) => {
    if (printTimecode(frame, rate, drop) !== label || parseTimecode(label, rate) !== frame) wrong += 1;
    looked += 1;
  });
  expect([looked, wrong]).toEqual([(total / 24) * hours.length, 0]);
  expect(printTimecode(total, rate, drop)).toBe(printTimecode(0, rate, drop));
});

test('every label that drop-frame skips is refused', () => {
  for (const rate of standardRates.filter(mayDropFrames))
    for (let minute = 0; minute < 60; minute += 1)
      for (let frame = 0; frame < nominalRate(rate) / 15; frame += 1) {
        const label = `05:${String(minute).padStart(2, '0')}:00;0${frame}`;
        if (minute % 10 === 0) expect(parseTimecode(label, rate)).toBeGreaterThan(0);
        else expect(() => parseTimecode(label, rate)).toThrow('skips');
      }
});

test('timecode of every standard rate goes both ways over 24 hours, in steps of seven seconds and a frame', () => {
  for (const rate of standardRates) {
    const day = nominalRate(rate) * 86_400;
    let wrong = 0;
    for (let frame = 0; frame < day; frame += 7 * nominalRate(rate) + 1)
      if (parseTimecode(printTimecode(frame, rate), rate) !== frame) wrong += 1;
    expect(wrong).toBe(0);
  }
});

test('frames of one rate are those of another by big integers, over every pair of standard rates and 24 hours', () => {
  for (const a of standardRates)
    for (const b of standardRates) {
      const day = Math.ceil((86_400 * a.num) / a.den);
      let wrong = 0;
      for (let frame = 0; frame <= day; frame += 10_007) {
        const [num, den] = [b.num * a.den, b.den * a.num];
        const exact = BigInt(frame) * BigInt(b.num) * BigInt(a.den);
        const over = BigInt(b.den) * BigInt(a.num);
        const { whole, rest } = mulDiv(frame, num, den);
        if (BigInt(whole) !== exact / over || BigInt(rest) !== exact % over) wrong += 1;
        if (BigInt(mulDivNear(frame, num, den)) !== (2n * exact + over) / (2n * over)) wrong += 1;
      }
      expect(wrong).toBe(0);
    }
  expect(mulDiv(-7, 1, 2)).toEqual({ whole: -4, rest: 1 });
  expect(mulDiv(Number.MAX_SAFE_INTEGER, 1001, 1000)).toEqual({ whole: 9_016_206_453_995_731, rest: 991 });
});

test('feet and frames go both ways', () => {
  for (const gauge of Object.keys(gauges) as Gauge[])
    for (let frame = 0; frame < 5000; frame += 1) expect(parseFeet(printFeet(frame, gauge), gauge)).toBe(frame);
  expect(printFeet(1440, '35 mm, 4 perforations')).toBe('90+00');
  expect(() => parseFeet('3+16', '35 mm, 4 perforations')).toThrow('frames go from 0 to 15');
  expect(() => parseFeet('-3+1', '16 mm')).toThrow('not a length');
  expect(frameSeconds(30_000, { num: 30_000, den: 1001 })).toBe(1001);
});

const at = ({ top, bottom }: ReturnType<typeof weave>, count: number) =>
  Array.from({ length: count }, (_, k) => [onLine(top, k), onLine(bottom, k)]);

test('3:2 pulldown has the pattern of the practice, in every phase and either order of lines', () => {
  // RP 197: two fields, then three.
  const pattern = [
    [0, 0],
    [1, 1],
    [1, 2],
    [2, 3],
    [3, 3],
  ];
  expect(at(weave(0, 'top'), 5)).toEqual(pattern);
  expect(at(weave(0, 'bottom'), 5)).toEqual(pattern.map(([top, bottom]) => [bottom, top]));
  expect(wovenCount(4, 0)).toBe(5);
  expect(wovenCount(24, 0)).toBe(30);
  for (let phase = 0; phase < 5; phase += 1) {
    const base = pattern[phase]![0]!;
    const turned = Array.from({ length: 20 }, (_, k) => {
      const place = phase + k;
      return pattern[place % 5]!.map((one) => one + 4 * Math.floor(place / 5) - base);
    });
    expect(at(weave(phase, 'top'), 20)).toEqual(turned);
  }
});

test('what is woven comes back whole, in every phase', () => {
  for (const lines of ['top', 'bottom'] as const)
    for (let phase = 0; phase < 5; phase += 1) {
      const pictures = 23;
      const count = wovenCount(pictures, phase);
      const woven = at(weave(phase, lines), count);
      const back = at(unweave(phase, lines), unwovenCount(count, phase));
      const found = back.map(([top, bottom]) => [woven[top!]![0], woven[bottom!]![1]]);
      found.forEach(([top, bottom]) => expect(top).toBe(bottom));
      const first = found[0]![0]!;
      expect(found.map(([top]) => top)).toEqual(found.map((_, k) => first + k));
      // At most the one picture that begins before the first frame is not whole, and none at the end.
      expect(first).toBeLessThanOrEqual(1);
      expect(first + found.length).toBeGreaterThanOrEqual(pictures - 1);
    }
});
