import { join } from 'node:path';
import {
  besideEachOther,
  changeOf,
  enterReadings,
  findingsOf,
  fileOfFrame,
  inOrder,
  namesOf,
  problemOf,
  sampleFrames,
  type Described,
  type Finding,
  type Problem,
  type Source,
} from '@shale/core';
import type { Listed } from './list.ts';
import type { WorkerPool } from './pool.ts';
import { carryOver, loadReadings, saveReadings, type KeptFolder, type KeptSource } from './readings.ts';
import type { Probed } from './tasks.ts';

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
  /** True while headers are still being read: the same folder comes again. */
  unfinished?: boolean;
  /** Set where the folder is not there any more. */
  gone?: boolean;
  /** Whether files changed while they were looked at: another scan is due. */
  changed?: boolean;
}

export interface ScanOptions {
  signal?: AbortSignal;
  /** Where what is read of a folder is kept until the next scan; nowhere where it is not given. */
  readingsOf?: (folder: string) => string;
  /** Told as headers are read: files done and files to do in the folder. */
  onProgress?: (folder: string, done: number, total: number) => void;
}

/** Files that a process looks at before it is asked for something else. */
const chunk = 256;

/** Sources judged at once: their columns travel to the process and back. */
const judgedTogether = 64;

/** A folder with more files than this is told of before all its headers are read. */
const toldEarly = 1000;

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
  const now = Date.now();
  try {
    listed = await pool.run('list', { root, folder, now }, { signal: options.signal });
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
    sources: besideEachOther(sources),
    other,
    subfolders,
    notes,
    files,
    ...more,
  });
  if (files > toldEarly) {
    const early = await firstFacts(root, listed.sources, pool, options);
    if (!options.signal?.aborted) yield told(early, { unfinished: true });
  }
  const path = options.readingsOf?.(folder);
  const kept = await loadReadings(path);
  const read = await readSources(root, folder, listed.sources, pool, { ...options, kept, now });
  if (options.signal?.aborted) return;
  if (path !== undefined && (listed.sources.length > 0 || kept.size > 0)) await saveReadings(path, read.kept);
  yield told(read.sources, { changed: read.changed });
}

const folderNote = (folder: string, { code, fact, wayOut }: Problem): Problem => ({
  code: 'folder-not-read',
  fact: code === 'not-allowed' ? `The folder ${folder} may not be read.` : `The folder ${folder} was not read: ${fact}`,
  wayOut: code === 'not-allowed' ? 'Give the account that runs Shale the right to read it, and scan again.' : wayOut,
  subject: folder,
});

/** What the first, middle and last frame of each source say: enough to show it while the rest is read. */
async function firstFacts(
  root: string,
  described: Described[],
  pool: WorkerPool,
  { signal }: ScanOptions,
): Promise<Source[]> {
  const sequences = described.filter(({ source }) => source.kind === 'sequence').slice(0, 32);
  const asked = sequences.map(({ source }) =>
    sampleFrames(source.coverage, 3).map((frame) => ({
      path: join(root, fileOfFrame(source, frame)!),
      kind: 'picture' as const,
    })),
  );
  const answers = await pool.run('probe', asked.flat(), { signal, first: true }).catch((): Probed[] => []);
  let at = 0;
  const facts = new Map(
    sequences.map(({ source }, index) => {
      const mine = answers.slice(at, (at += asked[index]!.length)).find((answer) => 'facts' in answer);
      return [source, mine && 'facts' in mine ? mine.facts : undefined];
    }),
  );
  return described.map(({ source }) => ({ ...source, facts: facts.get(source) }));
}

const probeKind = { clip: 'clip', sound: 'sound' } as const;

/** What was read of a folder's sources. */
interface Read {
  sources: Source[];
  kept: KeptFolder;
  changed: boolean;
}

/**
 * Reads the headers of every file of some sources of one folder, but of those that were kept, and works out their findings.
 * @throws ShaleError where the work was stopped
 */
