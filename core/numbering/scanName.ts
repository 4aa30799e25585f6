import type { Run } from './runs.ts';

/** Most digit runs of a name that are looked at, counted from its end. */
const mostRuns = 12;

/** The digit runs of a name before its ending; one scratch value, overwritten by the next call of {@link scanName}. */
export interface NameScan {
  /** How many runs there are. */
  count: number;
  /** Where each run begins (a minus sign is part of its number) and ends. */
  start: Int32Array;
  end: Int32Array;
  /** Where the ending's dot stands; the name's length where there is none. */
  dot: number;
  /** Whether every character is ASCII: others may be written composed or decomposed. */
  ascii: boolean;
  /** Of the text without the runs; names of one text have one hash. */
  hash: number;
}

const scan: NameScan = {
  count: 0,
  start: new Int32Array(mostRuns),
  end: new Int32Array(mostRuns),
  dot: 0,
  ascii: true,
  hash: 0,
};

const isDigit = (code: number): boolean => code >= 48 && code <= 57;

/** Whether a minus sign may stand behind this character: `._ (-`, not a letter or digit. */
const opensNumber = (code: number): boolean => code === 46 || code === 95 || code === 32 || code === 40 || code === 45;

/** Reads a name once, character by character. A hidden name's first dot opens no ending. */
export function scanName(name: string): NameScan {
  let dot = name.length;
  for (let at = name.length - 1; at > 0; at -= 1) {
    if (name.charCodeAt(at) === 46) {
      dot = at;
      break;
    }
  }
  let count = 0;
  let ascii = true;
  let hash = 0;
  for (let at = 0; at < name.length; at += 1) {
    const code = name.charCodeAt(at);
    if (code > 127) ascii = false;
    if (at >= dot || !isDigit(code)) {
      hash = (Math.imul(hash, 31) + code) | 0;
      continue;
    }
    const signed = at > 0 && name.charCodeAt(at - 1) === 45 && (at === 1 || opensNumber(name.charCodeAt(at - 2)));
    if (count === mostRuns) {
      scan.start.copyWithin(0, 1);
      scan.end.copyWithin(0, 1);
      count -= 1;
    }
    scan.start[count] = signed ? at - 1 : at;
    do at += 1;
    while (at < dot && isDigit(name.charCodeAt(at)));
    scan.end[count] = at;
    hash = Math.imul(hash, 31);
    count += 1;
    at -= 1;
  }
  scan.count = count;
  scan.dot = dot;
  scan.ascii = ascii;
  scan.hash = hash | 0;
  return scan;
}

/** The whole number between two places of a name, digits behind an optional minus. */
export function numberIn(name: string, start: number, end: number): number {
  const negative = name.charCodeAt(start) === 45;
  let value = 0;
  for (let at = negative ? start + 1 : start; at < end; at += 1) value = value * 10 + name.charCodeAt(at) - 48;
  return negative && value > 0 ? -value : value;
}

/** Where the runs of a scan are, kept beyond the next one. */
export const runsOf = ({ count, start, end }: NameScan): Run[] =>
  Array.from({ length: count }, (_, run) => ({ start: start[run]!, end: end[run]! }));

/** Where the numbers of a name are, in their order; a minus sign is part of its number. */
export const numbersIn = (name: string): Run[] => runsOf(scanName(name));
