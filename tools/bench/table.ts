import { spawnSync } from 'node:child_process';
import { link, mkdir, mkdtemp, rm, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  makeConverter,
  makeSamples,
  numberToHalf,
  resultsOf,
  type Format,
  type Image,
  type Plan,
  type SampleFormat,
} from '@shale/core';
import { readStill, usualSettings, writeStill } from '@shale/media';
import { BareLoop, middle, seconds } from './measuring.ts';

const project = fileURLToPath(new URL('../..', import.meta.url));
const [width, height] = [1920, 1080];
const drawnFrames = 24;
const rounds = 3;

/** Pictures that are read: their format, samples and channels. */
interface Kind {
  format: Format;
  sample: SampleFormat;
  channels: 3 | 4;
  ext: string;
}

const kinds = {
  png16: { format: 'png', sample: 'u16', channels: 3, ext: 'png' },
  png8: { format: 'png', sample: 'u8', channels: 3, ext: 'png' },
  png16alpha: { format: 'png', sample: 'u16', channels: 4, ext: 'png' },
  png8alpha: { format: 'png', sample: 'u8', channels: 4, ext: 'png' },
  jpeg: { format: 'jpeg', sample: 'u8', channels: 3, ext: 'jpg' },
  tiff16: { format: 'tiff', sample: 'u16', channels: 3, ext: 'tif' },
  exr: { format: 'exr', sample: 'f16', channels: 4, ext: 'exr' },
  dpx: { format: 'dpx', sample: 'u10', channels: 3, ext: 'dpx' },
  tga: { format: 'tga', sample: 'u8', channels: 4, ext: 'tga' },
} as const satisfies Record<string, Kind>;

/** A picture with slopes and grain, as a camera has them; where it has alpha, a soft edge, and colours multiplied by it in light. */
function drawn(frame: number, { sample, channels }: Kind): Image {
  const data = makeSamples(sample, width * height * channels);
  const most = { u8: 255, u10: 1023, u16: 65_535 }[sample as string];
  let state = frame + 1;
  for (let y = 0, at = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1, at += channels) {
      state = (Math.imul(state, 1_103_515_245) + 12_345) & 0x7fffffff;
      const grain = (((state >> 8) % 1024) - 512) / 65_536;
      const light = 0.5 + 0.24 * Math.sin((x + frame * 7) / 97) + 0.18 * Math.cos((y - frame * 5) / 71) + grain;
      const alpha = Math.min(1, Math.max(0, (x - 200) / 300));
      const colours = [light, light * 0.8 + 0.1, 1 - light * 0.7];
      colours.forEach((value, channel) => {
        data[at + channel] = most ? value * most : numberToHalf(value * value * alpha);
      });
      if (channels === 4) data[at + 3] = most ? alpha * most : numberToHalf(alpha);
    }
  return { width, height, channels, sample, data };
}

interface Case {
  words: string;
  from: keyof typeof kinds;
  write: Record<string, unknown>;
  picture?: Record<string, unknown>;
  declares?: Record<string, string>;
  /** The script beside it: a program, and what follows from where, and to where. */
  script: (from: string, to: string) => [string, ...string[]];
}

const node = process.execPath;
const sharpScript =
  (...more: string[]) =>
  (from: string, to: string): [string, ...string[]] => [node, 'tools/bench/scripted.mjs', from, to, ...more];
const python =
  (...more: string[]) =>
  (from: string, to: string): [string, ...string[]] => [
    '/usr/bin/python3',
    'tools/bench/scripted.py',
    'pictures',
    from,
    to,
    ...more,
  ];
const srgb = { alpha: 'none', transfer: 'srgb' };
const straight = { alpha: 'straight', transfer: 'srgb' };
const linear = { alpha: 'premultiplied', transfer: 'linear' };

