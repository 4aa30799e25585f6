import type { FrameColumns, FrameReadings } from './columns.ts';
import { alikePlaces, contentFindings, cutShort, repeatedFrames } from './findings/contents.ts';
import { strayFindings } from './findings/folder.ts';
import { nameFindings } from './findings/names.ts';
import { emptyFiles, isStillWriting, sizeOutliers, staleFrames, stillWriting } from './findings/weights.ts';
import { groupNames, type Sequence } from './group.ts';
import { frameName, printPattern } from './pattern.ts';
import type { Finding, Source } from './source.ts';
import { versionIn } from './versions.ts';

/** Most parts a source's weights are cut into: a strip is seldom wider in pixels. */
export const weightParts = 1024;

/** A folder as a listing gives it, a place in each column for every file. */
export interface Listing {
  names: readonly string[];
  /** Bytes, whole numbers. */
  bytes: ArrayLike<number>;
  /** Last modification, milliseconds since 1970. */
  modified: ArrayLike<number>;
}

/** A source and what the listing says of each of its frames; a clip, still or sound has one place, frame 0. */
export interface Described {
  source: Source;
  columns: FrameColumns;
}

/** The sources of a folder, without header facts and without findings, and the names that are none. */
export function describeFolder(folder: string, listing: Listing): { sources: Described[]; other: string[] } {
  const grouped = groupNames(listing.names);
  const single =
    (kind: 'clip' | 'still' | 'sound') =>
    (index: number): Described => {
      const columns = columnsOf(listing, Float64Array.of(0), Uint32Array.of(index));
      const source = bare(kind, folder, listing.names[index]!, columns, 1);
      return { source, columns };
    };
  return {
    sources: [
      ...grouped.sequences.map((sequence) => describeSequence(folder, listing, sequence)),
      ...grouped.clips.map(single('clip')),
      ...grouped.stills.map(single('still')),
      ...grouped.sounds.map(single('sound')),
    ],
    other: grouped.other.map((index) => listing.names[index]!),
  };
}

function bare(kind: Source['kind'], folder: string, name: string, columns: FrameColumns, files: number): Source {
  let bytes = 0;
  let modified = 0;
  for (let at = 0; at < columns.bytes.length; at += 1) {
    bytes += columns.bytes[at]!;
    if (columns.modified[at]! > modified) modified = columns.modified[at]!;
  }
  return {
    kind,
    folder,
    name,
    coverage: [],
    irregular: [],
    doubled: [],
    files,
    bytes,
    modified,
    weights: weigh(columns),
    ...versionIn(folder === '' ? name : `${folder}/${name}`),
    findings: [],
  };
}

function describeSequence(folder: string, listing: Listing, sequence: Sequence): Described {
  const { pattern, coverage, irregular, doubled } = sequence;
  const columns = columnsOf(listing, sequence.frames.slice(), sequence.files);
  const files = sequence.frames.length + doubled.length;
  const source = bare('sequence', folder, printPattern(pattern), columns, files);
  return { source: { ...source, pattern, coverage, irregular, doubled }, columns };
}

function columnsOf({ bytes, modified }: Listing, frames: Float64Array, files: Uint32Array): FrameColumns {
  return {
    frames,
    bytes: Float64Array.from(files, (index) => bytes[index]!),
    modified: Float64Array.from(files, (index) => modified[index]!),
  };
}

function weigh({ frames, bytes }: FrameColumns): number[] {
  const first = frames[0]!;
  const span = frames[frames.length - 1]! - first + 1;
  const parts = Math.min(span, weightParts);
  const sums = new Float64Array(parts);
  const counts = new Uint32Array(parts);
  for (let at = 0; at < frames.length; at += 1) {
    const part = Math.floor(((frames[at]! - first) * parts) / span);
    sums[part]! += bytes[at]!;
    counts[part]! += 1;
  }
  return Array.from(sums, (sum, part) => (counts[part] ? Math.round(sum / counts[part]!) : 0));
}

