import { findingOfProblem, type FindingCode } from './codes.ts';
import type { FrameColumns, FrameReadings } from '../columns.ts';
import type { Facts, Finding, Severity } from '../source.ts';
import { are, capital, framesAt, naming } from './words.ts';
import { plural } from '../../words.ts';

/** Codes of a reading that tells of a file that is not whole. */
export const cutShort = 'truncated-file';

/** What headers and ends of the files tell, besides what repeats: see {@link repeatedFrames}. */
export function contentFindings(columns: FrameColumns, readings: FrameReadings): Finding[] {
  return [...unreadable(columns, readings), ...mixtures(columns, readings)];
}

const shorts: Record<string, string> = { 'truncated-file': 'cut short', 'damaged-file': 'damaged' };

/** One finding for each code, empty files left to their own. */
function unreadable({ frames }: FrameColumns, { problems }: FrameReadings): Finding[] {
  const codes = [...new Set(problems.map(({ code }) => code))].filter((code) => code !== 'empty-file');
  return codes.map((code) => {
    const mine = problems.filter((problem) => problem.code === code);
    const ranges = framesAt(
      frames,
      mine.map(({ at }) => at),
    );
    const first = mine[0]!;
    return {
      code: findingOfProblem(code),
      severity: 'fault' as const,
      sentence: mine.length === 1 ? first.fact : `${capital(naming(ranges))} cannot be used. The first: ${first.fact}`,
      short: `${capital(naming(ranges))} ${shorts[code] ?? 'unreadable'}`,
      frames: ranges,
      mend: first.wayOut,
    };
  });
}

const sampleText: Record<Facts['sample'], string> = {
  u8: '8 bits',
  u10: '10 bits',
  u12: '12 bits',
  u16: '16 bits',
  f16: 'half float',
  f32: 'float',
};

const mixed: { code: FindingCode; severity: Severity; of: (facts: Facts) => string; short: string; mend: string }[] = [
  {
    code: 'mixed-size',
    severity: 'fault',
    of: ({ width, height }) => `${width} x ${height}`,
    short: 'Mixed picture sizes',
    mend: 'Ask for one size, or convert to one.',
  },
  {
    code: 'mixed-depth',
    severity: 'doubt',
    of: ({ sample }) => sampleText[sample],
    short: 'Mixed bit depths',
    mend: 'Convert to one depth.',
  },
  {
    code: 'mixed-format',
    severity: 'doubt',
    of: ({ format }) => format.toUpperCase(),
    short: 'Mixed formats',
    mend: 'Convert to one format: some programs rely on the ending of a name.',
  },
  {
    code: 'mixed-channels',
    severity: 'doubt',
    of: ({ channels }) => channels.join(' '),
    short: 'Mixed channels',
    mend: 'Convert to one set of channels.',
  },
];

/** For each fact that should be one in a source: which frames have another than most. */
function mixtures({ frames }: FrameColumns, { kind, kinds }: FrameReadings): Finding[] {
  if (kinds.length < 2) return [];
  const counts = new Uint32Array(kinds.length);
  for (const one of kind) if (one >= 0) counts[one]! += 1;
  return mixed.flatMap(({ code, severity, of, short, mend }) => {
    const says = kinds.map(of);
    const sums = new Map<string, number>();
    says.forEach((text, index) => sums.set(text, (sums.get(text) ?? 0) + counts[index]!));
    const [most] = [...sums].reduce((best, one) => (one[1] > best[1] ? one : best));
    const places: number[] = [];
    kind.forEach((one, at) => one >= 0 && says[one] !== most && places.push(at));
    if (places.length === 0) return [];
    const others = [...new Set(places.map((at) => says[kind[at]!]!))].slice(0, 3).join(' or ');
    const ranges = framesAt(frames, places);
    return [
      {
        code,
        severity,
        sentence: `${capital(naming(ranges))} ${are(places.length)} ${others}, the others ${most}.`,
        short: places.length === 1 ? `${capital(naming(ranges))} is ${others}` : short,
        frames: ranges,
        mend,
      },
    ];
  });
}

/** Places whose picture is, by size and samples, the one of the frame before; the numbers must follow one another. */
export function alikePlaces({ frames }: FrameColumns, { picture, content }: FrameReadings): number[] {
  const places: number[] = [];
  for (let at = 1; at < content.length; at += 1) {
    const same = content[at] !== 0 && content[at] === content[at - 1] && picture[at] === picture[at - 1];
    if (same && frames[at]! - frames[at - 1]! > 0) places.push(at);
  }
  return places;
}

const often = ['', '', 'twos', 'threes', 'fours'];

/**
 * Pictures that stand for several frames in a row.
 * @param places where the picture is that of the frame before
 * @param sure whether all were compared byte for byte, not by samples alone
 */
export function repeatedFrames({ frames }: FrameColumns, places: readonly number[], sure: boolean): Finding[] {
  if (places.length === 0) return [];
  const total = frames.length;
  const repeats = new Set(places);
  // Lengths of the runs of one picture, in order.
  const runs: number[] = [];
  for (let at = 0; at < total; at += 1) {
    if (repeats.has(at)) runs[runs.length - 1]! += 1;
    else runs.push(1);
  }
  const looked = sure ? '' : ' Judged by samples of the files.';
  const longest = Math.max(...runs.slice(0, 100_000));
  if (runs.length === 1) {
    return [
      {
        code: 'repeated-frames',
        severity: 'doubt',
        sentence: `All ${plural(total, 'frame')} are the same picture.${looked}`,
        short: 'One picture throughout',
      },
    ];
  }
  const inner = runs.slice(1, -1);
  const steady = runs.length > 2 && inner.every((run) => run === longest) && runs.at(-1)! <= longest;
  if (steady && longest > 1) {
    const on = often[longest] ? `on ${often[longest]}` : `held for ${longest}`;
    return [
      {
        code: 'repeated-frames',
        severity: 'note',
        sentence: `Every picture lasts ${longest} frames: drawn ${on}.${looked}`,
        short: capital(on),
      },
    ];
  }
  const ranges = framesAt(frames, places);
  return [
    {
      code: 'repeated-frames',
      severity: 'doubt',
      sentence: `${capital(naming(ranges))} ${places.length === 1 ? 'repeats' : 'repeat'} the picture before: a frozen render, or drawings that are held.${looked}`,
      short: `${capital(naming(ranges))} ${places.length === 1 ? 'repeats' : 'repeat'}`,
      frames: ranges,
      mend: 'Check them; render again any that froze.',
    },
  ];
}
