import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { isAnimationJson } from '@shale/media/animationJson.ts';
import {
  findingOfProblem,
  besideEachOther,
  changeOf,
  namesOf,
  problemsOf,
  clipFindings,
  describeSingle,
  fileKind,
  fileOfFrame,
  inOrder,
  isStillWriting,
  problemOf,
  quietAfter,
  sampleFrames,
  singleFindings,
  type Described,
  type Finding,
  type FrameColumns,
  type FrameNumber,
  type Moment,
  type Problem,
  type Source,
  type Facts,
} from '@shale/core';
import { enterChecked, withDecoded, type Checked } from './check.ts';
import type { Listed } from './list.ts';
import type { WorkerPool } from './pool.ts';
import { framesToRead, readFiles, type ToRead } from './read.ts';
import { carryOver, loadReadings, nothingKept, placesBefore, saveReadings, type KeptFolder } from './readings.ts';
import type { Probed } from './probed.ts';

/** One folder's sources and the names that are no footage; `folder` is below the root, with `/`. */
export interface ScannedFolder {
  folder: string;
  sources: Source[];
  other: string[];
  /** Folders directly below. */
  subfolders: string[];
  /** What could not be read, and why. */
  notes: Problem[];
  /** Files in it, of every kind. */
  files: number;
  /** True while headers are still being read: the same folder comes again, with these sources anew or with others. */
  unfinished?: boolean;
  /** Set where the folder is not there any more. */
  gone?: boolean;
  /** Whether files changed while they were looked at: another scan is due. */
  changed?: boolean;
}

export interface ScanOptions {
  signal?: AbortSignal;
  /** Milliseconds without a change after which a file counts as whole; {@link quietAfter} where it is not given. */
  quiet?: number;
  /** Where what is read of a folder is kept until the next scan; nowhere where it is not given. */
  readingsOf?: (folder: string) => string;
  /** Of a folder, which number of a name counts the frames, where a person says so. */
  frameNumberIn?: (folder: string) => FrameNumber | undefined;
  /** Of a folder, what a check of every picture found since the last scan. */
  checkedIn?: (folder: string) => Checked | undefined;
  /** Told as headers are read: files done and files to do in the folder. */
  onProgress?: (folder: string, done: number, total: number) => void;
}

/** Now. @param quiet milliseconds without a change after which a file counts as whole */
export const momentNow = (quiet = quietAfter): Moment => ({ now: Date.now(), quiet });

/** Sources judged at once: their columns travel to the process and back. */
const judgedTogether = 64;

/** Clips and sounds that a process opens before it is asked for something else. */
const probedTogether = 16;

/** A folder with more files than this is told of before all its headers are read. */
const toldEarly = 1000;

/** Stills of one folder that are told of together. */
const stillsTogether = 4000;

/**
 * Walks a folder and everything below it, sorted by name. Links are not followed, hidden folders are left out.
 * @throws ShaleError where the root itself is not there or may not be read; a folder below that may not be read is told
 */
export async function* scanFolders(
  root: string,
  pool: WorkerPool,
  options: ScanOptions = {},
): AsyncGenerator<ScannedFolder> {
  const open = [''];
  while (open.length > 0 && !options.signal?.aborted) {
    const folder = open.shift()!;
    for await (const scanned of scanFolder(root, folder, pool, options)) {
      yield scanned;
      if (!scanned.unfinished) open.unshift(...scanned.subfolders);
    }
  }
}

