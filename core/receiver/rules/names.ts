import { escapeClass, plainText, splitName, splitParts } from '../../naming/parts.ts';
import { separatorWords } from '../../naming/separators.ts';
import { newRule, type NameRule, type NameRuleKind, type NamingSpec, type RuleOf } from '../../naming/rules.ts';
import { frameDigits, frameName } from '../../numbering/pattern.ts';
import { coverageOf, framesOf, missingFrom, printCoverage } from '../../numbering/ranges.ts';
import type { Spec } from '../../spec/schema.ts';
import { orWords, plural, someOf } from '../../words.ts';
import { isUnbroken, numbersIn, type Held } from '../held.ts';
import type { Receiver } from '../receiver.ts';
import type { Converting, Rule } from './rule.ts';

const exampleOf = ({ separator, digits, first }: Receiver): string =>
  `name${separator ?? '.'}${String(first ?? 1).padStart(digits ?? 4, '0')}.png`;

/** A name taken apart. */
const partsOf = ({ pattern, name }: Held) => (pattern ? splitParts(pattern.prefix, pattern.suffix) : splitName(name));

/** The pattern of names and the span of their numbers; undefined where they have no number that counts. */
function numbered(held: Held) {
  const span = numbersIn(held);
  return held.pattern && span ? { pattern: held.pattern, span } : undefined;
}

/** The longest name. */
function longestOf(held: Held): number {
  const known = numbered(held);
  if (!known) return held.name.length;
  const { pattern, span } = known;
  return Math.max(frameName(pattern, span.first).length, frameName(pattern, span.last).length);
}

/** The stack with a rule of a kind changed, the last one that is on; added at the end where there is none. */
function withRule<K extends NameRuleKind>(
  spec: NamingSpec,
  kind: K,
  change: (rule: RuleOf<K>) => RuleOf<K>,
): NamingSpec {
  const { rules } = spec;
  const at = rules.findLastIndex((rule) => rule.kind === kind && rule.on);
  const next: NameRule[] =
    at < 0
      ? [...rules, change(newRule(kind) as RuleOf<K>)]
      : rules.map((rule, index) => (index === at ? change(rule as RuleOf<K>) : rule));
  return { ...spec, rules: next };
}

const withNumber = (spec: NamingSpec, change: Partial<RuleOf<'number'>>): NamingSpec =>
  withRule(spec, 'number', (rule) => ({ ...rule, ...change }));

const withNames = ({ spec, stem }: Converting, change: (stem: string) => Partial<Spec['names']>): Converting => ({
  spec: { ...spec, names: { ...spec.names, ...change(spec.names.stem ?? stem) } },
  stem,
});

const keepOf = ({ characters, keep }: Receiver): string => (characters === 'plain' ? keep : '_-. ');
const putOf = (receiver: Receiver): '_' | '-' | '' => {
  const keep = keepOf(receiver);
  return keep.includes('_') ? '_' : keep.includes('-') ? '-' : '';
};

/** The first character that a receiver does not take in a stem. */
function unfitLetter({ characters, keep }: Receiver, text: string): string | undefined {
  if (characters === 'any') return undefined;
  const allowed = characters === 'ascii' ? /[^\u0020-\u007e]/u : new RegExp(`[^A-Za-z0-9${escapeClass(keep)}]`, 'u');
  return allowed.exec(text)?.[0];
}

export const characters: Rule = {
  label: 'Characters',
  sentence(receiver) {
    if (receiver.characters === 'any') return undefined;
    if (receiver.characters === 'ascii') return 'Names use plain ASCII: letters without accents, digits and signs.';
    return receiver.keep === ''
      ? 'Names use only letters and digits, apart from the separator and the dot before the ending.'
      : `Names use letters, digits and ${orWords([...receiver.keep].map((letter) => `"${letter}"`))} only.`;
  },
  breach(held, receiver) {
    const { stem, tail } = partsOf(held);
    const bad = unfitLetter(receiver, stem + tail);
    return bad === undefined ? undefined : { sentence: `"${stem + tail}" holds "${bad}".` };
  },
  byNames: {
    words: () => 'Use letters and digits',
    change: (spec, receiver) =>
      withRule(spec, 'characters', (one) => ({ ...one, keep: keepOf(receiver), with: putOf(receiver) })),
  },
  byConverting: {
    words: () => 'Use letters and digits',
    change: (converting, receiver) =>
      withNames(converting, (stem) => ({
        stem: plainText(stem, { keep: keepOf(receiver), with: putOf(receiver) }) || 'frame',
      })),
  },
};

const letterMend = ({ letters }: Receiver): string => (letters === 'lower' ? 'Use lower case' : 'Use upper case');

