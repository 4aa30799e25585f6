import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  AVCOL_RANGE_JPEG,
  AVCOL_RANGE_MPEG,
  AVCOL_SPC_BT2020_NCL,
  AVCOL_SPC_BT709,
  AVCOL_SPC_SMPTE170M,
} from 'node-av/constants';
import { clipFindings, type Image } from '@shale/core';
import { probeClip } from './clip.ts';
import { ClipReader } from './clipReader.ts';
import { patternOf } from './fields.ts';
import { numberIn, writeTestClip, type TestClip } from './testClips.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-reader-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** Pictures in an order that goes back and forth, over keys and far. */
const order = (count: number): number[] => [
  ...Array.from({ length: 14 }, (_, at) => (at * 37 + 11) % count),
  0,
  count - 1,
  count - 2,
  3,
  4,
  5,
  4,
];

async function numbersOf(path: string, places: readonly number[], threads = 1): Promise<number[]> {
  const reader = await ClipReader.open(path, { threads });
  const found: number[] = [];
  try {
    for (const at of places) found.push(numberIn(await reader.picture(at)));
  } finally {
    await reader.close();
  }
  return found;
}

const cases: [string, string, TestClip][] = [
  [
    'H.264 with B-frames and few keys',
    'b.mp4',
    { count: 90, options: { g: '40', bf: '3', preset: 'medium', crf: '18' } },
  ],
  [
    'open groups, whose first pictures lean on the group before',
    'open.mp4',
    { count: 90, options: { 'x264-params': 'keyint=20:min-keyint=20:open-gop=1:bframes=3:scenecut=0', crf: '18' } },
  ],
  ['one key for all of it', 'one.mp4', { count: 80, options: { g: '1000', crf: '18' } }],
  [
    'keys by slow refresh only',
    'refresh.mp4',
    { count: 60, options: { 'x264-params': 'intra-refresh=1:keyint=20:bframes=0', crf: '14' } },
  ],
  ['Matroska', 'm.mkv', { count: 70, container: 'matroska', options: { g: '30', bf: '2', crf: '18' } }],
  [
    'a stream for broadcast, whose times begin after 1.4 s',
    's.ts',
    { count: 70, container: 'mpegts', options: { g: '25', bf: '3', crf: '18' } },
  ],
  [
    'a container without times',
    'old.avi',
    { count: 60, container: 'avi', encoder: 'mpeg4', options: { g: '12', 'q:v': '2', b: '4000000' } },
  ],
  [
    'VP9, with pictures that are not shown',
    'v.webm',
    { count: 60, container: 'webm', encoder: 'libvpx-vp9', options: { g: '25', 'cpu-used': '6', crf: '10', b: '0' } },
  ],
  [
    'H.265',
    'h.mp4',
    { count: 60, encoder: 'libx265', options: { 'x265-params': 'keyint=20:log-level=none', crf: '14' } },
  ],
  [
    'times that do not begin at 0',
    'late.mkv',
    { count: 50, container: 'matroska', time: (at) => 5000 + at * 40, options: { g: '20', bf: '2', crf: '18' } },
  ],
];

test.each(cases)('picture n is the n-th one shown: %s', async (_, name, clip) => {
  const path = join(folder, name);
  await writeTestClip(path, clip);
  const { facts } = await probeClip(path);
  expect(facts).toMatchObject({ frames: clip.count, rate: { num: 25, den: 1 }, clip: { variable: false } });
  const places = order(clip.count);
  expect(await numbersOf(path, places)).toEqual(places);
  const all = Array.from({ length: clip.count }, (__, at) => at);
  expect(await numbersOf(path, all, 2)).toEqual(all);
});

test('an edit list that leaves pictures out at the beginning: what is left is counted from 0', async () => {
  const path = join(folder, 'edit.mp4');
  // Times that begin below 0 are cut off by the edit list that the muxer writes.
  await writeTestClip(path, {
    count: 60,
    time: (at) => (at - 10) * 40,
    options: { g: '30', bf: '0', crf: '18' },
    muxer: { avoid_negative_ts: 'disabled' },
  });
  const { facts } = await probeClip(path);
  expect(facts.frames).toBe(50);
  expect(facts.clip!.leftOut).toBe(10);
  expect(await numbersOf(path, [0, 1, 49, 20])).toEqual([10, 11, 59, 30]);
});

