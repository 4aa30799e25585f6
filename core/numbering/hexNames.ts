import { frameName, type Pattern } from './pattern.ts';
import { coverageOf } from './ranges.ts';
import type { IrregularFrame, Sequence } from './sequence.ts';

/** A name whose last word before the ending is hexadecimal digits behind a separator: what is before them, the digits, the ending. */
const parts = /^(.*[._ -])?([0-9a-f]{2,8}|[0-9A-F]{2,8})(\.[^.]+)$/;

const isHexLetter = (code: number): boolean => (code >= 97 && code <= 102) || (code >= 65 && code <= 70);

/** Whether a name may end in hexadecimal digits: looked at before anything that costs more. */
function mayBeHex(name: string): boolean {
  let dot = name.length - 1;
  while (dot > 1 && name.charCodeAt(dot) !== 46) dot -= 1;
  return isHexLetter(name.charCodeAt(dot - 1)) && parts.test(name);
}

/** Fewest names for which hexadecimal digits are believed. */
const fewest = 12;

/**
 * Sequences numbered in hexadecimal, `0009, 000a, ... 000f, 0010`: digits of one width that count on through their letters. Words and
 * hashes never do.
 * @param isPicture which of the names are looked at
 */
export function hexSequences(names: readonly string[], isPicture: (index: number) => boolean): Sequence[] {
  if (!names.some((name, index) => mayBeHex(name) && isPicture(index))) return [];
  const groups = new Map<string, { prefix: string; suffix: string; width: number; files: number[]; letters: number }>();
  names.forEach((name, index) => {
    const match = parts.exec(name);
    if (!match || !isPicture(index)) return;
    const [, prefix = '', digits, suffix] = match as unknown as [string, string | undefined, string, string];
    const key = `${prefix}\0${digits.length}\0${suffix}`;
    const group = groups.get(key) ?? { prefix, suffix, width: digits.length, files: [], letters: 0 };
    group.files.push(index);
    if (/[a-f]/i.test(digits)) group.letters += 1;
    groups.set(key, group);
  });
  return [...groups.values()].flatMap((group) => (group.letters >= 6 ? (sequenceOf(names, group) ?? []) : []));
}

interface Group {
  prefix: string;
  suffix: string;
  width: number;
  files: number[];
}

function sequenceOf(names: readonly string[], { prefix, suffix, width, files }: Group): Sequence | undefined {
  const digitsOf = (index: number) => names[index]!.slice(prefix.length, names[index]!.length - suffix.length);
  const numbers = files.map((index) => ({ index, frame: parseInt(digitsOf(index), 16) }));
  numbers.sort((a, b) => a.frame - b.frame);
  const count = numbers.length;
  // Upper and lower case of one number are two names: then it is something else.
  if (count < fewest || numbers.some(({ frame }, at) => at > 0 && frame === numbers[at - 1]!.frame)) return undefined;
  const span = numbers[count - 1]!.frame - numbers[0]!.frame + 1;
  if (count < 0.8 * span) return undefined;
  const pattern: Pattern = { prefix, padding: width, suffix };
  const irregular: IrregularFrame[] = numbers.flatMap(({ index, frame }) =>
    frameName(pattern, frame) === names[index] ? [] : [{ frame, name: names[index]! }],
  );
  const frames = Float64Array.from(numbers, ({ frame }) => frame);
  return {
    pattern,
    coverage: coverageOf(frames),
    frames,
    files: Uint32Array.from(numbers, ({ index }) => index),
    irregular,
    doubled: [],
    hexadecimal: true,
  };
}
