import { fileKind, type FileKind } from './kinds.ts';
import { coverageOf, rangeCount } from './ranges.ts';
import {
  areSizes,
  areSubFrames,
  digitEvidence,
  runMeant,
  wordEvidence,
  worthOf,
  type FrameNumber,
  type Writing,
} from './frameNumber.ts';
import { dateRuns, isHexRun, isUuidRun, isVersionRun, longestRun, type Run } from './runs.ts';
import { hexSequences } from './hexNames.ts';
import { numberIn, runsOf, scanName, type NameScan } from './scanName.ts';
import type { Sequence } from './sequence.ts';
import { toSequence } from './toSequence.ts';

/** One folder, sorted out; all but sequences as indices into the names. A single numbered picture is a still. */
export interface Grouped {
  sequences: Sequence[];
  clips: number[];
  stills: number[];
  sounds: number[];
  other: number[];
}

/** Names that differ in nothing but their digits, or in Unicode form, or in the letters of their ending. */
interface Shape {
  /** The first such name, with its runs: what the others are compared with. */
  name: string;
  runs: Run[];
  /** Whether a run's digits differ between the names. */
  varies: boolean[];
  /** Indices of the names. */
  members: number[];
  /** Whether all have the first one's text to the letter. */
  uniform: boolean;
}

/** Literal text around the runs, with the ending in lower case and letters composed: what the names of a shape share. */
function shapeKey(name: string, { count, start, end, dot, ascii }: NameScan): string {
  let key = '';
  let from = 0;
  for (let run = 0; run < count; run += 1) {
    key += `${name.slice(from, start[run])}\0`;
    from = end[run]!;
  }
  key += name.slice(from, dot) + name.slice(dot).toLowerCase();
  return ascii ? key : key.normalize('NFC');
}

/** Whether a name has a shape's text, character for character: cheaper than its key, and nearly always enough. */
function fits(shape: Shape, name: string, scan: NameScan): boolean {
  if (scan.count !== shape.runs.length) return false;
  let here = 0;
  let there = 0;
  for (let run = 0; run <= scan.count; run += 1) {
    const isLast = run === scan.count;
    const stop = isLast ? name.length : scan.start[run]!;
    const length = stop - here;
    if (length !== (isLast ? shape.name.length : shape.runs[run]!.start) - there) return false;
    for (let at = 0; at < length; at += 1)
      if (name.charCodeAt(here + at) !== shape.name.charCodeAt(there + at)) return false;
    if (isLast) return true;
    here = scan.end[run]!;
    there = shape.runs[run]!.end;
  }
  return true;
}

function noteVarying(shape: Shape, name: string, scan: NameScan): void {
  for (let run = 0; run < scan.count; run += 1) {
    if (shape.varies[run]) continue;
    const { start, end } = shape.runs[run]!;
    const length = scan.end[run]! - scan.start[run]!;
    let same = length === end - start;
    for (let at = 0; same && at < length; at += 1)
      same = name.charCodeAt(scan.start[run]! + at) === shape.name.charCodeAt(start + at);
    if (!same) shape.varies[run] = true;
  }
}

/** Whether two names have one ending, and begin and end like no hidden or backup file: then they are of one kind. */
function sameEnding(name: string, dot: number, other: string, otherDot: number): boolean {
  const length = name.length - dot;
  const first = name.charCodeAt(0);
  if (length === 0 || length !== other.length - otherDot || first === 46 || first === 126) return false;
  const otherFirst = other.charCodeAt(0);
  if (otherFirst === 46 || otherFirst === 126) return false;
  for (let at = 0; at < length; at += 1)
    if (name.charCodeAt(dot + at) !== other.charCodeAt(otherDot + at)) return false;
  return true;
}

/**
 * Sorts a folder's names into sequences, clips, stills, sounds and the rest. Any digit run may be the frame number but a
 * version (`v02`), a date and a piece of a hexadecimal word. Where several vary, see {@link frameRunOf}.
 * @param frameNumber which one it is, where a person says so
 */
