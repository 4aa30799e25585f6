import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import { cpus, tmpdir } from 'node:os';
import { join } from 'node:path';
import { declare, makePlan, parseSpec, type Plan, type SpecInput } from '@shale/core';
import { carryOut, scanFolders, spansPerProcess, Together, WorkerPool } from '@shale/engine';
import { middle, seconds } from './measuring.ts';

const rounds = 3;

/** Some sizes of one source, as per cent. */
interface Several {
  words: string;
  folder: string;
  name: RegExp;
  frames: string;
  write: SpecInput['write'];
  sizes: readonly number[];
}

const png = { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' } as const;

const several: Several[] = [
  {
    ...{ words: 'OpenEXR half DWAA -> PNG 8-bit at 50, 25 and 12 %', folder: 'plates/depot_pan', name: /exr$/ },
    ...{ frames: '1001-1024', write: png, sizes: [50, 25, 12] },
  },
  {
    ...{ words: 'PNG 16-bit -> PNG 8-bit at 100, 50 and 25 %', folder: 'turntables/bell_turn', name: /png$/ },
    ...{ frames: '1-24', write: png, sizes: [100, 50, 25] },
  },
  {
    ...{ words: 'clip -> PNG 8-bit at 50, 25 and 12 %', folder: 'plates', name: /^platform_plate/ },
    ...{ frames: '0-47', write: { ...png, alpha: 'none' }, sizes: [50, 25, 12] },
  },
];

async function plansOf({ folder, name, frames, write, sizes }: Several, root: string, pool: WorkerPool) {
  for await (const { sources, unfinished } of scanFolders(join(root, folder), pool)) {
    const source = unfinished ? undefined : sources.find((one) => name.test(one.name));
    if (!source) continue;
    return sizes.map((percent): Plan => {
      const picture = percent === 100 ? {} : { picture: { resize: { to: { by: 'percent', percent } } } };
      const into = { root: 'out', folder: String(percent) };
      const spec = parseSpec({ version: 1, frames, write, into, ...picture });
      const plan = makePlan(join(root, folder), source, declare(source), spec);
      if (plan.problems[0]) throw new Error(plan.problems[0].fact);
      return plan;
    });
  }
  throw new Error(`${folder} holds no such source`);
}

/** Several outputs of one source: at once, against one run after another. */
export async function severalBench(demo: string): Promise<void> {
  const pool = new WorkerPool(cpus().length, { together: spansPerProcess });
  const out = await mkdtemp(join(tmpdir(), 'shale-bench-'));
  try {
    for (const one of several) {
      const plans = await plansOf(one, demo, pool);
      let turn = 0;
      const run = (some: readonly Plan[]) =>
        seconds(async () => {
          const target = join(out, String((turn += 1)));
          await mkdir(target);
          const together = new Together(pool);
          const seats = some.map((plan) => together.join(plan));
          await Promise.all(
            some.map(async (plan, at) => {
              await mkdir(join(target, plan.into.folder));
              await carryOut({
                ...{ plan, places: { source: plan.root, target }, job: `bench${turn}${at}`, pool },
                ...(seats[at] ? { seat: seats[at] } : {}),
                onWritten: () => undefined,
                onFailed: ({ fact }) => console.log(fact),
              }).finally(() => seats[at]?.leave());
            }),
          );
          await rm(target, { recursive: true });
        });
      await run(plans);
      const ratios: number[] = [];
      const times: [number, number][] = [];
      for (let round = 0; round < rounds; round += 1) {
        const all = await run(plans);
        let single = 0;
        for (const plan of plans) single += await run([plan]);
        ratios.push(single / all);
        times.push([all, single]);
      }
      const files = plans.reduce((sum, { files: count }) => sum + count, 0);
      console.log(`${one.words}, ${files} files in ${plans.length} outputs`);
      console.log(`  at once              ${middle(times.map(([all]) => all)).toFixed(2)} s`);
      console.log(`  one after another    ${middle(times.map(([, single]) => single)).toFixed(2)} s`);
      console.log(`  ratio                ${middle(ratios).toFixed(2)}\n`);
    }
  } finally {
    await pool.close();
    await rm(out, { recursive: true, force: true });
  }
}
