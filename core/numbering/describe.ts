import { findingOfProblem } from './findings/codes.ts';
import { commonFacts, problemsOf, stampOf, type FrameColumns, type FrameReadings } from './columns.ts';
import { alikePlaces, contentFindings, cutShort, repeatedFrames } from './findings/contents.ts';
import { strayFindings } from './findings/folder.ts';
import { nameFindings } from './findings/names.ts';
import {
  emptyFiles,
  isStillWriting,
  sizeOutliers,
  staleFrames,
  stillWriting,
  type Moment,
} from './findings/weights.ts';
import type { FrameNumber } from './frameNumber.ts';
import { groupNames } from './group.ts';
import { frameName, printPattern } from './pattern.ts';
import type { Problem } from '../errors.ts';
import type { Sequence } from './sequence.ts';
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

/** A sequence and what the listing says of each of its frames. */
export interface Described {
  source: Source;
  columns: FrameColumns;
}

/** The sources of a folder, without header facts and without findings, and the names that are none. */
export interface DescribedFolder {
  sequences: Described[];
  /** Clips, stills and sounds. */
  singles: Source[];
  other: string[];
}

/** Sorts a folder's files into sources. @param frameNumber which number of a name counts the frames, where a person says so */
export function describeFolder(folder: string, listing: Listing, frameNumber?: FrameNumber): DescribedFolder {
  const grouped = groupNames(listing.names, frameNumber);
  const single = (kind: 'clip' | 'still' | 'sound') => (index: number) =>
    describeSingle(folder, kind, listing.names[index]!, listing.bytes[index]!, listing.modified[index]!);
  return {
    sequences: grouped.sequences.map((sequence) => describeSequence(folder, listing, sequence)),
    singles: [
      ...grouped.clips.map(single('clip')),
      ...grouped.stills.map(single('still')),
      ...grouped.sounds.map(single('sound')),
    ],
    other: grouped.other.map((index) => listing.names[index]!),
  };
}

const inFolder = (folder: string, name: string): string => (folder === '' ? name : `${folder}/${name}`);

/** A source of one file. */
export function describeSingle(
  folder: string,
  kind: 'clip' | 'still' | 'sound',
  name: string,
  bytes: number,
  modified: number,
): Source {
  return {
    kind,
    folder,
    name,
    coverage: [],
    irregular: [],
    doubled: [],
    files: 1,
    bytes,
    modified,
    stamp: stampOf({ frames: Float64Array.of(0), bytes: Float64Array.of(bytes), modified: Float64Array.of(modified) }),
    weights: [bytes],
    ...versionIn(inFolder(folder, name)),
    findings: [],
  };
}

function describeSequence(folder: string, listing: Listing, sequence: Sequence): Described {
  const { pattern, coverage, irregular, doubled } = sequence;
  const columns = columnsOf(listing, sequence.frames.slice(), sequence.files);
  const name = printPattern(pattern);
  let bytes = 0;
  let modified = 0;
  for (let at = 0; at < columns.bytes.length; at += 1) {
    bytes += columns.bytes[at]!;
    if (columns.modified[at]! > modified) modified = columns.modified[at]!;
  }
  const source: Source = {
    kind: 'sequence',
    folder,
    name,
    pattern,
    coverage,
    irregular,
    doubled,
    ...(sequence.hexadecimal ? { hexadecimal: true as const } : {}),
    files: sequence.frames.length + doubled.length,
    bytes,
    modified,
    stamp: stampOf(columns),
    weights: weigh(columns),
    ...versionIn(inFolder(folder, name)),
    findings: [],
  };
  return { source, columns };
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
  return Array.from(sums, (sum, part) => (counts[part] ? Math.round(sum / counts[part]) : 0));
}

/** A sequence with the facts that most of its files have, and every finding that they give. */
export function conclude(source: Source, evidence: Evidence): Source {
  const facts = evidence.readings && commonFacts(evidence.readings);
  const checked = evidence.readings?.decoded.reduce((sum, one) => sum + one, 0);
  return {
    ...source,
    ...(facts && { facts }),
    ...(checked ? { checked } : {}),
    findings: findingsOf(source, evidence),
  };
}

/** The names of a sequence's frames, in the columns' order. */
export function namesOf(source: Source, { frames }: Pick<FrameColumns, 'frames'>): string[] {
  const pattern = source.pattern!;
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
  moment: Moment;
  /** Absent until headers are read. */
  readings?: FrameReadings;
  /** Absent where nobody compared: what samples say is taken then. */
  alike?: Alike;
}

/**
 * Every finding that a sequence's own files give, the gravest first. A file that changed just now is not called cut short:
 * it may still be written.
 */
export function findingsOf(source: Source, { columns, moment, readings, alike }: Evidence): Finding[] {
  const writes = stillWriting(source.modified, moment);
  const nameAt = (place: number) => namesOf(source, { frames: columns.frames.slice(place, place + 1) })[0]!;
  const problems = (readings ? problemsOf(readings) : []).filter(
    ({ code, at }) => code !== cutShort || !isStillWriting(columns.modified[at]!, moment),
  );
  const contents = readings ? contentFindings(columns, { ...readings, problems }) : [];
  // Frames that have another reason to be light or heavy.
  const explained = new Set(problems.map(({ at }) => at));
  const ofOtherSize = contents.filter(({ code }) => code.startsWith('mixed-')).flatMap(({ frames }) => frames ?? []);
  if (ofOtherSize.length > 0) {
    columns.frames.forEach((frame, at) => {
      if (ofOtherSize.some(({ first, last }) => frame >= first && frame <= last)) explained.add(at);
    });
  }
  if (writes.length > 0) columns.modified.forEach((time, at) => isStillWriting(time, moment) && explained.add(at));
  const repeats = alike ?? { places: readings ? alikePlaces(columns, readings) : [], sure: false };
  return inOrder([
    ...writes,
    ...emptyFiles(columns, nameAt),
    ...nameFindings(source),
    ...contents,
    ...sizeOutliers(columns, explained),
    // Times tell of a render only once it is over.
    ...(writes.length === 0 ? staleFrames(columns) : []),
    ...repeatedFrames(columns, repeats.places, repeats.sure),
  ]);
}

/** Every finding that a clip, still or sound gives by itself. @param problem why its header could not be read */
export function singleFindings(source: Source, moment: Moment, problem?: Problem): Finding[] {
  const findings = stillWriting(source.modified, moment);
  const told: Problem | undefined =
    source.bytes === 0
      ? { code: 'empty-file', fact: `${source.name} is empty.`, wayOut: 'Make it again, or ask for it again.' }
      : problem;
  if (!told || (told.code === cutShort && isStillWriting(source.modified, moment))) return findings;
  const { code, fact, wayOut } = told;
  const short = shortOfOne[code] ?? 'Cannot be read';
  return inOrder([
    ...findings,
    { code: findingOfProblem(code), severity: 'fault', sentence: fact, short, mend: wayOut },
  ]);
}

/** How a cell says it of a single file. */
const shortOfOne: Record<string, string> = {
  'empty-file': 'Empty',
  'truncated-file': 'Cut short',
  'damaged-file': 'Damaged',
  'unknown-format': 'Cannot be read',
  'not-allowed': 'No permission to read',
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
