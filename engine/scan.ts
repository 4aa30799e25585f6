import { lstat, readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import {
  describeFolder,
  fileOfFrame,
  groupFiles,
  sampleFrames,
  ShaleError,
  type Finding,
  type ListedFile,
  type Source,
} from '@shale/core';
import type { WorkerPool } from './pool.ts';
import type { Probed } from './tasks.ts';

/** One folder's sources and the names that are no footage; `folder` is below the root, with `/`. */
export interface ScannedFolder {
  folder: string;
  sources: Source[];
  other: string[];
  /** Set where the folder may not be read. */
  problem?: string;
}

/** Files whose size and time are asked for at once. */
const together = 128;

function rootError(root: string, error: unknown): ShaleError {
  const { code, message } = error as NodeJS.ErrnoException;
  if (code === 'ENOENT')
    return new ShaleError({
      code: 'folder-not-found',
      fact: `There is no folder ${root}.`,
      wayOut: 'Check the path, or whether the disk is mounted.',
      subject: root,
    });
  if (code === 'ENOTDIR')
    return new ShaleError({
      code: 'not-a-folder',
      fact: `${root} is a file, not a folder.`,
      wayOut: 'Name the folder that holds it.',
      subject: root,
    });
  if (code === 'EACCES' || code === 'EPERM')
    return new ShaleError({
      code: 'not-allowed',
      fact: `The folder ${root} may not be read.`,
      wayOut: 'Give the account that runs Shale the right to read it.',
      subject: root,
    });
  return new ShaleError({
    code: 'scan-failed',
    fact: `The folder ${root} cannot be scanned: ${message}.`,
    wayOut: 'See whether the disk is whole.',
    subject: root,
  });
}

/**
 * Walks a folder and everything below it, sorted by name. Links are not followed, hidden folders are left out.
 * @throws ShaleError where the root itself is not there or may not be read; a folder below that may not be read is told
 */
export async function* scanFolders(root: string, signal?: AbortSignal): AsyncGenerator<ScannedFolder> {
  const open = [''];
  while (open.length > 0 && !signal?.aborted) {
    const folder = open.shift()!;
    try {
      const { subfolders, scanned } = await scanOne(root, folder);
      open.unshift(...subfolders);
      yield scanned;
    } catch (error) {
      if (folder === '') throw rootError(root, error);
      const denied = (error as NodeJS.ErrnoException).code === 'EACCES';
      yield { folder, sources: [], other: [], problem: denied ? 'may not be read' : (error as Error).message };
    }
  }
}

async function scanOne(root: string, folder: string): Promise<{ subfolders: string[]; scanned: ScannedFolder }> {
  const here = join(root, folder);
  if (folder === '' && !(await stat(here)).isDirectory()) throw Object.assign(new Error(), { code: 'ENOTDIR' });
  const entries = await readdir(here, { withFileTypes: true });
  const below = (name: string) => (folder === '' ? name : `${folder}/${name}`);
  const subfolders = entries
    .filter((entry) => entry.isDirectory() && !entry.name.startsWith('.'))
    .map((entry) => below(entry.name))
    .sort();
  const names = entries.filter((entry) => entry.isFile()).map((entry) => entry.name);
  const links = entries.filter((entry) => entry.isSymbolicLink()).map((entry) => entry.name);

  const files: ListedFile[] = [];
  for (let at = 0; at < names.length; at += together) {
    const part = names.slice(at, at + together);
    const told = await Promise.all(part.map((name) => lstat(join(here, name)).catch(() => undefined)));
    // A file that vanished between listing and asking was never there, as far as this scan goes.
    told.forEach((one, index) => one && files.push({ name: part[index]!, bytes: one.size, modified: one.mtimeMs }));
  }
  const grouped = groupFiles(files);
  const other = [...grouped.other.map(({ name }) => name), ...links].sort();
  return { subfolders, scanned: { folder, sources: describeFolder(folder, grouped), other } };
}

/** The file whose header speaks for a source: its first frame that holds anything. */
const speaker = (source: Source): string[] =>
  source.kind === 'sequence'
    ? sampleFrames(source.coverage, 3).map((frame) => fileOfFrame(source, frame)!)
    : [fileOfFrame(source, 0)!];

const probeKind = { sequence: 'picture', still: 'picture', clip: 'clip', sound: 'sound' } as const;

/** The sources with what their headers say; one that cannot be read gets a finding that says why. */
export async function withFacts(
  root: string,
  sources: Source[],
  pool: WorkerPool,
  signal?: AbortSignal,
): Promise<Source[]> {
  const asked = sources.map((source) =>
    speaker(source).map((path) => ({ path: join(root, path), kind: probeKind[source.kind] })),
  );
  const answers = await pool.run('probe', asked.flat(), { signal });
  let at = 0;
  return sources.map((source, index) => {
    const mine = answers.slice(at, (at += asked[index]!.length));
    return applyProbe(source, mine);
  });
}

function applyProbe(source: Source, answers: Probed[]): Source {
  const good = answers.find((answer) => !('problem' in answer));
  const bad = answers.flatMap((answer) => ('problem' in answer ? [answer.problem] : []));
  const findings: Finding[] = [...source.findings];
  const known = new Set(findings.map(({ code }) => code));
  for (const problem of bad) {
    if (known.has(problem.code)) continue;
    known.add(problem.code);
    findings.push({
      code: problem.code,
      severity: 'fault',
      sentence: problem.fact,
      short: problem.code === 'empty-file' ? 'Empty file' : 'Cannot be read',
      mend: problem.wayOut,
    });
  }
  if (!good || 'problem' in good) return { ...source, findings };
  if (!('facts' in good)) return { ...source, findings, sound: { seconds: good.seconds, more: good.more } };
  const { facts } = good;
  const frames = facts.frames ?? 0;
  const coverage = source.kind === 'clip' && frames > 0 ? [{ first: 0, last: frames - 1, step: 1 }] : source.coverage;
  return { ...source, facts, coverage, findings };
}
