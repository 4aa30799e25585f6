import { groupedBy } from '../../grouped.ts';
import { coverageCount, frameWithin } from '../ranges.ts';
import type { Finding, Source } from '../source.ts';
import { plural } from '../../words.ts';

/** Words that say of a sequence that it is not the final one. */
const tentative =
  /^(draft|drafts|test|tests|tmp|temp|old|older|wip|try|rough|copy|backup|bak|preview|low|lowres|proxy)$/i;

/** The words of a name without its version: drafts seldom keep one. */
const words = (text: string): string[] =>
  text.split(/[._ -]+/).filter((word) => word !== '' && !/^v\d{1,3}$/i.test(word));

/** The word that a stray's name has and its fellow's has not; undefined where they differ in more. */
function extraWord(stray: Source, main: Source): string | undefined {
  const longer = words(stray.pattern!.prefix);
  const shorter = words(main.pattern!.prefix);
  if (longer.length !== shorter.length + 1) return undefined;
  let at = 0;
  while (at < shorter.length && longer[at] === shorter[at]) at += 1;
  return shorter.slice(at).every((word, index) => word === longer[at + 1 + index]) ? longer[at] : undefined;
}

/** Whether every number of a source lies among another's. */
const liesAmong = (stray: Source, main: Source): boolean =>
  stray.coverage.every(({ first, last }) => frameWithin(main.coverage, first) && frameWithin(main.coverage, last));

/**
 * Sequences of one folder that have another's numbers under a name with one word more: drafts, tests, leftovers. Where the
 * word says nothing of the kind, only a sequence with fewer frames counts: one with all of them is a pass of its own.
 */
export function strayFindings(sources: readonly Source[]): Map<Source, Finding[]> {
  const found = new Map<Source, Finding[]>();
  const sequences = sources.filter(({ kind }) => kind === 'sequence');
  // Only names that begin or end alike are held against one another: thousands of sequences stay quick.
  const byWord = groupedBy(sequences, ({ pattern }) => `${words(pattern!.prefix).join(' ')}\0${pattern!.suffix}`);
  const add = (source: Source, finding: Finding) => found.set(source, [...(found.get(source) ?? []), finding]);
  for (const stray of sequences) {
    const all = words(stray.pattern!.prefix);
    const fellows = all.flatMap(
      (_, left) => byWord.get(`${all.filter((_word, at) => at !== left).join(' ')}\0${stray.pattern!.suffix}`) ?? [],
    );
    for (const main of new Set(fellows)) {
      const word = extraWord(stray, main);
      if (word === undefined || !liesAmong(stray, main)) continue;
      const count = coverageCount(stray.coverage);
      const draft = tentative.test(word);
      if (!draft && count >= coverageCount(main.coverage)) continue;
      add(main, {
        code: 'stray-files',
        severity: 'doubt',
        sentence: `${plural(count, 'file')} of ${stray.name} ${count === 1 ? 'lies' : 'lie'} beside with the same numbers: a program that reads the whole folder also reads ${count === 1 ? 'it' : 'them'} too.`,
        short: `${plural(count, draft ? 'draft' : 'stray')} ${count === 1 ? 'lies' : 'lie'} beside it`,
        names: [stray.name],
        mend: 'Move them to a separate folder, or convert the sequence into a clean one.',
      });
      add(stray, {
        code: 'stray-files',
        severity: 'note',
        sentence: `Its numbers are those of ${main.name} in the same folder, which seems to be the final one.`,
        short: `Mixed in with ${main.name}`,
        names: [main.name],
      });
    }
  }
  return found;
}
