import { existsSync } from 'node:fs';
import { mkdir, open, readdir, readFile, rename, stat, unlink } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Command } from 'commander';
import { groupNames } from '@shale/core';
import { randomFrom } from './random.ts';

// `npm run feed`: a stand-in for a render machine. It writes the frames of a sample into a folder slowly and out of
// order, a piece of a file at a time; it can die in the middle of one, and goes on where it was when it is started again.

const project = fileURLToPath(new URL('..', import.meta.url));
const data = resolve(process.env.SHALE_DATA ?? join(project, '.shale'));

/** How a feed goes. */
export interface FeedOptions {
  /** The folder with the frames to feed. */
  from: string;
  /** The folder that they are written into. */
  into: string;
  /** Milliseconds for each frame. */
  each: number;
  /** Frames that may be out of order: each comes at most so many places early or late. */
  shuffle: number;
  /** Frames after which it dies, in the middle of the next; none where it goes to the end. */
  dieAfter?: number;
  /** Whether frames are written under a temporary name and renamed when whole, as careful machines do. */
  careful?: boolean;
  seed: number;
  onFrame?: (name: string, done: number, total: number) => void;
}

/** Pieces in which a frame is written. */
const pieces = 4;

const wait = (milliseconds: number): Promise<void> => new Promise((done) => setTimeout(done, milliseconds));

/** The order in which frames come: each up to `shuffle` places away from its own, the same for the same seed. */
export function feedOrder(count: number, shuffle: number, seed: number): number[] {
  const random = randomFrom(seed);
  return Array.from({ length: count }, (_, at) => ({ at, place: at + (random() - 0.5) * 2 * shuffle }))
    .sort((a, b) => a.place - b.place)
    .map(({ at }) => at);
}

async function writeSlowly(path: string, bytes: Buffer, time: number, stopAt: number): Promise<void> {
  const file = await open(path, 'w');
  try {
    for (let piece = 0; piece < stopAt; piece += 1) {
      const from = Math.floor((bytes.length * piece) / pieces);
      const to = Math.floor((bytes.length * (piece + 1)) / pieces);
      await file.write(bytes, from, to - from, from);
      await wait(time / pieces);
    }
  } finally {
    await file.close();
  }
}

/**
 * Feeds the frames of one sequence.
 * @returns `whole` when all are written, `died` where it was to die on the way
 */
export async function feed(options: FeedOptions): Promise<'whole' | 'died'> {
  const { from, into, each, shuffle, dieAfter, careful, seed, onFrame } = options;
  const listed = await readdir(from);
  const [sequence] = groupNames(listed).sequences.sort((a, b) => b.frames.length - a.frames.length);
  if (!sequence) throw new Error(`${from} holds no sequence of frames`);
  const names = Array.from(sequence.files, (index) => listed[index]!);
  await mkdir(into, { recursive: true });
  let done = 0;
  for (const at of feedOrder(names.length, shuffle, seed)) {
    const name = names[at]!;
    const bytes = await readFile(join(from, name));
    const target = join(into, name);
    // What an earlier run finished stays; what it left half is written anew.
    if (existsSync(target) && (await stat(target)).size === bytes.length) {
      done += 1;
      continue;
    }
    const path = careful ? `${target}.part` : target;
    if (dieAfter !== undefined && done >= dieAfter) {
      await writeSlowly(path, bytes, each, Math.floor(pieces / 2));
      return 'died';
    }
    await writeSlowly(path, bytes, each, pieces);
    if (careful) await rename(path, target);
    done += 1;
    onFrame?.(name, done, names.length);
  }
  return 'whole';
}

async function main(): Promise<void> {
  const program = new Command('npm run feed --')
    .description('Stands in for a render machine: writes frames into a folder slowly and out of order.')
    .option('--from <folder>', 'frames to feed', join(data, 'demo', 'tram_museum', 'turntables', 'bell_turn'))
    .option('--into <folder>', 'where they are written', join(data, 'intake', 'feed', 'bell_turn'))
    .option('--each <ms>', 'milliseconds for a frame', '700')
    .option('--shuffle <places>', 'how far out of order frames may come', '4')
    .option('--die-after <frames>', 'dies in the middle of the frame after so many; start again to go on')
    .option('--careful', 'writes under a temporary name and renames')
    .option('--again', 'takes away what an earlier run wrote, and begins anew')
    .option('--seed <number>', 'another order', '1')
    .parse();
  const given = program.opts<
    Record<'from' | 'into' | 'each' | 'shuffle' | 'seed', string> & {
      dieAfter?: string;
      careful?: boolean;
      again?: boolean;
    }
  >();
  const into = resolve(given.into);
  if (given.again && existsSync(into)) {
    // Only what it would write itself is taken away.
    const own = new Set(await readdir(resolve(given.from)));
    for (const name of await readdir(into)) if (own.has(name.replace(/\.part$/, ''))) await unlink(join(into, name));
  }
  console.log(`feeding ${resolve(given.from)}\n     into ${into}; Ctrl-C ends it, starting again goes on`);
  const end = await feed({
    from: resolve(given.from),
    into,
    each: Number(given.each),
    shuffle: Number(given.shuffle),
    dieAfter: given.dieAfter === undefined ? undefined : Number(given.dieAfter),
    careful: given.careful,
    seed: Number(given.seed),
    onFrame: (name, done, total) => console.log(`${String(done).padStart(5)} of ${total}  ${name}`),
  });
  console.log(end === 'whole' ? 'all frames are written' : 'died in the middle of a frame');
  process.exitCode = end === 'whole' ? 0 : 1;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  main().catch((error: unknown) => {
    console.error(`The feed did not run: ${(error as Error).message}`);
    process.exitCode = 2;
  });
}
