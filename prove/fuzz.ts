import { spawnSync } from 'node:child_process';
import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { makeSamples, type Image } from '@shale/core';
import { usualSettings, writeStill } from '@shale/media';
import type { Ground, Outcome } from './proof.ts';

const project = fileURLToPath(new URL('..', import.meta.url));

/** Decoders of our own in C++, and what each is built of. */
const targets = {
  png: ['media/png/src/read.cc'],
  tiff: ['media/tiff/src/read.cc', 'media/tiff/src/write.cc', 'media/native/deflate.cc'],
} as const;

/** Seconds that each is tried: a minute, or as many as SHALE_FUZZ_SECONDS says (an hour by hand). */
const secondsOf = (quick: boolean): number => Number(process.env.SHALE_FUZZ_SECONDS ?? (quick ? 10 : 60));

/** Decoders of our own against bytes that a fuzzer makes, led by which branches they reach, with every access and sum watched. */
export async function proveFuzz({ folder, quick, only }: Ground): Promise<Outcome[]> {
  const outcomes: Outcome[] = [];
  for (const name of ['png', 'tiff'] as const) {
    const outcome = { row: 'fuzz', column: name, name: `fuzz ${name}` };
    if (!outcome.name.includes(only)) continue;
    const program = join(folder, `fuzz-${name}`);
    const built = spawnSync(
      'clang++',
      [
        ...['-std=c++17', '-O1', '-g', '-fsanitize=fuzzer,address,undefined', '-fno-sanitize-recover=undefined'],
        ...['-DFUZZING_BUILD_MODE_UNSAFE_FOR_PRODUCTION', '-o', program, `prove/fuzz/${name}.cc`, ...targets[name]],
        ...['-ldeflate', '-lisal'],
      ],
      { cwd: project, encoding: 'utf8' },
    );
    // `npm run prove` installs both; `npm test` tries it where they are there.
    if (built.error || /libclang_rt/.test(built.stderr)) {
      outcomes.push({ ...outcome, lacking: 'there is no clang++ here, or not its libraries' });
      continue;
    }
    if (built.status !== 0) throw new Error(built.stderr);
    const corpus = join(folder, `corpus-${name}`);
    await mkdir(corpus);
    await seeds(corpus);
    const tried = spawnSync(
      program,
      [corpus, `-max_total_time=${secondsOf(quick)}`, '-max_len=4096', '-timeout=10', '-print_final_stats=1'],
      { cwd: folder, encoding: 'utf8', maxBuffer: 1 << 28 },
    );
    const told = /stat::number_of_executed_units:\s*(\d+)/.exec(tried.stderr)?.[1] ?? '0';
    const reached = [...tried.stderr.matchAll(/cov: (\d+)/g)].at(-1)?.[1] ?? '0';
    console.log(`fuzz ${name}: ${told} inputs, ${reached} branches reached`);
    // One that tries nothing proves nothing.
    const isWhole = tried.status === 0 && Number(told) > 1000;
    outcomes.push(isWhole ? outcome : { ...outcome, wrong: tried.stderr.slice(-3000) });
  }
  return outcomes;
}

/** Small files to begin with, of every number of channels and both depths. */
async function seeds(folder: string): Promise<void> {
  for (const sample of ['u8', 'u16'] as const)
    for (const channels of [1, 2, 3, 4] as const) {
      const data = makeSamples(sample, 9 * 7 * channels);
      data.forEach((_, at) => (data[at] = (at * 37) & 255));
      const image: Image = { width: 9, height: 7, channels, sample, data };
      await writeStill(join(folder, `${sample}-${channels}.png`), 'png', image, usualSettings);
    }
  await writeFile(join(folder, 'plain'), Buffer.alloc(600, 7));
}
