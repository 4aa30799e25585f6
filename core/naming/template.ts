import { ShaleError } from '../errors.ts';
import { parsePattern, printPattern, type Pattern } from '../numbering/pattern.ts';

/** What a name template may ask for. */
export interface NameFields {
  stem: string;
  /** The format's ending without its dot. */
  ext: string;
}

const fields = 'stem, frame, ext';

const refuse = (template: string, fact: string): ShaleError =>
  new ShaleError({
    code: 'bad-template',
    fact: `The name template "${template}" ${fact}`,
    wayOut: `Write it as {stem}.{frame:4}.{ext}; the fields are ${fields}.`,
    subject: 'names.template',
  });

/** Characters that no common file system or shell takes in a name. */

const unfit = /[/\\:*?"<>|\u0000-\u001f]/;

/**
 * The pattern that a template gives. `{frame:4}` writes four digits or more; `####` and `%04d` are taken as well.
 * @throws ShaleError `bad-template` for unknown, unclosed or missing fields and for characters unfit for a name
 * @example templatePattern('{stem}.{frame:4}.{ext}', {stem: 'bell', ext: 'png'}) // bell.####.png
 */
export function templatePattern(template: string, values: NameFields): Pattern {
  const filled = template.replace(/\{([^{}]*)\}/g, (_, inside: string) => {
    const [field, width] = inside.split(':');
    if (field === 'stem') return values.stem;
    if (field === 'ext') return values.ext;
    if (field !== 'frame') throw refuse(template, `asks for {${inside}}, which Shale does not know.`);
    if (width !== undefined && !/^([1-9]|1\d)$/.test(width))
      throw refuse(template, `gives the frame a width of "${width}".`);
    return '#'.repeat(Number(width ?? 1));
  });
  if (/[{}]/.test(filled)) throw refuse(template, 'has a brace that is not closed or not opened.');
  if (!/#|%0?\d*d/.test(filled)) throw refuse(template, 'has no frame number in it.');
  const pattern = parsePattern(filled);
  const text = printPattern(pattern);
  if (unfit.test(text)) throw refuse(template, `gives "${text}", which holds a character unfit for a file name.`);
  if (text.startsWith('.') || text.length > 200) {
    throw refuse(template, text.length > 200 ? 'gives a name of more than 200 characters.' : 'gives a hidden file.');
  }
  return pattern;
}

/** The stem of a pattern: its prefix without the separators before the number. */
export const stemOf = (pattern: Pattern): string => pattern.prefix.replace(/[._ -]+$/, '') || 'frame';
