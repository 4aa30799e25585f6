import { execFileSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import type { ShownText } from './texts.ts';

// The compiler that reads them takes minutes to load within Jest.
const texts = JSON.parse(
  execFileSync(process.execPath, ['--import', 'tsx', fileURLToPath(new URL('./texts.ts', import.meta.url)), '--json'], {
    encoding: 'utf8',
    maxBuffer: 1 << 26,
  }),
) as ShownText[];

/** What shared words of how Shale speaks rule out, and texts that have it by right. */
const faults: readonly (readonly [what: string, RegExp, RegExp?])[] = [
  ['"is no X" for "is not an X"', /\b(is|are) no (?!longer\b)/i, /\b[Tt]here (is|are) no\b/],
  ['"which is none", "is none that"', /\b(is|are) none\b/i],
  ['"stand" for "be"', /\bstand(s|ing)?\b(?! out)/i, /^Standing$|[Ss]tanding order/],
  ['"lie" for "be"', /\blies?\b/i],
  ['"where" for "if"', /\bwhere (it|they|there|one|a|an|no|none|nothing) (is|are|has|have|can|cannot|does|do)\b/i],
  ['"so many"', /\bso many\b/i],
  ['"that of", "those of" for the thing', /^(that|those) of\b/i],
  ['"one that" as a label', /^One (that|which)\b/],
  ['"is said" for "is stated"', /\b(is|are|not) said\b/i],
  ['jokes, marks, pleas', /!(?=$|\s)|\bplease\b|\bsimply\b/i],
  ['"take back" for "undo"', /\btakes? (\S+ )?back\b/i],
  ['"have it made" for "make it again"', /\bhave (it|them|the \w+) (made|brought|copied)\b/i],
  ['"let X be" for the verb', /^let (it|them|\w+) be\b/i],
  ['"bring in" for "import" or "upload"', /\bbring (\w+ )?(in|from)\b/i],
];

test('texts are found in every folder that speaks, by the hundred', () => {
  for (const folder of ['core', 'engine', 'server', 'cli', 'web'])
    expect(texts.filter(({ file }) => file.startsWith(`${folder}/`)).length).toBeGreaterThan(100);
  expect(texts.some(({ text }) => text === 'Nothing to convert yet')).toBe(true);
});

for (const [what, fault, right] of faults)
  test(`no text has ${what}`, () => {
    const found = texts.filter(({ text }) => fault.test(right ? text.replaceAll(new RegExp(right, 'g'), '') : text));
    expect(found.map(({ file, line, text }) => `${file}:${line}: ${text}`)).toEqual([]);
  });
