import { fieldsWords } from '../numbering/clipFacts.ts';
import { printCoverage } from '../numbering/ranges.ts';
import { sampleWords } from '../pixels/image.ts';
import type { Plan } from './plan.ts';
import { writtenAs } from './resultNames.ts';
import { printRate } from '../timing/rate.ts';
import { alphaOutWords } from '../pixels/recipe.ts';
import { alphaWords, primariesWords, transferWords } from '../spec/declaration.ts';
import { hexOf } from '../pixels/picture.ts';
import { missingWords, mixedWords, pictureSaid, shotWords } from '../spec/pictureWords.ts';
import { formatRules } from '../spec/formats.ts';
import { burnsText, burnTexts } from '../spec/burn.ts';
import { timeSaid } from '../spec/time.ts';
import { isVideoFormat } from '../formats/index.ts';
import { videoWords } from '../spec/video.ts';

/** The parts of the sentence that can be pressed. */
export type Control =
  | 'source'
  | 'shots'
  | 'frames'
  | 'rate'
  | 'alpha'
  | 'transfer'
  | 'picture'
  | 'time'
  | 'clip'
  | 'missing'
  | 'mixed'
  | 'format'
  | 'video'
  | 'sound'
  | 'burn'
  | 'alphaOut'
  | 'name'
  | 'first'
  | 'into'
  | 'existing'
  | 'receiver';

/** A piece of the sentence: plain words, or a control with what it says now. */
export interface SentencePart {
  text: string;
  /** The mark that follows it at once: no line begins with it. */
  stop?: ',' | ';' | '.';
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
  /** Words, and the mark behind the part before them. */
  const say = (text: string, stop?: SentencePart['stop']) => {
    if (stop) parts[parts.length - 1]!.stop = stop;
    parts.push({ text });
  };
  const control = (name: Control, text: string, more: Partial<SentencePart> = {}) =>
    parts.push({ text, control: name, ...more });

  say('Take ');
  control('source', source.name, { mono: true });
  if (source.kind !== 'still') {
    say(' frames ');
    control('frames', framesSaid(plan), { mono: true });
    if (spec.then.length > 0) {
      say(' then ', ',');
      control('shots', shotsSaid(plan), { mono: true, doubt: plan.shots.length < spec.then.length });
    }
    say(' as ');
    const rate = declaration.rate.value;
    control('rate', rate ? printRate(rate) : 'no rate declared', { doubt: !rate });
    say(' ', ',');
    if (source.facts?.clip) {
      control('clip', clipSaid(plan), { doubt: source.facts.clip.variable });
      say(' ', ',');
    }
  } else say(' as ');
  const alpha = declaration.alpha.value;
  const on = alpha === 'on-colour' && declaration.matte.value;
  const alphaSaid = on ? `premultiplied on ${hexOf(on)}` : alpha ? alphaWords[alpha] : 'alpha not declared';
  control('alpha', alphaSaid, { doubt: !alpha });
  say(' ', ',');
  const transfer = declaration.transfer.value;
  control('transfer', transfer ? transferWords[transfer] : 'transfer not declared', { doubt: !transfer });
  const said = pictureSaid(spec.picture);
  say(said.length === 0 ? ' the picture ' : ' ', ',');
  control('picture', said.join(', ') || 'as it is');
  const isFilm = isVideoFormat(write.format);
  if (source.kind !== 'still' || isFilm) {
    say(' ', ',');
    control('time', timeSaid(spec.time).join(', ') || 'at its own pace');
  }
  if (plan.missing.length > 0 || plan.shots.some(({ missing }) => missing.length > 0)) {
    say(' where a frame is missing ', ';');
    const closes = spec.missing === 'leave-out' && isVideoFormat(write.format);
    control('missing', closes ? 'close up' : missingWords[spec.missing], { doubt: true });
  }
  if (plan.differing.length > 0) {
    say(' where a picture differs ', ';');
    control('mixed', mixedWords[spec.mixed], { doubt: true });
  }
  say(' write ', ';');
  control('format', `${formatRules[write.format].words}, ${sampleWords(write.sample)}`);
  if (isFilm) {
    say(' at ');
    control('video', `${plan.rate ? printRate(plan.rate) : 'no rate'}, ${videoWords(write.format, spec.video)}`);
  }
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
  say(' named ', ',');
  control('name', writtenAs(into), { mono: true });
  if (isFilm || source.facts?.clip?.sound) {
    say(isFilm ? ' heard ' : ' its sound ', ',');
    control('sound', soundSaid(plan));
  }
  if (isFilm || burnsText(spec.burn)) {
    say(' with ', ',');
    control('burn', burnSaid(plan));
    say(' written in');
  }
  if (source.kind !== 'still' && into.kind === 'sequence') {
    say(' from ');
    control('first', `${plan.runs[0]?.to ?? 0}`, { mono: true });
  }
  say(' into ', ',');
  control('into', `${into.root}/${into.folder}`.replace(/\/$/, ''), { mono: true });
  if (spec.existing === 'replace') {
    say(' and ', ',');
    control('existing', 'replace what is there', { doubt: true });
  }
  if (receiver) {
    say(' for ', ',');
    control('receiver', receiver.name, { doubt: receiver.trips });
  }
  parts[parts.length - 1]!.stop = '.';
  return parts;
}