export const letters: Rule = {
  label: 'Letters',
  sentence: (receiver) => receiver.letters && `Letters are ${receiver.letters === 'lower' ? 'small' : 'capital'}.`,
  breach({ pattern, name }, receiver) {
    if (!receiver.letters) return undefined;
    const isLower = receiver.letters === 'lower';
    const whole = pattern ? pattern.prefix + pattern.suffix : name;
    return whole === (isLower ? whole.toLowerCase() : whole.toUpperCase())
      ? undefined
      : { sentence: `"${whole}" has ${isLower ? 'capital' : 'small'} letters.` };
  },
  byNames: {
    words: letterMend,
    change: (spec, receiver) => ({
      ...spec,
      rules: [...spec.rules, { kind: 'case', on: true, to: receiver.letters!, where: 'both' }],
    }),
  },
  byConverting: {
    words: letterMend,
    change: (converting, receiver) =>
      withNames(converting, (stem) => ({
        stem: receiver.letters === 'lower' ? stem.toLowerCase() : stem.toUpperCase(),
      })),
  },
};

/**
 * Separator and digits as they are asked for: by the number's rule, or by the template where one is on or something stands behind
 * the number; it would go before what is asked for.
 */
function withForm(spec: NamingSpec, receiver: Receiver, hasTail: boolean, saysSeparator: boolean): NamingSpec {
  const separator = receiver.separator ?? '.';
  const digits = receiver.digits ?? 'auto';
  if (!hasTail && !spec.rules.some(({ kind, on }) => kind === 'template' && on))
    return withNumber(spec, { digits, ...(saysSeparator && { before: separator }) });
  const frame = receiver.digits === null ? '{frame}' : `{frame:${receiver.digits}}`;
  const next = withRule(spec, 'template', (one) => ({
    ...one,
    template: `{stem}{tail}${separator}${frame}.{ext}`,
  }));
  return receiver.digits === null ? withNumber(next, { digits: 'auto' }) : next;
}

const convertForm = (converting: Converting, { separator, digits }: Receiver, widest = 4): Converting =>
  withNames(converting, () => ({
    template: `{stem}${separator ?? '.'}{frame:${digits ?? Math.max(4, widest)}}.{ext}`,
  }));

export const separator: Rule = {
  label: 'Separator',
  sentence: (receiver) =>
    receiver.separator === null
      ? undefined
      : `Before the number comes ${separatorWords(receiver.separator)}, and after it only the ending, as ${exampleOf(receiver)}.`,
  breach(held, receiver) {
    if (!numbered(held))
      return (receiver.separator !== null || receiver.digits !== null) && held.files > 1
        ? { sentence: 'Its names have no single frame number.' }
        : undefined;
    if (receiver.separator === null) return undefined;
    const { gap, tail } = partsOf(held);
    const more = tail === '' ? {} : { hasTail: true };
    if (gap !== receiver.separator)
      return {
        sentence: `Before the number comes ${gap === '' ? 'nothing' : `"${gap}"`}, not ${separatorWords(receiver.separator)}.`,
        ...more,
      };
    return tail === '' ? undefined : { sentence: `After the number comes "${tail}".`, ...more };
  },
  byNames: {
    words: (receiver) => `Put ${separatorWords(receiver.separator ?? '.')} before the number`,
    change: (spec, receiver, { hasTail = false }) => withForm(spec, receiver, hasTail, true),
  },
  byConverting: {
    words: (receiver) => `Put ${separatorWords(receiver.separator ?? '.')} before the number`,
    change: (converting, receiver, { widest }) => convertForm(converting, receiver, widest),
  },
};

export const digits: Rule = {
  label: 'Digits',
  sentence: (receiver) =>
    receiver.digits === null ? undefined : `The number has exactly ${plural(receiver.digits, 'digit')}.`,
  breach(held, receiver) {
    const known = numbered(held);
    if (receiver.digits === null || !known) return undefined;
    if (held.odd.length > 0) return { sentence: `${someOf(held.odd)}: not all names have the same form.` };
    const { padding } = known.pattern;
    const widths = [padding, ...[known.span.first, known.span.last].map((one) => frameDigits(one, padding).length)];
    const other = widths.find((width) => width !== receiver.digits);
    return other === undefined ? undefined : { sentence: `Numbers have ${plural(other, 'digit')}.` };
  },
  byNames: {
    words: (receiver) => `Write ${receiver.digits} digits`,
    change: (spec, receiver, { hasTail = false }) => withForm(spec, receiver, hasTail, false),
  },
  byConverting: {
    words: (receiver) => `Write ${receiver.digits} digits`,
    change: (converting, receiver, { widest }) => convertForm(converting, receiver, widest),
  },
};

