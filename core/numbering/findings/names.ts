import type { FindingCode } from './codes.ts';
import { frameDigits } from '../pattern.ts';
import { gapsIn, tilesIn } from '../gaps.ts';
import { coverageOf } from '../ranges.ts';
import type { Finding, Source } from '../source.ts';
import { are, capital, naming } from './words.ts';
import { plural } from '../../words.ts';

/** What the names of a source alone tell. */
export function nameFindings(source: Source): Finding[] {
  return [missing, tiles, doubled, hexadecimal, irregular, listingOrder].flatMap((check) => check(source) ?? []);
}

function missing(source: Source): Finding | undefined {
  const frames = gapsIn(source.coverage);
  if (frames.length === 0) return undefined;
  const many = frames.length > 1 || frames[0]!.last > frames[0]!.first;
  return {
    code: 'missing-frames',
    severity: 'fault',
    sentence: `${capital(naming(frames))} ${many ? 'are' : 'is'} missing between the first and the last.`,
    short: `${capital(naming(frames))} missing`,
    frames,
    mend: 'Ask for them again, or leave them out of the conversion.',
  };
}

function tiles({ coverage }: Source): Finding | undefined {
  const found = tilesIn(coverage);
  if (!found) return undefined;
  const { rows, columns } = found;
  return {
    code: 'texture-tiles',
    severity: 'note',
    sentence: `Numbers are texture tiles, ten in a row from 1001: ${plural(rows, 'row')} of up to ${columns}. Nothing is missing between the rows.`,
    short: 'Texture tiles',
  };
}

function hexadecimal({ hexadecimal, coverage, irregular }: Source): Finding | undefined {
  if (!hexadecimal) return undefined;
  const { frame, name } = irregular.at(-1) ?? { frame: coverage[0]!.first, name: '' };
  return {
    code: 'hexadecimal-numbers',
    severity: 'note',
    sentence: `Numbers are written in hexadecimal: ${name} is frame ${frame}. What Shale writes is numbered in decimal.`,
    short: 'Hexadecimal numbers',
  };
}

function doubled(source: Source): Finding | undefined {
  if (source.doubled.length === 0) return undefined;
  const numbers = [...new Set(source.doubled.map(({ frame }) => frame))];
  const frames = coverageOf(numbers);
  return {
    code: 'duplicate-number',
    severity: 'doubt',
    sentence: `${capital(naming(frames))} ${numbers.length > 1 ? 'exist' : 'exists'} more than once, spelled differently: ${source.doubled[0]!.name} is left out.`,
    short: `${plural(numbers.length, 'duplicate number')}`,
    frames,
    mend: 'Rename or remove the files with the wrong name.',
  };
}

/** Whether a name differs from its pattern in the digits alone. */
function differsInDigits(source: Source, { frame, name }: { frame: number; name: string }): boolean {
  const { prefix, suffix } = source.pattern!;
  if (!name.startsWith(prefix) || !name.endsWith(suffix)) return false;
  const digits = name.slice(prefix.length, name.length - suffix.length);
  return /^-?\d+$/.test(digits) && digits !== frameDigits(frame, source.pattern!.padding);
}

function irregular(source: Source): Finding[] {
  if (source.hexadecimal) return [];
  const padded = source.irregular.filter((one) => differsInDigits(source, one));
  const lettered = source.irregular.filter((one) => !padded.includes(one));
  const tell = (code: FindingCode, list: typeof padded, how: string, short: string, mend: string): Finding[] =>
    list.length === 0
      ? []
      : [
          {
            code,
            severity: 'doubt',
            sentence: `${plural(list.length, 'name')} ${are(list.length)} ${how} than the rest, as ${list[0]!.name}.`,
            short,
            frames: coverageOf(list.map(({ frame }) => frame)),
            mend,
          },
        ];
  return [
    ...tell('mixed-padding', padded, 'padded differently', 'Mixed padding', 'Convert or rename with the same padding.'),
    ...tell(
      'mixed-names',
      lettered,
      'spelled differently (capital letters in the ending, composed or decomposed accents)',
      'Mixed spelling',
      'Convert or rename with the same spelling.',
    ),
  ];
}

function listingOrder(source: Source): Finding | undefined {
  const first = source.coverage[0]?.first;
  const last = source.coverage[source.coverage.length - 1]?.last;
  if (source.hexadecimal || !source.pattern || first === undefined || last === undefined) return undefined;
  const widest = Math.max(String(Math.abs(first)).length, String(Math.abs(last)).length);
  if (source.pattern.padding >= widest) return undefined;
  return {
    code: 'listing-order',
    severity: 'doubt',
    sentence: 'Numbers have different widths: a program that sorts by name plays 1, 10, 11, 2.',
    short: 'Not padded',
    mend: `Name the result with ${widest} digits or more.`,
  };
}
