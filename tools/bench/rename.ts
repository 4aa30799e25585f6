import { mkdtempSync, mkdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { declare, describeFolder, namingSpecSchema, planRename, type NameRuleInput, type ToName } from '@shale/core';
import { carryOutRename, realDisk } from '@shale/engine';
import { middle } from './measuring.ts';

const count = 100_000;
const rounds = 3;

setFlagsFromString('--expose-gc');
const collect = runInNewContext('gc') as () => void;

/** The sequence of a folder's names, as a scan gives it. */
function itemOf(names: string[]): ToName {
  const columns = { bytes: new Float64Array(names.length).fill(1), modified: new Float64Array(names.length) };
  const { source } = describeFolder('frames', { names, ...columns }).sequences[0]!;
  return { id: 'pan', source, declaration: declare(source), date: '2026-11-25' };
}

const planOf = (names: string[], rules: NameRuleInput[]) =>
  planRename([itemOf(names)], namingSpecSchema.parse({ version: 1, rules }), {
    root: 'bench',
    into: 'bench',
    names: () => names,
  });

/** MiB that a plan holds on to, the mean of some. */
function heldBy(work: () => unknown): number {
  const some = 4;
  collect();
  const before = process.memoryUsage();
  const kept = Array.from({ length: some }, work);
  collect();
  const after = process.memoryUsage();
  const bytes = after.heapUsed - before.heapUsed + after.arrayBuffers - before.arrayBuffers;
  return bytes / kept.length / (1 << 20);
}

function plans(): void {
  const names = Array.from({ length: count }, (_, at) => `depot_pan.${at + 1}.png`);
  const item = itemOf(names);
  const cases: [string, NameRuleInput[]][] = [
    ['padded to one width', [{ kind: 'number', digits: 'auto' }]],
    ['1-100000 to 2-100001', [{ kind: 'number', first: 2 }]],
    [
      'a template of five fields',
      [{ kind: 'template', template: '{stem:upper}_{folder}_{frame:7}_{counter:6}.{ext}' }],
    ],
    [
      'an expression over whole names',
      [{ kind: 'replace', as: 'expression', find: '(\\w+)\\.(\\d+)', with: '$2_$1', where: 'whole' }],
    ],
  ];
  console.log(
    `Plan of ${count.toLocaleString('en-GB')} renames: every new name, held against each other and the folder`,
  );
  for (const [words, rules] of cases) {
    const spec = namingSpecSchema.parse({ version: 1, rules });
    const work = () => planRename([item], spec, { root: 'bench', into: 'bench', names: () => names });
    work();
    const times = Array.from({ length: rounds }, () => {
      const start = performance.now();
      work();
      return performance.now() - start;
    });
    const held = heldBy(work);
    console.log(`  ${words.padEnd(32)} ${middle(times).toFixed(0)} ms, ${held.toFixed(0)} MiB held for as many rows`);
  }
}

async function carry(): Promise<void> {
  const root = mkdtempSync(join(tmpdir(), 'shale-rename-'));
  const folder = join(root, 'frames');
  mkdirSync(folder);
  try {
    const names = Array.from({ length: count }, (_, at) => `depot_pan.${at + 1}.png`);
    for (const name of names) writeFileSync(join(folder, name), 'x');
    console.log(
      `\nCarrying out ${count.toLocaleString('en-GB')} renames on the spot; bare is renameSync of every file in the same folder`,
    );
    let number = 0;
    for (const [words, rules] of [
      ['other names', [{ kind: 'replace', find: 'depot', with: 'yard' }]],
      ['each up by one, all overlapping', [{ kind: 'number', first: 2 }]],
    ] as [string, NameRuleInput[]][]) {
      const { from, to } = planOf(names, rules);
      const rows = { from: from.map((name) => `frames/${name}`), to: to.map((name) => `frames/${name}`) };
      const paths = from.map((name, at) => [join(folder, to[at]!), join(folder, name)] as const);
      /** By our own way: identities, journal, flush, naming, flush. */
      const ours = () =>
        carryOutRename(
          {
            id: `bench${(number += 1)}`,
            mode: 'rename',
            from: root,
            into: root,
            roots: ['bench', 'bench'],
            rows,
            sentence: '',
          },
          { disk: realDisk, journals: join(root, 'journals') },
        );
      /** The same renames back, in the same order. */
      const bare = () => {
        for (const [now, then] of paths) renameSync(now, then);
      };
      const pairs: [number, number][] = [];
      for (let round = 0; round <= rounds; round += 1) {
        const start = performance.now();
        await ours();
        const between = performance.now();
        bare();
        // The first is for warmth.
        if (round > 0) pairs.push([between - start, performance.now() - between]);
      }
      const ratio = middle(pairs.map(([a, b]) => a / b));
      console.log(
        `  ${words.padEnd(32)} ${middle(pairs.map(([a]) => a)).toFixed(0)} ms, bare ${middle(pairs.map(([, b]) => b)).toFixed(0)} ms, ratio ${ratio.toFixed(2)}`,
      );
    }
  } finally {
    rmSync(root, { recursive: true, force: true });
  }
}

/** The bench of names. */
export async function renameBench(): Promise<void> {
  plans();
  await carry();
}