const cases: Case[] = [
  {
    words: 'PNG 16 -> PNG 8',
    from: 'png16',
    write: { ...srgb, format: 'png', sample: 'u8' },
    script: sharpScript(),
  },
  {
    words: '  at half size',
    from: 'png16',
    write: { ...srgb, format: 'png', sample: 'u8' },
    picture: { resize: { to: { by: 'percent', percent: 50 } } },
    script: sharpScript('--width', '960'),
  },
  {
    words: '  cropped',
    from: 'png16',
    write: { ...srgb, format: 'png', sample: 'u8' },
    picture: { crop: { left: 240, top: 135, width: 1440, height: 810 } },
    script: sharpScript('--crop', '240,135,1440,810'),
  },
  {
    words: 'PNG 8, alpha, over a colour -> PNG 8',
    from: 'png8alpha',
    write: { ...srgb, format: 'png', sample: 'u8' },
    picture: { over: { colour: [0.2, 0.3, 0.4] } },
    script: sharpScript('--over', '51,76,102'),
  },
  {
    words: 'PNG 8 -> JPEG',
    from: 'png8',
    write: { ...srgb, format: 'jpeg', sample: 'u8' },
    script: sharpScript('--to', 'jpeg'),
  },
  { words: 'JPEG -> PNG 8', from: 'jpeg', write: { ...srgb, format: 'png', sample: 'u8' }, script: sharpScript() },
  {
    words: 'TIFF 16, deflate -> JPEG',
    from: 'tiff16',
    write: { ...srgb, format: 'jpeg', sample: 'u8' },
    script: sharpScript('--to', 'jpeg'),
  },
  {
    words: 'PNG 16 -> TIFF 16, LZW',
    from: 'png16',
    write: { ...srgb, format: 'tiff', sample: 'u16', tiffCompression: 'lzw' },
    script: sharpScript('--to', 'tiff', '--depth', '16'),
  },
  {
    words: 'OpenEXR DWAA -> PNG 8, curve, divided',
    from: 'exr',
    write: { ...straight, format: 'png', sample: 'u8' },
    script: python('png', 'u8', 'straight-srgb'),
  },
  {
    words: 'PNG 16, alpha -> OpenEXR DWAA, curve, multiplied',
    from: 'png16alpha',
    write: { ...linear, format: 'exr', sample: 'f16', exrCompression: 'DWAA' },
    script: python('exr', 'f16', 'premultiplied-linear'),
  },
  {
    words: 'DPX 10 -> PNG 16',
    from: 'dpx',
    write: { ...srgb, format: 'png', sample: 'u16' },
    declares: { transfer: 'srgb' },
    script: python('png', 'u16'),
  },
  {
    words: 'TGA, alpha -> PNG 8',
    from: 'tga',
    write: { ...straight, format: 'png', sample: 'u8' },
    declares: { alpha: 'straight', transfer: 'srgb' },
    script: python('png', 'u8'),
  },
];

/** Runs a program to its end. @throws Error with what it said */
function run([program, ...args]: readonly string[]): void {
  const { status, stdout, stderr } = spawnSync(program!, args, { cwd: project, encoding: 'utf8' });
  if (status !== 0) throw new Error(`${program} ${args.join(' ')}: ${stderr}${stdout}`);
}

/** A folder of so many frames of a kind: the drawn ones again and again. */
async function sourceOf(folder: string, kind: Kind, name: string, frames: number): Promise<string> {
  const base = join(folder, `${name}-${drawnFrames}`);
  const path = (of: string, frame: number) => join(of, `f.${String(frame).padStart(4, '0')}.${kind.ext}`);
  if (await mkdir(base, { recursive: true }))
    for (let frame = 0; frame < drawnFrames; frame += 1) {
      const settings = { ...usualSettings, exrCompression: 'DWAA', tiffCompression: 'deflate' } as const;
      await writeStill(path(base, frame), kind.format, drawn(frame, kind), settings);
      // What was changed a moment ago would be waited for.
      await utimes(path(base, frame), new Date(Date.now() - 3_600_000), new Date(Date.now() - 3_600_000));
    }
  const some = join(folder, `${name}-${frames}`);
  if (frames !== drawnFrames && (await mkdir(some, { recursive: true })))
    for (let frame = 0; frame < frames; frame += 1) await link(path(base, frame % drawnFrames), path(some, frame));
  return some;
}

/** Seconds of the bare loop over all frames, which was once over them before. */
async function bareLoop(plan: Plan, files: readonly string[], folder: string): Promise<number> {
  const loop = await BareLoop.of(plan, files, folder);
  try {
    await loop.go();
    return await loop.go();
  } finally {
    loop.close();
  }
}

/** The least milliseconds that reading a picture, and writing what it becomes, take by themselves. */
async function limits(plan: Plan, file: string, folder: string): Promise<{ read: number; write: number }> {
  const path = join(folder, 'limit.part');
  const source = await readStill(file);
  const { image } = makeConverter(plan.recipe!, source.sample)(source);
  const settings = { ...plan.spec.write, primaries: plan.recipe!.to.primaries };
  const least = { read: Infinity, write: Infinity };
  for (let round = 0; round < 5; round += 1) {
    least.read = Math.min(least.read, await seconds(() => readStill(file)));
    await rm(path, { force: true });
    least.write = Math.min(least.write, await seconds(() => writeStill(path, plan.spec.write.format, image, settings)));
  }
  await rm(path, { force: true });
  return { read: least.read * 1000, write: least.write * 1000 };
}

const ratio = (theirs: number, ours: number): string => (theirs / ours).toFixed(2);

