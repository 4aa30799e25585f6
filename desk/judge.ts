import type { Counter } from './counters.ts';
import { lookAt, type Seen } from './lookAt.ts';

/** What the desk says of a file. */
export interface Answer {
  taken: boolean;
  /** Why it is not taken, a sentence each. */
  reasons: string[];
  /** What was seen in it; absent where it could not be read. */
  seen?: Seen;
}

const number = (value: number): string => value.toLocaleString('en-GB');

/** Holds a file against a counter's rules, and names everything that is wrong. */
export function judge(file: Uint8Array, { formats, side, bytes, seconds, forEver }: Counter): Answer {
  const seen = lookAt(file);
  if (!seen) return { taken: false, reasons: ['It is not a complete GIF, animated PNG or animated WebP.'] };
  const reasons = [
    ...(formats.includes(seen.format) ? [] : [`Files of ${seen.format} are not taken.`]),
    ...(Math.max(seen.width, seen.height) > side
      ? [`It has ${seen.width} x ${seen.height} pixels, and ${side} is the limit of a side.`]
      : []),
    ...(file.length > bytes ? [`It has ${number(file.length)} bytes; the limit is ${number(bytes)}.`] : []),
    ...(seconds !== undefined && seen.seconds > seconds + 0.005
      ? [`It plays for ${seen.seconds.toFixed(2)} s, and ${seconds} s are the most.`]
      : []),
    ...(forEver && seen.plays !== 0 && seen.pictures > 1
      ? [`It plays ${seen.plays === 1 ? 'once' : `${seen.plays} times`}, and has to play for ever.`]
      : []),
  ];
  return { taken: reasons.length === 0, reasons, seen };
}