export async function readSources(
  root: string,
  folder: string,
  described: readonly Described[],
  pool: WorkerPool,
  options: ScanOptions & { kept?: KeptFolder; now?: number } = {},
): Promise<Read> {
  const { signal, onProgress, kept: before = new Map(), now = Date.now() } = options;
  const kept: KeptFolder = new Map();
  const work = described.map(({ source, columns }) => {
    const old = before.get(source.name);
    const { readings, toRead } = carryOver(columns, old);
    const change = old && changeOf(old.columns, columns);
    const isNew = change !== undefined && change.added + change.edited + change.removed > 0;
    const mine: KeptSource = { columns, readings, change: isNew ? { at: now, ...change } : old?.change };
    kept.set(source.name, mine);
    return {
      source: { ...source, change: mine.change },
      columns,
      readings,
      toRead,
      old,
      same: old !== undefined && !isNew,
      mine,
    };
  });
  const pictures = work.filter(({ source }) => source.kind === 'sequence' || source.kind === 'still');
  const total = pictures.reduce((sum, { toRead }) => sum + toRead.length, 0);
  let done = 0;
  let changed = false;

  // Files to look at, cut into chunks that may hold the end of one source and the beginning of the next.
  const files = function* () {
    for (const [index, { source, columns, toRead }] of pictures.entries()) {
      if (toRead.length === 0) continue;
      const names = namesOf(source, columns);
      for (const at of toRead)
        yield { index, at, name: names[at]!, bytes: columns.bytes[at]!, modified: columns.modified[at]! };
    }
  };
  const look = async (part: { index: number; at: number; name: string; bytes: number; modified: number }[]) => {
    const listed = { bytes: part.map(({ bytes }) => bytes), modified: part.map(({ modified }) => modified) };
    const names = part.map(({ name }) => name);
    const answer = await pool.run('look', { folder: join(root, folder), names, ...listed }, { signal });
    for (let from = 0; from < part.length;) {
      let to = from;
      while (to < part.length && part[to]!.index === part[from]!.index) to += 1;
      const slice = {
        ...answer.readings,
        kind: answer.readings.kind.subarray(from, to),
        picture: answer.readings.picture.subarray(from, to),
        content: answer.readings.content.subarray(from, to),
        problems: answer.readings.problems
          .filter(({ at }) => at >= from && at < to)
          .map((problem) => ({ ...problem, at: problem.at - from })),
      };
      enterReadings(
        pictures[part[from]!.index]!.readings,
        part.slice(from, to).map(({ at }) => at),
        slice,
      );
      from = to;
    }
    changed ||= answer.changed.length > 0;
    done += part.length;
    onProgress?.(folder, done, total);
  };
  const queue = files();
  // As many askers as processes, each with the next chunk: none waits for another.
  const asker = async () => {
    for (;;) {
      const part = [];
      for (let next = queue.next(); ; next = queue.next()) {
        if (next.done) break;
        part.push(next.value);
        if (part.length === chunk) break;
      }
      if (part.length === 0 || signal?.aborted) return;
      await look(part);
    }
  };
  await Promise.all(Array.from({ length: pool.capacity }, asker));
  if (signal?.aborted) return { sources: [], kept, changed };

  const sources = new Map<(typeof work)[number], Source>();
  for (let from = 0; from < pictures.length; from += judgedTogether) {
    const part = pictures.slice(from, from + judgedTogether);
    const input = part.map(({ source, columns, readings, old, same, toRead }) => ({
      source,
      columns,
      readings,
      alike: same && toRead.length === 0 ? old?.alike : undefined,
    }));
    const judged = await pool.run('judge', { folder: join(root, folder), sources: input, now }, { signal });
    judged.forEach(({ source, alike }, index) => {
      sources.set(part[index]!, source);
      part[index]!.mine.alike = alike;
    });
  }
  const media = work.filter(({ source }) => source.kind === 'clip' || source.kind === 'sound');
  const unknown = media.filter(({ same, old }) => !same || !old?.probed || 'problem' in old.probed);
  for (let from = 0; from < unknown.length; from += 16) {
    const part = unknown.slice(from, from + 16);
    const asked = part.map(({ source }) => ({
      path: join(root, fileOfFrame(source, 0)!),
      kind: probeKind[source.kind as 'clip'],
    }));
    const answers = await pool.run('probe', asked, { signal });
    part.forEach(({ mine }, index) => (mine.probed = answers[index]!));
  }
  for (const one of media) {
    const probed = one.mine.probed ?? one.old!.probed!;
    one.mine.probed = probed;
    sources.set(one, applyProbe(one.source, probed, findingsOf(one.source, { columns: one.columns, now })));
  }
  return { sources: work.map((one) => sources.get(one)!), kept, changed };
}

/** A clip or sound with what its header says. */
function applyProbe(source: Source, probed: Probed, findings: Finding[]): Source {
  if ('problem' in probed) {
    const { code, fact, wayOut } = probed.problem;
    const known = findings.some((finding) => finding.code === code || finding.code === 'still-writing');
    const finding: Finding = { code, severity: 'fault', sentence: fact, short: 'Cannot be read', mend: wayOut };
    return { ...source, findings: known ? findings : inOrder([...findings, finding]) };
  }
  if (!('facts' in probed)) return { ...source, findings, sound: { seconds: probed.seconds, more: probed.more } };
  const { facts } = probed;
  const coverage =
    source.kind === 'clip' && facts.frames ? [{ first: 0, last: facts.frames - 1, step: 1 }] : source.coverage;
  return { ...source, facts, coverage, findings };
}
