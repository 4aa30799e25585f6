import { spawnSync } from 'node:child_process';
import { cp, mkdir, mkdtemp, readdir, rm, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Image } from '@shale/core';
import { usualSettings, writeStill } from '@shale/media';
import { middle, seconds } from './measuring.ts';

const project = fileURLToPath(new URL('../..', import.meta.url));
const [width, height] = [1920, 1080];
const rounds = 3;

/** A picture of 16 bits with slopes and grain, as a camera has them. */
function drawn(frame: number): Image {
  const data = new Uint16Array(width * height * 3);
  let state = frame + 1;
  for (let y = 0, at = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1, at += 3) {
      state = (Math.imul(state, 1_103_515_245) + 12_345) & 0x7fffffff;
      const grain = ((state >> 8) % 1024) - 512;
      const light = 32_768 + 16_000 * Math.sin((x + frame * 7) / 97) + 12_000 * Math.cos((y - frame * 5) / 71) + grain;
      data[at] = light;
      data[at + 1] = light * 0.8 + 6000;
      data[at + 2] = 65_535 - light * 0.7;
    }
  return { width, height, channels: 3, sample: 'u16', data };
}

/** Runs a program of Node.js to its end. @throws Error with what it said */
function run(...args: string[]): void {
  const { status, stderr } = spawnSync(process.execPath, args, { cwd: project, encoding: 'utf8' });
  if (status !== 0) throw new Error(stderr);
}

/** `npm run bench -- script`: whole processes, Shale's command line, which reads every result back, beside a script that does not. */
export async function scriptBench(): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'shale-script-'));
  console.log('\nWhole processes: shale convert, every frame checked, beside a script over libvips that checks none');
  try {
    const all = join(folder, 'all');
    await mkdir(all);
    for (let frame = 0; frame < 24; frame += 1)
      await writeStill(join(all, `f.${String(frame).padStart(4, '0')}.png`), 'png', drawn(frame), usualSettings);
    const unchecked = join(folder, 'unchecked.json');
    const write = { format: 'png', sample: 'u8', alpha: 'none', transfer: 'srgb' };
    await writeFile(unchecked, JSON.stringify({ version: 1, write, readBack: false }));
    for (const many of [1, 24]) {
      const from = join(folder, `of-${many}`);
      await mkdir(from);
      for (const name of (await readdir(all)).slice(0, many)) {
        await cp(join(all, name), join(from, name));
        await utimes(join(from, name), new Date(Date.now() - 3_600_000), new Date(Date.now() - 3_600_000));
      }
      for (const [words, ours, theirs] of [
        ['PNG 16-bit -> 8-bit', [], []],
        ['the same, unchecked', ['--spec', unchecked], []],
        ['at half size', ['--scale', '50%'], ['--width', '960']],
      ] as const)
        await one({ folder, from, words: `${words}, ${many === 1 ? '1 frame' : `${many} frames`}`, ours, theirs });
    }
    await smallFrames(folder);
    await starts(all);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Many small frames, where what is done for every file decides. */
async function smallFrames(folder: string): Promise<void> {
  const from = join(folder, 'small');
  await mkdir(from);
  const side = 64;
  for (let frame = 0; frame < 5000; frame += 1) {
    const data = Uint8Array.from({ length: side * side * 3 }, (_, at) => (at * 7 + frame * 3 + (at >> 5)) & 255);
    const image: Image = { width: side, height: side, channels: 3, sample: 'u8', data };
    const path = join(from, `f.${String(frame).padStart(4, '0')}.png`);
    await writeStill(path, 'png', image, usualSettings);
    await utimes(path, new Date(Date.now() - 3_600_000), new Date(Date.now() - 3_600_000));
  }
  const words = 'PNG 8-bit -> 16-bit, 5,000 of 64 x 64';
  await one({ folder, from, words, ours: ['--depth', '16'], theirs: ['--depth', '16'] });
}

/** How long it takes until a command has answered, beside Node.js that does nothing. */
async function starts(folder: string): Promise<void> {
  const bare = await ofRounds(() => run('-e', '0'));
  for (const [words, ...args] of [
    ['shale --help', '--help'],
    ['shale scan, 24 files', 'scan', folder],
  ] as const)
    console.log(
      `  ${words.padEnd(38)} ${(await ofRounds(() => run('cli/bin.mjs', ...args))).toFixed(2)} s, node alone ${bare.toFixed(2)} s`,
    );
}

async function ofRounds(work: () => void): Promise<number> {
  const times: number[] = [];
  for (let round = 0; round < rounds + 2; round += 1) times.push(await seconds(async () => work()));
  return middle(times);
}

interface Pair {
  folder: string;
  from: string;
  words: string;
  ours: readonly string[];
  theirs: readonly string[];
}

async function one({ folder, from, words, ours, theirs }: Pair): Promise<void> {
  const to = join(folder, 'to');
  const usual = ['--format', 'png', '--depth', '8', '--transfer', 'srgb', '--alpha', 'none', '--rate', '24'];
  const times = { ours: [] as number[], theirs: [] as number[] };
  for (let round = 0; round < rounds; round += 1) {
    await rm(to, { recursive: true, force: true });
    times.ours.push(
      await seconds(async () =>
        run('cli/bin.mjs', 'convert', join(from, 'f.####.png'), ...usual, '--out', to, ...ours),
      ),
    );
    await rm(to, { recursive: true, force: true });
    times.theirs.push(await seconds(async () => run('tools/bench/scripted.mjs', from, to, ...theirs)));
  }
  const [own, other] = [middle(times.ours), middle(times.theirs)];
  console.log(
    `  ${words.padEnd(38)} Shale ${own.toFixed(2)} s, script ${other.toFixed(2)} s, ratio ${(other / own).toFixed(2)}`,
  );
}