test('a rate that varies is told with how long each picture stays', async () => {
  const path = join(folder, 'vary.mkv');
  const time = (at: number) => at * 40 + (at > 20 ? 500 : 0);
  await writeTestClip(path, { count: 40, container: 'matroska', time, options: { g: '15', bf: '2', crf: '18' } });
  const { facts } = await probeClip(path);
  expect(facts.clip).toMatchObject({ variable: true });
  expect(facts.clip!.runs!.slice(0, 2)).toEqual([
    [20, 40],
    [1, 540],
  ]);
  expect(await numbersOf(path, [0, 20, 21, 39, 5])).toEqual([0, 20, 21, 39, 5]);
});

test.each([90, 180, 270] as const)('a clip that is to be turned by %d degrees comes upright', async (turn) => {
  const path = join(folder, `turn${turn}.mov`);
  await writeTestClip(path, { count: 3, turn, container: 'mov', options: { crf: '10' } });
  const { facts } = await probeClip(path);
  expect(facts.clip!.turn).toBe(turn);
  expect([facts.width, facts.height]).toEqual(turn === 180 ? [192, 96] : [96, 192]);
  const reader = await ClipReader.open(path);
  const image = await reader.picture(2);
  await reader.close();
  expect([image.width, image.height]).toEqual([facts.width, facts.height]);
  // The number is written along the stored upper edge; bit 1 of 2 is the second block from its left.
  const at = (x: number, y: number) => image.data[(y * image.width + x) * image.channels]!;
  const white = { 90: at(72, 24), 180: at(167, 72), 270: at(24, 167) }[turn];
  expect(white).toBeGreaterThan(200);
});

describe('colour', () => {
  /** Flat colours of luma and two differences, a band each. */
  const bands = [
    [16, 128, 128],
    [235, 128, 128],
    [126, 128, 128],
    [63, 102, 240],
    [173, 42, 26],
    [120, 200, 90],
  ] as const;
  const picture = (_: number, width: number, height: number): Buffer => {
    const bytes = Buffer.alloc(width * height * 3);
    for (let plane = 0; plane < 3; plane += 1)
      for (let y = 0; y < height; y += 1)
        for (let x = 0; x < width; x += 1)
          bytes[plane * width * height + y * width + x] = bands[Math.floor((y * bands.length) / height)]![plane]!;
    return bytes;
  };
  const clip: TestClip = { count: 1, pixels: 'yuv444p', coded: 'yuv444p', picture, options: { qp: '0' } };
  /** ITU-R BT.709-6 3.2, BT.601-7 2.5.1, BT.2020-2 table 4: weights of red and blue. */
  const weights = { bt709: [0.2126, 0.0722], bt601: [0.299, 0.114], bt2020: [0.2627, 0.0593] } as const;

  test.each([
    ['bt709', AVCOL_SPC_BT709, 'limited'],
    ['bt601', AVCOL_SPC_SMPTE170M, 'limited'],
    ['bt2020', AVCOL_SPC_BT2020_NCL, 'limited'],
    ['bt709', AVCOL_SPC_BT709, 'full'],
    ['bt601', AVCOL_SPC_SMPTE170M, 'full'],
  ] as const)('%s of %s range %s: RGB by the standard’s formula, rounded', async (matrix, space, range) => {
    const path = join(folder, `${matrix}-${range}.mp4`);
    await writeTestClip(path, {
      ...clip,
      set: (context) => {
        context.colorSpace = space;
        context.colorRange = range === 'full' ? AVCOL_RANGE_JPEG : AVCOL_RANGE_MPEG;
      },
    });
    const { facts } = await probeClip(path);
    expect(facts.clip).toMatchObject({ matrix: { value: matrix, said: true }, range: { value: range, said: true } });
    const reader = await ClipReader.open(path);
    const image = await reader.picture(0);
    await reader.close();
    const [kr, kb] = weights[matrix];
    const rgb = bands.map(([y, u, v]) => {
      const luma = range === 'full' ? y / 255 : (y - 16) / 219;
      const [b, r] = [u, v].map((c) => (range === 'full' ? (c - 128) / 255 : (c - 128) / 224)) as [number, number];
      const red = luma + 2 * (1 - kr) * r;
      const blue = luma + 2 * (1 - kb) * b;
      const green = (luma - kr * red - kb * blue) / (1 - kr - kb);
      return [red, green, blue].map((value) => Math.round(Math.min(1, Math.max(0, value)) * 255));
    });
    const found = bands.map((_, band) => {
      const at = (Math.floor(((band + 0.5) * image.height) / bands.length) * image.width + 50) * image.channels;
      return [...image.data.subarray(at, at + 3)];
    });
    const most = Math.max(
      ...found.flatMap((colour, band) => colour.map((value, c) => Math.abs(value - rgb[band]![c]!))),
    );
    expect(most).toBeLessThanOrEqual(1);
    // In greys nothing is to be rounded twice.
    expect(found.slice(0, 3)).toEqual(rgb.slice(0, 3));
  });

  test('what the file does not say is taken by its size, and told as not said', async () => {
    const path = join(folder, 'unsaid.mp4');
    await writeTestClip(path, { ...clip });
    const { facts } = await probeClip(path);
    expect(facts.clip).toMatchObject({
      matrix: { value: 'bt601', said: false },
      range: { value: 'limited', said: false },
    });
  });
});

