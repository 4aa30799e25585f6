import { fileKind, type FileKind } from './kinds.ts';
import type { Pattern } from './pattern.ts';
import { coverageOf, type FrameRange } from './ranges.ts';

/** A file as a folder listing gives it. */
export interface ListedFile {
  name: string;
  /** Bytes, a whole number. */
  bytes: number;
  /** When it was last modified, milliseconds since 1970. */
  modified: number;
}

/** A frame whose name does not follow the pattern's padding, such as `pan.07.exr` in `pan.####.exr`. */
export interface IrregularFrame {
  frame: number;
  name: string;
}

/** Numbered files of one folder that make one sequence. */
export interface Sequence {
  pattern: Pattern;
  coverage: FrameRange[];
  /** Present files by frame number, ascending; where two names hold one number, the regular one. */
  frames: { frame: number; file: ListedFile }[];
  irregular: IrregularFrame[];
  /** Files whose number another file of the sequence holds already. */
  doubled: IrregularFrame[];
}

/** One folder, sorted out. A single numbered picture is a still. */
export interface Grouped {
  sequences: Sequence[];
  clips: ListedFile[];
  stills: ListedFile[];
  sounds: ListedFile[];
  other: ListedFile[];
}

interface Run {
  start: number;
  end: number;
}

interface Candidate {
  file: ListedFile;
  runs: Run[];
}

/** Longest digit run that is taken for a frame number: beyond it a whole number is not exact. */
const longestRun = 15;

/** The digit runs of a name before its ending. A minus counts with the digits where no letter or digit stands before it. */
function digitRuns(name: string): Run[] {
  const dot = name.lastIndexOf('.');
  const runs: Run[] = [];
  for (const match of name.slice(0, dot > 0 ? dot : name.length).matchAll(/\d+/g)) {
    if (match[0].length > longestRun) continue;
    const minus = match.index > 0 && name[match.index - 1] === '-';
    const signed = minus && (match.index === 1 || /[._ (-]/.test(name[match.index - 2]!));
    runs.push({ start: signed ? match.index - 1 : match.index, end: match.index + match[0].length });
  }
  return runs;
}

/** The name with a run taken out: what the files of one sequence share. */
const around = (name: string, run: Run): string => `${name.slice(0, run.start)}\0${name.slice(run.end)}`;

/**
 * Sorts a folder's files into sequences, clips, stills, sounds and the rest.
 * Where names hold several digit runs, the run that gives the fewest sequences is the frame number, the last on a tie.
 */
export function groupFiles(files: readonly ListedFile[]): Grouped {
  const byKind: Record<FileKind, ListedFile[]> = { picture: [], clip: [], sound: [], other: [] };
  for (const file of files) byKind[fileKind(file.name)].push(file);

  const shapes = new Map<string, Candidate[]>();
  const stills: ListedFile[] = [];
  for (const file of byKind.picture) {
    const runs = digitRuns(file.name);
    if (runs.length === 0) {
      stills.push(file);
      continue;
    }
    const shape = runs.reduceRight(around, file.name);
    const held = shapes.get(shape);
    if (held) held.push({ file, runs });
    else shapes.set(shape, [{ file, runs }]);
  }

  const sequences: Sequence[] = [];
  for (const candidates of shapes.values()) {
    for (const members of splitByFrameRun(candidates)) {
      if (members.length === 1) stills.push(members[0]!.file);
      else sequences.push(toSequence(members));
    }
  }
  const byName = (a: { name: string }, b: { name: string }) => (a.name < b.name ? -1 : 1);
  return {
    sequences: sequences.sort((a, b) => (a.pattern.prefix < b.pattern.prefix ? -1 : 1)),
    clips: byKind.clip.sort(byName),
    stills: stills.sort(byName),
    sounds: byKind.sound.sort(byName),
    other: byKind.other.sort(byName),
  };
}

interface Member {
  file: ListedFile;
  run: Run;
}

function splitByFrameRun(candidates: Candidate[]): Member[][] {
  const runCount = Math.min(...candidates.map((candidate) => candidate.runs.length));
  let best: Member[][] = [];
  for (let fromEnd = 1; fromEnd <= runCount; fromEnd += 1) {
    const groups = new Map<string, Member[]>();
    for (const { file, runs } of candidates) {
      const run = runs[runs.length - fromEnd]!;
      const key = around(file.name, run);
      const held = groups.get(key);
      if (held) held.push({ file, run });
      else groups.set(key, [{ file, run }]);
    }
    if (best.length === 0 || groups.size < best.length) best = [...groups.values()];
    if (best.length === 1) break;
  }
  return best;
}

/** Whether digits are written at a padding: just as wide, or wider because the number outgrew it. */
const isPadded = (digits: string, padding: number): boolean =>
  digits.length === padding || (digits.length > padding && digits[0] !== '0');

function toSequence(members: Member[]): Sequence {
  const numbered = members.map(({ file, run }) => {
    const text = file.name.slice(run.start, run.end);
    return { file, frame: Number(text) || 0, digits: text.replace('-', '') };
  });
  const padding = commonPadding(numbered.map(({ digits }) => digits));
  const isRegular = (digits: string) => isPadded(digits, padding);
  // A regular name goes before an irregular one of the same number, so that the regular one holds the frame.
  numbered.sort((a, b) => a.frame - b.frame || Number(isRegular(b.digits)) - Number(isRegular(a.digits)));

  const { run, file } = members[0]!;
  const pattern = { prefix: file.name.slice(0, run.start), padding, suffix: file.name.slice(run.end) };
  const frames: Sequence['frames'] = [];
  const irregular: IrregularFrame[] = [];
  const doubled: IrregularFrame[] = [];
  for (const one of numbered) {
    if (frames.length > 0 && frames[frames.length - 1]!.frame === one.frame) {
      doubled.push({ frame: one.frame, name: one.file.name });
      continue;
    }
    frames.push({ frame: one.frame, file: one.file });
    if (!isRegular(one.digits)) irregular.push({ frame: one.frame, name: one.file.name });
  }
  return { pattern, coverage: coverageOf(frames.map(({ frame }) => frame)), frames, irregular, doubled };
}

/** The padding that most of the names are written at; the widest on a tie. */
function commonPadding(digits: string[]): number {
  const shapes = new Map<string, number>();
  for (const text of digits) {
    const shape = `${text.length}${text[0] === '0' && text.length > 1 ? 'z' : ''}`;
    shapes.set(shape, (shapes.get(shape) ?? 0) + 1);
  }
  const kept = (padding: number): number =>
    [...shapes].reduce((sum, [shape, count]) => {
      const width = Number.parseInt(shape, 10);
      return sum + (width === padding || (width > padding && !shape.endsWith('z')) ? count : 0);
    }, 0);
  const widths = [...new Set([...shapes.keys()].map((shape) => Number.parseInt(shape, 10)))].sort((a, b) => b - a);
  return widths.reduce((best, width) => (kept(width) > kept(best) ? width : best));
}
