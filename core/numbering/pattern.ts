import { ShaleError } from '../errors.ts';

/** A name with a frame number in it. `padding` is the fewest digits written, 1 where numbers are not padded. */
export interface Pattern {
  prefix: string;
  padding: number;
  suffix: string;
}

/** The digits of a frame number at a padding; a minus sign stands before the padding: -5 at 4 is `-0005`. */
export function frameDigits(frame: number, padding: number): string {
  const digits = Math.abs(frame).toString().padStart(padding, '0');
  return frame < 0 ? `-${digits}` : digits;
}

/** The name of one frame. */
export const frameName = (pattern: Pattern, frame: number): string =>
  pattern.prefix + frameDigits(frame, pattern.padding) + pattern.suffix;

/** The number of the frame that a pattern gives this name; undefined for any other name. */
export function frameOfName(pattern: Pattern, name: string): number | undefined {
  const { prefix, suffix } = pattern;
  if (!name.startsWith(prefix) || !name.endsWith(suffix)) return undefined;
  const digits = name.slice(prefix.length, name.length - suffix.length);
  if (!/^-?\d{1,15}$/.test(digits)) return undefined;
  const frame = Number(digits);
  return frameName(pattern, frame) === name ? frame : undefined;
}

/** `pan.####.exr`: one `#` per digit, a single `#` where numbers are not padded. */
export const printPattern = (pattern: Pattern): string => pattern.prefix + '#'.repeat(pattern.padding) + pattern.suffix;

/**
 * Reads `pan.####.exr` and the printf form `pan.%04d.exr`. The last run of `#` is the frame number.
 * @throws ShaleError `bad-pattern` where there is no frame number in it
 */
export function parsePattern(text: string): Pattern {
  const printf = /^(.*)%(?:0(\d{1,2}))?d(.*)$/s.exec(text);
  if (printf) return { prefix: printf[1]!, padding: Math.max(1, Number(printf[2] ?? 1)), suffix: printf[3]! };
  const hashes = /^(.*?)(#+)([^#]*)$/s.exec(text);
  if (hashes) return { prefix: hashes[1]!, padding: hashes[2]!.length, suffix: hashes[3]! };
  throw new ShaleError({
    code: 'bad-pattern',
    fact: `"${text}" has no frame number in it.`,
    wayOut: 'Write one # for each digit, as in pan.####.exr, or the printf form pan.%04d.exr.',
    subject: text,
  });
}

/**
 * The number of a file that stands alone, as `shot.0008.png`: digits after a separator and before the ending, unless they
 * read as a date. A version keeps its letter and is none.
 */
export function loneNumber(name: string): { pattern: Pattern; frame: number } | undefined {
  const parts = /^(.+[._ -])(\d{1,9})(\.[^.]*)$/.exec(name);
  if (!parts) return undefined;
  const [, prefix, digits, suffix] = parts as unknown as [string, string, string, string];
  if (/^(19|20)\d\d(0[1-9]|1[0-2])([0-2]\d|3[01])$/.test(digits)) return undefined;
  return { pattern: { prefix, padding: digits.length, suffix }, frame: Number(digits) };
}
