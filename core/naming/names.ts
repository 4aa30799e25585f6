/** Why a name will not do, as a code and the words after "a name that ...". */
export interface NameFault {
  code: 'empty-name' | 'hidden-name' | 'unfit-character' | 'reserved-name' | 'name-too-long';
  words: string;
}

/** Most bytes of a name in UTF-8; most 16-bit units on systems that count those. */
export const longestName = 255;

/** Characters that no name may hold on every system that may read it: POSIX forbids two of them, others the rest. */
export const unfit = /[/\\:*?"<>|\u0000-\u001f\u007f]/;

/** Device names, with any ending and in any case (Microsoft, "Naming Files, Paths, and Namespaces"). */
const reserved = /^(con|prn|aux|nul|conin\$|conout\$|com[0-9¹²³]|lpt[0-9¹²³])(\.|$)/i;

const encoder = new TextEncoder();

/** Names of everyday, which need no closer look: letters and digits first and last, and no device's beginning. */
const plainName = /^(?![cpanlCPANL])[A-Za-z0-9_][A-Za-z0-9_.-]{0,80}[A-Za-z0-9_]$/;

/** What is wrong with a file's name on this or on another system; undefined where nothing is. */
export function nameFault(name: string): NameFault | undefined {
  if (plainName.test(name)) return undefined;
  if (name === '') return { code: 'empty-name', words: 'is empty' };
  const bad = unfit.exec(name);
  if (bad) {
    const shown = bad[0] < ' ' || bad[0] === '\u007f' ? 'a control character' : `"${bad[0]}"`;
    return { code: 'unfit-character', words: `holds ${shown}, which is unfit for a file` };
  }
  if (name.startsWith('.')) return { code: 'hidden-name', words: 'begins with a dot: the file would be hidden' };
  if (/[. ]$/.test(name))
    return { code: 'reserved-name', words: 'ends with a dot or a space, which some systems drop' };
  if (name.startsWith(' ')) return { code: 'reserved-name', words: 'begins with a space' };
  if (reserved.test(name)) return { code: 'reserved-name', words: 'other systems reserve for devices' };
  // A character is at most three bytes for a unit: short names need no counting.
  if (name.length * 3 > longestName && encoder.encode(name).length > longestName)
    return { code: 'name-too-long', words: `is longer than ${longestName} bytes` };
  return undefined;
}

/** What two names have in common that a system without regard to case or Unicode form takes for one. */
export const foldName = (name: string): string =>
  ascii.test(name) ? name.toLowerCase() : name.normalize('NFC').toLowerCase().normalize('NFC');

const ascii = /^[\x20-\x7e]*$/;

/** A name that is free: `Archive`, or `Archive 2` where that is taken. */
export function freeName(name: string, taken: ReadonlySet<string>): string {
  let free = name;
  for (let number = 2; taken.has(free); number += 1) free = `${name} ${number}`;
  return free;
}
