import fc from 'fast-check';
import { heardFrom, laneOf, sampleAt } from './lane.ts';
import { SoundMeter } from './meter.ts';
import { packWave, partsOfWave, unpackWave, waveBetween, WaveMaker, waveOfSamples } from './wave.ts';

const sine = (rate: number, seconds: number, frequency: number, level: number, phase = 0) =>
  Float32Array.from(
    { length: rate * seconds },
    (_, at) => level * Math.sin((2 * Math.PI * frequency * at) / rate + phase),
  );

function measured(data: Float32Array, channels = 1, rate = 48_000, piece = 1000) {
  const meter = new SoundMeter(rate, channels);
  for (let at = 0; at < data.length; at += piece * channels) meter.add(data.subarray(at, at + piece * channels));
  return meter.end();
}

describe('a meter', () => {
  test('finds what lies between samples: a quarter of the rate, an eighth of a turn off (EBU Tech 3341, cases 15 and 16)', () => {
    const { peaks, truePeaks } = measured(sine(48_000, 1, 12_000, 0.5, Math.PI / 4));
    expect(peaks[0]).toBeCloseTo(0.5 * Math.SQRT1_2, 5);
    const decibels = 20 * Math.log10(truePeaks[0]!);
    // -6 dB, +0.2 and -0.4 as the standard allows.
    expect(decibels).toBeGreaterThan(-6.42);
    expect(decibels).toBeLessThan(-5.82);
  });

  test('a peak that is left out as too small is none', () => {
    fc.assert(
      fc.property(fc.array(fc.float({ min: -1, max: 1, noNaN: true }), { minLength: 1, maxLength: 80 }), (values) => {
        const data = Float32Array.from(values);
        const { truePeaks } = measured(data);
        // The same, each value worked out: by meters that have seen nothing larger.
        let most = 0;
        for (let to = 1; to <= data.length; to += 1) {
          const one = new SoundMeter(48_000, 1);
          one.add(data.subarray(Math.max(0, to - 12), to));
          most = Math.max(most, one.end().truePeaks[0]!);
        }
        expect(truePeaks[0]!).toBeLessThanOrEqual(most + 1e-9);
        expect(truePeaks[0]!).toBeGreaterThanOrEqual(Math.max(...data.map(Math.abs)) - 1e-7);
      }),
    );
  });

  test('tells where it sounds, where it is silent and where it is clipped, by samples, for pieces of any size', () => {
    const data = new Float32Array(100_000);
    data.fill(0.5, 30_000, 40_000);
    data.fill(1, 35_000, 35_003);
    data.fill(-1, 36_000, 36_002);
    data.fill(0.5, 70_000, 70_001);
    for (const piece of [1, 7, 4096, 100_000]) {
      const found = measured(data, 1, 48_000, piece);
      expect(found.samples).toBe(100_000);
      expect(found.sounds).toEqual({ from: 30_000, to: 70_001 });
      expect(found.silences).toEqual({
        count: 3,
        listed: [
          { from: 0, to: 30_000 },
          { from: 40_000, to: 70_000 },
          { from: 70_001, to: 100_000 },
        ],
      });
      expect(found.clipped).toEqual({ count: 1, samples: 3, listed: [{ from: 35_000, to: 35_003 }] });
    }
  });

  test('what is passed over as ordinary is what looking at every sample gives', () => {
    const levels = fc.constantFrom(0, 0.0005, 0.3, 0.99, 1, -1);
    const segment = fc.tuple(
      levels,
      levels,
      fc.oneof(fc.integer({ min: 1, max: 5 }), fc.integer({ min: 1, max: 9000 })),
    );
    fc.assert(
      fc.property(
        fc.array(segment, { minLength: 1, maxLength: 8 }),
        fc.integer({ min: 1, max: 5000 }),
        (all, piece) => {
          const data = Float32Array.from(
            all.flatMap(([left, right, count]) => Array(count).fill([left, right]).flat()),
          );
          const count = data.length / 2;
          const loud = Array.from({ length: count }, (_, at) =>
            Math.max(Math.abs(data[at * 2]!), Math.abs(data[at * 2 + 1]!)),
          );
          const sounding = loud.flatMap((size, at) => (size >= 0.001 ? [at] : []));
          const [first, last] = [sounding[0], sounding.at(-1)];
          // Half a second of silence at 8 kHz, between what sounds and at both ends.
          const gaps = [-1, ...sounding, count].flatMap((at, index, list) =>
            index > 0 && at - list[index - 1]! - 1 >= 4000 ? [{ from: list[index - 1]! + 1, to: at }] : [],
          );
          const runs = [0, 1].flatMap((channel) => {
            const found = [];
            for (let at = 0, run = 0; at <= count; at += 1) {
              if (at < count && Math.abs(data[at * 2 + channel]!) >= 1) run += 1;
              else {
                if (run >= 3) found.push(run);
                run = 0;
              }
            }
            return found;
          });
          const found = measured(data, 2, 8000, piece);
          expect(found.samples).toBe(count);
          expect(found.sounds).toEqual(first === undefined ? null : { from: first, to: last! + 1 });
          expect(found.silences.listed).toEqual(gaps);
          expect([found.clipped.count, found.clipped.samples]).toEqual([
            runs.length,
            runs.reduce((sum, run) => sum + run, 0),
          ]);
          expect(found.peaks).toEqual(
            [0, 1].map((channel) => Math.max(...data.filter((_, at) => at % 2 === channel).map(Math.abs))),
          );
        },
      ),
      { numRuns: 60 },
    );
  });

  test('nothing at all, and nothing but silence', () => {
    expect(measured(new Float32Array(0))).toMatchObject({ samples: 0, sounds: null, clipped: { count: 0 } });
    expect(measured(new Float32Array(48_000))).toMatchObject({ sounds: null, silences: { count: 1 }, peaks: [0] });
  });
});

