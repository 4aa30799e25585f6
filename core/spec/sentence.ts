import { printCoverage } from '../numbering/ranges.ts';
import { printPattern } from '../numbering/pattern.ts';
import { sampleWords } from '../pixels/image.ts';
import type { Plan } from '../plan/plan.ts';
import { printRate } from '../timing/rate.ts';
import { alphaOutWords } from '../pixels/recipe.ts';
import { alphaWords, primariesWords, transferWords } from './declaration.ts';
import { hexOf, mixedWords, pictureSaid } from './pictureWords.ts';
import { formatRules } from './schema.ts';

/** The parts of the sentence that can be pressed. */
export type Control =
  | 'source'
  | 'frames'
  | 'rate'
  | 'alpha'
  | 'transfer'
  | 'picture'
  | 'missing'
  | 'mixed'
  | 'format'
  | 'alphaOut'
  | 'name'
  | 'first'
  | 'into'
  | 'existing'
  | 'receiver';

/** A piece of the sentence: plain words, or a control with what it says now. */
export interface SentencePart {
  text: string;
  control?: Control;
  /** Set for names and numbers. */
  mono?: boolean;
  /** True where it is undeclared or loses something. */
  doubt?: boolean;
}

/**
 * The plan read aloud. Joined, the texts are one sentence.
 * @param receiver the name of the tool that it is for, where one was chosen, and whether it would trip over the result
 */
export function sentenceOf(plan: Plan, receiver?: { name: string; trips: boolean }): SentencePart[] {
  const { source, declaration, spec, into } = plan;
  const { write } = spec;
  const parts: SentencePart[] = [];
  const say = (text: string) => parts.push({ text });
  const control = (name: Control, text: string, more: Partial<SentencePart> = {}) =>
    parts.push({ text, control: name, ...more });

  say('Take ');
  control('source', source.name, { mono: true });
  if (source.kind !== 'still') {
    say(' frames ');
    control('frames', spec.frames === 'all' ? spanWords(plan) : spec.frames, { mono: true });
    say(' as ');
    const rate = declaration.rate.value;
    control('rate', rate ? printRate(rate) : 'no rate declared', { doubt: !rate });
    say(', ');
  } else say(' as ');
  const alpha = declaration.alpha.value;
  const on = alpha === 'on-colour' && declaration.matte.value;
  const alphaSaid = on ? `premultiplied on ${hexOf(on)}` : alpha ? alphaWords[alpha] : 'alpha not declared';
  control('alpha', alphaSaid, { doubt: !alpha });
  say(', ');
  const transfer = declaration.transfer.value;
  control('transfer', transfer ? transferWords[transfer] : 'transfer not declared', { doubt: !transfer });
  const said = pictureSaid(spec.picture);
  say(said.length === 0 ? ', the picture ' : ', ');
  control('picture', said.join(', ') || 'as it is');
  if (plan.missing.length > 0) {
    say('; where a frame is missing ');
    control('missing', spec.missing === 'stop' ? 'stop' : 'leave it out', { doubt: true });
  }
  if (plan.differing.length > 0) {
    say('; where a picture differs ');
    control('mixed', mixedWords[spec.mixed], { doubt: true });
  }
  say('; write ');
  control('format', `${formatRules[write.format].words}, ${sampleWords(write.sample)}`);
  say(' with ');
  const dropped = write.alpha === 'none' && source.facts?.hasAlpha === true && alpha !== 'ignore';
  control(
    'alphaOut',
    [
      write.alpha === 'premultiplied' && write.matte
        ? `alpha premultiplied on ${hexOf(write.matte)}`
        : alphaOutWords[write.alpha],
      transferWords[write.transfer],
      ...(write.primaries ? [primariesWords[write.primaries]] : []),
    ].join(', '),
    { doubt: dropped },
  );
  say(', named ');
  control('name', printPattern(into.pattern), { mono: true });
  if (source.kind !== 'still') {
    say(' from ');
    control('first', `${plan.runs[0]?.to ?? 0}`, { mono: true });
  }
  say(', into ');
  control('into', `${into.root}/${into.folder}`.replace(/\/$/, ''), { mono: true });
  if (spec.existing === 'replace') {
    say(', and ');
    control('existing', 'replace what is there', { doubt: true });
  }
  if (receiver) {
    say(', for ');
    control('receiver', receiver.name, { doubt: receiver.trips });
  }
  say('.');
  return parts;
}

/** From the first frame to the last, gaps or not: `1-60`. */
function spanWords(plan: Plan): string {
  const { coverage } = plan.source;
  if (coverage.length === 0) return 'none';
  return printCoverage([{ first: coverage[0]!.first, last: coverage[coverage.length - 1]!.last, step: 1 }]);
}
