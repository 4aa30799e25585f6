import { escapeClass } from '../naming/parts.ts';
import { splitName, splitParts } from '../naming/parts.ts';
import { frameDigits, frameName, type Pattern } from '../numbering/pattern.ts';
import { coverageOf, framesOf, missingFrom, printCoverage } from '../numbering/ranges.ts';
import { sampleWords } from '../pixels/image.ts';
import { alphaWords, transferWords } from '../spec/declaration.ts';
import { printRate } from '../timing/rate.ts';
import { orWords, plural, printBytes, someOf } from '../words.ts';
import { isUnbroken, numbersIn, type Held } from './held.ts';
import type { Receiver, ReceiverRule } from './receiver.ts';
import { formatWords } from '../formats/index.ts';
import { separatorWords } from './sentences.ts';

/** A rule of a receiver that is not kept. */
export interface Breach {
  rule: ReceiverRule;
  /** What is held, as a person knows it. */
  name: string;
  /** One plain sentence. */
  sentence: string;
  /** True where nothing says what the rule asks about: it is no breach once it is declared so. */
  unknown?: boolean;
  /** Characters by which a name is too long. */
  over?: number;
  /** True where something stands between number and ending. */
  hasTail?: boolean;
  /** Digits that the greatest number needs. */
  widest?: number;
}

/** The first character that a receiver does not take in a stem. */
function unfitLetter({ characters, keep }: Receiver, text: string): string | undefined {
  if (characters === 'any') return undefined;
  const allowed = characters === 'ascii' ? /[^\u0020-\u007e]/u : new RegExp(`[^A-Za-z0-9${escapeClass(keep)}]`, 'u');
  return allowed.exec(text)?.[0];
}

/** Whether a rate is one of some. */
const sameRate = (a: { num: number; den: number }, b: { num: number; den: number }): boolean =>
  a.num * b.den === b.num * a.den;

/** What a receiver would trip over, each rule at most once, in the order of its sentences. */
export function breachesOf(held: Held, receiver: Receiver): Breach[] {
  const found: Breach[] = [];
  const add: Add = (rule, sentence, more) => found.push({ rule, name: held.name, sentence, ...more });
  nameBreaches(held, receiver, add);
  pictureBreaches(held, receiver, add);
  return found;
}

type More = Pick<Breach, 'unknown' | 'over' | 'hasTail' | 'widest'>;
type Add = (rule: ReceiverRule, sentence: string, more?: More) => void;
const unknown = { unknown: true };

function nameBreaches(held: Held, receiver: Receiver, add: Add): void {
  const { pattern } = held;
  const parts = pattern ? splitParts(pattern.prefix, pattern.suffix) : splitName(held.name);
  const text = parts.stem + parts.tail;
  const bad = unfitLetter(receiver, text);
  if (bad !== undefined) add('characters', `"${text}" holds "${bad}".`);
  const { letters } = receiver;
  if (letters) {
    const whole = pattern ? pattern.prefix + pattern.suffix : held.name;
    if (whole !== (letters === 'lower' ? whole.toLowerCase() : whole.toUpperCase()))
      add('letters', `"${whole}" has ${letters === 'lower' ? 'capital' : 'small'} letters.`);
  }
  const span = numbersIn(held);
  const tail = parts.tail === '' ? {} : { hasTail: true };
  if (pattern && span) {
    if (receiver.separator !== null) {
      if (parts.gap !== receiver.separator)
        add(
          'separator',
          `Before the number stands ${parts.gap === '' ? 'nothing' : `"${parts.gap}"`}, not ${separatorWords(receiver.separator)}.`,
          tail,
        );
      else if (parts.tail !== '') add('separator', `After the number stands "${parts.tail}".`, tail);
    }
    if (receiver.digits !== null) {
      const widths = [
        pattern.padding,
        frameDigits(span.first, pattern.padding).length,
        frameDigits(span.last, pattern.padding).length,
      ];
      const other = widths.find((width) => width !== receiver.digits);
      if (held.odd.length > 0) add('digits', `${someOf(held.odd)}: not all names are written alike.`);
      else if (other !== undefined) add('digits', `Numbers have ${plural(other, 'digit')}.`);
    }
    if (receiver.byName && !hasOneWidth(held, pattern, span)) {
      const widest = String(Math.max(Math.abs(span.first), Math.abs(span.last))).length;
      add('byName', 'Sorted by name, its numbers come in another order: 1, 10, 2.', { widest });
    }
    if (receiver.first !== null && span.first !== receiver.first) add('first', `Numbers begin at ${span.first}.`);
    if (receiver.unbroken && !isUnbroken(held)) add('unbroken', gapWords(held));
  } else if (receiver.digits !== null || receiver.separator !== null) {
    if (held.files > 1) add('separator', 'Its names have no one number that counts.');
  }
  if (receiver.alone && held.beside.length > 0)
    add('alone', `${someOf(held.beside)} ${held.beside.length === 1 ? 'lies' : 'lie'} in the same folder.`);
  const longest =
    pattern && span
      ? Math.max(frameName(pattern, span.first).length, frameName(pattern, span.last).length)
      : held.name.length;
  if (receiver.nameLength !== null && longest > receiver.nameLength)
    add('nameLength', `A name has ${longest} characters.`, { over: longest - receiver.nameLength });
  const path = held.folderLength + longest;
  if (receiver.pathLength !== null && path > receiver.pathLength) add('pathLength', `The path has ${path} characters.`);
}

