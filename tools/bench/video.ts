import { fork, type ChildProcess } from 'node:child_process';
import { mkdir, mkdtemp, readFile, rm } from 'node:fs/promises';
import { cpus, tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  declare,
  makePlan,
  parseSpec,
  resultsOf,
  videoSchema,
  type Image,
  type Plan,
  type Source,
  type SpecInput,
} from '@shale/core';
import { carryOut, scanFolders, spansPerProcess, WorkerPool } from '@shale/engine';
import { ClipReader, VideoWriter, probeClip, readStill, type VideoSettings } from '@shale/media';
import { FormatContext, Packet } from 'node-av';
import { middle, seconds, tell } from './measuring.ts';

const cores = cpus().length;
const rounds = 3;

async function sourceIn(folder: string, pool: WorkerPool): Promise<Source> {
  for await (const { sources } of scanFolders(folder, pool)) if (sources[0]) return sources[0];
  throw new Error(`${folder} is empty`);
}

async function planIn(folder: string, pool: WorkerPool, spec: Omit<SpecInput, 'version'>): Promise<Plan> {
  const source = await sourceIn(folder, pool);
  const whole = parseSpec({ version: 1, into: { root: 'out', folder: '' }, ...spec });
  return makePlan(
    folder,
    source,
    declare(source, { rate: { num: 24, den: 1 }, transfer: 'srgb', alpha: 'none' }),
    whole,
  );
}

const carry = (plan: Plan, source: string, target: string, pool: WorkerPool): Promise<void> =>
  carryOut({
    plan,
    places: { source, target },
    job: 'bench',
    pool,
    onWritten: () => undefined,
    onFailed: ({ fact }) => console.log(fact),
  });

const children = (count: number): ChildProcess[] =>
  Array.from({ length: count }, () =>
    fork(fileURLToPath(new URL('./bareVideo.ts', import.meta.url)), {
      execArgv: ['--import', 'tsx'],
      env: { ...process.env, UV_THREADPOOL_SIZE: '4' },
      serialization: 'advanced',
    }),
  );

/** Runs both in turn, once without the clock, and prints how they stand to each other. */
async function compare(
  words: string,
  frames: number,
  ours: () => Promise<void>,
  bare: () => Promise<void>,
): Promise<void> {
  await ours();
  await bare();
  const pairs: [number, number][] = [];
  for (let round = 0; round < rounds; round += 1) pairs.push([await seconds(ours), await seconds(bare)]);
  const rate = (at: 0 | 1) => (frames / middle(pairs.map((pair) => pair[at]))).toFixed(1);
  console.log(`${words}, ${frames} frames`);
  console.log(
    `  Shale ${rate(0)} frames/s, bare loop ${rate(1)} frames/s, ratio ${middle(pairs.map(([a, b]) => b / a)).toFixed(2)}\n`,
  );
}

/** Video against bare loops of the libraries; seeks, memory and planning at length. */
export async function videoBench(demo: string): Promise<void> {
  const out = await mkdtemp(join(tmpdir(), 'shale-video-bench-'));
  const pool = new WorkerPool(cores, { together: spansPerProcess });
  const folder = async (name: string) => {
    await mkdir(join(out, name), { recursive: true });
    return join(out, name);
  };
  try {
    const stills = await folder('stills');
    const made = await planIn(join(demo, 'plates', 'depot_pan'), pool, {
      frames: '1001-1048',
      write: { format: 'png', sample: 'u8', alpha: 'none', transfer: 'srgb', effort: 1 },
    });
    const first = makePlan(
      made.root,
      await sourceIn(made.root, pool),
      declare(await sourceIn(made.root, pool)),
      made.spec,
    );
    await carry(first, made.root, stills, pool);
    const write = { format: 'h264', sample: 'u8', alpha: 'none', transfer: 'srgb' } as const;
    const toVideo = await planIn(stills, pool, { write, missing: 'leave-out', existing: 'replace' });
    const clips = await folder('clips');
    const rows = resultsOf(toVideo, 0, toVideo.frames);
    const { width, height } = toVideo.source.facts!;
    const settings: VideoSettings = {
      format: 'h264',
      video: toVideo.spec.video,
      width,
      height,
      sample: 'u8',
      hasAlpha: false,
      rate: { num: 24, den: 1 },
      transfer: 'srgb',
      primaries: 'bt709',
      pixelAspect: { num: 1, den: 1 },
    };
    const [one, ...others] = children(cores) as [ChildProcess, ...ChildProcess[]];
    const files = rows.map(({ from }) => join(stills, from!));
    await compare(
      `PNG 8-bit ${width} x ${height} -> H.264`,
      toVideo.frames,
      () => carry(toVideo, stills, clips, pool),
      () => tell(one, { what: 'video', files, plan: toVideo, settings, path: join(out, 'bare.mp4') }),
    );
    const toStills = await planIn(clips, pool, {
      write: { format: 'png', sample: 'u8', alpha: 'none', transfer: 'srgb' },
      existing: 'replace',
    });
    const target = await folder('again');
    const clip = join(clips, toStills.source.name);
    const share = Math.ceil(toStills.frames / cores);
    await compare(
      `H.264 ${width} x ${height} -> PNG 8-bit`,
      toStills.frames,
      () => carry(toStills, clips, target, pool),
      async () => {
        await Promise.all(
          [one, ...others].map((child, at) =>
            tell(child, {
              what: 'frames',
              clip,
              from: at * share,
              to: Math.min(toStills.frames, (at + 1) * share),
              plan: toStills,
              folder: out,
            }),
          ),
        );
      },
    );
    for (const child of [one, ...others]) child.removeAllListeners('exit').disconnect();
    await seeks(files, settings, join(out, 'long.mp4'));
    await memory(await folder('many'));
    planning();
  } finally {
    await pool.close();
    await rm(out, { recursive: true, force: true });
  }
}

