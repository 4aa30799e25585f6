import { printFloor } from '../formats/floor.ts';
import { codecRecord } from '../formats/index.ts';
import type { Plan } from '../plan/plan.ts';
import { sizeOfPlan } from '../plan/pictureProblems.ts';
import { formatSaid, Spoken, type SentencePart } from '../plan/sentence.ts';
import { isByQuality, isLosslessVideo, videoCase, videoWords } from '../spec/video.ts';
import { printRate } from '../timing/rate.ts';
import { exactBytes } from '../words.ts';
import { limitOf } from './movable.ts';

/**
 * The plan of a small moving picture read aloud: what it is, how large it may be, and what may be given up for that.
 * @param receiver the name of who takes it, where one was chosen, and whether it would refuse it
 */
export function smallSentence(plan: Plan, receiver?: { name: string; trips: boolean }): SentencePart[] {
  const { spec, rate } = plan;
  const { write, video } = spec;
  const at = videoCase(write, video);
  const size = sizeOfPlan(plan);
  const spoken = new Spoken();
  sayUndeclared(spoken, plan);
  spoken.control('format', formatSaid(spec));
  spoken.say(' of ').control('size', size ? `${size.width} x ${size.height}` : 'unknown size', { mono: true });
  if (rate) spoken.say(' at ').control('time', printRate(rate));
  else spoken.say(' at ').control('rate', 'no rate declared', { doubt: true });
  spoken
    .say(isLosslessVideo(write.format, video) ? ' ' : ' with ')
    .control('video', videoWords(write.format, { ...video, limit: null }));
  const limit = limitOf(spec);
  spoken.say(' ', ',').control('limit', limit === null ? 'of any size in bytes' : `at most ${exactBytes(limit)}`);
  if (limit !== null) spoken.say(' may give up ', ';').control('gives', givesSaid(plan));
  if (at.codec.controls === 'palette' && at.hasAlpha) spoken.say(' soft edges ', ';').control('edge', edgeSaid(spec));
  if (!at.codec.animation?.forEver) spoken.say(' played ', ';').control('plays', playsSaid(video.plays));
  spoken.say(' for ', ',').control('receiver', receiver?.name ?? 'any receiver', { doubt: receiver?.trips });
  return spoken.end();
}

/** What has to be declared before anything can be made. */
function sayUndeclared(spoken: Spoken, { declaration: { alpha, transfer } }: Plan): void {
  const open = [
    ...(alpha.value === null ? (['alpha'] as const) : []),
    ...(transfer.value === null ? (['transfer'] as const) : []),
  ];
  open.forEach((fact, at) =>
    spoken.say(at === 0 ? 'Treat it as ' : ' and ').control(fact, `${fact} not declared`, { doubt: true }),
  );
  if (open.length > 0) spoken.say(' write ', ',');
  else spoken.say('Write ');
}

const playsSaid = (plays: number | null): string =>
  plays === null ? 'for ever' : plays === 1 ? 'once' : `${plays} times`;

/** What may be given up, and how far: `size down to 20 %, colours down to 32`. */
export function givesSaid({ spec: { write, video } }: Pick<Plan, 'spec'>): string {
  const { controls } = codecRecord(write.format) ?? {};
  const isPalette = controls === 'palette';
  const isLossy = isByQuality(write.format, video);
  const said = (
    [
      ['size', video.giveSize, ' %'],
      ['colours', isPalette ? video.giveColours : null, ''],
      ['dither', isPalette && video.dither !== 'none' ? video.giveDither : null, ' %'],
      ['quality', isLossy ? video.giveQuality : null, ''],
      ['rate', video.giveRate, ' fps'],
      ['length', video.giveLength, ' %'],
    ] as const
  ).flatMap(([name, floor, unit]) => (floor ? [`${name} down to ${printFloor({ ...floor, weight: 1 })}${unit}`] : []));
  return said.join(', ') || 'nothing';
}

/** What becomes of half-clear pixels where a pixel is clear or not. */
export function edgeSaid({ video }: Pick<Plan['spec'], 'video'>): string {
  const { alphaEdge, alphaFrom, edgeColour } = video;
  const edge = alphaEdge === 'dithered' ? 'as a pattern' : `cut at ${alphaFrom}`;
  if (edgeColour === null) return edge;
  return `${edge}, blended onto ${edgeColour === 'outline' ? 'the picture’s own outline' : edgeColour}`;
}
