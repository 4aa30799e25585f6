import { RE2JS } from 're2js';
import { ShaleError } from '../errors.ts';
import { inCase } from './template.ts';
import type { NameRule, RuleOf } from './rules.ts';

/** A name taken apart: `bell_turn` `_` number `_left` `png`. */
export interface NameParts {
  stem: string;
  /** Separators between the stem and the number. */
  gap: string;
  /** Between the number and the ending. */
  tail: string;
  /** Without its dot; empty where there is none. */
  ext: string;
}

/** Takes apart what stands before and after a number. */
export function splitParts(prefix: string, suffix: string): NameParts {
  const stem = prefix.replace(/[._ -]+$/, '');
  const dot = suffix.lastIndexOf('.');
  return {
    stem,
    gap: prefix.slice(stem.length),
    tail: dot < 0 ? suffix : suffix.slice(0, dot),
    ext: dot < 0 ? '' : suffix.slice(dot + 1),
  };
}

/** Takes a name without a number apart; a dot at its very beginning is no ending's. */
export function splitName(name: string): NameParts {
  const dot = name.lastIndexOf('.');
  return dot > 0
    ? { stem: name.slice(0, dot), gap: '', tail: '', ext: name.slice(dot + 1) }
    : { stem: name, gap: '', tail: '', ext: '' };
}

/** Letters that stand for others without being composed of them. */
const plainLetters: Record<string, string> = {
  ß: 'ss',
  æ: 'ae',
  Æ: 'AE',
  œ: 'oe',
  Œ: 'OE',
  ø: 'o',
  Ø: 'O',
  đ: 'd',
  Đ: 'D',
  ł: 'l',
  Ł: 'L',
  þ: 'th',
  Þ: 'Th',
  ð: 'd',
  Ð: 'D',
  ı: 'i',
};

/** A text as it stands within a character class of an expression. */
export const escapeClass = (text: string): string => text.replace(/[\\\]^-]/g, '\\$&');

/** Only letters a to z, digits and what is kept; accents go, any run of others becomes `with`. */
export function plainText(text: string, { keep, with: other }: Pick<RuleOf<'characters'>, 'keep' | 'with'>): string {
  const bare = text.replace(/./gu, (letter) => plainLetters[letter] ?? letter).normalize('NFD');
  const plain = bare.replace(/\p{M}+/gu, '').normalize('NFC');
  return plain.replace(new RegExp(`[^A-Za-z0-9${escapeClass(keep)}]+`, 'gu'), other);
}

/** A rule that finds and replaces, ready to be used on any number of texts. */
export type Replacer = (text: string) => string;

/**
 * Makes a replacing rule ready. Expressions are RE2's: their time grows with the text's length and never faster, so none can
 * run for ever; they have no back-references and no look-around.
 * @throws ShaleError `bad-expression`, `nothing-to-find`
 */
export function replacer({ find, with: other, as, anyCase }: RuleOf<'replace'>): Replacer {
  if (find === '') {
    throw new ShaleError({
      code: 'nothing-to-find',
      fact: 'A find-and-replace rule has nothing to find.',
      wayOut: 'Type the text to find, or switch the rule off.',
      subject: 'rules',
    });
  }
  try {
    const expression = RE2JS.compile(as === 'text' ? RE2JS.quote(find) : find, anyCase ? RE2JS.CASE_INSENSITIVE : 0);
    const put = as === 'text' ? other.replaceAll('$', '$$$$') : other;
    return (text) => expression.matcher(text).replaceAll(put);
  } catch (error) {
    throw new ShaleError({
      code: 'bad-expression',
      fact: `The expression "${find}" cannot be read: ${(error as Error).message}.`,
      wayOut: 'Correct it, or search for plain text. Back-references and look-around are not supported.',
      subject: find,
    });
  }
}

/** A rule's work on the parts of a name, or undefined where it has none there (numbers, the form, the whole name). */
export function textWork(rule: NameRule): ((parts: NameParts) => NameParts) | undefined {
  switch (rule.kind) {
    case 'replace': {
      if (rule.where === 'whole') return undefined;
      const replace = replacer(rule);
      return rule.where === 'stem'
        ? (parts) => ({ ...parts, stem: replace(parts.stem), tail: replace(parts.tail) })
        : (parts) => ({ ...parts, ext: replace(parts.ext) });
    }
    case 'case':
      return ({ stem, gap, tail, ext }) => ({
        stem: rule.where === 'ending' ? stem : inCase(stem, rule.to),
        gap,
        tail: rule.where === 'ending' ? tail : inCase(tail, rule.to),
        ext: rule.where === 'stem' ? ext : inCase(ext, rule.to),
      });
    case 'separators':
      return (parts) => ({
        ...parts,
        stem: parts.stem.replace(/[._ -]+/g, rule.to),
        tail: parts.tail.replace(/[._ -]+/g, rule.to),
      });
    case 'trim':
      return (parts) => {
        const letters = [...parts.stem];
        const cut = letters.slice(rule.start, Math.max(rule.start, letters.length - rule.end)).join('');
        return { ...parts, stem: rule.tidy ? cut.replace(/^[._ -]+|[._ -]+$/g, '') : cut };
      };
    case 'characters':
      return (parts) => ({ ...parts, stem: plainText(parts.stem, rule), tail: plainText(parts.tail, rule) });
    default:
      return undefined;
  }
}
