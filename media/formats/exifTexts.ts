import type { WriteSettings } from './format.ts';

/** Fields of text (TIFF 6.0, section 8, and EXIF 2.32, 4.6.4), by what they are called here: PNG's keyword where it has one (PNG, third edition, 11.3.3.2). */
export const textTags: Record<number, string> = {
  269: 'Title',
  270: 'Description',
  271: 'Make',
  272: 'Model',
  305: 'Software',
  306: 'DateTime',
  315: 'Author',
  33_432: 'Copyright',
};

/** ASCII as the standard has it, UTF-8 and Latin-1 as they are met, up to the zero that ends it; undefined where it says nothing. */
export function textOf(bytes: Buffer): string | undefined {
  const end = bytes.indexOf(0);
  const own = end < 0 ? bytes : bytes.subarray(0, end);
  const utf8 = own.toString('utf8');
  const text = (utf8.includes('\ufffd') ? own.toString('latin1') : utf8).trim();
  return text === '' ? undefined : text;
}

/** Tags and bytes, each with the zero that ends it, of the texts that have a field; a date only in the form that its field has. */
export function textsAsFields(texts: WriteSettings['texts'] = []): [tag: number, bytes: Buffer][] {
  return Object.entries(textTags).flatMap(([tag, name]): [number, Buffer][] => {
    const text = texts.find(([one]) => one.toLowerCase() === name.toLowerCase())?.[1];
    if (text === undefined || name === 'Software') return [];
    if (name === 'DateTime' && !/^\d{4}:\d\d:\d\d \d\d:\d\d:\d\d$/.test(text)) return [];
    return [[Number(tag), Buffer.from(`${text}\0`, 'utf8')]];
  });
}