export const byName: Rule = {
  label: 'Order',
  sentence: (receiver) =>
    receiver.byName ? 'It plays files in order of their names: numbers need the same width.' : undefined,
  breach(held, receiver) {
    const known = numbered(held);
    if (!receiver.byName || !known) return undefined;
    const { first, last } = known.span;
    const [one, other] = [first, last].map((number) => frameDigits(number, known.pattern.padding).length);
    if (held.odd.length === 0 && one === other && first >= 0) return undefined;
    return {
      sentence: 'Sorted by name, its numbers are out of order: 1, 10, 2.',
      widest: String(Math.max(Math.abs(first), Math.abs(last))).length,
    };
  },
  byNames: {
    words: () => 'Pad to one width',
    change: (spec, receiver) => withNumber(spec, { digits: receiver.digits ?? 'auto' }),
  },
  byConverting: {
    words: () => 'Pad to one width',
    change: (converting, receiver, { widest }) => convertForm(converting, receiver, widest),
  },
};

export const first: Rule = {
  label: 'First number',
  sentence: (receiver) => (receiver.first === null ? undefined : `Numbers begin at ${receiver.first}.`),
  breach(held, receiver) {
    const known = numbered(held);
    if (receiver.first === null || !known || known.span.first === receiver.first) return undefined;
    return { sentence: `Numbers begin at ${known.span.first}.` };
  },
  byNames: {
    words: (receiver) => `Number from ${receiver.first}`,
    change: (spec, receiver) => withNumber(spec, { first: receiver.first }),
  },
  byConverting: {
    words: (receiver) => `Number from ${receiver.first}`,
    change: (converting, receiver) => withNames(converting, () => ({ first: receiver.first })),
  },
};

function gapWords(held: Held): string {
  const missing = missingFrom(coverageOf([...framesOf(held.coverage)].sort((a, b) => a - b)));
  if (missing.length === 0) return 'Numbers step by more than one.';
  const one = missing.length === 1 && missing[0]!.first === missing[0]!.last;
  const text = printCoverage(missing.slice(0, 3)).replaceAll(',', ', ');
  return `${one ? 'Number' : 'Numbers'} ${text}${missing.length > 3 ? ' and more' : ''} ${one ? 'is' : 'are'} missing.`;
}

export const unbroken: Rule = {
  label: 'Gaps',
  sentence: (receiver) => (receiver.unbroken ? 'No number may be missing: it stops at the first gap.' : undefined),
  breach: (held, receiver) =>
    receiver.unbroken && numbered(held) && !isUnbroken(held) ? { sentence: gapWords(held) } : undefined,
  byNames: {
    words: () => 'Close the gaps',
    change: (spec) => withNumber(spec, { gaps: 'close', step: 1 }),
  },
};

export const alone: Rule = {
  label: 'Folder',
  sentence: (receiver) =>
    receiver.alone ? 'The sequence must be alone in its folder: it reads every picture there.' : undefined,
  breach: (held, receiver) =>
    receiver.alone && held.beside.length > 0
      ? { sentence: `${someOf(held.beside)} ${held.beside.length === 1 ? 'lies' : 'lie'} in the same folder.` }
      : undefined,
  byNames: {
    words: () => 'Copy into a separate folder',
    change: (spec) => ({ ...spec, mode: 'copy', into: { ...spec.into, folder: '{path}/{stem}' } }),
  },
  byConverting: {
    words: () => 'Write into a separate folder',
    change: ({ spec, stem }) => ({ spec: { ...spec, into: { ...spec.into, folder: null } }, stem }),
  },
};

export const nameLength: Rule = {
  label: 'Length of a name',
  sentence: (receiver) =>
    receiver.nameLength === null ? undefined : `A name has at most ${plural(receiver.nameLength, 'character')}.`,
  breach(held, receiver) {
    const longest = longestOf(held);
    if (receiver.nameLength === null || longest <= receiver.nameLength) return undefined;
    return { sentence: `A name has ${longest} characters.`, over: longest - receiver.nameLength };
  },
  byNames: {
    words: () => 'Shorten the stem',
    change: (spec, _receiver, { over = 0 }) =>
      withRule(spec, 'trim', (one) => ({ ...one, end: Math.max(0, one.end + over) })),
  },
  byConverting: {
    words: () => 'Shorten the stem',
    change: (converting, _receiver, { over = 0 }) =>
      withNames(converting, (stem) => ({ stem: [...stem].slice(0, -over).join('') || 'f' })),
  },
};

export const pathLength: Rule = {
  label: 'Length of a path',
  sentence: (receiver) =>
    receiver.pathLength === null ? undefined : `A path has at most ${plural(receiver.pathLength, 'character')}.`,
  breach(held, receiver) {
    const path = held.folderLength + longestOf(held);
    return receiver.pathLength !== null && path > receiver.pathLength
      ? { sentence: `The path has ${path} characters.` }
      : undefined;
  },
};