describe('fields', () => {
  const moving = (at: number, width: number, height: number): Buffer => {
    const bytes = Buffer.alloc(width * height);
    for (let y = 0; y < height; y += 1)
      for (let x = 0; x < width; x += 1)
        bytes[y * width + x] = 128 + 100 * Math.sin((x + at * 9) / 11) * Math.cos((y + at * 5) / 17);
    return bytes;
  };
  const difference = (image: Image, at: number): number => {
    const wanted = moving(at, image.width, image.height);
    let sum = 0;
    for (let pixel = 0; pixel < wanted.length; pixel += 1)
      sum += Math.abs((image.data[pixel * image.channels]! * 219) / 255 + 16 - ((wanted[pixel]! * 219) / 255 + 16));
    return sum / wanted.length;
  };
  const pulled: TestClip = {
    count: 60,
    picture: moving,
    filters: [['telecine', 'first_field=top:pattern=23']],
    options: { crf: '4', preset: 'fast', 'x264-params': 'tff=1' },
  };

  test('film spread over five pictures is recognised, and its four come back whatever is asked for first', async () => {
    const path = join(folder, 'pulled.mp4');
    await writeTestClip(path, pulled);
    const { facts } = await probeClip(path);
    expect(facts.clip!.seen).toBe('pulldown');
    expect(facts.frames).toBe(75);
    const reader = await ClipReader.open(path, { fields: 'remove-pulldown' });
    expect(reader.count).toBe(60);
    const found: number[] = [];
    for (const at of [40, 41, 42, 43, 12, 13, 14, 15, 30, 0]) found.push(difference(await reader.picture(at), at));
    await reader.close();
    expect(Math.max(...found)).toBeLessThan(3);
  });

  test('interlaced pictures are recognised; de-interlaced they come one or two a stored one', async () => {
    const path = join(folder, 'laced.mp4');
    await writeTestClip(path, {
      count: 80,
      picture: moving,
      filters: [['tinterlace', 'mode=interleave_top']],
      options: { crf: '4', preset: 'fast', 'x264-params': 'tff=1' },
    });
    const { facts } = await probeClip(path);
    expect(facts).toMatchObject({ frames: 40, clip: { seen: 'interlaced', fields: 'top-first' } });
    const each = await ClipReader.open(path, { fields: 'each-field' });
    expect(each.count).toBe(80);
    const found: number[] = [];
    for (const at of [30, 31, 50, 11, 79]) found.push(difference(await each.picture(at), at));
    await each.close();
    expect(Math.max(...found)).toBeLessThan(6);
    const one = await ClipReader.open(path, { fields: 'deinterlace' });
    expect([one.count, difference(await one.picture(20), 40) < 6]).toEqual([40, true]);
    await one.close();
  });

  test.each([
    ['pulldown', 'ttttp', 'nntnb'],
    ['pulldown', 'ppttp', 'bnntn'],
    ['interlaced', 'ttttt', 'nnnnn'],
    ['progressive', 'ppppp', 'nnnnn'],
    ['progressive', 'ppppp', 'ntnnn'],
    [undefined, 'uuuuu', 'nnnnn'],
  ] as const)('%s is what %s with repeats of %s again and again means', (meant, kinds, repeated) => {
    const words = { p: 'progressive', t: 'tff', u: 'undetermined' };
    const fields = { n: 'neither', t: 'top', b: 'bottom' };
    const seen = Array.from({ length: 45 }, (_, at) => ({
      fields: words[kinds[at % 5] as 'p'],
      repeats: fields[repeated[at % 5] as 'n'],
    }));
    expect(patternOf(seen)).toBe(meant);
  });
});