/** One line: whole processes by turns, then what they are held against. */
async function line(one: Case, frames: number, folder: string): Promise<void> {
  const { words, from: kind, write, picture = {}, declares = {}, script } = one;
  const from = await sourceOf(folder, kinds[kind], kind, frames);
  const [spec, to] = [join(folder, 'spec.json'), join(folder, 'to')];
  await writeFile(spec, JSON.stringify({ version: 1, write, picture }));
  const said = Object.entries(declares).flatMap(([name, value]) => [`--${name}`, value]);
  const named = [join(from, `f.####.${kinds[kind].ext}`), '--spec', spec, '--rate', '24', '--out', to, ...said];
  const times = { ours: [] as number[], theirs: [] as number[] };
  for (let round = 0; round < (frames > 100 ? 1 : rounds); round += 1) {
    await rm(to, { recursive: true, force: true });
    times.ours.push(await seconds(async () => run([node, 'cli/bin.mjs', 'convert', ...named])));
    await rm(to, { recursive: true, force: true });
    await mkdir(to);
    times.theirs.push(await seconds(async () => run(script(from, to))));
  }
  await rm(to, { recursive: true, force: true });
  const planned = spawnSync(node, ['cli/bin.mjs', 'plan', ...named, '--json'], { cwd: project, encoding: 'utf8' });
  const plan = JSON.parse(planned.stdout) as Plan;
  const files = resultsOf(plan, 0, plan.files).map((row) => join(from, row.from!));
  const bare = await bareLoop(plan, files, folder);
  const { read, write: wrote } = await limits(plan, files[0]!, folder);
  const [own, other] = [middle(times.ours), middle(times.theirs)];
  console.log(
    `  ${words.padEnd(50)} ${String(frames).padStart(4)}  ${own.toFixed(2).padStart(6)} s  ` +
      `${other.toFixed(2).padStart(6)} s ${ratio(other, own).padStart(5)}  ${bare.toFixed(2).padStart(6)} s ${ratio(bare, own).padStart(5)}  ` +
      `${read.toFixed(0).padStart(4)} ${wrote.toFixed(0).padStart(4)} ms`,
  );
}

/** A clip into frames and frames into a clip, beside a loop over PyAV in one process, at its codec's usual settings. */
async function clips(frames: number, folder: string): Promise<void> {
  const from = await sourceOf(folder, kinds.png8, 'png8', frames);
  const [clip, to] = [join(folder, 'clip.mp4'), join(folder, 'to')];
  const python = ['/usr/bin/python3', 'tools/bench/scripted.py'];
  const pairs: { words: string; ours: string[]; theirs: string[] }[] = [
    {
      words: 'PNG 8 -> H.264',
      ours: [join(from, 'f.####.png'), '--format', 'h264', '--rate', '24', '--out', to],
      theirs: [...python, 'clip', from, clip],
    },
    {
      words: 'H.264 -> PNG 8 (script at deflate level 1)',
      ours: [clip, '--format', 'png', '--depth', '8', '--out', to],
      theirs: [...python, 'frames', clip, to, '1'],
    },
  ];
  for (const { words, ours, theirs } of pairs) {
    const times = { ours: [] as number[], theirs: [] as number[] };
    for (let round = 0; round < (frames > 100 ? 1 : rounds); round += 1) {
      await mkdir(to, { recursive: true });
      times.theirs.push(await seconds(async () => run(theirs)));
      await rm(to, { recursive: true, force: true });
      times.ours.push(await seconds(async () => run([node, 'cli/bin.mjs', 'convert', ...ours])));
      await rm(to, { recursive: true, force: true });
    }
    const [own, other] = [middle(times.ours), middle(times.theirs)];
    console.log(
      `  ${words.padEnd(50)} ${String(frames).padStart(4)}  ${own.toFixed(2).padStart(6)} s  ` +
        `${other.toFixed(2).padStart(6)} s ${ratio(other, own).padStart(5)}`,
    );
  }
}

/**
 * `npm run bench -- table`: 1 and 24 frames of 1080p, or as many as SHALE_BENCH_FRAMES says (`1,24,500`), and of the pairs those whose
 * words have SHALE_BENCH_PAIR in them.
 */
export async function tableBench(): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'shale-table-'));
  const counts = (process.env.SHALE_BENCH_FRAMES ?? '1,24').split(',').map(Number);
  const wanted = (words: string) => words.includes(process.env.SHALE_BENCH_PAIR ?? '');
  console.log(
    '\nshale convert, every frame checked, as a whole process, 1080p; ratios above 1: Shale is quicker\n' +
      `  ${''.padEnd(50)} ${'many'.padStart(4)}  ${'Shale'.padStart(8)}  ${'script'.padStart(8)} ratio  ${'bare loop'.padStart(8)} ratio  read, write`,
  );
  try {
    for (const one of cases.filter(({ words }) => wanted(words)))
      for (const frames of counts) await line(one, frames, folder);
    for (const frames of counts) if (wanted('H.264')) await clips(frames, folder);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
