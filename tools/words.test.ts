import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  codecs,
  findingWords,
  formatWords,
  operations,
  receiverNameFields,
  receiverPictureFields,
  receiverRules,
  stills,
} from '@shale/core';
import { routes } from '@shale/contract';

const project = fileURLToPath(new URL('..', import.meta.url));
const read = (path: string): string => readFileSync(join(project, path), 'utf8');
const files = (...patterns: string[]): string[] =>
  execFileSync('git', ['ls-files', ...patterns], { cwd: project, encoding: 'utf8' })
    .trim()
    .split('\n');

/** The rows of the tables of docs/words.md. */
const words = read('docs/words.md')
  .split('\n')
  .filter((line) => line.startsWith('| **'))
  .map((line) => line.split('|').map((cell) => cell.trim()))
  .map(([, word, what, not]) => ({
    word: word!.replaceAll('**', ''),
    what: what!,
    not: not!
      .split(',')
      .map((one) => one.trim())
      .filter(Boolean),
  }));

test('each word is explained once, and is not what another word is said not to be', () => {
  expect(words.length).toBeGreaterThan(40);
  const all = words.map(({ word }) => word);
  expect(new Set(all).size).toBe(all.length);
  for (const { what } of words) expect(what.length).toBeGreaterThan(10);
  const kept = new Set(all);
  expect(words.flatMap(({ not }) => not).filter((one) => kept.has(one) && one !== 'dropped' && one !== 'task')).toEqual(
    [],
  );
});

/** Names of things in the code that a word has replaced: as types, values and files. */
const replaced = [
  /\b[fF]ilm(?:Writer|Settings|Progress|Schema|Trial|Editors|Bench)\b/,
  /\b(?:is|to|on|make|carry|measure)Film\b/,
  /thumbnail/i,
];

test('no name in the code is a word that was replaced', () => {
  const own = /words\.test\.ts$/;
  const found = files('*.ts', '*.tsx')
    .filter((path) => !own.test(path))
    .flatMap((path) =>
      read(path)
        .split('\n')
        .flatMap((line, at) => replaced.filter((one) => one.test(line)).map(() => `${path}:${at + 1}: ${line.trim()}`)),
    );
  expect(found).toEqual([]);
  expect(files('*.ts', '*.tsx').filter((path) => /film/i.test(path))).toEqual([]);
});

describe('the docs tell of every kind that has a record', () => {
  test('formats and codecs', () => {
    const [formats, footage] = [read('docs/formats.md'), read('docs/footage.md')];
    for (const id of Object.keys(stills)) expect(formats).toContain(formatWords(id));
    for (const { words } of Object.values(codecs)) expect(footage).toContain(words);
  });

  test('picture operations', () => {
    const text = read('docs/pictures.md');
    expect(Object.keys(operations).filter((key) => !text.includes(`\`${key}\``))).toEqual([]);
  });

  test('rules of receivers', () => {
    const text = read('docs/naming.md');
    const fields = Object.keys({ ...receiverNameFields, ...receiverPictureFields });
    // A rule goes by a field of its name, but for that of two sides.
    expect(Object.keys(receiverRules).filter((rule) => rule !== 'size' && !fields.includes(rule))).toEqual([]);
    expect(fields.filter((rule) => !text.includes(`\`${rule}\``))).toEqual([]);
  });

  test('findings', () => {
    const text = read('docs/using.md') + read('docs/footage.md');
    expect(Object.keys(findingWords).filter((code) => !text.includes(`\`${code}\``))).toEqual([]);
  });

  test('pages', () => {
    const [text, readme] = [read('docs/words.md'), read('README.md')];
    const pages = [...read('web/frame/pages.tsx').matchAll(/name: '([^']+)'/g)].map(([, name]) => name!);
    expect(pages).toHaveLength(8);
    for (const page of pages) expect(text).toContain(page);
    expect(readme).toContain('docs/words.md');
  });

  test('every operation of the API says what it does in a few words', () => {
    for (const { summary } of Object.values(routes)) expect(summary).toMatch(/^[A-Z0-9].{3,120}[^.]$/);
  });
});