/** One folder without those below it, once or, while headers are read, several times. @throws as {@link scanFolders} */
export async function* scanFolder(
  root: string,
  folder: string,
  pool: WorkerPool,
  options: ScanOptions = {},
): AsyncGenerator<ScannedFolder> {
  let listed: Listed;
  const moment = momentNow(options.quiet);
  try {
    listed = await pool.run(
      'list',
      { root, folder, moment, frameNumber: options.frameNumberIn?.(folder) },
      { signal: options.signal },
    );
  } catch (error) {
    const problem = problemOf(error);
    if (folder === '') throw error;
    if (options.signal?.aborted) return;
    const gone = problem.code === 'folder-not-found';
    const notes = gone ? [] : [folderNote(folder, problem)];
    yield { folder, sources: [], other: [], subfolders: [], files: 0, notes, gone };
    return;
  }
  const { subfolders, other, notes, files } = listed;
  const told = (sources: Source[], more: Partial<ScannedFolder> = {}): ScannedFolder => ({
    folder,
    sources,
    other,
    subfolders,
    notes,
    files,
    ...more,
  });
  const at = join(root, folder);
  const { sequences } = listed;
  if (files > toldEarly && sequences.length > 0) {
    const early = await firstFacts(at, sequences, pool, options);
    if (!options.signal?.aborted) yield told(besideEachOther(early), { unfinished: true });
  }
  const path = options.readingsOf?.(folder);
  const before = await loadReadings(path);
  const kept = nothingKept();
  const work: Work = {
    at,
    pool,
    moment,
    before,
    kept,
    changed: false,
    checked: options.checkedIn?.(folder),
    ...options,
    onDone: count(folder, files, options),
  };
  const stills = stillsOf(listed, folder, work);
  // Stills touch nobody else: thousands of them are told of a part at a time.
  let tail: Source[] = [];
  for (let from = 0; from < stills.sources.length; from += stillsTogether) {
    if (tail.length > 0) yield told(tail, { unfinished: true });
    tail = await readStills(stills, from, from + stillsTogether, work);
    if (options.signal?.aborted) return;
  }
  const all = [...(await readSequences(sequences, work)), ...(await probeMedia(mediaOf(listed, folder), work))];
  if (options.signal?.aborted) return;
  const known = kept.sequences.size + kept.media.size + kept.stills.names.length;
  if (path !== undefined && known > 0) await saveReadings(path, kept);
  yield told([...besideEachOther(all), ...tail], { changed: work.changed });
}

/** Counts files of a folder as they are looked at. */
function count(folder: string, total: number, { onProgress }: ScanOptions): (files: number) => void {
  let done = 0;
  return (files) => {
    done += files;
    onProgress?.(folder, done, total);
  };
}

const folderNote = (folder: string, { code, fact, wayOut }: Problem): Problem => ({
  code: 'folder-not-read',
  fact:
    code === 'not-allowed'
      ? `The folder ${folder} cannot be read: permission denied.`
      : `The folder ${folder} was not read: ${fact}`,
  wayOut: code === 'not-allowed' ? 'Give the account that runs Shale the right to read it, and scan again.' : wayOut,
  subject: folder,
});

/** What the first, middle and last frame of each sequence say: enough to show it while the rest is read. */
async function firstFacts(
  at: string,
  described: readonly Described[],
  pool: WorkerPool,
  { signal }: ScanOptions,
): Promise<Source[]> {
  const first = described.slice(0, 32);
  const asked = first.map(({ source }) =>
    sampleFrames(source.coverage, 3).map((frame) => ({
      path: join(at, fileOfFrame({ ...source, folder: '' }, frame)!),
      kind: 'picture' as const,
    })),
  );
  const answers = await pool.run('probe', asked.flat(), { signal, first: true }).catch((): Probed[] => []);
  let from = 0;
  const facts = first.map((_, index) => {
    const mine = answers.slice(from, (from += asked[index]!.length)).find((answer) => 'facts' in answer);
    return mine && 'facts' in mine ? mine.facts : undefined;
  });
  return described.map(({ source }, index) => ({ ...source, facts: facts[index] }));
}

/** What reading a folder's sources stands on, and what comes of it. */
interface Work extends ScanOptions {
  /** The folder, absolute. */
  at: string;
  pool: WorkerPool;
  moment: Moment;
  before: KeptFolder;
  kept: KeptFolder;
  /** Whether files changed while they were looked at. */
  changed: boolean;
  onDone: (files: number) => void;
  checked?: Checked;
}

