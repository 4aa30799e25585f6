import { ShaleError } from '../errors.ts';
import type { Pattern } from '../numbering/pattern.ts';
import { nameFault } from './names.ts';

/** Fields of a name template by what they hold: text, or a whole number that may be written with a width. */
export const textFields = ['stem', 'tail', 'ext', 'folder', 'path', 'rate', 'date', 'marker', 'note', 'layer'] as const;
export const numberFields = ['frame', 'index', 'counter', 'version', 'width', 'height', 'depth', 'number'] as const;
export type TextField = (typeof textFields)[number];
export type NumberField = (typeof numberFields)[number];
export type NameField = TextField | NumberField;

/** What each field gives, in a few words. */
export const fieldWords: Record<NameField, string> = {
  stem: 'the name without number and ending',
  tail: 'what comes between the number and the ending',
  ext: 'the ending without its dot',
  folder: 'the folder that holds it',
  path: 'that folder with those above it, below the root',
  rate: 'the declared rate, such as 24 or 23.976',
  date: 'the day its newest file was made, as 2026-11-25',
  marker: 'the name of its marker',
  note: 'the note of its marker',
  layer: 'the chosen layer, `main` for the main picture',
  frame: 'the frame number',
  index: 'its place in its own source, from 1',
  counter: 'its place among all files, from 1',
  version: 'the version in the name, 2 for v02',
  width: 'pixels across',
  height: 'pixels down',
  depth: 'bits of a sample',
  number: 'the number of its marker, from 1',
};

/** How letters are written: `words` begins each word with a capital. */
export type LetterCase = 'lower' | 'upper' | 'words';

export type NamePart = string | { field: TextField; as?: LetterCase } | { field: NumberField; digits?: number };

/** A number that each file has its own of; `digits` is absent where the template gives none. */
export interface Slot {
  slot: 'frame' | 'index' | 'counter';
  digits?: number;
}

const isSlot = (field: NameField): field is Slot['slot'] =>
  field === 'frame' || field === 'index' || field === 'counter';

const refuse = (template: string, fact: string): ShaleError =>
  new ShaleError({
    code: 'bad-template',
    fact: `The name template "${template}" ${fact}`,
    wayOut: `Write it as {stem}.{frame:4}.{ext}; the fields are ${[...textFields, ...numberFields].join(', ')}.`,
    subject: 'names.template',
  });

/** Words of a name in another case; a word begins after anything but a letter or digit. */
export function inCase(text: string, as: LetterCase): string {
  if (as === 'lower') return text.toLowerCase();
  if (as === 'upper') return text.toUpperCase();
  return text.toLowerCase().replace(/(^|[^\p{L}\p{N}])(\p{L})/gu, (_, before: string, letter: string) => {
    return before + letter.toUpperCase();
  });
}

function readField(template: string, inside: string): NamePart {
  const [field, how, more] = inside.split(':') as [string, string | undefined, string | undefined];
  if (more !== undefined) throw refuse(template, `asks for {${inside}}, with more than one colon.`);
  if ((textFields as readonly string[]).includes(field)) {
    if (how === undefined) return { field: field as TextField };
    if (how === 'lower' || how === 'upper' || how === 'words') return { field: field as TextField, as: how };
    throw refuse(template, `asks for {${inside}}; write lower, upper or words after the colon of ${field}.`);
  }
  if (!(numberFields as readonly string[]).includes(field))
    throw refuse(template, `asks for {${inside}}, which Shale does not know.`);
  if (how === undefined) return { field: field as NumberField };
  if (!/^([1-9]|1\d|20)$/.test(how)) throw refuse(template, `gives the ${field} a width of "${how}".`);
  return { field: field as NumberField, digits: Number(how) };
}

/**
 * Reads a template. `{frame:4}` writes four digits or more; `####` and `%04d` are the frame number as well.
 * @throws ShaleError `bad-template` for unknown and unclosed fields
 * @example parseTemplate('{stem}.{frame:4}.{ext}')
 */