/** Whether names sort as their numbers do. */
function hasOneWidth(held: Held, { padding }: Pattern, { first, last }: { first: number; last: number }): boolean {
  const widths = [first, last].map((number) => frameDigits(number, padding).length);
  return held.odd.length === 0 && widths[0] === widths[1] && first >= 0;
}

function gapWords(held: Held): string {
  const missing = missingFrom(coverageOf([...framesOf(held.coverage)].sort((a, b) => a - b)));
  if (missing.length === 0) return 'Numbers go by more than one.';
  const one = missing.length === 1 && missing[0]!.first === missing[0]!.last;
  const text = printCoverage(missing.slice(0, 3)).replaceAll(',', ', ');
  return `${one ? 'Number' : 'Numbers'} ${text}${missing.length > 3 ? ' and more' : ''} ${one ? 'is' : 'are'} missing.`;
}

function pictureBreaches(held: Held, receiver: Receiver, add: Add): void {
  const { formats, samples, alpha, transfers, rates } = receiver;
  if (formats) {
    if (held.format === null) add('formats', 'Its format could not be read.', unknown);
    else if (!formats.includes(held.format))
      add('formats', `It is ${formatWords(held.format)}, not ${orWords(formats.map(formatWords))}.`);
  }
  if (samples && held.sample !== null && !samples.includes(held.sample))
    add('samples', `A sample is ${sampleWords(held.sample)}.`);
  if (alpha) {
    if (held.alpha === null) add('alpha', 'Nothing says how its alpha is meant.', unknown);
    else if (held.alpha === 'ignore' || held.alpha === 'on-colour' || !alpha.includes(held.alpha))
      add('alpha', `It has ${alphaNow[held.alpha]}.`);
  }
  if (transfers) {
    if (held.transfer === null) add('transfers', 'Nothing says which transfer it has.', unknown);
    else if (!transfers.includes(held.transfer)) add('transfers', `It is ${transferWords[held.transfer]}.`);
  }
  const { maxWidth, maxHeight, multipleOf } = receiver;
  if (held.width !== null && held.height !== null) {
    const size = `${held.width} x ${held.height} pixels`;
    if ((maxWidth !== null && held.width > maxWidth) || (maxHeight !== null && held.height > maxHeight))
      add('size', `It has ${size}.`);
    if (multipleOf !== null && (held.width % multipleOf !== 0 || held.height % multipleOf !== 0))
      add('multipleOf', `${size} are no multiples of ${multipleOf}.`);
  }
  if (rates && (held.pattern || held.files > 1)) {
    if (held.rate === null) add('rates', 'No rate is declared.', unknown);
    else if (!rates.some((rate) => sameRate(rate, held.rate!))) add('rates', `It plays at ${printRate(held.rate)}.`);
  }
  if (held.bytes !== null && held.files > 0) {
    const each = held.bytes / held.files;
    if (receiver.frameBytes !== null && each > receiver.frameBytes)
      add('frameBytes', `A frame has ${printBytes(each)} on average.`);
    if (receiver.totalBytes !== null && held.bytes > receiver.totalBytes)
      add('totalBytes', `All of it has ${printBytes(held.bytes)}.`);
  }
}

const alphaNow = { ...alphaWords, premultiplied: 'premultiplied alpha', ignore: 'alpha that is ignored' };
