/** A text in three: what it has in common with another at its start, what is its own, what is common at its end. */
export interface Parted {
  start: string;
  own: string;
  end: string;
}

/** Two names, each with the part in which it differs from the other. Whole letters only: a pair of units is never cut. */
export function difference(from: string, to: string): [Parted, Parted] {
  const before = [...from];
  const after = [...to];
  const least = Math.min(before.length, after.length);
  let start = 0;
  while (start < least && before[start] === after[start]) start += 1;
  let end = 0;
  while (end < least - start && before[before.length - 1 - end] === after[after.length - 1 - end]) end += 1;
  const part = (letters: string[]): Parted => ({
    start: letters.slice(0, start).join(''),
    own: letters.slice(start, letters.length - end).join(''),
    end: letters.slice(letters.length - end).join(''),
  });
  return [part(before), part(after)];
}
