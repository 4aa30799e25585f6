import { formatWords } from '../formats/index.ts';
import { sampleWords } from '../pixels/image.ts';
import { alphaWords, transferWords } from '../spec/declaration.ts';
import { printRate } from '../timing/rate.ts';
import { orWords, plural, printBytes } from '../words.ts';
import type { Receiver, ReceiverRule } from './receiver.ts';

const separatorNames: Record<string, string> = {
  '.': 'a dot',
  _: 'an underscore',
  '-': 'a dash',
  ' ': 'a space',
  '': 'nothing',
};

/** `a dot`, `nothing`: how a separator is called. */
export const separatorWords = (separator: string): string => separatorNames[separator] ?? separator;

const characterWords = ({ characters, keep }: Receiver): string => {
  if (characters === 'ascii') return 'Names hold plain ASCII: letters without accents, digits and signs.';
  return keep === ''
    ? 'Names hold letters and digits only, but for the separator and the dot before the ending.'
    : `Names hold letters, digits and ${orWords([...keep].map((letter) => `"${letter}"`))} only.`;
};

const exampleOf = ({ separator, digits, first }: Receiver): string =>
  `name${separator ?? '.'}${String(first ?? 1).padStart(digits ?? 4, '0')}.png`;

/** A receiver's rules read aloud, one sentence each; rules that ask for nothing are left out. */
export function receiverSentences(receiver: Receiver): { rule: ReceiverRule; sentence: string }[] {
  const told: { rule: ReceiverRule; sentence: string }[] = [];
  const say = (rule: ReceiverRule, sentence: string | false | null) => sentence && told.push({ rule, sentence });
  const r = receiver;
  say('characters', r.characters !== 'any' && characterWords(r));
  say('letters', r.letters && `Letters are ${r.letters === 'lower' ? 'small' : 'capital'}.`);
  say(
    'separator',
    r.separator !== null &&
      `Before the number stands ${separatorWords(r.separator)}, and after it only the ending, as ${exampleOf(r)}.`,
  );
  say('digits', r.digits !== null && `The number has exactly ${plural(r.digits, 'digit')}.`);
  say('byName', r.byName && 'It plays files in the order of their names: numbers have one width.');
  say('first', r.first !== null && `Numbers begin at ${r.first}.`);
  say('unbroken', r.unbroken && 'No number is missing: it stops at the first gap.');
  say('alone', r.alone && 'The sequence is alone in its folder: it takes every picture there.');
  say('nameLength', r.nameLength !== null && `A name has at most ${plural(r.nameLength, 'character')}.`);
  say('pathLength', r.pathLength !== null && `A path has at most ${plural(r.pathLength, 'character')}.`);
  say('formats', r.formats && `Files are ${orWords(r.formats.map(formatWords))}.`);
  say('samples', r.samples && `A sample is ${orWords(r.samples.map(sampleWords))}.`);
  say('alpha', r.alpha && `Alpha is ${orWords(r.alpha.map(bareAlpha))}.`);
  say('transfers', r.transfers && `The transfer is ${orWords(r.transfers.map((one) => transferWords[one]))}.`);
  say('size', (r.maxWidth !== null || r.maxHeight !== null) && `A picture has at most ${sizeWords(r)}.`);
  say('multipleOf', r.multipleOf !== null && `Width and height are multiples of ${r.multipleOf}.`);
  say('rates', r.rates && `It plays at ${orWords(r.rates.map(printRate))}.`);
  say('frameBytes', r.frameBytes !== null && `A frame has at most ${printBytes(r.frameBytes)}.`);
  say('totalBytes', r.totalBytes !== null && `All of it has at most ${printBytes(r.totalBytes)}.`);
  return told;
}

const bareAlpha = (alpha: 'none' | 'straight' | 'premultiplied'): string =>
  alpha === 'straight' ? 'straight' : alpha === 'none' ? 'absent' : alphaWords[alpha];

function sizeWords({ maxWidth, maxHeight }: Receiver): string {
  if (maxWidth !== null && maxHeight !== null) return `${maxWidth} x ${maxHeight} pixels`;
  return maxWidth !== null ? `${maxWidth} pixels across` : `${maxHeight} pixels down`;
}
