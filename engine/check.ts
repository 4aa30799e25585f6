import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import {
  damagedPictures,
  fileOfFrame,
  inOrder,
  isVideo,
  namesOf,
  type FrameColumns,
  type FrameProblem,
  type FrameReadings,
  type Source,
} from '@shale/core';
import type { DecodedFile } from './decode.ts';
import { crashed } from './lost.ts';
import type { WorkerPool } from './pool.ts';
import type { KeptFolder } from './readings.ts';

/** Files of one folder, by name, all of whose pictures were decoded. */
export type Checked = Map<string, DecodedFile>;

/** How far a check is, in pictures. */
export interface CheckProgress {
  done: number;
  total: number;
  damaged: number;
}

/** Stills that a process decodes before it is asked for something else. */
const together = 4;

/**
 * Decodes every picture of a source, over all processes.
 * @param folder the source's own, absolute
 * @param into where what was decoded is entered, also of a check that is stopped
 * @param known what was read of the folder: files that were decoded since they last changed are passed over
 * @throws where it was stopped, or a process ended
 */
export async function checkSource(
  folder: string,
  source: Source,
  pool: WorkerPool,
  into: Checked,
  options: { signal?: AbortSignal; known?: KeptFolder; onProgress?: (progress: CheckProgress) => void } = {},
): Promise<void> {
  const { signal, known, onProgress } = options;
  const clip = isVideo(source);
  const pictures = source.kind === 'clip' ? (source.facts?.pictures ?? source.facts?.frames ?? 1) : 1;
  const names = known ? await notDecoded(folder, source, known) : namesIn(source);
  const progress: CheckProgress = { done: 0, total: names.length * pictures, damaged: 0 };
  onProgress?.({ ...progress });
  let next = 0;
  const onEvent = (count: number) => {
    // What a process had done before it ended is done again.
    progress.done = Math.min(progress.total, progress.done + count);
    onProgress?.({ ...progress });
  };
  const decoded = async (some: string[]): Promise<(DecodedFile | null)[]> => {
    try {
      return await pool.run('decode', { folder, names: some, clip, pictures }, { signal, onEvent });
    } catch (error) {
      if (signal?.aborted || !crashed(error)) throw error;
      // Which of them ended the process is seen one by one, and once more: it may have been ended by somebody.
      const each: (DecodedFile | null)[] = [];
      for (const name of some) each.push(await alone(name));
      return each;
    }
  };
  const alone = async (name: string): Promise<DecodedFile | null> => {
    try {
      return (await pool.run('decode', { folder, names: [name], clip, pictures }, { signal }))[0] ?? null;
    } catch (error) {
      if (signal?.aborted || !crashed(error)) throw error;
      const told = await stat(join(folder, name)).catch(() => undefined);
      return told ? { bytes: told.size, modified: told.mtimeMs, pictures, faults: [crashing(name)] } : null;
    }
  };
  const asker = async () => {
    while (next < names.length) {
      signal?.throwIfAborted();
      const part = names.slice(next, (next += together));
      const files = await decoded(part);
      files.forEach((file, index) => {
        if (!file) return;
        into.set(part[index]!, file);
        progress.damaged += file.faults.length;
      });
      onProgress?.({ ...progress });
    }
  };
  await Promise.all(Array.from({ length: pool.processes }, asker));
}

const crashing = (name: string): DecodedFile['faults'][number] => ({
  picture: 0,
  problem: {
    code: 'damaged-file',
    fact: `${name} crashed the process that decoded it, twice.`,
    wayOut: 'The file is probably damaged in a way that crashes the codec; render it again.',
    subject: name,
  },
});

function namesIn(source: Source): string[] {
  if (source.kind !== 'sequence') return [source.name];
  return source.coverage.flatMap(({ first, last, step }) =>
    Array.from({ length: Math.floor((last - first) / step) + 1 }, (_, index) =>
      fileOfFrame({ ...source, folder: '' }, first + index * step)!,
    ),
  );
}

/** Names of a source's files that were not decoded, or changed since. */
async function notDecoded(folder: string, source: Source, known: KeptFolder): Promise<string[]> {
  const before = decodedBefore(source, known);
  const names = namesIn(source);
  const same = await Promise.all(
    names.map(async (name) => {
      const was = before.get(name);
      const now = was && (await stat(join(folder, name)).catch(() => undefined));
      return now !== undefined && now.size === was!.bytes && now.mtimeMs === was!.modified;
    }),
  );
  return names.filter((_, index) => !same[index]);
}

function decodedBefore(source: Source, known: KeptFolder): Map<string, { bytes: number; modified: number }> {
  const { name } = source;
  const medium = known.media.get(name);
  if (medium?.decoded) return new Map([[name, medium]]);
  const sequence = known.sequences.get(name);
  const { columns, readings } = sequence ?? known.stills;
  const names = sequence ? namesOf(source, columns) : known.stills.names;
  const before = new Map<string, { bytes: number; modified: number }>();
  names.forEach((one, at) => {
    if (readings.decoded[at]) before.set(one, { bytes: columns.bytes[at]!, modified: columns.modified[at]! });
  });
  return before;
}

/** Enters what a check found into readings, where a file is still what it was. @param names by place */
export function enterChecked(
  checked: Checked | undefined,
  names: readonly string[],
  columns: FrameColumns,
  readings: FrameReadings,
): void {
  if (!checked) return;
  const faults: FrameProblem[] = [];
  names.forEach((name, at) => {
    const file = checked.get(name);
    if (!file || file.bytes !== columns.bytes[at] || file.modified !== columns.modified[at]) return;
    readings.decoded[at] = 1;
    readings.faults = readings.faults.filter((fault) => fault.at !== at);
    const first = file.faults[0]?.problem;
    if (first) faults.push({ at, code: first.code, fact: first.fact, wayOut: first.wayOut });
  });
  readings.faults = [...readings.faults, ...faults].sort((a, b) => a.at - b.at);
}

/** A clip with what decoding all its pictures brought to light. */
export function withDecoded(source: Source, decoded: DecodedFile | undefined): Source {
  if (!decoded || source.kind !== 'clip') return source;
  const finding = damagedPictures(decoded.faults.map(({ picture, problem }) => ({ frame: picture, problem })));
  // What a scan told of damage is in it too.
  const others = source.findings.filter(({ code }) => code !== 'damaged-file');
  return { ...source, checked: Math.max(1, decoded.pictures), findings: inOrder([...others, ...finding]) };
}
