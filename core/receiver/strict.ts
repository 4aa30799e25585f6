import type { SampleFormat } from '../numbering/source.ts';
import { plural } from '../words.ts';
import type { Receiver } from './receiver.ts';

/** What a picture's header says to a strict reader. */
export interface SeenPicture {
  format: string;
  sample: SampleFormat;
  width: number;
  height: number;
  hasAlpha: boolean;
}

/** A file that the reader does not take, and why. */
export interface LeftOut {
  name: string;
  why: string;
}

/** What a tool with a receiver's rules would load from a folder. */
export interface Loaded {
  /** Files in the order in which it would play them. */
  plays: string[];
  leftOut: LeftOut[];
  /** What it would tell, in one sentence. */
  sentence: string;
}

/** Text as an expression has it, in and outside of a class. */
const escape = (text: string): string =>
  text.replace(/[.*+?^${}()|[\]\\/-]/g, (sign) => `\\x${sign.charCodeAt(0).toString(16).padStart(2, '0')}`);

/** The exact form of a name that a receiver takes: stem, separator, number, ending. */
function nameForm({ characters, keep, separator, digits, letters }: Receiver): RegExp {
  const own = characters === 'plain' ? `[A-Za-z0-9${escape(keep)}]` : characters === 'ascii' ? '[\\x20-\\x7e]' : '[^]';
  const lettered = letters === 'lower' ? '(?!.*\\p{Lu})' : letters === 'upper' ? '(?!.*\\p{Ll})' : '';
  const before = separator === null ? '[._ -]?' : escape(separator);
  const number = digits === null ? '\\d+' : `\\d{${digits}}`;
  // Who says nothing of the separator says nothing of what follows the number: the last digits are it then.
  const tail = separator === null ? `(?:(?!\\d)${own})*?` : '';
  return new RegExp(`^${lettered}(${own}*?)(${before})(?<!\\d)(${number})(${tail})\\.([A-Za-z0-9]+)$`, 'u');
}

/**
 * A stand-in for the tool that reads next: opens a folder by a receiver's rules to the letter, and forgives nothing. It takes files in
 * the order of names, or of numbers where its rules say nothing of names, takes the first sequence that it finds and stops where its rules say so.
 * @param names every name of the folder
 * @param seen headers by name; without one a file's contents are not looked at
 */
export function strictRead(
  names: readonly string[],
  receiver: Receiver,
  seen: ReadonlyMap<string, SeenPicture> = new Map(),
): Loaded {
  const form = nameForm(receiver);
  const leftOut: LeftOut[] = [];
  const taken: { name: string; key: string; number: number }[] = [];
  for (const name of [...names].sort()) {
    const match = form.exec(name);
    if (!match) leftOut.push({ name, why: 'the name does not have the required form' });
    else if (receiver.nameLength !== null && name.length > receiver.nameLength)
      leftOut.push({ name, why: 'the name is too long' });
    else {
      const why = pictureFault(seen.get(name), receiver);
      if (why) leftOut.push({ name, why });
      else taken.push({ name, key: `${match[1]}\0${match[2]}\0${match[4]}\0${match[5]}`, number: Number(match[3]) });
    }
  }
  if (receiver.alone && new Set(taken.map(({ key }) => key)).size > 1) {
    return {
      plays: taken.map(({ name }) => name),
      leftOut,
      sentence: 'It reads several sequences as one and plays them mixed.',
    };
  }
  if (!receiver.byName) taken.sort((a, b) => a.number - b.number);
  const first = taken[0];
  if (!first) return { plays: [], leftOut, sentence: 'It loads nothing.' };
  const run = taken.filter(({ key }) => key === first.key);
  for (const { name } of taken.filter(({ key }) => key !== first.key))
    leftOut.push({ name, why: 'part of another sequence' });
  if (receiver.first !== null && run[0]!.number !== receiver.first) {
    for (const { name } of run)
      leftOut.push({ name, why: `the sequence begins at ${run[0]!.number}, not ${receiver.first}` });
    return { plays: [], leftOut, sentence: 'It loads nothing.' };
  }
  const plays: string[] = [];
  for (const { name, number } of run) {
    if (receiver.unbroken && plays.length > 0 && number !== run[0]!.number + plays.length)
      leftOut.push({ name, why: 'after a gap' });
    else plays.push(name);
  }
  const order = run.slice(0, plays.length).every(({ number }, at) => at === 0 || number > run[at - 1]!.number);
  const left = leftOut.length > 0 ? ` and leaves out ${leftOut.length}` : '';
  return {
    plays,
    leftOut,
    sentence: order
      ? `It loads ${plural(plays.length, 'frame')}${left}.`
      : `It loads ${plural(plays.length, 'frame')}${left}, in the wrong order: ${run
          .slice(0, 3)
          .map(({ number }) => number)
          .join(', ')}, ...`,
  };
}

function pictureFault(picture: SeenPicture | undefined, receiver: Receiver): string | undefined {
  if (!picture) return undefined;
  const { formats, samples, alpha, maxWidth, maxHeight, multipleOf } = receiver;
  if (formats && !formats.includes(picture.format)) return `the format is ${picture.format}`;
  if (samples && !samples.includes(picture.sample)) return `the samples are ${picture.sample}`;
  if (alpha && !picture.hasAlpha && !alpha.includes('none')) return 'there is no alpha';
  if (alpha && picture.hasAlpha && alpha.every((kind) => kind === 'none')) return 'there is alpha';
  if ((maxWidth !== null && picture.width > maxWidth) || (maxHeight !== null && picture.height > maxHeight))
    return 'the picture is too large';
  if (multipleOf !== null && (picture.width % multipleOf !== 0 || picture.height % multipleOf !== 0))
    return `the sides are not multiples of ${multipleOf}`;
  return undefined;
}