describe('damage', () => {
  const path = () => join(folder, 'whole.mkv');
  const options = { g: '10', bf: '2', crf: '18' };
  beforeAll(() => writeTestClip(path(), { count: 60, container: 'matroska', options }));

  test('a clip that is cut short gives what is whole, and says so', async () => {
    const bytes = await readFile(path());
    const cut = join(folder, 'cut.mkv');
    await writeFile(cut, bytes.subarray(0, Math.floor(bytes.length / 2)));
    const { facts } = await probeClip(cut);
    expect(facts.frames).toBeGreaterThan(15);
    expect(facts.frames).toBeLessThan(45);
    expect(facts.clip!.cut).toBeGreaterThan(0);
    const last = facts.frames! - 1;
    expect(await numbersOf(cut, [0, last, 7])).toEqual([0, last, 7]);
    expect(clipFindings(facts).map(({ code }) => code)).toEqual(['cut-short']);
  });

  test('where a piece of the file is lost, what is missing between is told', async () => {
    const bytes = Buffer.from(await readFile(path()));
    const holed = join(folder, 'holed.mkv');
    const at = Math.floor(bytes.length * 0.45);
    for (let byte = at; byte < at + 700; byte += 1) bytes[byte] = (byte * 91) & 255;
    await writeFile(holed, bytes);
    const { facts } = await probeClip(holed);
    expect(facts.frames).toBeLessThan(60);
    const [gap] = clipFindings(facts);
    expect(gap).toMatchObject({ code: 'missing-pictures', severity: 'fault' });
    expect(gap!.sentence).toContain(`${60 - facts.frames!} pictures are missing`);
  });

  test('broken packets cost the pictures that are built on them, by name, and no other', async () => {
    // In MP4 the places of pictures lie apart from their data.
    const broken = join(folder, 'broken.mp4');
    await writeTestClip(broken, { count: 60, options });
    const bytes = await readFile(broken);
    const at = Math.floor(bytes.length * 0.4);
    for (let byte = at; byte < at + 500; byte += 1) bytes[byte] = (byte * 91) & 255;
    await writeFile(broken, bytes);
    const reader = await ClipReader.open(broken);
    const outcomes: (number | string)[] = [];
    for (let picture = 0; picture < reader.count; picture += 1)
      outcomes.push(
        await reader.picture(picture).then(
          (image) => (numberIn(image) === -1 ? 'blurred' : 'good'),
          (error) =>
            `${error.code}${String(error.fact).includes(`Picture ${picture} of broken.mp4`) ? '' : ' unnamed'}`,
        ),
      );
    await reader.close();
    expect(new Set(outcomes)).toEqual(new Set(['good', 'damaged-frame']));
    expect(outcomes.filter((outcome) => outcome === 'good').length).toBeGreaterThan(35);
    expect([outcomes[0], outcomes.at(-1)]).toEqual(['good', 'good']);
  });

  test('a picture that is not there is refused by its number', async () => {
    const reader = await ClipReader.open(path());
    await expect(reader.picture(60)).rejects.toMatchObject({ code: 'no-such-frame', subject: '60' });
    await expect(reader.picture(-1)).rejects.toMatchObject({ code: 'no-such-frame' });
    await reader.close();
  });
});