describe('a waveform', () => {
  const wavesOf = (data: Float32Array, channels: number, each: number, most?: number) => {
    const maker = new WaveMaker(channels, each, most);
    for (let at = 0; at < data.length; at += 7 * channels) maker.add(data.subarray(at, at + 7 * channels));
    return maker.end();
  };

  test('has each part’s lowest and highest sample, rounded outwards, and its level', () => {
    fc.assert(
      fc.property(
        fc.array(fc.float({ min: -1, max: 1, noNaN: true }), { minLength: 2, maxLength: 300 }),
        fc.integer({ min: 1, max: 3 }),
        fc.integer({ min: 1, max: 40 }),
        (values, channels, each) => {
          const data = Float32Array.from(values.slice(0, Math.floor(values.length / channels) * channels));
          const wave = wavesOf(data, channels, each);
          const frames = data.length / channels;
          expect(partsOfWave(wave)).toBe(Math.ceil(frames / each));
          for (let part = 0; part < partsOfWave(wave); part += 1)
            for (let channel = 0; channel < channels; channel += 1) {
              const own = [...data].filter(
                (_, at) => at % channels === channel && Math.floor(at / channels / each) === part,
              );
              const at = (part * channels + channel) * 3;
              expect(wave.data[at]).toBe(Math.floor(Math.min(...own) * 32_767) + 0);
              expect(wave.data[at + 1]).toBe(Math.ceil(Math.max(...own) * 32_767) + 0);
              const level = Math.sqrt(own.reduce((sum, one) => sum + one * one, 0) / own.length);
              expect(Math.abs(wave.data[at + 2]! - level * 32_767)).toBeLessThanOrEqual(0.51);
            }
        },
      ),
    );
  });

  test('a long one is kept in larger parts, and none of its peaks is lost', () => {
    const data = new Float32Array(100_000);
    data[77_777] = 0.75;
    data[12_345] = -0.5;
    const wave = wavesOf(data, 1, 4, 1024);
    expect(partsOfWave(wave)).toBeLessThan(1024);
    expect(wave.each).toBe(128);
    expect(wave.data[Math.floor(77_777 / 128) * 3 + 1]).toBe(Math.ceil(0.75 * 32_767));
    expect(wave.data[Math.floor(12_345 / 128) * 3]).toBe(Math.floor(-0.5 * 32_767));
  });

  test('a stretch has its peaks in their columns; outside it is level; bytes bring it back', () => {
    const data = new Float32Array(10_000);
    data[5000] = 1;
    const wave = wavesOf(data, 1, 10);
    const seen = unpackWave(packWave(waveBetween(wave, -10_000, 10_000, 20)).buffer);
    expect(seen.channels).toBe(1);
    expect(seen.each).toBe(1000);
    const highest = Array.from({ length: 20 }, (_, column) => seen.data[column * 3 + 1]!);
    expect(highest).toEqual(Array.from({ length: 20 }, (_, column) => (column === 15 ? 32_767 : 0)));
    expect([...waveOfSamples(data.subarray(4990, 5010), 1, 20).data].filter((_, at) => at % 3 === 1)[10]).toBe(32_767);
  });
});

describe('a sound under frames', () => {
  const facts = { rate: 48_000, samples: 480_000, begins: 0 };

  test('begins where a conversion lays it, to the sample', () => {
    const frames = { num: 24_000, den: 1001 };
    const lane = laneOf({ from: { num: -3 * 1001, den: 24_000 }, later: 5 }, facts, frames);
    expect(lane.start).toBe(-Math.round((3 * 1001 * 48_000) / 24_000) - 5);
    expect(sampleAt(lane, 3)).toBe(-5);
  });

  test('ten minutes of rounds at 23.976: no sample too many, none too few', () => {
    const frames = { num: 24_000, den: 1001 };
    const lane = laneOf({ from: { num: 0, den: 1 }, later: 0 }, facts, frames);
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 500 }), fc.nat(499), (count, begin) => {
        const place = begin % count;
        let sum = 0;
        let rounds = 0;
        for (const { from, count: many } of heardFrom(lane, 10, count, place)) {
          expect(from).toBe(sampleAt(lane, rounds === 0 ? 10 + place : 10));
          sum += many;
          rounds += 1;
          if (sum > 600 * lane.rate) break;
        }
        // What has been heard is as long as the frames that have been seen.
        const seen = ((rounds * count - place) * frames.den * lane.rate) / frames.num;
        expect(Math.abs(sum - seen)).toBeLessThanOrEqual(0.5);
      }),
      { numRuns: 20 },
    );
  });
});