/** Reads the headers of sequences' files, but of those that were kept, and works out their findings. */
async function readSequences(described: readonly Described[], work: Work): Promise<Source[]> {
  const { at, pool, moment, before, kept, signal, onDone } = work;
  const known = described.map(({ source, columns }) => {
    const old = before.sequences.get(source.name);
    const carried = carryOver(columns, old, old ? placesBefore(columns, old.columns) : new Int32Array(0));
    const change = old && changeOf(old.columns, columns);
    const isNew = change !== undefined && change.added + change.edited + change.removed > 0;
    const told = isNew ? { at: moment.now, ...change } : old?.change;
    const alike = isNew || carried.toRead.length > 0 ? undefined : old?.alike;
    kept.sequences.set(source.name, { columns, readings: carried.readings, change: told });
    return { source: { ...source, change: told }, columns, alike, ...carried };
  });
  const lists = known.map((one) => framesToRead(one.source, one.columns, one));
  if (await readFiles(at, lists, pool, { signal, onDone })) work.changed = true;
  for (const { source, columns, readings } of known)
    if (work.checked) enterChecked(work.checked, namesOf(source, columns), columns, readings);
  const sources: Source[] = [];
  for (let from = 0; from < known.length && !signal?.aborted; from += judgedTogether) {
    const part = known.slice(from, from + judgedTogether);
    const asked = part.map(({ source, columns, readings, alike }) => ({ source, columns, readings, alike }));
    for (const { source, alike } of await pool.run('judge', { folder: at, sources: asked, moment }, { signal })) {
      sources.push(source);
      kept.sequences.get(source.name)!.alike = alike;
    }
  }
  return sources;
}

/**
 * One sequence with the facts of its headers and its findings.
 * @param folder absolute
 * @param checked what a check of every picture found
 */
export async function readSequence(
  folder: string,
  described: Described,
  pool: WorkerPool,
  checked?: Checked,
): Promise<Source> {
  return (await readSequences([described], plainWork(folder, pool, checked)))[0]!;
}

/** Work on a folder of which nothing is kept. */
const plainWork = (folder: string, pool: WorkerPool, checked?: Checked): Work => ({
  at: folder,
  pool,
  moment: momentNow(),
  before: nothingKept(),
  kept: nothingKept(),
  changed: false,
  checked,
  onDone: () => undefined,
});

/**
 * One file as a source of its own, whatever lies beside it; undefined where there is none of that name that is footage.
 * @param folder absolute
 */
export async function readOne(
  folder: string,
  name: string,
  pool: WorkerPool,
  checked?: Checked,
): Promise<Source | undefined> {
  const told = await stat(join(folder, name)).catch(() => undefined);
  const said = fileKind(name);
  const kind = said === 'other' && isAnimationJson(join(folder, name)) ? 'picture' : said;
  if (!told?.isFile() || kind === 'other') return undefined;
  const singles = {
    kinds: [kind === 'picture' ? ('still' as const) : kind],
    names: [name],
    bytes: Float64Array.of(told.size),
    modified: Float64Array.of(told.mtimeMs),
  };
  const work = plainWork(folder, pool, checked);
  const sources =
    kind === 'picture'
      ? await readStills(stillsOf({ singles }, '', work), 0, 1, work)
      : await probeMedia(mediaOf({ singles }, ''), work);
  return sources[0];
}

/** The stills of a folder, all in one set of columns, and what is known of them. */
interface StillSet extends ToRead {
  sources: Source[];
}

function stillsOf({ singles }: Pick<Listed, 'singles'>, folder: string, { moment, before, kept }: Work): StillSet {
  const places = singles.kinds.flatMap((kind, index) => (kind === 'still' ? [index] : []));
  const names = places.map((index) => singles.names[index]!);
  const columns: FrameColumns = {
    frames: Float64Array.from(places, (_, place) => place),
    bytes: Float64Array.from(places, (index) => singles.bytes[index]!),
    modified: Float64Array.from(places, (index) => singles.modified[index]!),
  };
  const old = new Map(before.stills.names.map((name, place) => [name, place]));
  const was = Int32Array.from(names, (name) => old.get(name) ?? -1);
  const { readings, toRead } = carryOver(columns, before.stills, was);
  kept.stills = { names, columns, readings };
  const sources = names.map((name, place) => {
    const source = describeSingle(folder, 'still', name, columns.bytes[place]!, columns.modified[place]!);
    const edited = was[place]! >= 0 && before.stills.columns.modified[was[place]!] !== columns.modified[place];
    return edited ? { ...source, change: { at: moment.now, added: 0, edited: 1, removed: 0 } } : source;
  });
  return { names, columns, readings, places: toRead, sources };
}

