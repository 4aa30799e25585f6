import { basename, dirname, resolve } from 'node:path';
import { stat } from 'node:fs/promises';
import {
  coverageCount,
  coverageOf,
  expressionOf,
  frameName,
  frameOfName,
  hasFrames,
  isConvertible,
  isWild,
  loneNumber,
  parsePattern,
  printCoverage,
  printPattern,
  ShaleError,
  type Pattern,
  type Source,
  type Spec,
} from '@shale/core';
import {
  checkSource,
  momentNow,
  readOne,
  readSequence,
  scanFolders,
  type Checked,
  type WorkerPool,
} from '@shale/engine';

/** Whether a text is a pattern of numbered frames. */
const isPattern = (text: string): boolean => text.includes('#') || /%0?\d*d/.test(text);

/**
 * A source of a folder: a file by its own name, also one of a sequence, or a sequence by its pattern.
 * @throws ShaleError `source-not-found` naming what is there
 */
export async function findSource(folder: string, name: string, pool: WorkerPool, checked?: Checked): Promise<Source> {
  const one = await readOne(folder, name, pool, checked);
  if (one) return one;
  const pattern = isPattern(name) ? parsePattern(name) : undefined;
  const listed = (frameNumber?: number) =>
    pool.run('list', { root: folder, folder: '', moment: momentNow(), frameNumber });
  const { sequences, singles } = await listed();
  const named = ({ source }: { source: Source }) => source.name === printPattern(pattern!);
  // A pattern says itself which number counts the frames.
  const found = pattern && (sequences.find(named) ?? (await listed(placeOf(pattern))).sequences.find(named));
  if (found) return readSequence(folder, found, pool, checked);
  // A frame that stands alone is a still, and still fits its pattern.
  const alone = pattern && singles.names.find((file) => fits(file, pattern));
  const still = alone && (await readOne(folder, alone, pool, checked));
  if (still) return still;
  const names = [...sequences.map(({ source }) => source.name), ...singles.names];
  throw new ShaleError({
    code: 'source-not-found',
    fact: `${folder} holds no ${pattern ? printPattern(pattern) : name}; it holds ${names.slice(0, 5).join(', ') || 'no footage'}.`,
    wayOut: 'Name one of these, with one # per digit of the padding.',
    subject: name,
  });
}

/** {@link findSource}, every picture decoded where the spec treats damaged ones as missing. */
export async function sourceFor({ damaged }: Spec, folder: string, name: string, pool: WorkerPool): Promise<Source> {
  const source = await findSource(folder, name, pool);
  if (damaged === 'fail' || !hasFrames(source)) return source;
  const checked: Checked = new Map();
  await checkSource(folder, source, pool, checked);
  return findSource(folder, name, pool, checked);
}

/** Which number of a name a pattern counts, 1 for the first. */
const placeOf = ({ prefix }: Pattern): number => (prefix.match(/\d+/g)?.length ?? 0) + 1;

const fits = (file: string, pattern: Pattern): boolean => {
  const number = loneNumber(file);
  return number !== undefined && frameName(pattern, number.frame) === file;
};

/** A source that was named on the command line. */
export interface Found {
  /** The folder from which it is read, absolute: its root. */
  root: string;
  /** What that folder is called. */
  held: string;
  source: Source;
  /** Frames that were named one by one, as ranges; all where it is absent. */
  frames?: string;
  /** Whether it was found in a folder, not named itself. */
  isSwept?: true;
}

/** All that can be converted in and below a folder. */
async function below(folder: string, pool: WorkerPool, holds: (source: Source) => boolean): Promise<Found[]> {
  const found: Found[] = [];
  let early: Source[] = [];
  for await (const { sources, unfinished } of scanFolders(folder, pool)) {
    // What comes early comes again, but for stills that are told of in parts.
    early.push(...sources.filter(({ kind }) => !unfinished || kind === 'still'));
    if (unfinished) continue;
    for (const source of early)
      if (isConvertible(source) && holds(source)) found.push({ root: folder, held: basename(folder), source });
    early = [];
  }
  return found;
}

/** Files of one folder as the sources that they are of: frames that were named are taken, and no others. */
async function ofFiles(folder: string, names: readonly string[], pool: WorkerPool): Promise<Found[]> {
  const held = basename(folder);
  if (names.length === 1) return [{ root: folder, held, source: await findSource(folder, names[0]!, pool) }];
  const { sequences } = await pool.run('list', { root: folder, folder: '', moment: momentNow() });
  const left = new Set(names);
  const found: Found[] = [];
  for (const listed of sequences) {
    const frames = listed.source.pattern
      ? [...left].flatMap((name) => {
          const frame = frameOfName(listed.source.pattern!, name);
          return frame === undefined ? [] : [{ name, frame }];
        })
      : [];
    if (frames.length < 2) continue;
    for (const { name } of frames) left.delete(name);
    const source = await readSequence(folder, listed, pool);
    const taken = coverageOf(frames.map(({ frame }) => frame).sort((a, b) => a - b));
    const isWhole = coverageCount(taken) === coverageCount(source.coverage);
    found.push({ root: folder, held, source, ...(isWhole ? {} : { frames: printCoverage(taken) }) });
  }
  for (const name of left) found.push({ root: folder, held, source: await findSource(folder, name, pool) });
  return found;
}

const kindOf = (path: string): Promise<'folder' | 'file' | undefined> =>
  stat(path).then(
    (told) => (told.isDirectory() ? 'folder' : 'file'),
    () => undefined,
  );

/**
 * The sources that arguments name, in their order: folders with all below them, patterns, files, names with wildcards. Files of one
 * sequence are taken as that sequence.
 * @throws ShaleError `source-not-found` naming the argument, and what {@link findSource} throws
 */
export async function findMany(named: readonly string[], pool: WorkerPool): Promise<Found[]> {
  const found: Found[] = [];
  const files = new Map<string, string[]>();
  for (const argument of named) {
    const path = resolve(argument);
    const [folder, name] = [dirname(path), basename(path)];
    if ((await kindOf(path)) === 'folder') {
      const all = needed(argument, await below(path, pool, () => true));
      found.push(...all.map((one) => ({ ...one, isSwept: true as const })));
    } else if (isWild(argument)) found.push(...needed(argument, await wild(path, pool)));
    else if (isPattern(name))
      found.push({ root: folder, held: basename(folder), source: await findSource(folder, name, pool) });
    else files.set(folder, [...(files.get(folder) ?? []), name]);
  }
  for (const [folder, names] of files) found.push(...(await ofFiles(folder, names, pool)));
  return found;
}

/** Sources by a path with wildcards: by their whole way below the last folder that is plain. */
async function wild(path: string, pool: WorkerPool): Promise<Found[]> {
  const steps = path.split('/');
  const at = steps.findIndex(isWild);
  const root = steps.slice(0, at).join('/') || '/';
  const fits = expressionOf(steps.slice(at).join('/'));
  return below(root, pool, ({ folder, name }) => fits.test(folder === '' ? name : `${folder}/${name}`));
}

function needed(argument: string, found: Found[]): Found[] {
  if (found.length > 0) return found;
  throw new ShaleError({
    code: 'source-not-found',
    fact: `Nothing that can be converted is in or fits ${argument}.`,
    wayOut: 'Name a folder, a file, a pattern as shots/pan.####.exr, or a name with wildcards in quotes.',
    subject: argument,
  });
}
