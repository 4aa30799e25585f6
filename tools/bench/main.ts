import { spawnSync } from 'node:child_process';
import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import { cpus, tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  declare,
  makePlan,
  parseSpec,
  resultsOf,
  type Format,
  type Plan,
  type SampleFormat,
  type SpecInput,
} from '@shale/core';
import { carryOut, scanFolders, spansPerProcess, WorkerPool } from '@shale/engine';
import { videoBench } from './video.ts';
import { lookingBench } from './looking.ts';
import { memoryBench } from './memory.ts';
import { pageBench } from './page.ts';
import { renameBench } from './rename.ts';
import { scanBench } from './scan.ts';
import { scriptBench } from './script.ts';
import { smallBench } from './small.ts';
import { severalBench } from './several.ts';
import { tableBench } from './table.ts';
import { timeBench } from './time.ts';
import { BareLoop, middle, seconds } from './measuring.ts';

const project = fileURLToPath(new URL('../..', import.meta.url));
const demo = process.env.SHALE_DEMO ?? join(project, '.shale', 'demo', 'tram_museum');
const cores = cpus().length;
const rounds = 3;

/** One pair of formats: a folder of the demo, or one that is made for it, and what it becomes. */
interface Conversion {
  folder: string;
  words: string;
  frames: string;
  write: SpecInput['write'];
  /** Writes the frames that are read, where the demo has none of their kind. */
  make?: { format: Format; sample: SampleFormat };
}

const conversions: Conversion[] = [
  {
    folder: 'turntables/bell_turn',
    words: 'PNG 16-bit -> PNG 8-bit',
    frames: 'all',
    write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
  },
  {
    folder: 'plates/depot_pan',
    words: 'OpenEXR half DWAA, premultiplied linear -> PNG 16-bit, straight sRGB',
    frames: '1001-1032',
    write: { format: 'png', sample: 'u16', alpha: 'straight', transfer: 'srgb', effort: 1 },
  },
  {
    folder: 'plates/depot_pan',
    words: 'OpenEXR half DWAA, premultiplied linear -> PNG 8-bit, straight sRGB',
    frames: '1001-1032',
    write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
  },
  {
    folder: 'turntables/bell_turn',
    words: 'PNG 16-bit -> OpenEXR half DWAA, premultiplied linear',
    frames: '1-36',
    write: { format: 'exr', sample: 'f16', alpha: 'premultiplied', transfer: 'linear', exrCompression: 'DWAA' },
  },
  {
    folder: 'plates/timetable_scan',
    words: 'DPX 10-bit, film log -> PNG 16-bit sRGB',
    frames: 'all',
    write: { format: 'png', sample: 'u16', alpha: 'none', transfer: 'srgb', effort: 1 },
  },
  {
    folder: 'walks/conductor_walk_12fps',
    words: 'TGA 32-bit -> PNG 8-bit',
    frames: 'all',
    write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
  },
  {
    folder: 'turntables/bell_turn',
    words: 'TIFF 16-bit -> JPEG',
    frames: '1-36',
    write: { format: 'jpeg', sample: 'u8', alpha: 'none', transfer: 'srgb' },
    make: { format: 'tiff', sample: 'u16' },
  },
];

const spread = (list: number[]): string => `${Math.min(...list).toFixed(2)} to ${Math.max(...list).toFixed(2)} s`;

async function planOf(folder: string, { frames, write }: Conversion, pool: WorkerPool): Promise<Plan> {
  for await (const { sources } of scanFolders(folder, pool)) {
    const [source] = sources;
    const spec = parseSpec({ version: 1, frames, write, into: { root: 'out', folder: '' } });
    // What files of a kind do not say is declared, so that every pair runs.
    const plan = makePlan(folder, source!, declare(source!), spec);
    if (plan.problems.length === 0) return plan;
    return makePlan(folder, source!, declare(source!, { alpha: 'straight', transfer: 'srgb' }), spec);
  }
  throw new Error(`${folder} is empty`);
}

