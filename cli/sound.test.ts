import { mkdtemp, readdir, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { keepMix, mixTo } from '@shale/core';
import { outside, shale, type Task } from './testing/outside.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-sounds-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const rate = 48_000;
const count = 30_011;
const sources = {
  'of16.wav': { codec: 'pcm_s16le', format: 's16', channels: 2 },
  'of24.wav': { codec: 'pcm_s24le', format: 's32', channels: 2 },
  'float.wav': { codec: 'pcm_f32le', format: 'flt', channels: 1 },
  'big.aiff': { codec: 'pcm_s16be', format: 's16', channels: 2 },
  'six.flac': { codec: 'flac', format: 's32', channels: 6 },
  'eight.wav': { codec: 'pcm_s16le', format: 's16', channels: 8 },
  'voice.mp3': { codec: 'libmp3lame', format: 'fltp', channels: 2 },
  'voice.m4a': { codec: 'aac', format: 'fltp', channels: 2 },
  'voice.opus': { codec: 'libopus', format: 'flt', channels: 2 },
} as const;
type Name = keyof typeof sources;
const at = (name: string) => join(folder, name);

beforeAll(() => {
  outside(
    Object.entries(sources).map(([name, made]): Task => ({ do: 'make sound', path: at(name), rate, count, ...made })),
  );
});

interface Apart {
  codec: string;
  rate: number;
  channels: number;
  count: number;
  most: number;
  mean: number;
}

/** Writes one, and asks another library what came out. */
async function written(name: Name, options: string[], more: Partial<Task> & { mix?: number[][] } = {}) {
  const out = await mkdtemp(join(folder, 'out-'));
  const said = await shale('sound', at(name), '--out', out, '--json', ...options);
  expect(said).toMatchObject({ code: 0, err: '' });
  const receipt = JSON.parse(said.out);
  const files: string[] = receipt.files.map((file: { name: string }) => join(out, file.name));
  expect((await readdir(out)).sort()).toEqual(receipt.files.map((file: { name: string }) => file.name).sort());
  const { channels } = sources[name];
  const found = outside<Apart>(
    files.map((path, which): Task => {
      const mix = more.mix ?? (files.length > 1 ? [keepMix(channels)[which]!] : keepMix(channels));
      return { do: 'sound apart', path, channels, ...more, mix };
    }),
  );
  return { receipt, found, files };
}

const step = (bits: number) => 2 ** (1 - bits);

describe('every sample as it is, read by another library', () => {
  test.each<[Name, string, string, number]>([
    ['of16.wav', 'wav', 'pcm_s16le', step(16)],
    ['of16.wav', 'flac', 'flac', step(16)],
    ['of24.wav', 'wav', 'pcm_s24le', step(24) * 2],
    ['of24.wav', 'flac', 'flac', step(24) * 2],
    ['float.wav', 'wav', 'pcm_f32le', 1e-7],
    ['big.aiff', 'wav', 'pcm_s16le', step(16)],
    ['six.flac', 'wav', 'pcm_s24le', step(24) * 2],
    ['eight.wav', 'flac', 'flac', step(16)],
  ])('%s as %s', async (name, format, codec, most) => {
    const { receipt, found } = await written(name, ['--format', format]);
    expect(receipt).toMatchObject({ same: true, losses: [], clipped: 0, gain: 0 });
    expect(receipt.sentence).toContain('every sample unchanged');
    const { channels } = sources[name];
    expect(found[0]).toMatchObject({ codec, rate, channels, count });
    expect(found[0]!.most).toBeLessThanOrEqual(most);
  });

  test('coded sounds as WAV of 24 bits: the samples that another decoder gives', async () => {
    for (const name of ['voice.mp3', 'voice.m4a', 'voice.opus'] as const) {
      const { found } = await written(name, []);
      const [theirs] = outside<Apart>([
        { do: 'sound apart', path: at(name), channels: 2, mix: keepMix(2), edge: 3000 },
      ]);
      expect(found[0]).toMatchObject({ codec: 'pcm_s24le', rate, channels: 2 });
      const [ours] = (await written(name, [], { edge: 3000 })).found;
      expect(Math.abs(ours!.most - theirs!.most)).toBeLessThan(1e-3);
    }
  });
});

describe('what is changed', () => {
  test('16 bits with dither: within two steps, not biased; without, within half a step', async () => {
    const { receipt, found } = await written('of24.wav', ['--depth', '16']);
    expect(receipt.losses).toEqual(['Samples are rounded to 16 bits.']);
    expect(found[0]!.most).toBeLessThanOrEqual(1.51 * step(16));
    expect(found[0]!.most).toBeGreaterThan(0.6 * step(16));
    expect(Math.abs(found[0]!.mean)).toBeLessThan(0.02 * step(16));
    const plain = await written('of24.wav', ['--depth', '16', '--dither', 'none']);
    expect(plain.found[0]!.most).toBeLessThanOrEqual(0.51 * step(16));
  });

  test('another rate: the same tones, but for the ends', async () => {
    for (const to of [44_100, 96_000, 32_000]) {
      const { found } = await written('of24.wav', ['--rate', String(to)], { edge: 400 });
      expect(found[0]!.rate).toBe(to);
      expect(Math.abs(found[0]!.count - (count * to) / rate)).toBeLessThanOrEqual(1);
      expect(found[0]!.most).toBeLessThan(2e-4);
    }
  });

  test.each<[Name, 'mono' | 'stereo']>([
    ['of16.wav', 'mono'],
    ['float.wav', 'stereo'],
    ['six.flac', 'stereo'],
    ['six.flac', 'mono'],
    ['eight.wav', 'stereo'],
    ['eight.wav', 'mono'],
  ])('%s to %s, by the standard', async (name, to) => {
    const mix = mixTo(sources[name].channels, to)!;
    const { receipt, found } = await written(name, ['--channels', to, '--depth', '24'], { mix });
    expect(found[0]).toMatchObject({ channels: mix.length, count });
    expect(found[0]!.most).toBeLessThanOrEqual(step(16));
    expect(receipt.clipped).toBe(0);
  });

  test('split: a file for each channel, called for it', async () => {
    const { receipt, found } = await written('six.flac', ['--channels', 'split']);
    const names = ['L', 'R', 'C', 'LFE', 'Ls', 'Rs'].map((one) => `six.${one}.wav`);
    expect(receipt.files.map(({ name }: { name: string }) => name)).toEqual(names);
    for (const one of found) {
      expect(one).toMatchObject({ channels: 1, count });
      expect(one.most).toBeLessThanOrEqual(2 * step(24));
    }
  });

  test('a gain to the sample, and what it clips is counted', async () => {
    const quiet = await written('of24.wav', ['--gain', '-6', '--dither', 'none'], { factor: 10 ** (-6 / 20) });
    expect(quiet.found[0]!.most).toBeLessThanOrEqual(2 * step(24));
    const { receipt } = await written('of16.wav', ['--gain', '12']);
    expect(receipt.clipped).toBeGreaterThan(1000);
    expect(receipt.losses.join()).toMatch(/samples beyond full scale were clipped/);
  });

  test('a loudness is reached, or the true peak keeps it below', async () => {
    const { receipt } = await written('of24.wav', ['--loudness', '-23']);
    expect(receipt.files[0].loudness).toBeCloseTo(-23, 1);
    const held = (await written('of24.wav', ['--loudness', '-5', '--peak', '-4'])).receipt;
    expect(20 * Math.log10(held.files[0].truePeak)).toBeCloseTo(-4, 1);
    expect(held.losses.join()).toMatch(/The true peak keeps it at -\d/);
  });

  test('AAC and Opus: close to it, as long', async () => {
    for (const [format, codec] of [
      ['aac', 'aac'],
      ['opus', 'opus'],
    ] as const) {
      const { receipt, found } = await written('of16.wav', ['--format', format], { edge: 4000 });
      expect(receipt).toMatchObject({ same: null, losses: [expect.stringContaining('192 kbit/s')] });
      expect(found[0]!.codec).toContain(codec);
      expect(Math.abs(found[0]!.count - count)).toBeLessThan(2048);
      expect(receipt.files[0].loudness).toBeCloseTo(
        JSON.parse((await shale('sound', at('of16.wav'), '--json')).out).loudness,
        0,
      );
      expect(found[0]!.most).toBeLessThan(0.05);
    }
  });

  test('a part by its samples', async () => {
    const out = await mkdtemp(join(folder, 'out-'));
    await shale('sound', at('of16.wav'), '--out', out, '--samples', '1000-1999');
    const [whole, part] = await Promise.all([readFile(at('of16.wav')), readFile(join(out, 'of16.wav'))]);
    expect(part.subarray(-4000).equals(whole.subarray(whole.length - (count - 1000) * 4).subarray(0, 4000))).toBe(true);
  });
});

describe('a clip with other sound', () => {
  const clips = {
    'own.mp4': { codec: 'libx264', rate: '24000/1001', own: 'aac', got: 'aac' },
    'none.mov': { codec: 'prores_ks', rate: '25', got: 'pcm_s24le' },
    'inter.mov': { codec: 'libx264', rate: '24', own: 'aac', got: 'pcm_s24le' },
    'open.mkv': { codec: 'libx265', rate: '30', got: 'flac' },
    'web.webm': { codec: 'libvpx-vp9', rate: '24', own: 'libopus', got: 'opus' },
  };
  const frames = 49;
  interface Seen {
    pictures: number;
    seen: string;
    tracks: { codec: string; count: number; first: number }[];
  }
  const seenIn = (path: string) => outside<Seen>([{ do: 'clip sounds', path }])[0]!;

  test.each(Object.entries(clips))('%s: the same pictures, the new sound to their length', async (name, made) => {
    outside([{ do: 'make plain', path: at(name), count: frames, ...made }]);
    const out = await mkdtemp(join(folder, 'under-'));
    const args = ['--under', at(name), '--out', out, '--delay', '1/4', '--json'];
    const said = await shale('sound', at('of24.wav'), at('float.wav'), ...args);
    expect(said).toMatchObject({ code: 0, err: '' });
    const receipt = JSON.parse(said.out);
    expect(receipt).toMatchObject({ name, pictures: frames });
    expect(await readdir(out)).toEqual([name]);
    const [before, after] = [seenIn(at(name)), seenIn(join(out, name))];
    expect(after).toMatchObject({ pictures: frames, seen: before.seen });
    const [num, den = 1] = made.rate.split('/').map(Number) as [number, number?];
    expect(after.tracks).toHaveLength(2);
    for (const { codec, count: samples, first } of after.tracks) {
      expect(codec).toContain(made.got);
      expect(Math.abs(samples - (frames * den * rate) / num)).toBeLessThan(1100);
      // A quarter of a second later than the picture, but for what a coder smears.
      expect(Math.abs(first - rate / 4)).toBeLessThan(400);
    }
  });

  test('is refused in words: a container that is not written, a codec that it does not take, no clip', async () => {
    await writeFile(at('clip.avi'), 'nothing');
    const refused = async (code: string, words: string, clip: string, ...more: string[]) => {
      const said = await shale('sound', at('of16.wav'), '--under', clip, '--out', at('not'), ...more);
      expect(said.code).toBe(2);
      expect(said.err).toContain(`(${code})`);
      expect(said.err).toContain(words);
    };
    await refused('bad-sound', 'MP4, MOV, Matroska and WebM', at('clip.avi'));
    await refused('bad-sound', 'Choose AAC.', at('own.mp4'), '--codec', 'pcm');
    await refused('bad-option', '--delay soon', at('own.mp4'), '--delay', 'soon');
    await refused('file-gone', 'gone.mp4', at('gone.mp4'));
    await writeFile(at('words.mp4'), 'words');
    await refused('damaged-file', 'words.mp4', at('words.mp4'));
    expect(await readdir(at('not')).catch(() => [])).toEqual([]);
  });
});

test('what is refused, in words, leaves nothing', async () => {
  const out = at('refused');
  const refused = async (code: string, name: string, ...options: string[]) => {
    const said = await shale('sound', name, '--out', out, ...options);
    expect(said.code).toBe(2);
    expect(said.err).toContain(`(${code})`);
  };
  await refused('bad-sound', at('float.wav'), '--format', 'flac', '--depth', 'float');
  await refused('bad-sound', at('of16.wav'), '--format', 'opus', '--rate', '44100');
  await refused('bad-sound', at('of16.wav'), '--samples', '99999-100000');
  await refused('bad-option', at('of16.wav'), '--rate', '12');
  await refused('bad-option', at('of16.wav'), '--samples', 'all');
  await refused('file-gone', at('nothing.wav'));
  await writeFile(at('words.wav'), 'words');
  await refused('damaged-file', at('words.wav'));
  await writeFile(at('none.wav'), (await readFile(at('of16.wav'))).subarray(0, 44));
  expect((await shale('sound', at('none.wav'), '--out', out)).code).toBe(2);
  expect(await readdir(out).catch(() => [])).toEqual([]);
  const before = await stat(at('of16.wav'));
  const own = await shale('sound', at('of16.wav'), '--out', folder, '--depth', '24', '--replace');
  expect(own.err).toContain('of16.wav is the source itself');
  expect((await stat(at('of16.wav'))).size).toBe(before.size);
  await shale('sound', at('of16.wav'), '--out', out);
  await refused('output-exists', at('of16.wav'), '--depth', '24');
  expect((await shale('sound', at('of16.wav'), '--out', out, '--depth', '24', '--replace')).code).toBe(0);
  expect((await readdir(out)).sort()).toEqual(['of16.wav']);
});
