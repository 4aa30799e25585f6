import type { Facts } from './source.ts';

/** What a listing tells of a source's files, a place in each column for every present frame, ascending. */
export interface FrameColumns {
  frames: Float64Array;
  /** Bytes of each file. */
  bytes: Float64Array;
  /** Last modification, milliseconds since 1970. */
  modified: Float64Array;
}

/** Mixes a number into a hash: FNV-1a over its two halves of 32 bits. */
function mixed(hash: number, value: number): number {
  const low = Math.imul((hash ^ (value >>> 0)) >>> 0, 0x01000193);
  return Math.imul((low ^ (Math.floor(value / 0x100000000) >>> 0)) >>> 0, 0x01000193) >>> 0;
}

/**
 * What tells a source's files from others of the same names: a hash over number, bytes and time (in microseconds) of each,
 * 64 bits as 16 hexadecimal digits. Equal for two listings of files that nobody touched.
 */
export function stampOf({ frames, bytes, modified }: FrameColumns): string {
  // Two hashes that begin and step differently: 32 bits alone meet by chance in some ten thousand sources.
  let one = 0x811c9dc5;
  let two = 0x9e3779b9;
  for (let at = 0; at < frames.length; at += 1) {
    for (const value of [frames[at]!, bytes[at]!, Math.round(modified[at]! * 1000)]) {
      one = mixed(one, value);
      two = Math.imul(mixed(two ^ one, value) ^ (two >>> 15), 0x85ebca6b) >>> 0;
    }
  }
  return [one, two].map((half) => half.toString(16).padStart(8, '0')).join('');
}

/** What reading headers and ends told of the same files, place by place. */
export interface FrameReadings {
  /** Index into `kinds`; -1 where the header could not be read, -2 where it was not looked at. */
  kind: Int16Array;
  /** The different sets of facts that the files have, without what differs from frame to frame. */
  kinds: Facts[];
  /** Bytes of picture data: the file without its header. */
  picture: Float64Array;
  /** CRC-32 (ISO 3309) over samples of the picture data; 0 where there is none. */
  content: Uint32Array;
  /** What was wrong, by place in the columns. */
  problems: FrameProblem[];
  /** 1 where the whole picture was decoded since the file last changed, be it whole or not. */
  decoded: Uint8Array;
  /** What decoding brought to light, by place in the columns. */
  faults: FrameProblem[];
}

/** What headers alone tell. */
export type HeaderReadings = Omit<FrameReadings, 'decoded' | 'faults'>;

/** What is wrong with the file at a place of the columns. */
export interface FrameProblem {
  at: number;
  code: string;
  fact: string;
  wayOut: string;
}

/** Readings for so many files, nothing looked at yet. */
export const noReadings = (count: number): FrameReadings => ({
  kind: new Int16Array(count).fill(-2),
  kinds: [],
  picture: new Float64Array(count),
  content: new Uint32Array(count),
  problems: [],
  decoded: new Uint8Array(count),
  faults: [],
});

/** What is wrong by place: where a header tells already, decoding says nothing more. */
export function problemsOf({ problems, faults }: FrameReadings): FrameProblem[] {
  const told = new Set(problems.map(({ at }) => at));
  return [...problems, ...faults.filter(({ at }) => !told.has(at))].sort((a, b) => a.at - b.at);
}

/** The facts that a class of frames shares: timecode, data window and texts are a frame's own. */
const shared = ({ timecode: _, window: __, texts: ___, ...facts }: Facts): Facts => facts;

/** Sets of facts and where each stands among the kinds. */
export class Kinds {
  private readonly places = new Map<string, number>();

  constructor(readonly kinds: Facts[] = []) {
    kinds.forEach((facts, at) => this.places.set(JSON.stringify(shared(facts)), at));
  }

  /** The index of a set of facts; a new one is added, with the timecode of the first frame that had it. */
  indexOf(facts: Facts): number {
    const key = JSON.stringify(shared(facts));
    const found = this.places.get(key);
    if (found !== undefined) return found;
    this.places.set(key, this.kinds.length);
    return this.kinds.push(facts) - 1;
  }
}

/** Enters what headers of some places told into the readings of all, in place. @param places where each of `part` belongs */
export function enterReadings(all: FrameReadings, places: ArrayLike<number>, part: HeaderReadings): void {
  const kinds = new Kinds(all.kinds);
  const mapped = new Int16Array(part.kinds.length).fill(-1);
  for (let at = 0; at < part.kind.length; at += 1) {
    const place = places[at]!;
    const kind = part.kind[at]!;
    if (kind >= 0 && mapped[kind] === -1) mapped[kind] = kinds.indexOf(part.kinds[kind]!);
    all.kind[place] = kind < 0 ? kind : mapped[kind]!;
    all.picture[place] = part.picture[at]!;
    all.content[place] = part.content[at]!;
  }
  for (const problem of part.problems) all.problems.push({ ...problem, at: places[problem.at]! });
  all.problems.sort((a, b) => a.at - b.at);
}

/** What most frames are, by their headers; undefined where none could be read. */
export function commonFacts({ kind, kinds }: FrameReadings): Facts | undefined {
  const counts = new Uint32Array(kinds.length);
  for (const one of kind) if (one >= 0) counts[one]! += 1;
  let best = 0;
  for (let at = 1; at < counts.length; at += 1) if (counts[at]! > counts[best]!) best = at;
  return kinds[best];
}

/** How a source's files differ from those of an earlier listing, in files. */
export interface Change {
  added: number;
  edited: number;
  removed: number;
}

/** Compares two listings of one source, frame by frame. */
export function changeOf(before: FrameColumns, after: FrameColumns): Change {
  const change = { added: 0, edited: 0, removed: 0 };
  let old = 0;
  for (let at = 0; at < after.frames.length; at += 1) {
    for (; old < before.frames.length && before.frames[old]! < after.frames[at]!; old += 1) change.removed += 1;
    if (old >= before.frames.length || before.frames[old] !== after.frames[at]) {
      change.added += 1;
      continue;
    }
    if (before.bytes[old] !== after.bytes[at] || before.modified[old] !== after.modified[at]) change.edited += 1;
    old += 1;
  }
  change.removed += before.frames.length - old;
  return change;
}
