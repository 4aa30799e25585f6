import { fork, type ChildProcess } from 'node:child_process';
import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import { cpus, tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { declare, makePlan, parseSpec, resultsOf, type Plan } from '@shale/core';
import { carryOut, scanFolders, spansPerProcess, WorkerPool } from '@shale/engine';
import { codecTable } from './codecs.ts';
import { pageBench } from './page.ts';
import { renameBench } from './rename.ts';
import { scanBench } from './scan.ts';

const project = fileURLToPath(new URL('../..', import.meta.url));
const demo = process.env.SHALE_DEMO ?? join(project, '.shale', 'demo', 'tram_museum');
const cores = cpus().length;
const rounds = 5;

const conversions = [
  { folder: 'turntables/bell_turn', words: 'bell_turn: PNG 16-bit -> PNG 8-bit', frames: 'all' },
  {
    folder: 'plates/depot_pan',
    words: 'depot_pan: OpenEXR half DWAA, premultiplied linear -> PNG 8-bit straight sRGB',
    frames: '1001-1048',
  },
];

const middle = (list: number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;
const spread = (list: number[]): string => `${Math.min(...list).toFixed(2)} to ${Math.max(...list).toFixed(2)} s`;

async function planOf(folder: string, frames: string, pool: WorkerPool): Promise<Plan> {
  for await (const { sources } of scanFolders(folder, pool)) {
    const spec = {
      version: 1,
      frames,
      write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
      into: { root: 'out', folder: '' },
    };
    return makePlan(folder, sources[0]!, declare(sources[0]!), parseSpec(spec));
  }
  throw new Error(`${folder} is empty`);
}

const tell = (child: ChildProcess, message: object): Promise<void> =>
  new Promise((resolve, reject) => {
    child.once('message', () => resolve());
    child.once('exit', () => reject(new Error('the bare loop ended')));
    child.send(message);
  });

async function seconds(work: () => Promise<unknown>): Promise<number> {
  const start = performance.now();
  await work();
  return (performance.now() - start) / 1000;
}

async function compare({ folder, words, frames }: (typeof conversions)[number]): Promise<void> {
  const out = await mkdtemp(join(tmpdir(), 'shale-bench-'));
  const pool = new WorkerPool(cores, {}, spansPerProcess);
  const source = join(demo, folder);
  const plan = await planOf(source, frames, pool);
  const files = resultsOf(plan, 0, plan.files).map(({ from }) => join(source, from!));
  const children = Array.from({ length: cores }, () =>
    fork(fileURLToPath(new URL('./bare.ts', import.meta.url)), {
      execArgv: ['--import', 'tsx'],
      env: { ...process.env, UV_THREADPOOL_SIZE: '4' },
      serialization: 'advanced',
    }),
  );
  try {
    await Promise.all(
      children.map((child, at) =>
        tell(child, { prepare: { plan, files: files.filter((_, index) => index % cores === at), folder: out } }),
      ),
    );
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
    const bare = () => seconds(() => Promise.all(children.map((child) => tell(child, { go: true }))));
    // Once each without the clock: both are warm then.
    await ours(0);
    await bare();
    const pairs: [number, number][] = [];
    for (let round = 1; round <= rounds; round += 1) pairs.push([await ours(round), await bare()]);
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
    for (const child of children) child.removeAllListeners('exit').disconnect();
    await pool.close();
    await rm(out, { recursive: true, force: true });
  }
}

/** `npm run bench` runs all; `npm run bench -- scan` one part. */
const parts: Record<string, () => Promise<void>> = {
  convert: async () => {
    for (const conversion of conversions) await compare(conversion);
  },
  codecs: codecTable,
  rename: renameBench,
  scan: () => scanBench(demo),
  page: () => pageBench(),
};
const wanted = process.argv.slice(2);
for (const [name, run] of Object.entries(parts)) if (wanted.length === 0 || wanted.includes(name)) await run();