export function parseTemplate(template: string): NamePart[] {
  const parts: NamePart[] = [];
  const token = /\{([^{}]*)\}|#+|%(?:0(\d{1,2}))?d/g;
  const text = (piece: string) => {
    if (/[{}]/.test(piece)) throw refuse(template, 'has an unmatched brace.');
    if (piece !== '') parts.push(piece);
  };
  let from = 0;
  for (const match of template.matchAll(token)) {
    text(template.slice(from, match.index));
    from = match.index + match[0].length;
    if (match[1] !== undefined) parts.push(readField(template, match[1]));
    else if (match[0].startsWith('#')) parts.push({ field: 'frame', digits: match[0].length });
    else parts.push({ field: 'frame', digits: Math.max(1, Number(match[2] ?? 1)) });
  }
  text(template.slice(from));
  return parts;
}

/** What fields are filled with; what is not known is left out. */
export type NameValues = Partial<Record<Exclude<NameField, Slot['slot']>, string | number>>;

/**
 * A template with all but each file's own numbers filled in.
 * @throws ShaleError `field-unknown` where a field has no value for this source
 */
export function fillTemplate(parts: readonly NamePart[], values: NameValues, source: string): (string | Slot)[] {
  const filled: (string | Slot)[] = [];
  const add = (text: string) => {
    if (typeof filled[filled.length - 1] === 'string') filled[filled.length - 1] += text;
    else filled.push(text);
  };
  for (const part of parts) {
    if (typeof part === 'string') add(part);
    else if (isSlot(part.field)) filled.push({ slot: part.field, digits: (part as { digits?: number }).digits });
    else {
      const value = values[part.field];
      if (value === undefined) {
        throw new ShaleError({
          code: 'field-unknown',
          fact: `The name asks for {${part.field}}, ${fieldWords[part.field]}, and of ${source} that is not known.`,
          wayOut:
            part.field === 'rate' ? 'Declare its rate, or remove the field.' : 'Remove the field from the template.',
          subject: source,
        });
      }
      if ('digits' in part && part.digits !== undefined) add(String(value).padStart(part.digits, '0'));
      else add('as' in part && part.as ? inCase(String(value), part.as) : String(value));
    }
  }
  return filled;
}

/**
 * The pattern that a template gives a sequence: it holds the frame number exactly once.
 * @throws ShaleError `bad-template` for unknown, unclosed or missing fields and for characters unfit for a name
 * @example templatePattern('{stem}.{frame:4}.{ext}', {stem: 'bell', ext: 'png'}) // bell.####.png
 */
export function templatePattern(template: string, values: NameValues & { stem: string; ext: string }): Pattern {
  const filled = fillTemplate(parseTemplate(template), values, values.stem);
  const slots = filled.filter((part): part is Slot => typeof part !== 'string');
  if (!slots.some(({ slot }) => slot === 'frame')) throw refuse(template, 'has no frame number in it.');
  if (slots.length > 1) throw refuse(template, 'has more than one number in it.');
  const at = filled.findIndex((part) => typeof part !== 'string');
  const pattern = {
    prefix: filled.slice(0, at).join(''),
    padding: slots[0]!.digits ?? 1,
    suffix: filled.slice(at + 1).join(''),
  };
  const fault = nameFault(pattern.prefix + '0'.repeat(pattern.padding) + pattern.suffix);
  if (fault) throw refuse(template, `gives a name that ${fault.words}.`);
  return pattern;
}

/** A template without numbers of files. @throws ShaleError `bad-template` */
function plainName(template: string, values: NameValues & { stem: string }): string {
  const filled = fillTemplate(parseTemplate(template), values, values.stem);
  if (filled.some((part) => typeof part !== 'string'))
    throw refuse(template, 'has a frame number, but only one file is written.');
  return filled.join('');
}

/** The name that a template gives a single file. @throws ShaleError `bad-template` for unknown fields and numbers of frames */
export function fileName(template: string, values: NameValues & { stem: string }): string {
  const name = plainName(template, values);
  const fault = nameFault(name);
  if (fault) throw refuse(template, `gives a name that ${fault.words}.`);
  return name;
}

/** A folder below a root, its fields in braces filled in: `{stem}_{rate}fps`. @throws ShaleError `bad-template` */
export const folderName = (template: string, values: NameValues & { stem: string }): string =>
  template.includes('{') ? plainName(template, values) : template;

/** The stem of a pattern: its prefix without the separators before the number. */
export const stemOf = (pattern: Pattern): string => pattern.prefix.replace(/[._ -]+$/, '') || 'frame';
