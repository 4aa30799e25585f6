import { fieldsWords } from '../numbering/clipFacts.ts';
import { printCoverage } from '../numbering/ranges.ts';
import { sampleWords } from '../pixels/image.ts';
import type { Spec } from '../spec/schema.ts';
import type { Plan } from './plan.ts';
import { writtenAs } from './into.ts';
import { numbersMovedBy } from './places.ts';
import { printRate } from '../timing/rate.ts';
import { alphaOutWords } from '../pixels/recipe.ts';
import { alphaWords, primariesWords, transferWords } from '../spec/declaration.ts';
import { hexOf } from '../pixels/picture.ts';
import { damagedWords, missingWords, mixedWords, pictureSaid, shotWords } from '../spec/pictureWords.ts';
import { formatRules } from '../spec/formats.ts';
import { burnsText, burnTexts } from '../spec/burn.ts';
import { timeSaid } from '../spec/time.ts';
import { isVideoFormat } from '../formats/index.ts';
import { plural } from '../words.ts';
import { isAnimationFormat, videoWords } from '../spec/video.ts';

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
  | 'damaged'
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
  | 'receiver'
  // Those of a small moving picture alone.
  | 'size'
  | 'limit'
  | 'gives'
  | 'edge'
  | 'plays';

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
  /** Which output of several it speaks of, from 0. */
  output?: number;
}

/**
 * The plan read aloud. Joined, the texts are one sentence.
 * @param receiver the name of the tool that it is for, where one was chosen, and whether it would trip over the result
 * @param whole whether what stays as it is in the source is told too
 */
export function sentenceOf(
  plan: Plan,
  receiver?: { name: string; trips: boolean },
  whole: boolean = false,
): SentencePart[] {
  const spoken = new Spoken();
  sayTaken(spoken, plan, whole);
  sayWorked(spoken, plan, whole);
  sayWritten(spoken, plan, whole);
  if (receiver) spoken.say(' for ', ',').control('receiver', receiver.name, { doubt: receiver.trips });
  return spoken.end();
}

/** Parts of a sentence, one after another. */
export class Spoken {
  private readonly parts: SentencePart[] = [];

  /** Words, and the mark behind the part before them. */
  say(text: string, stop?: SentencePart['stop']): this {
    if (stop) this.parts[this.parts.length - 1]!.stop = stop;
    this.parts.push({ text });
    return this;
  }

  control(name: Control, text: string, more: Partial<SentencePart> = {}): this {
    this.parts.push({ text, control: name, ...more });
    return this;
  }

  end(): SentencePart[] {
    this.parts[this.parts.length - 1]!.stop = '.';
    return this.parts;
  }
}

/** What is taken, and as what. */
function sayTaken(spoken: Spoken, plan: Plan, whole: boolean): void {
  const { source, declaration, spec } = plan;
  spoken.say('Take ').control('source', source.name, { mono: true });
  if (source.kind !== 'still') {
    spoken.say(' frames ').control('frames', framesSaid(plan), { mono: true });
    if (spec.then.length > 0) {
      const lacks = plan.shots.length < spec.then.length;
      spoken.say(' then ', ',').control('shots', shotsSaid(plan), { mono: true, doubt: lacks });
    }
    const rate = declaration.rate.value;
    spoken.say(' as ').control('rate', rate ? printRate(rate) : 'no rate declared', { doubt: !rate });
    spoken.say(' ', ',');
    const { clip } = source.facts ?? {};
    const isPlain = spec.clip.fields === 'keep' && spec.clip.timing === 'every-picture' && !clip?.variable;
    if (clip && (whole || !isPlain)) {
      spoken.control('clip', clipSaid(plan), { doubt: clip.variable });
      spoken.say(' ', ',');
    }
  } else spoken.say(' as ');
  const alpha = declaration.alpha.value;
  const on = alpha === 'on-colour' && declaration.matte.value;
  const alphaSaid = on ? `premultiplied on ${hexOf(on)}` : alpha ? alphaWords[alpha] : 'alpha not declared';
  spoken.control('alpha', alphaSaid, { doubt: !alpha });
  const transfer = declaration.transfer.value;
  spoken.say(' ', ',');
  spoken.control('transfer', transfer ? transferWords[transfer] : 'transfer not declared', { doubt: !transfer });
}

/** What becomes of pictures and time, and of frames that are missing or differ. */
function sayWorked(spoken: Spoken, { source, spec, missing, shots, differing, damaged }: Plan, whole: boolean): void {
  const said = pictureSaid(spec.picture);
  if (whole || said.length > 0)
    spoken.say(said.length === 0 ? ' the picture ' : ' ', ',').control('picture', said.join(', ') || 'as it is');
  const timed = timeSaid(spec.time);
  const hasTime = source.kind !== 'still' || isVideoFormat(spec.write.format);
  if (timed.length > 0 || (whole && hasTime))
    spoken.say(' ', ',').control('time', timed.join(', ') || 'at its own speed');
  if (missing.length > 0 || shots.some((shot) => shot.missing.length > 0)) {
    const closes = spec.missing === 'leave-out' && isVideoFormat(spec.write.format);
    spoken.say(' if a frame is missing ', ';');
    spoken.control('missing', closes ? 'close up' : missingWords[spec.missing], { doubt: true });
  }
  if (damaged.length > 0)
    spoken.say(' if a frame is damaged ', ';').control('damaged', damagedWords[spec.damaged], { doubt: true });
  if (differing.length > 0)
    spoken.say(' if a picture differs ', ';').control('mixed', mixedWords[spec.mixed], { doubt: true });
}