/** Reads some of the stills, and works out what each tells. */
async function readStills(set: StillSet, from: number, to: number, work: Work): Promise<Source[]> {
  const { at, pool, signal, onDone, moment } = work;
  const mine = { ...set, places: set.places.filter((place) => place >= from && place < to) };
  if (await readFiles(at, [mine], pool, { signal, onDone })) work.changed = true;
  enterChecked(work.checked, set.names, set.columns, set.readings);
  const { kind, kinds, decoded } = set.readings;
  const problems = new Map(problemsOf(set.readings).map((problem) => [problem.at, problem]));
  return set.sources.slice(from, to).map((source, index) => {
    const place = from + index;
    const facts = kind[place]! >= 0 ? kinds[kind[place]!]! : undefined;
    const findings = singleFindings(source, moment, problems.get(place));
    const checked = decoded[place] ? { checked: facts?.pictures ?? 1 } : {};
    return { ...source, ...(facts && { facts }), ...asAnimation(facts), ...checked, findings };
  });
}

/** A still of several pictures is stepped through like a clip. */
const asAnimation = (facts: Facts | undefined): Partial<Source> =>
  facts?.pictures !== undefined && facts.pictures > 1
    ? { kind: 'clip', coverage: [{ first: 0, last: facts.pictures - 1, step: 1 }] }
    : {};

const mediaOf = ({ singles }: Pick<Listed, 'singles'>, folder: string): Source[] =>
  singles.kinds.flatMap((kind, index) =>
    kind === 'still'
      ? []
      : [describeSingle(folder, kind, singles.names[index]!, singles.bytes[index]!, singles.modified[index]!)],
  );

/** Clips and sounds with what their headers say; what was kept of unchanged ones holds. */
async function probeMedia(
  media: readonly Source[],
  { at, pool, moment, before, kept, signal, checked }: Work,
): Promise<Source[]> {
  const known = media.map((source) => {
    const old = before.media.get(source.name);
    const same = old?.bytes === source.bytes && old.modified === source.modified && !('problem' in old.probed);
    const change = old && !same ? { change: { at: moment.now, added: 0, edited: 1, removed: 0 } } : {};
    const now = checked?.get(source.name);
    const holds = now?.bytes === source.bytes && now.modified === source.modified;
    const decoded = holds ? now : same ? old.decoded : undefined;
    return { source: { ...source, ...change }, probed: same ? old.probed : undefined, decoded };
  });
  const unknown = known.filter(({ probed }) => probed === undefined);
  for (let from = 0; from < unknown.length && !signal?.aborted; from += probedTogether) {
    const part = unknown.slice(from, from + probedTogether);
    const asked = part.map(({ source }) => ({ path: join(at, source.name), kind: source.kind as 'clip' | 'sound' }));
    const answers = await pool.run('probe', asked, { signal });
    part.forEach((one, index) => (one.probed = answers[index]));
  }
  return known.flatMap(({ source, probed, decoded }) => {
    if (!probed) return [];
    kept.media.set(source.name, { bytes: source.bytes, modified: source.modified, probed, decoded });
    return [withDecoded(applyProbe(source, probed, moment), decoded)];
  });
}

const noPictures = ({ code, fact, wayOut }: Problem): Finding => ({
  code: findingOfProblem(code),
  severity: 'fault',
  sentence: fact,
  short: 'Cannot be decoded',
  mend: wayOut,
});

/** A clip or sound with what its header says. */
function applyProbe(source: Source, probed: Probed, moment: Moment): Source {
  const findings = singleFindings(source, moment, 'problem' in probed ? probed.problem : undefined);
  if ('problem' in probed) return { ...source, findings };
  if (!('facts' in probed)) return { ...source, findings, sound: { seconds: probed.seconds, more: probed.more } };
  const { facts, weights, damaged } = probed;
  const counted = source.kind === 'clip' && facts.frames;
  const ofClip = isStillWriting(source.modified, moment) ? [] : clipFindings(facts);
  return {
    ...source,
    facts,
    ...(weights ? { weights } : {}),
    coverage: counted ? [{ first: 0, last: facts.frames! - 1, step: 1 }] : [],
    findings: inOrder([...findings, ...(damaged ? [noPictures(damaged)] : []), ...ofClip]),
  };
}