export function groupNames(names: readonly string[], frameNumber?: FrameNumber): Grouped {
  const hexadecimal =
    frameNumber === undefined ? hexSequences(names, (index) => fileKind(names[index]!) === 'picture') : [];
  const inHex = hexadecimal.length > 0 ? new Set(hexadecimal.flatMap(({ files }) => [...files])) : undefined;
  const byKind: Record<FileKind, number[]> = { picture: [], clip: [], sound: [], other: [] };
  const stills: number[] = [];
  const shapes = new Map<string, Shape>();
  const byHash = new Map<number, Shape>();
  let last: Shape | undefined;
  let lastKind: FileKind = 'other';
  let lastName = '';
  let lastDot = 0;
  for (let index = 0; index < names.length; index += 1) {
    if (inHex?.has(index)) continue;
    const name = names[index]!;
    const scan = scanName(name);
    // Most names end as the one before.
    if (!sameEnding(name, scan.dot, lastName, lastDot)) {
      lastKind = fileKind(name);
      lastName = name;
      lastDot = scan.dot;
    }
    if (lastKind !== 'picture') {
      byKind[lastKind].push(index);
      continue;
    }
    if (scan.count === 0) {
      stills.push(index);
      continue;
    }
    if (last === undefined || !fits(last, name, scan)) last = byHash.get(scan.hash);
    if (last === undefined || !fits(last, name, scan)) {
      const key = shapeKey(name, scan);
      last = shapes.get(key);
      if (!last) {
        const runs = runsOf(scan);
        last = { name, runs, varies: runs.map(() => false), members: [], uniform: true };
        shapes.set(key, last);
        byHash.set(scan.hash, last);
      } else if (last.uniform) last.uniform = fits(last, name, scan);
    }
    noteVarying(last, name, scan);
    last.members.push(index);
  }

  const sequences: Sequence[] = [...hexadecimal];
  for (const shape of shapes.values()) {
    for (const members of splitShape(names, shape, frameNumber)) {
      const sequence =
        members.run === undefined ? undefined : toSequence(names, members.files, members.run, shape.uniform);
      const is = sequence && (members.meant ? sequence.frames.length > 1 : isSequence(sequence, shape, members.run!));
      if (is) sequences.push(sequence);
      else for (const index of members.files) stills.push(index);
    }
  }
  const byName = (a: number, b: number) => (names[a]! < names[b]! ? -1 : 1);
  return {
    sequences: sequences.sort((a, b) => (a.pattern.prefix < b.pattern.prefix ? -1 : 1)),
    clips: byKind.clip.sort(byName),
    stills: stills.sort(byName),
    sounds: byKind.sound.sort(byName),
    other: byKind.other.sort(byName),
  };
}

/** Numbers that stand alone far apart, sizes of one picture, or scattered hexadecimal digits, are no sequence. */
function isSequence({ coverage, frames, pattern, irregular }: Sequence, shape: Shape, run: number): boolean {
  if (frames.length < 2) return false;
  if (irregular.length === 0 && areSizes(frames, pattern.padding > String(frames[0]).length)) return false;
  const isolated = coverage.length === frames.length;
  if (isolated && isHexRun(shape.name, shape.runs[run]!)) return false;
  const span = frames[frames.length - 1]! - frames[0]! + 1;
  return !(isolated && span > 100 * frames.length);
}

interface Split {
  files: number[];
  /** The run that is the frame number; undefined where none is. */
  run?: number;
  /** Whether a person says so. */
  meant?: boolean;
}

/** The runs of a shape that may be the frame number, those that vary first of all. */
function candidateRuns(names: readonly string[], { name, runs, varies, members }: Shape): number[] {
  const isDate = dateRuns(name, runs);
  // Only where every name of the shape holds a date at this place is it one.
  if (isDate.includes(true)) {
    for (const index of members) {
      const here = dateRuns(names[index]!, runsOf(scanName(names[index]!)));
      for (let run = 0; run < runs.length; run += 1) isDate[run] &&= here[run]!;
      if (!isDate.includes(true)) break;
    }
  }
  const fit = runs.flatMap((run, index) =>
    isVersionRun(name, run) || isUuidRun(name, run) || isDate[index] || run.end - run.start > longestRun ? [] : [index],
  );
  const varying = fit.filter((index) => varies[index]);
  return varying.length > 0 ? varying : fit.slice(-1);
}

function splitShape(names: readonly string[], shape: Shape, frameNumber: FrameNumber | undefined): Split[] {
  const { members } = shape;
  if (members.length === 1 || frameNumber === 0) return [{ files: members }];
  const meant = frameNumber === undefined ? undefined : runMeant(frameNumber, shape.runs.length);
  if (meant !== undefined) return groupsOf(names, shape, meant).map((files) => ({ files, run: meant, meant: true }));
  const candidates = candidateRuns(names, shape);
  if (candidates.length === 0) return [{ files: members }];
  const others = shape.varies.filter((varies, run) => varies && !candidates.includes(run)).length;
  if (candidates.length === 1 && others === 0) return [{ files: members, run: candidates[0]! }];
  return frameRunOf(names, shape, candidates);
}

