import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { readSound, scanSound } from './soundReader.ts';
import { writeWave } from './wave.ts';

const demo = process.env.SHALE_DEMO ?? fileURLToPath(new URL('../../.shale/demo/tram_museum', import.meta.url));
const clip = join(demo, 'plates', 'platform_plate.mp4');

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-sound-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** A WAV of 32-bit floats, written byte by byte. @param channels samples of each */
async function wave(name: string, rate: number, channels: readonly Float32Array[]): Promise<string> {
  const count = channels[0]!.length;
  const all = new Float32Array(count * channels.length);
  channels.forEach((samples, channel) => samples.forEach((value, at) => (all[at * channels.length + channel] = value)));
  const bytes = Buffer.concat([Buffer.alloc(44), new Uint8Array(all.buffer)]);
  bytes.write('RIFF', 0, 'latin1');
  bytes.writeUInt32LE(bytes.length - 8, 4);
  bytes.write('WAVEfmt ', 8, 'latin1');
  bytes.writeUInt32LE(16, 16);
  bytes.writeUInt16LE(3, 20);
  bytes.writeUInt16LE(channels.length, 22);
  bytes.writeUInt32LE(rate, 24);
  bytes.writeUInt32LE(rate * channels.length * 4, 28);
  bytes.writeUInt16LE(channels.length * 4, 32);
  bytes.writeUInt16LE(32, 34);
  bytes.write('data', 36, 'latin1');
  bytes.writeUInt32LE(bytes.length - 44, 40);
  const path = join(folder, name);
  await writeFile(path, bytes);
  return path;
}

const level = (decibels: number) => 10 ** (decibels / 20);
const sine = (rate: number, seconds: number, decibels: number, frequency = 1000) =>
  Float32Array.from(
    { length: Math.round(rate * seconds) },
    (_, at) => level(decibels) * Math.sin((2 * Math.PI * frequency * at) / rate),
  );

describe('loudness (EBU Tech 3341, Table 1, the middle of cases 3 and 4 shortened)', () => {
  test.each([
    ['-23', [[20, -23]], -23],
    ['-33', [[20, -33]], -33],
    [
      'gated relatively',
      [
        [10, -36],
        [60, -23],
        [10, -36],
      ],
      -23,
    ],
    [
      'gated absolutely',
      [
        [10, -72],
        [10, -36],
        [60, -23],
        [10, -36],
        [10, -72],
      ],
      -23,
    ],
    [
      'by parts',
      [
        [20, -26],
        [20.1, -20],
        [20, -26],
      ],
      -23,
    ],
  ] as [string, [number, number][], number][])('%s, both channels', async (_name, parts, wanted) => {
    const rate = 48_000;
    const pieces = parts.map(([seconds, decibels]) => sine(rate, seconds, decibels));
    const whole = new Float32Array(pieces.reduce((sum, { length }) => sum + length, 0));
    pieces.reduce((at, piece) => (whole.set(piece, at), at + piece.length), 0);
    const { facts } = await scanSound(await wave('ebu.wav', rate, [whole, whole]), null);
    expect(Math.abs(facts.loudness! - wanted)).toBeLessThanOrEqual(0.1);
    expect(facts).toMatchObject({ rate, channels: 2, samples: whole.length, damaged: null });
  });

  test('what is too quiet has none', async () => {
    const path = await wave('quiet.wav', 48_000, [sine(48_000, 2, -90)]);
    expect((await scanSound(path, null)).facts).toMatchObject({ loudness: null, range: null, sounds: null });
  });
});

test('a sound of no samples, of one, of eight channels', async () => {
  const none = await scanSound(await wave('none.wav', 48_000, [new Float32Array(0)]), null);
  expect(none.facts).toMatchObject({ samples: 0, sounds: null, loudness: null });
  const { facts: one } = await scanSound(await wave('one.wav', 44_100, [Float32Array.of(0.5)]), null);
  expect(one).toMatchObject({ samples: 1, peaks: [0.5], sounds: { from: 0, to: 1 } });
  const eight = Array.from({ length: 8 }, (_, at) => sine(48_000, 1, -6 * (at + 1)));
  const { facts, index, wave: seen } = await scanSound(await wave('eight.wav', 48_000, eight), null);
  expect(facts.channels).toBe(8);
  facts.peaks.forEach((peak, at) => expect(Math.abs(peak - level(-6 * (at + 1)))).toBeLessThan(1e-4));
  expect(seen.channels).toBe(8);
  const some = await readSound(join(folder, 'eight.wav'), null, index, 40_000, 100);
  expect(some.length).toBe(800);
  expect([...some.filter((_, at) => at % 8 === 3)]).toEqual([...eight[3]!.subarray(40_000, 40_100)]);
});

describe('samples from any place are those of a whole decoding', () => {
  const whole = (path: string, count: number) => readSound(path, null, { times: [], samples: [] }, 0, count);
  test('of WAV and of the AAC of a clip, read at 40 places', async () => {
    const plain = join(folder, 'plain.wav');
    await writeWave(plain, { path: clip, from: { num: 0, den: 1 }, length: { num: 9, den: 1 } });
    for (const path of [plain, clip]) {
      const { facts, index } = await scanSound(path, null);
      const all = await whole(path, facts.samples);
      expect(all.length).toBe(facts.samples * facts.channels);
      for (let nth = 0; nth < 20; nth += 1) {
        const from = Math.floor((((nth * 7919) % 97) / 97) * facts.samples);
        const count = Math.min(5000, facts.samples - from);
        const some = await readSound(path, null, index, from, count);
        expect(some.length).toBe(count * facts.channels);
        expect(
          Buffer.compare(
            Buffer.from(some.buffer),
            Buffer.from(all.slice(from * facts.channels, (from + count) * facts.channels).buffer),
          ),
        ).toBe(0);
      }
      expect((await readSound(path, null, index, facts.samples - 10, 100)).length).toBe(10 * facts.channels);
    }
  });

  test('what is heard is what is written: as many samples later, the same ones', async () => {
    const { facts, index } = await scanSound(clip, null);
    const path = join(folder, 'later.wav');
    await writeWave(path, {
      path: clip,
      depth: 'float',
      from: { num: 1, den: 25 },
      later: 7,
      length: { num: 2, den: 1 },
    });
    const { facts: written, index: there } = await scanSound(path, null);
    expect(written.samples).toBe(2 * facts.rate);
    const start = Math.round((1 / 25 - facts.begins) * facts.rate) - 7;
    const heard = await readSound(clip, null, index, start, written.samples);
    const said = await readSound(path, null, there, 0, written.samples);
    expect(Buffer.compare(Buffer.from(heard.buffer), Buffer.from(said.buffer))).toBe(0);
  });
});

test('damaged in the middle: it is told where, and what is whole is read', async () => {
  const bytes = await readFile(clip);
  const path = join(folder, 'damaged.mp4');
  const from = bytes.indexOf('mdat', 0, 'latin1') + Math.floor(bytes.length / 2);
  bytes.fill(0xff, from, from + 40_000);
  await writeFile(path, bytes);
  const { facts } = await scanSound(path, null);
  expect(facts.damaged).not.toBeNull();
  expect(facts.samples).toBeGreaterThan(48_000);
  const { index } = await scanSound(clip, null);
  await expect(readSound(join(folder, 'gone.wav'), null, index, 0, 10)).rejects.toMatchObject({ code: 'damaged-file' });
});
