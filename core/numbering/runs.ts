// Digit runs that count something other than frames: versions, dates, pieces of a hexadecimal name.

/** A digit run within a name, as positions. */
export interface Run {
  start: number;
  end: number;
}

/** Longest digit run that is taken for a frame number: beyond it a whole number is not exact. */
export const longestRun = 15;

const separators = '._ -()[]';
const separates = (letter: string | undefined): boolean => letter === undefined || separators.includes(letter);

/** `v01` between separators, at most three digits: a version, not a frame. */
export function isVersionRun(name: string, { start, end }: Run): boolean {
  if (end - start > 3 || !/[vV]/.test(name[start - 1] ?? '')) return false;
  return separates(name[start - 2]) && separates(name[end]);
}

const inRange = (text: string, least: number, most: number): boolean => {
  const value = Number(text);
  return value >= least && value <= most;
};

/** `20261124`: a day from 1970 to 2099. */
const isDay = (digits: string): boolean =>
  digits.length === 8 &&
  inRange(digits.slice(0, 4), 1970, 2099) &&
  inRange(digits.slice(4, 6), 1, 12) &&
  inRange(digits.slice(6), 1, 31);

/** `231559`: a time of day. */
const isClock = (digits: string): boolean =>
  digits.length === 6 &&
  inRange(digits.slice(0, 2), 0, 23) &&
  inRange(digits.slice(2, 4), 0, 59) &&
  inRange(digits.slice(4), 0, 59);

/**
 * Which runs of a name are parts of a date or of the time of day behind it: `20261124`, `2026-11-24`, `20261124_231559`.
 * @returns a flag for each run
 */
export function dateRuns(name: string, runs: readonly Run[]): boolean[] {
  const text = runs.map(({ start, end }) => name.slice(start, end).replace('-', ''));
  const found = runs.map(() => false);
  const between = (index: number) => name.slice(runs[index]!.end, runs[index + 1]?.start ?? runs[index]!.end);
  for (let index = 0; index < runs.length; index += 1) {
    const split =
      text[index]!.length === 4 && text[index + 1]?.length === 2 && text[index + 2]?.length === 2
        ? isDay(text[index]! + text[index + 1]! + text[index + 2]!) &&
          /^[-_.]?$/.test(between(index)) &&
          /^[-_.]?$/.test(between(index + 1))
        : false;
    const parts = split ? 3 : isDay(text[index]!) ? 1 : 0;
    if (parts === 0) continue;
    found.fill(true, index, index + parts);
    const next = index + parts;
    if (text[next] !== undefined && isClock(text[next])) found[next] = true;
    else if (text[next + 2] !== undefined && isClock(text[next]! + text[next + 1]! + text[next + 2]!))
      found.fill(true, next, next + 3);
    index = next - 1;
  }
  return found;
}

/** Whether a run lies in a word of six or more hexadecimal digits that mixes letters and numbers, as `a3f9c01b`. */
export function isHexRun(name: string, { start, end }: Run): boolean {
  let first = start;
  let last = end;
  while (first > 0 && /[0-9a-z]/i.test(name[first - 1]!)) first -= 1;
  while (last < name.length && /[0-9a-z]/i.test(name[last]!)) last += 1;
  const word = name.slice(first, last);
  return word.length >= 6 && (/^[0-9a-f]+$/.test(word) || /^[0-9A-F]+$/.test(word)) && /[a-f]/i.test(word);
}

const uuid = /[0-9a-f]{8}-(?:[0-9a-f]{4}-){3}[0-9a-f]{12}/i;

/** Whether a run is a piece of a UUID (RFC 9562, 4). */
export function isUuidRun(name: string, { start, end }: Run): boolean {
  const match = uuid.exec(name);
  return match !== null && start >= match.index && end <= match.index + match[0].length;
}