/** The names of a shape, told apart by all that varies in them but one run. */
function groupsOf(names: readonly string[], shape: Shape, run: number): number[][] {
  const others = shape.varies.flatMap((varies, other) => (varies && other !== run ? [other] : []));
  const groups = new Map<string, number[]>();
  for (const index of shape.members) {
    const name = names[index]!;
    const scan = scanName(name);
    // The text is one shape's: the digits of the other runs tell the groups apart.
    let key = '';
    for (const other of others) key += `${name.slice(scan.start[other], scan.end[other])},`;
    const held = groups.get(key);
    if (held) held.push(index);
    else groups.set(key, [index]);
  }
  return [...groups.values()];
}

/**
 * Where several runs vary, the one for which most speaks is the frame number: the word before it, its digits, its place, how long and
 * how unbroken the sequences are that it gives (a missing frame must not turn cameras into frames). The last run before the ending wins
 * a tie, and it alone may count in steps: `010, 020` before it are shots, not every tenth frame.
 */
function frameRunOf(names: readonly string[], shape: Shape, candidates: number[]): Split[] {
  let best: { run: number; groups: number[][] } | undefined;
  let most = -Infinity;
  for (const run of [...candidates].reverse()) {
    const last = run === candidates[candidates.length - 1];
    const written = writtenIn(names, shape, run);
    const speaks = {
      word: wordEvidence(shape.name, shape.runs[run]!, written),
      digits: digitEvidence(written),
      last,
      isPart: isPartOf(shape, run, written),
    };
    // No sequence has more frames than the run has numbers.
    if (worthOf({ ...speaks, frames: written.values.size, breaks: 0 }) <= most) continue;
    const groups = groupsOf(names, shape, run);
    let breaks = 0;
    for (const files of groups) breaks += breaksOf(names, files, run, last);
    const frames = shape.members.length / groups.length;
    const worth = worthOf({ ...speaks, frames, breaks: breaks / groups.length });
    if (worth <= most) continue;
    most = worth;
    best = { run, groups };
  }
  return best!.groups.map((files) => ({ files, run: best!.run }));
}

/** Whether a run counts parts of the frame that the run right before it counts: `smoke.0012.25`. */
function isPartOf({ name, runs, varies }: Shape, run: number, { least, most, values }: Written): boolean {
  const before = runs[run - 1];
  if (!before || least !== most || !varies[run - 1]) return false;
  const between = name.slice(before.end, runs[run]!.start);
  return ['.', '_', '-', ','].includes(between) && before.end - before.start >= 3 && areSubFrames(values, most);
}

/** How a run is written in all names of a shape, and which numbers it has. */
interface Written extends Writing {
  values: Set<number>;
}

function writtenIn(names: readonly string[], { members }: Shape, run: number): Written {
  const written: Written = { least: Infinity, most: 0, padded: false, values: new Set() };
  for (const index of members) {
    const name = names[index]!;
    const { start, end } = scanName(name);
    const from = name.charCodeAt(start[run]!) === 45 ? start[run]! + 1 : start[run]!;
    const width = end[run]! - from;
    written.least = Math.min(written.least, width);
    written.most = Math.max(written.most, width);
    written.padded ||= width > 1 && name.charCodeAt(from) === 48;
    written.values.add(numberIn(name, start[run]!, end[run]!));
  }
  return written;
}

/** How broken the numbers of a run are: a quarter for each gap, and where steps do not count, one for each frame of a stepped range. */
function breaksOf(names: readonly string[], files: readonly number[], run: number, inSteps: boolean): number {
  const numbers = new Float64Array(files.length);
  for (let at = 0; at < files.length; at += 1) {
    const name = names[files[at]!]!;
    const { start, end } = scanName(name);
    numbers[at] = numberIn(name, start[run]!, end[run]!);
  }
  numbers.sort();
  let kept = 0;
  for (const number of numbers) if (kept === 0 || number !== numbers[kept - 1]) numbers[kept++] = number;
  const coverage = coverageOf(numbers.subarray(0, kept));
  const gaps = (coverage.length - 1) / 4;
  if (inSteps) return gaps;
  return coverage.reduce((sum, range) => sum + (range.step === 1 ? 0 : rangeCount(range) - 1), gaps);
}