/** Which frames: as ranges, or how many markers. */
function framesSaid(plan: Plan): string {
  const { spec } = plan;
  if (spec.frames === 'markers') return `at ${plan.frames} ${plan.frames === 1 ? 'marker' : 'markers'}`;
  return spec.frames === 'all' ? spanWords(plan) : spec.frames;
}

/** The sources that follow: `yard_cam_b and 2 more`. */
function shotsSaid({ spec }: Plan): string {
  const [first, ...more] = spec.then.map(shotWords);
  return more.length === 0 ? first! : `${first} and ${more.length} more`;
}

/** What is written into the pictures. */
function burnSaid({ spec: { burn } }: Plan): string {
  const texts = burnTexts(burn).join(', ');
  const title = burn.slate > 0 ? `a title of ${burn.slate} frames` : '';
  return [title, texts].filter((one) => one !== '').join(' and ') || 'nothing';
}

/** How a clip is taken apart. */
function clipSaid({ source, spec, rate }: Plan): string {
  const { fields, timing } = spec.clip;
  const fieldsSaid = fields === 'keep' ? [] : [fieldsWords[fields]];
  if (timing === 'constant-rate')
    return [...fieldsSaid, `at a constant ${rate ? printRate(rate) : 'rate'} by its times`].join(', ');
  return [
    ...fieldsSaid,
    source.facts!.clip!.variable ? 'every picture once, though its rate varies' : 'every picture once',
  ].join(', ');
}

function soundSaid({ sound, spec, source }: Plan): string {
  if (!sound) return isVideoFormat(spec.write.format) ? 'nothing' : 'left out';
  const name = sound.file.slice(sound.file.lastIndexOf('/') + 1);
  if (!isVideoFormat(spec.write.format)) return 'beside them as WAV';
  const { offset } = spec.sound;
  const moved =
    offset === 0
      ? ''
      : `, ${Math.abs(offset)} ${Math.abs(offset) === 1 ? 'frame' : 'frames'} ${offset > 0 ? 'later' : 'earlier'}`;
  return `${sound.own && source.kind === 'clip' ? 'its own sound' : name}${moved}`;
}

/** From the first frame to the last, gaps or not: `1-60`. */
function spanWords(plan: Plan): string {
  const { coverage } = plan.source;
  if (coverage.length === 0) return 'none';
  return printCoverage([{ first: coverage[0]!.first, last: coverage[coverage.length - 1]!.last, step: 1 }]);
}

/** A sentence as one text. */
export const printSentence = (parts: readonly SentencePart[]): string =>
  parts.map(({ text, stop = '' }) => text + stop).join('');
