import { inOrder } from '../numbering/describe.ts';
import { plural } from '../words.ts';
import { stemOf } from '../naming/template.ts';
import { frameCount, type Finding, type Source } from '../numbering/source.ts';
import { printRate, printSeconds, type Rate } from '../timing/rate.ts';
import { rateInName, type Declaration } from './declaration.ts';
import { notReadWayOut, unreadAs } from './formats.ts';

/** What a declaration brings to light: counts that do not fit a length, a rate that is said in two ways. */
export function declaredFindings(source: Source, declaration: Declaration): Finding[] {
  return [
    unreadFinding(source),
    countAgainstFile(source),
    countAgainstSound(source, declaration.rate.value),
    twoRates(source),
  ].flatMap((finding) => finding ?? []);
}

/** Files whose header tells of pictures that are not read: told on Intake, before anyone chooses them. */
function unreadFinding({ name, facts }: Source): Finding | undefined {
  const unread = facts && unreadAs(facts);
  if (!unread) return undefined;
  return {
    code: 'format-not-read',
    severity: 'fault',
    sentence: `${name} is ${unread}, which this version cannot read.`,
    short: 'Not read',
    mend: notReadWayOut,
  };
}

/** The source's findings with those of its declaration, the gravest first. */
export const allFindings = (source: Source, declaration: Declaration): Finding[] =>
  inOrder([...source.findings, ...declaredFindings(source, declaration)]);

const mismatch = (sentence: string, short: string, mend: string): Finding => ({
  code: 'count-mismatch',
  severity: 'doubt',
  sentence,
  short,
  mend,
});

const fewer = (difference: number): string =>
  `${plural(Math.abs(difference), 'frame')} too ${difference < 0 ? 'few' : 'many'}`;

/** A clip's count against its own length, a sequence's against the length that its headers speak of. */
function countAgainstFile(source: Source): Finding | undefined {
  const { facts } = source;
  const count = frameCount(source);
  if (source.kind === 'clip' && facts?.frames && facts.seconds && facts.rate) {
    const { seconds, rate } = facts;
    const meant = Math.round((seconds.num * rate.num) / (seconds.den * rate.den));
    if (Math.abs(count - meant) <= 1) return undefined;
    return mismatch(
      `The file counts ${plural(count, 'frame')}, and its length of ${printSeconds(seconds.num / seconds.den)} at ${printRate(rate)} means ${meant}: ${fewer(count - meant)}.`,
      fewer(count - meant),
      'The rate may vary, or the file may be cut short: check its end.',
    );
  }
  if (source.kind !== 'sequence' || !facts?.sequenceLength || facts.sequenceLength === count) return undefined;
  const difference = count - facts.sequenceLength;
  return mismatch(
    `The headers say ${plural(facts.sequenceLength, 'frame')}, and there are ${count}: ${fewer(difference)}.`,
    fewer(difference),
    'Check that all of it has arrived.',
  );
}

/** A sequence against the sound that belongs to it: the one of its name, or the only one beside. */
function countAgainstSound(source: Source, rate: Rate | null): Finding | undefined {
  if (source.kind !== 'sequence' || !rate || !source.beside) return undefined;
  const stem = stemOf(source.pattern!).toLowerCase();
  const named = source.beside.find(({ name }) => name.replace(/\.[^.]*$/, '').toLowerCase() === stem);
  if (!named) return undefined;
  const count = frameCount(source);
  const meant = (named.seconds.num * rate.num) / (named.seconds.den * rate.den);
  const difference = count - Math.round(meant);
  if (Math.abs(count - meant) <= 1) return undefined;
  const lasts = printSeconds((count * rate.den) / rate.num);
  return mismatch(
    `${plural(count, 'frame')} at ${printRate(rate)} last ${lasts}, and ${named.name} lasts ${printSeconds(named.seconds.num / named.seconds.den)}: ${fewer(difference)} for it.`,
    `${fewer(difference)} for its sound`,
    'Check the rate first, then look for missing frames at an end.',
  );
}

function twoRates(source: Source): Finding | undefined {
  const said = source.facts?.rate;
  if (!said || source.kind === 'still') return undefined;
  const named = rateInName(`${source.folder}/${source.name}`);
  if (!named || named.rate.num * said.den === said.num * named.rate.den) return undefined;
  return {
    code: 'rate-conflict',
    severity: 'doubt',
    sentence: `The file says ${printRate(said)} and its name "${named.said}": one of them is wrong.`,
    short: 'Two rates stated',
    mend: 'Declare the right rate.',
  };
}
