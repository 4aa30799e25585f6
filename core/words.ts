/** `59 frames`, `1 frame`. */
export const plural = (count: number, one: string, many = `${one}s`): string =>
  `${count.toLocaleString('en-GB')} ${count === 1 ? one : many}`;

const units = ['B', 'KiB', 'MiB', 'GiB', 'TiB'];

/** Bytes in binary units (IEC 80000-13): `41.2 MiB`. */
export function printBytes(bytes: number): string {
  let value = bytes;
  let unit = 0;
  while (value >= 1024 && unit < units.length - 1) {
    value /= 1024;
    unit += 1;
  }
  return `${unit === 0 ? value : value.toFixed(value < 10 ? 1 : 0)} ${units[unit]}`;
}

/** `150,000 bytes`: to the byte, where a limit is told. */
export const exactBytes = (bytes: number): string => plural(bytes, 'byte');

/** `PNG, TIFF or OpenEXR`. */
export const orWords = (words: readonly string[]): string => joined(words, 'or');

/** `a, b and c`. */
export const andWords = (words: readonly string[]): string => joined(words, 'and');

const joined = (words: readonly string[], last: string): string =>
  words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} ${last} ${words[words.length - 1]}`;

/** A few names, and how many more there are. */
export const someOf = (names: readonly string[], shown = 3): string =>
  names.slice(0, shown).join(', ') + (names.length > shown ? ` and ${names.length - shown} more` : '');