/** Format and depth: `PNG, 8-bit`. */
export function formatSaid({ write, channels }: Spec): string {
  const held = channels.length > 0 ? `${plural(channels.length, 'channel')} as they are` : sampleWords(write.sample);
  return `${formatRules[write.format].words}, ${held}`;
}

/** Alpha, transfer and primaries of what is written: `straight alpha, sRGB`. */
export function colourSaid({ write }: Spec): string {
  const onMatte = write.alpha === 'premultiplied' && write.matte;
  return [
    onMatte ? `alpha premultiplied on ${hexOf(onMatte)}` : alphaOutWords[write.alpha],
    transferWords[write.transfer],
    ...(write.primaries ? [primariesWords[write.primaries]] : []),
  ].join(', ');
}

/** What is written, under which names, where. */
function sayWritten(spoken: Spoken, plan: Plan, whole: boolean): void {
  const { source, declaration, spec, into } = plan;
  const { write } = spec;
  const isVideo = into.kind === 'video';
  spoken.say(' write ', ';');
  spoken.control('format', formatSaid(spec));
  if (isVideo) {
    const rate = plan.rate ? printRate(plan.rate) : 'no rate';
    spoken.say(' at ').control('video', `${rate}, ${videoWords(write.format, spec.video)}`);
  }
  const drops = write.alpha === 'none' && source.facts?.hasAlpha === true && declaration.alpha.value !== 'ignore';
  if (whole || drops || !staysInColour(plan))
    spoken.say(' with ').control('alphaOut', colourSaid(spec), { doubt: drops });
  spoken.say(' named ', ',').control('name', writtenAs(into), { mono: true });
  saySound(spoken, plan, whole);
  const burns = burnSaid(spec);
  if ((isVideo && (whole || burns !== 'nothing')) || burnsText(spec.burn))
    spoken.say(' with ', ',').control('burn', burns).say(' written in');
  if (source.kind !== 'still' && into.kind === 'sequence' && (whole || !keepsNumbers(plan)))
    spoken.say(' from ').control('first', `${plan.runs[0]?.to ?? 0}`, { mono: true });
  spoken.say(' into ', ',').control('into', `${into.root}/${into.folder}`.replace(/\/$/, ''), { mono: true });
  if (spec.existing === 'replace')
    spoken.say(' and ', ',').control('existing', 'replace what is there', { doubt: true });
}

/** What is heard with the result, or becomes of the clip's sound. A sound of its own that goes along unmoved stays as it is. */
function saySound(spoken: Spoken, { source, spec, into, sound }: Plan, whole: boolean): void {
  const isVideo = into.kind === 'video';
  const had = source.facts?.clip?.sound !== undefined;
  if (isAnimationFormat(spec.write.format) || (!isVideo && !had)) return;
  const { offset, later } = spec.sound;
  const goesAlong = sound?.own === true && offset === 0 && later === 0;
  if (!whole && isVideo && (had ? goesAlong : !sound)) return;
  spoken.say(isVideo ? ' heard ' : ' its sound ', ',').control('sound', soundSaid({ source, spec, sound }));
}

/** Whether alpha and colours of the results are those that the source is declared to have. */
function staysInColour({ declaration, spec: { write } }: Plan): boolean {
  return (
    write.primaries === null &&
    write.alpha === declaration.alpha.value &&
    write.transfer === declaration.transfer.value &&
    !write.matte
  );
}

/** Whether every result has the number of its frame. */
const keepsNumbers = ({ runs }: Plan): boolean => numbersMovedBy(runs.filter(({ kind }) => kind !== 'missing')) === 0;

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
export function burnSaid({ burn }: Spec): string {
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

function soundSaid({ sound, spec, source }: Pick<Plan, 'sound' | 'spec' | 'source'>): string {
  if (!sound) return isVideoFormat(spec.write.format) ? 'nothing' : 'left out';
  const name = sound.file.slice(sound.file.lastIndexOf('/') + 1);
  if (!isVideoFormat(spec.write.format)) return 'beside them as WAV';
  const { offset, later } = spec.sound;
  const moved = [movedBy(offset, 'frame'), movedBy(later, 'sample')].map((by) => by && `, ${by}`).join('');
  return `${sound.own && source.kind === 'clip' ? 'its own sound' : name}${moved}`;
}

const movedBy = (by: number, unit: string): string =>
  by === 0 ? '' : `${plural(Math.abs(by), unit)} ${by > 0 ? 'later' : 'earlier'}`;

/** From the first frame to the last, gaps or not: `1-60`. */
function spanWords(plan: Plan): string {
  const { coverage } = plan.source;
  if (coverage.length === 0) return 'none';
  return printCoverage([{ first: coverage[0]!.first, last: coverage[coverage.length - 1]!.last, step: 1 }]);
}

/** A sentence as one text. */
export const printSentence = (parts: readonly SentencePart[]): string =>
  parts.map(({ text, stop = '' }) => text + stop).join('');
