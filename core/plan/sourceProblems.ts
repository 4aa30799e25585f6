import type { Problem } from '../errors.ts';
import { isConvertible, type Source } from '../numbering/source.ts';
import type { Declaration } from '../spec/declaration.ts';
import { formatRules, notReadWayOut, unreadAs } from '../spec/formats.ts';
import type { Spec } from '../spec/schema.ts';
import { pictureProblems } from './pictureProblems.ts';

/** What forbids to read a source as it is declared, and to work its pictures as is wanted. */
export function sourceProblems(source: Source, declaration: Declaration, spec: Spec): Problem[] {
  const { name, facts } = source;
  if (!facts) {
    // What was found of it says why, the gravest first: it is cut short, empty, still being written.
    const why = source.findings.find(({ severity }) => severity !== 'note');
    return [
      {
        code: 'unreadable-source',
        fact: `No frame of ${name} could be read.${why ? ` ${why.sentence}` : ''}`,
        wayOut: why?.mend ?? 'Read its findings on Intake, repair the files and scan again.',
        subject: name,
      },
    ];
  }
  const problems = pictureProblems(name, facts, declaration, spec);
  const unread = unreadAs(facts);
  if (isConvertible(source) && unread)
    problems.push({
      code: 'format-not-read',
      fact: `${name} is ${unread}, which this version cannot read.`,
      wayOut: notReadWayOut,
      subject: name,
    });
  return [...problems, ...declarationProblems(name, declaration, facts.transfer)];
}

/** Facts that nothing says and that the pixels hang on. @param said the transfer that the file names, in its own words */
function declarationProblems(name: string, declaration: Declaration, said: string | undefined): Problem[] {
  const problems: Problem[] = [];
  const lacks = (fact: 'alpha' | 'matte' | 'transfer', words: string, wayOut: string) =>
    problems.push({ code: `${fact}-not-declared`, fact: words, wayOut, subject: `declaration.${fact}` });
  if (declaration.alpha.value === null)
    lacks(
      'alpha',
      `${name} has alpha, but nothing says whether it is straight or premultiplied.`,
      'Declare its alpha: press it in the sentence, use Inspect, or give --alpha.',
    );
  if (declaration.alpha.value === 'on-colour' && declaration.matte.value === null)
    lacks(
      'matte',
      `${name} is declared as premultiplied on a colour, but nothing says on which.`,
      'Declare the colour on Inspect; "What the pixels say" shows the colour under the clear parts.',
    );
  if (declaration.transfer.value === null)
    lacks(
      'transfer',
      `Nothing says which transfer ${name} has.${said ? ` It says ${said}, which Shale cannot convert.` : ''}`,
      'Declare its transfer: press it in the sentence, use Inspect, or give --transfer.',
    );
  return problems;
}

/** What the format that is wanted does not hold. */
export function writeProblems({ write }: Spec): Problem[] {
  const rules = formatRules[write.format];
  const problems: Problem[] = [];
  if (!rules.samples.includes(write.sample))
    problems.push({
      code: 'depth-not-held',
      fact: `${rules.words} does not hold ${write.sample}.`,
      wayOut: `Choose one of ${rules.samples.join(', ')}.`,
      subject: 'write.sample',
    });
  if (!rules.alpha && write.alpha !== 'none' && write.alpha !== 'matte')
    problems.push({
      code: 'alpha-not-held',
      fact: `${rules.words} holds no alpha.`,
      wayOut: 'Choose "no alpha", or another format.',
      subject: 'write.alpha',
    });
  return problems;
}