/** The names of a source's frames, in the columns' order. */
export function namesOf(source: Source, { frames }: FrameColumns): string[] {
  if (!source.pattern) return [source.name];
  const { pattern } = source;
  const irregular = new Map(source.irregular.map(({ frame, name }) => [frame, name]));
  if (irregular.size === 0) return Array.from(frames, (frame) => frameName(pattern, frame));
  return Array.from(frames, (frame) => irregular.get(frame) ?? frameName(pattern, frame));
}

/** What a look at the pictures that seem alike showed: the places that truly are, and whether all were compared whole. */
export interface Alike {
  places: readonly number[];
  sure: boolean;
}

/** What is known of a source when its findings are worked out. */
export interface Evidence {
  columns: FrameColumns;
  /** Milliseconds since 1970. */
  now: number;
  /** Absent until headers are read. */
  readings?: FrameReadings;
  /** Absent where nobody compared: what samples say is taken then. */
  alike?: Alike;
}

/**
 * Every finding that a source's own files give, the gravest first. A file that changed just now is not called cut short:
 * it may still be written.
 */
export function findingsOf(source: Source, { columns, now, readings, alike }: Evidence): Finding[] {
  const writes = stillWriting(source.modified, now);
  const names = (place: number) => namesOf(source, { ...columns, frames: columns.frames.slice(place, place + 1) })[0]!;
  const problems = (readings?.problems ?? []).filter(
    ({ code, at }) => code !== cutShort || !isStillWriting(columns.modified[at]!, now),
  );
  const read = readings && { ...readings, problems };
  const findings = [...writes, ...emptyFiles(columns, names)];
  if (source.kind === 'sequence') {
    const explained = new Set(problems.map(({ at }) => at));
    const contents = read ? contentFindings(columns, read) : [];
    const ofOtherSize = contents.filter(({ code }) => code.startsWith('mixed-')).flatMap(({ frames }) => frames ?? []);
    columns.frames.forEach((frame, at) => {
      if (ofOtherSize.some(({ first, last }) => frame >= first && frame <= last)) explained.add(at);
    });
    // A file that is being written is as light as it happens to be.
    columns.modified.forEach((time, at) => isStillWriting(time, now) && explained.add(at));
    findings.push(...nameFindings(source), ...contents);
    findings.push(...sizeOutliers(columns, explained));
    // Times tell of a render only once it is over.
    if (writes.length === 0) findings.push(...staleFrames(columns));
    const places = alike ?? { places: readings ? alikePlaces(columns, readings) : [], sure: false };
    findings.push(...repeatedFrames(columns, places.places, places.sure));
  } else {
    // A single file has no frame to point at.
    if (read) findings.push(...contentFindings(columns, read));
    return inOrder(
      findings.map(({ frames: _, ...finding }) => ({ ...finding, short: shortOfOne[finding.code] ?? finding.short })),
    );
  }
  return inOrder(findings);
}

/** How a cell says it of a single file. */
const shortOfOne: Record<string, string> = {
  'empty-file': 'Empty',
  'truncated-file': 'Cut short',
  'damaged-file': 'Damaged',
  'unknown-format': 'Cannot be read',
  'not-allowed': 'May not be read',
  'file-gone': 'Gone since',
};

const gravity = { fault: 0, doubt: 1, note: 2 };

/** What is still being written first, since it explains the rest; then the gravest. */
export const inOrder = (findings: readonly Finding[]): Finding[] => {
  const weight = ({ code, severity }: Finding) => (code === 'still-writing' ? -1 : gravity[severity]);
  return [...findings].sort((a, b) => weight(a) - weight(b));
};

/** The sources of one folder, each with what the others beside it mean for it: strays, and sounds that may belong to it. */
export function besideEachOther(sources: readonly Source[]): Source[] {
  const strays = strayFindings(sources);
  const sounds = sources.flatMap(({ kind, name, sound }) =>
    kind === 'sound' && sound?.seconds ? [{ name, seconds: sound.seconds }] : [],
  );
  return sources.map((source) => {
    const found = strays.get(source);
    const beside = sounds.length > 0 && sounds.length <= 8 && source.kind === 'sequence' ? { beside: sounds } : {};
    return found || sounds.length > 0
      ? { ...source, ...beside, findings: inOrder([...source.findings, ...(found ?? [])]) }
      : source;
  });
}