/** Puts a clip behind itself, its packets as they are. */
async function repeat(from: string, to: string, pictures: number, times: number): Promise<void> {
  const output = new FormatContext();
  output.allocOutputContext2(null, 'mp4', to);
  let open = false;
  const packet = new Packet();
  packet.alloc();
  for (let turn = 0; turn < times; turn += 1) {
    const input = new FormatContext();
    await input.openInput(from);
    await input.findStreamInfo();
    const [stream] = input.streams;
    const { num, den } = stream!.timeBase;
    if (!open) {
      const made = output.newStream(null);
      stream!.codecpar.copy(made.codecpar);
      made.timeBase = stream!.timeBase;
      await output.openOutput();
      await output.writeHeader();
      open = true;
    }
    const shift = BigInt(Math.round((turn * pictures * den) / (24 * num)));
    while ((await input.readFrame(packet)) >= 0) {
      packet.pts += shift;
      packet.dts += shift;
      packet.rescaleTs({ num, den }, output.streams[0]!.timeBase);
      await output.interleavedWriteFrame(packet);
      packet.unref();
    }
    await input.closeInput();
  }
  await output.writeTrailer();
  await output.closeOutput();
  packet.free();
}

/** Seeks in a clip of ten minutes at 1080p. */
async function seeks(files: readonly string[], settings: VideoSettings, path: string): Promise<void> {
  const pictures: Image[] = [];
  for (const file of files.slice(0, 24)) pictures.push(await readStill(file));
  const video = videoSchema.parse({ crf: 23, keyDistance: 250 });
  const piece = `${path}.mp4`;
  const writer = await VideoWriter.open(piece, { ...settings, video });
  const [each, times] = [500, 29];
  const count = each * times;
  for (let at = 0; at < each; at += 1) await writer.add(pictures[at % pictures.length]!);
  await writer.finish();
  await writer.close();
  await repeat(piece, path, each, times);
  const opening = await seconds(() => ClipReader.open(path, { threads: 2 }).then((reader) => reader.close()));
  const reader = await ClipReader.open(path, { threads: 2 });
  const took: number[] = [];
  for (let at = 0; at < 60; at += 1) took.push(1000 * (await seconds(() => reader.picture((at * 7919 + 241) % count))));
  await reader.close();
  took.sort((a, b) => a - b);
  console.log(
    `10 minutes of 1080p H.264, a key every 250 frames at the most: opened and indexed in ${opening.toFixed(2)} s; a picture anywhere:`,
  );
  console.log(
    `  median ${middle(took).toFixed(0)} ms, 95th percentile ${took[56]!.toFixed(0)} ms, longest ${took[59]!.toFixed(0)} ms\n`,
  );
  await rm(path);
  await rm(piece);
}

const resident = async (): Promise<number> =>
  Number(/VmRSS:\s+(\d+)/.exec(await readFile('/proc/self/status', 'utf8'))![1]) / 1024;

/** Memory over ten thousand pictures in and out. */
async function memory(folder: string): Promise<void> {
  const [width, height, count] = [320, 180, 10_000];
  const data = Uint8Array.from({ length: width * height * 3 }, (_, at) => (at * 31) & 255);
  const path = join(folder, 'many.mp4');
  const writer = await VideoWriter.open(path, {
    format: 'h264',
    video: videoSchema.parse({ speed: 7 }),
    width,
    height,
    sample: 'u8',
    hasAlpha: false,
    rate: { num: 25, den: 1 },
    transfer: 'srgb',
    primaries: 'bt709',
    pixelAspect: { num: 1, den: 1 },
  });
  const told: string[] = [];
  for (let at = 0; at < count; at += 1) {
    data[at % data.length]! ^= 255;
    await writer.add({ width, height, channels: 3, sample: 'u8', data });
    if (at === 999 || at === count - 1) told.push(`${(await resident()).toFixed(0)} MB after ${at + 1}`);
  }
  await writer.finish();
  await writer.close();
  const reader = await ClipReader.open(path);
  const read: string[] = [];
  for (let at = 0; at < reader.count; at += 1) {
    await reader.picture(at);
    if (at === 999 || at === count - 1) read.push(`${(await resident()).toFixed(0)} MB after ${at + 1}`);
  }
  await reader.close();
  console.log(
    `memory of a process: writing ${told.join(', ')}; reading ${read.join(', ')} (${(await probeClip(path)).facts.frames} pictures)\n`,
  );
}

/** A plan of a hundred thousand frames. */
function planning(): void {
  const frames = 100_000;
  const source: Source = {
    kind: 'sequence',
    folder: '',
    name: 'f.#####.png',
    pattern: { prefix: 'f.', padding: 5, suffix: '.png' },
    coverage: [{ first: 1, last: frames, step: 1 }],
    irregular: [],
    doubled: [],
    files: frames,
    bytes: 0,
    modified: 0,
    weights: [1],
    findings: [],
    facts: {
      width: 1920,
      height: 1080,
      format: 'png',
      sample: 'u8',
      channels: ['R', 'G', 'B'],
      hasAlpha: false,
      more: [],
    },
  };
  const spec = parseSpec({ version: 1, write: { format: 'h264', sample: 'u8', alpha: 'none', transfer: 'srgb' } });
  const declaration = declare(source, { rate: { num: 24, den: 1 } });
  makePlan('in', source, declaration, spec);
  const start = performance.now();
  makePlan('in', source, declaration, spec);
  console.log(`a video of 100,000 frames is planned in ${(performance.now() - start).toFixed(2)} ms\n`);
}
