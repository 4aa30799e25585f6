import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { CadenceFinder, declare, makePlan, parseSpec, type Source, type TimeSpec } from '@shale/core';
import { differencesOf } from '@shale/engine/differences.ts';
import { ClipReader } from '@shale/media';
import { numbered, writeTestClip } from '@shale/media/video/testClips.ts';
import { middle, seconds } from './measuring.ts';

const frames = 100_000;

const long: Source = {
  kind: 'sequence',
  folder: '',
  name: 'f.######.png',
  pattern: { prefix: 'f.', padding: 6, suffix: '.png' },
  coverage: [{ first: 0, last: frames - 1, step: 1 }],
  irregular: [],
  doubled: [],
  files: frames,
  bytes: 0,
  modified: 0,
  weights: [1],
  findings: [],
  facts: {
    width: 64,
    height: 48,
    format: 'png',
    sample: 'u8',
    channels: ['R', 'G', 'B'],
    hasAlpha: false,
    transfer: 'srgb',
    more: [],
  },
};

/** Twenty keys that go on at changing speed, as many results as frames. */
const keys = Array.from({ length: 20 }, (_, at) => ({
  from: Math.round(((at + 0.4 * Math.sin(at * 1.7)) * (frames - 1)) / 19.4),
  to: Math.round((at * (frames - 1)) / 19),
})).map(({ from, to }) => ({ from: Math.min(frames - 1, Math.max(0, from)), to }));

function mapping(bend: 'straight' | 'smooth', between: TimeSpec['between']): void {
  const spec = parseSpec({
    version: 1,
    write: { format: 'png', sample: 'u8', alpha: 'none', transfer: 'srgb' },
    time: { how: 'curve', curve: { keys, bend, backward: true }, between },
  });
  const declaration = declare(long, { rate: { num: 24, den: 1 } });
  let runs = 0;
  const times = Array.from({ length: 15 }, () => {
    const start = performance.now();
    const plan = makePlan('', long, declaration, spec);
    if (plan.problems.length > 0) throw new Error(plan.problems[0]!.fact);
    runs = plan.runs.length;
    return performance.now() - start;
  });
  console.log(
    `  ${bend}, ${between}: ${middle(times).toFixed(0)} ms (${Math.min(...times).toFixed(0)} to ${Math.max(...times).toFixed(0)}), ${runs} runs`,
  );
}

/** Mapping by curves, and cadence against a loop that only decodes. */
export async function timeBench(): Promise<void> {
  console.log(`A plan of ${frames.toLocaleString('en-GB')} frames through a curve of 20 keys, its losses counted`);
  for (const bend of ['straight', 'smooth'] as const)
    for (const between of ['nearest', 'blend'] as const) mapping(bend, between);
  const finding = Array.from({ length: 5 }, () => {
    const finder = new CadenceFinder();
    for (let at = 0; at < 10_000; at += 1)
      finder.add(at, at % 2 === 0 ? { whole: 3, even: 3, odd: 3 } : { whole: 0.1, even: 0.1, odd: 0.1 });
    const start = performance.now();
    finder.result();
    return performance.now() - start;
  });
  console.log(`The cadence of 10,000 frames told from their differences: ${middle(finding).toFixed(0)} ms`);
  const folder = await mkdtemp(join(tmpdir(), 'shale-bench-time-'));
  try {
    for (const count of [1000, 10_000]) {
      const path = join(folder, `c${count}.mp4`);
      await writeTestClip(path, {
        count,
        width: 640,
        height: 360,
        options: { preset: 'ultrafast', g: '50' },
        picture: (at, width, height) => numbered(Math.floor(at / 2), width, height),
      });
      const source = { ...long, kind: 'clip' as const, name: `c${count}.mp4`, pattern: undefined };
      const clip = {
        codec: 'h264',
        container: 'mov',
        pixels: 'yuv420p',
        matrix: { value: 'bt709' as const, said: true },
        range: { value: 'limited' as const, said: true },
        turn: 0 as const,
        fields: 'progressive' as const,
        base: { num: 1, den: 1000 },
        start: 0,
        variable: false,
        counted: 'packets' as const,
        leftOut: 0,
        keys: 1,
        longestGroup: 50,
        most: 0,
        bytes: 0,
        cut: 0,
        torn: [],
      };
      const followed = {
        ...source,
        coverage: [{ first: 0, last: count - 1, step: 1 }],
        facts: { ...long.facts!, clip },
      };
      const bare = async () => {
        const reader = await ClipReader.open(path, { threads: 1 });
        for (let at = 0; at < count; at += 1) await reader.frameAt(at, async () => undefined);
        await reader.close();
      };
      await bare();
      const before = process.memoryUsage().rss;
      const mine = await seconds(() => differencesOf({ root: folder, source: followed, start: 0, end: count }));
      const grown = (process.memoryUsage().rss - before) / 2 ** 20;
      const theirs = await seconds(bare);
      console.log(
        `${count.toLocaleString('en-GB')} frames of 640 x 360 compared: ${(count / mine).toFixed(0)} frames/s, ${(theirs / mine).toFixed(2)} of a loop that only decodes, ${grown.toFixed(0)} MiB more memory`,
      );
    }
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