/** The frames of a folder written in another format, straight sRGB. */
async function madeOf(folder: string, to: string, { frames, make }: Conversion, pool: WorkerPool): Promise<string> {
  const write = { ...make!, alpha: 'straight', transfer: 'srgb' } as const;
  const plan = await planOf(folder, { folder, frames, write, words: '' }, pool);
  await carryOut({
    plan,
    places: { source: folder, target: to },
    job: 'make',
    pool,
    onWritten: () => undefined,
    onFailed: ({ fact }) => console.log(fact),
  });
  return to;
}

async function compare(conversion: Conversion): Promise<void> {
  const { folder, words, make } = conversion;
  const out = await mkdtemp(join(tmpdir(), 'shale-bench-'));
  const pool = new WorkerPool(cores, { together: spansPerProcess });
  const made = join(out, 'made');
  if (make) await mkdir(made);
  const source = make ? await madeOf(join(demo, folder), made, conversion, pool) : join(demo, folder);
  const plan = await planOf(source, make ? { ...conversion, frames: 'all' } : conversion, pool);
  const files = resultsOf(plan, 0, plan.files).map(({ from }) => join(source, from!));
  const loop = await BareLoop.of(plan, files, out);
  try {
    const ours = async (round: number) => {
      const target = join(out, `round-${round}`);
      await mkdir(target);
      const time = await seconds(() =>
        carryOut({
          plan,
          places: { source, target },
          job: 'bench',
          pool,
          onWritten: () => undefined,
          onFailed: ({ fact }) => console.log(fact),
        }),
      );
      await rm(target, { recursive: true });
      return time;
    };
    // Once each without the clock: both are warm then.
    await ours(0);
    await loop.go();
    const pairs: [number, number][] = [];
    for (let round = 1; round <= rounds; round += 1) pairs.push([await ours(round), await loop.go()]);
    const mine = pairs.map(([time]) => time);
    const theirs = pairs.map(([, time]) => time);
    const ratio = middle(pairs.map(([a, b]) => b / a));
    console.log(`${words}, ${plan.files} frames, ${cores} processes`);
    console.log(
      `  Shale      ${(plan.files / middle(mine)).toFixed(2)} frames/s (${spread(mine)})  decode, convert, encode, flush, read back, compare, SHA-256`,
    );
    console.log(
      `  bare loop  ${(plan.files / middle(theirs)).toFixed(2)} frames/s (${spread(theirs)})  decode, encode, read back`,
    );
    console.log(`  ratio      ${ratio.toFixed(2)}\n`);
  } finally {
    loop.close();
    await pool.close();
    await rm(out, { recursive: true, force: true });
  }
}

/** How quickly the stage answers, in the browser alone: measured by the page's own clock, printed by the test itself. */
async function paceBench(): Promise<void> {
  const args = ['test', '-c', 'e2e/playwright.config.ts', '--reporter', 'line', '--workers', '1', 'pace.spec.ts'];
  const env = { ...process.env, SHALE_PACE: '1' };
  spawnSync('npx', ['playwright', ...args], { cwd: project, env, stdio: 'inherit' });
}

/** `npm run bench` runs all; `npm run bench -- scan` one part. */
const parts: Record<string, () => Promise<void>> = {
  convert: async () => {
    for (const conversion of conversions) await compare(conversion);
  },
  several: () => severalBench(demo),
  small: smallBench,
  script: scriptBench,
  video: () => videoBench(demo),
  memory: memoryBench,
  table: tableBench,
  looking: () => lookingBench(demo),
  rename: renameBench,
  scan: () => scanBench(demo),
  page: () => pageBench(),
  pace: paceBench,
  time: timeBench,
};
const wanted = process.argv.slice(2);
for (const [name, run] of Object.entries(parts)) if (wanted.length === 0 || wanted.includes(name)) await run();
