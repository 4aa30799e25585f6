import { coverageCount, coverageOf, missingFrom, printCoverage, type FrameRange } from './ranges.ts';
import type { ListedFile } from './group.ts';
import type { Finding, Source } from './source.ts';

type Weighed = readonly { frame: number; file: ListedFile }[];

const plural = (count: number, one: string, many = `${one}s`): string => `${count} ${count === 1 ? one : many}`;

/** What names and file sizes alone tell about a source; contents are looked at elsewhere. */
export function findingsOf(source: Source, frames: Weighed): Finding[] {
  return [missing, doubled, mixedPadding, listingOrder, empty].flatMap((check) => check(source, frames) ?? []);
}

/** `frame 37`, `frames 37, 40-42` or `12 frames`, whichever a person reads faster. */
function naming(ranges: FrameRange[]): string {
  const count = coverageCount(ranges);
  if (count === 1) return `frame ${ranges[0]!.first}`;
  return ranges.length <= 3 ? `frames ${printCoverage(ranges).replaceAll(',', ', ')}` : `${count} frames`;
}

const capital = (text: string): string => text[0]!.toUpperCase() + text.slice(1);

function missing(source: Source): Finding | undefined {
  const frames = missingFrom(source.coverage);
  if (frames.length === 0) return undefined;
  const many = coverageCount(frames) > 1;
  return {
    code: 'missing-frames',
    severity: 'fault',
    sentence: `${capital(naming(frames))} ${many ? 'are' : 'is'} missing between the first and the last.`,
    short: `${capital(naming(frames))} missing`,
    frames,
    mend: 'Have them made again, or let the conversion leave them out.',
  };
}

function doubled(source: Source): Finding | undefined {
  if (source.doubled.length === 0) return undefined;
  const numbers = [...new Set(source.doubled.map(({ frame }) => frame))];
  const frames = coverageOf(numbers);
  return {
    code: 'duplicate-number',
    severity: 'doubt',
    sentence: `${capital(naming(frames))} ${numbers.length > 1 ? 'exist' : 'exists'} twice under different padding: ${source.doubled[0]!.name} is set aside.`,
    short: `${plural(numbers.length, 'number')} doubled`,
    frames,
    mend: 'Rename or remove the files of the wrong padding.',
  };
}

function mixedPadding(source: Source): Finding | undefined {
  if (source.irregular.length === 0) return undefined;
  const frames = coverageOf(source.irregular.map(({ frame }) => frame));
  return {
    code: 'mixed-padding',
    severity: 'doubt',
    sentence: `${plural(source.irregular.length, 'name')} ${source.irregular.length > 1 ? 'are' : 'is'} padded otherwise than the rest, as ${source.irregular[0]!.name}.`,
    short: 'Mixed padding',
    frames,
    mend: 'Convert or rename with one padding.',
  };
}

function listingOrder(source: Source): Finding | undefined {
  const first = source.coverage[0]?.first;
  const last = source.coverage[source.coverage.length - 1]?.last;
  if (!source.pattern || first === undefined || last === undefined) return undefined;
  const widest = Math.max(String(Math.abs(first)).length, String(Math.abs(last)).length);
  if (source.pattern.padding >= widest) return undefined;
  return {
    code: 'listing-order',
    severity: 'doubt',
    sentence: 'Numbers are not padded to one width: a program that sorts by name plays 1, 10, 11, 2.',
    short: 'Not padded',
    mend: `Name the result with ${widest} digits or more.`,
  };
}

function empty(_source: Source, frames: Weighed): Finding | undefined {
  const hollow = frames.filter(({ file }) => file.bytes === 0);
  if (hollow.length === 0) return undefined;
  const where = coverageOf(hollow.map(({ frame }) => frame));
  return {
    code: 'empty-file',
    severity: 'fault',
    sentence: `${plural(hollow.length, 'file')} ${hollow.length > 1 ? 'hold' : 'holds'} no byte, the first is ${hollow[0]!.file.name}.`,
    short: `${plural(hollow.length, 'file')} empty`,
    frames: where,
    mend: 'Have them made again.',
  };
}
