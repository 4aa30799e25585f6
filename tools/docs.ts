// `npm run docs`: the tables of docs/ that are made from the records of core. `--check` only says whether they are current.
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { format, resolveConfig } from 'prettier';
import {
  codecs,
  formOf,
  operations,
  receiverNameFields,
  receiverPictureFields,
  stills,
  type CodecRecord,
  type Field,
  type StillRecord,
} from '@shale/core';

const project = fileURLToPath(new URL('..', import.meta.url));

const table = (head: readonly string[], rows: readonly (readonly string[])[]): string =>
  [head, head.map(() => '---'), ...rows].map((cells) => `| ${cells.join(' | ')} |`).join('\n');

const stillRows = (Object.values(stills) as StillRecord[]).map(({ words, endings, documented }) => [
  words,
  endings.map((ending) => `\`${ending}\``).join(' '),
  documented.read,
  documented.written,
  documented.colour,
  documented.rate,
  documented.pixelAspect,
  documented.profile,
]);

const bits = (samples: readonly string[]): string => samples.map((sample) => sample.slice(1)).join(', ');

const controlWords: Partial<Record<CodecRecord['controls'], string>> = {
  lossless: 'lossless',
  palette: 'a palette of 2 to 256 colours',
  quality: 'quality 80 of 1 to 100',
  either: 'quality 80 of 1 to 100, or lossless',
};

const codecRows = (Object.values(codecs) as CodecRecord[]).map((codec) => [
  codec.words,
  codec.containers.map((container) => container.toUpperCase()).join(', '),
  bits(codec.writes.samples),
  codec.writes.alpha ? (codec.writes.alphaRule ?? 'as it is meant') : 'no',
  codec.chroma?.join(', ') ?? codec.ownChroma ?? 'as densely as light',
  codec.crf
    ? `quality ${codec.crf.start} of 0 to ${codec.crf.most}, or bitrate`
    : (codec.profile ?? controlWords[codec.controls] ?? ''),
  codec.twoPasses ? 'yes' : 'no',
]);

/** What a receiver may ask for, with the words that its form offers. */
const receiverRows = Object.entries({ ...receiverNameFields, ...receiverPictureFields } as Record<string, Field>).map(
  ([name, field]) => {
    const form = formOf(field, undefined);
    const offered = {
      choice: () => (form.kind === 'choice' ? Object.values(form.words).join(', ') : ''),
      several: () => 'some of a list',
      mark: () => 'yes or no',
      switch: () => 'yes or no',
      whole: () => 'a whole number',
      decimal: () => 'a number',
      floor: () => 'how far it may go',
      text: () => 'text',
    }[form.kind]();
    return [`\`${name}\``, String(field.label), offered];
  },
);

const operationRows = Object.entries(operations).map(([key, { label, rest }], at) => [
  String(at + 1),
  `\`${key}\``,
  label,
  rest,
]);

/** Each table by the file that it is in and the name of its place there. */
export const tables: readonly { file: string; name: string; text: string }[] = [
  {
    file: 'docs/formats.md',
    name: 'stills',
    text: table(
      [
        'format',
        'endings',
        'read',
        'written',
        'said of curve and primaries',
        'rate, timecode',
        'pixel aspect',
        'ICC profile',
      ],
      stillRows,
    ),
  },
  {
    file: 'docs/footage.md',
    name: 'codecs',
    text: table(['video', 'goes into', 'bits', 'alpha', 'colour against light', 'size by', 'two passes'], codecRows),
  },
  {
    file: 'docs/pictures.md',
    name: 'operations',
    text: table(['order', 'field of `picture`', 'what it is', 'where nothing is done'], operationRows),
  },
  {
    file: 'docs/naming.md',
    name: 'receivers',
    text: table(['field', 'what it asks for', 'as'], receiverRows),
  },
];

/** A document with its table as the records say it. @throws Error where the document has no such place */
export async function withTable(document: string, name: string, text: string): Promise<string> {
  const [open, close] = [`<!-- made from the records, by npm run docs: ${name} -->`, `<!-- end of ${name} -->`];
  const [from, to] = [document.indexOf(open), document.indexOf(close)];
  if (from < 0 || to < from) throw new Error(`there is no place "${name}"`);
  const whole = `${document.slice(0, from + open.length)}\n\n${text}\n\n${document.slice(to)}`;
  return format(whole, { ...(await resolveConfig(join(project, 'docs', 'formats.md'))), parser: 'markdown' });
}

/** Files whose tables are not what the records say. */
export async function stale(): Promise<string[]> {
  const found: string[] = [];
  for (const { file, name, text } of tables) {
    const path = join(project, file);
    const before = await readFile(path, 'utf8');
    if ((await withTable(before, name, text)) !== before) found.push(file);
  }
  return found;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  if (process.argv.includes('--check')) {
    const files = await stale();
    if (files.length > 0) console.error(`not current: ${files.join(', ')}; run npm run docs`);
    process.exitCode = files.length > 0 ? 1 : 0;
  } else
    for (const { file, name, text } of tables) {
      const path = join(project, file);
      await writeFile(path, await withTable(await readFile(path, 'utf8'), name, text));
    }
}
