import { orientationWords, uprightBy } from '../pixels/orientation.ts';
import { coverageCount, printCoverage, type FrameRange } from '../numbering/ranges.ts';
import type { Facts, Source } from '../numbering/source.ts';
import { isFloat, maxCode, sampleWords } from '../pixels/image.ts';
import { isOverSource, resizedSize, turnedAspect, turnedSize, type Picture } from '../pixels/picture.ts';
import { ofAll, writesAlpha, type ByChannel, type PixelCounts, type Recipe } from '../pixels/recipe.ts';
import { transferBetween } from '../pixels/transfer.ts';
import { andWords } from '../words.ts';
import { codecRecord, codecs, isVideoFormat, stillWrites } from '../formats/index.ts';
import { formatRules } from '../spec/formats.ts';
import type { Spec } from '../spec/schema.ts';
import { isAnimationFormat, isLosslessVideo, keptChroma, videoWords } from '../spec/video.ts';
import { droppedFacts, unsaidColour } from '../spec/told.ts';
import { delayWords } from '../timing/delays.ts';
import type { Rate } from '../timing/rate.ts';
import type { Loss } from './plan.ts';

const grouped = (value: number): string => value.toLocaleString('en-GB');

/** What a loss is called where all are named in one breath. */
const shortWords: Record<string, string> = {
  'missing-frames': 'missing frames',
  'closed-up': 'the time of missing frames',
  'frames-held': 'missing frames',
  'frames-slated': 'missing frames',
  'times-lost': 'how long each picture was shown',
  'pictures-dropped': 'pictures between its frames',
  'pictures-doubled': 'even pacing',
  'fields-worked': 'every other line',
  'frames-blended': 'pictures of one moment',
  'frames-made-up': 'source frames',
  'fields-woven': 'whole pictures',
  'colour-thinned': 'the density of colour',
  'sound-left-out': 'its sound',
  'alpha-cut': 'soft edges',
  'delays-rounded': 'when each picture is shown, within hundredths',
  'overscan-cut': 'overscan',
  'damaged-as-missing': 'damaged frames',
  'differing-left-out': 'frames that differ',
  fitted: 'the shape of frames that differ',
  'depth-reduced': 'depth',
  'levels-merged': 'levels',
  'alpha-dropped': 'alpha',
  alpha: 'alpha',
  'alpha-rounded': 'colour where alpha is low',
  'colour-dropped': 'colour',
  'lossy-format': 'what its compression changes',
  'channels-dropped': 'channels',
  'metadata-dropped': 'metadata',
  untagged: 'the colour tag',
  cropped: 'what is cropped',
  resized: 'its size',
  keyed: 'what is keyed out',
  levels: 'its levels',
  primaries: 'colours beyond its primaries',
  'clipped-high': 'light above 1',
  'clipped-low': 'light below 0',
  'rolled-off': 'light above 1',
  overflow: 'values too large',
  'not-a-number': 'what is not a number',
  glow: 'light without alpha',
};

/** All that is lost in one sentence: `Loses depth, light above 1 and what the file said.`; `Lossless.` where nothing is. */
export function lossSentence(losses: readonly Loss[]): string {
  const lost = losses.filter(({ severity }) => severity !== 'note').map(({ code }) => shortWords[code] ?? code);
  return lost.length === 0 ? 'Lossless.' : `Loses ${andWords([...new Set(lost)])}.`;
}

/** What is lost by the plan's own terms, before any pixel is looked at. */
export function knownLosses(
  facts: Facts | undefined,
  recipe: Recipe | null,
  spec: Spec,
  missing: FrameRange[],
): Loss[] {
  const losses: Loss[] = [];
  const gap = missingLoss(missing, spec);
  if (gap) losses.push(gap);
  if (!facts || !recipe) return losses;
  const depth = depthLoss(facts, recipe);
  if (depth) losses.push(depth);
  losses.push(...alphaLosses(facts, recipe), ...pictureLosses(facts, recipe), ...unkeptLosses(facts, recipe, spec));
  losses.push(...roundedLosses(facts, recipe));
  const merged = mergedLevels(facts, recipe);
  if (merged) losses.push(merged);
  const lossy = lossyWords(spec);
  if (lossy) losses.push(doubt('lossy-format', lossy));
  const extra = facts.channels.filter((name) => !/^([RGBAY]|alpha|grey)$/i.test(name));
  if (extra.length > 0) {
    const some = `${extra.slice(0, 4).join(', ')}${extra.length > 4 ? ' ...' : ''}`;
    losses.push(
      doubt('channels-dropped', `Channels other than colour and alpha are left out: ${some}`, grouped(extra.length)),
    );
  }
  return losses;
}

const doubt = (code: string, sentence: string, amount = 'all'): Loss => ({ code, severity: 'doubt', sentence, amount });

/** Alpha, or colour beside it, that is not written though it is there, or not there though it is asked for. */
function alphaLosses({ hasAlpha }: Facts, { from, to, picture }: Recipe): Loss[] {
  const losses: Loss[] = [];
  if (to.alpha === 'matte') losses.push(doubt('colour-dropped', 'Colour is not written: only alpha is'));
  else if (hasAlpha && from.alpha === 'ignore') losses.push(doubt('alpha-dropped', 'Alpha is ignored and not written'));
  else if (hasAlpha && to.alpha === 'none')
    losses.push(doubt('alpha-dropped', `Alpha is laid over ${belowWords(picture)} and not written`));
  const has = (hasAlpha && from.alpha !== 'ignore') || picture.key !== null || picture.alphaFrom !== null;
  if (!has && writesAlpha(to.alpha))
    losses.push({
      code: 'no-alpha',
      severity: 'note',
      sentence: 'The source has no alpha, so none is written',
      amount: 'all',
    });
  return losses;
}

/** What the format that is written says nothing of. */
function unkeptLosses(facts: Facts, { to }: Recipe, { write }: Spec): Loss[] {
  const losses: Loss[] = [];
  const unsaid = unsaidColour(write, to.primaries);
  if (unsaid && to.alpha !== 'matte') losses.push(doubt('untagged', unsaid));
  const dropped = droppedFacts(facts, write.format);
  if (dropped.length > 0) {
    const words = `${formatRules[write.format].words} does not keep: ${dropped.join(', ')}`;
    losses.push(doubt('metadata-dropped', words, grouped(dropped.length)));
  }
  return losses;
}

/** Integers that are multiplied or divided by alpha. */
function roundedLosses(facts: Facts, { from, to }: Recipe): Loss[] {
  if (!facts.hasAlpha || isFloat(to.sample) || isFloat(facts.sample)) return [];
  if (from.alpha === 'straight' && to.alpha === 'premultiplied')
    return [
      doubt('alpha-rounded', 'Colour multiplied by its alpha is rounded: where alpha is low, few levels are left'),
    ];
  const divides = (from.alpha === 'premultiplied' || from.alpha === 'on-colour') && to.alpha === 'straight';
  return divides ? [doubt('alpha-rounded', 'Colour divided by its alpha is rounded')] : [];
}

/** Frames of a source that are not there, and what becomes of them. @param of its name, where it follows another */
export const missingLosses = (missing: readonly FrameRange[], spec: Spec, of?: string): Loss[] => {
  const loss = missingLoss(missing, spec, of);
  return loss ? [loss] : [];
};

function missingLoss(missing: readonly FrameRange[], { missing: policy, write }: Spec, of?: string): Loss | undefined {
  const count = coverageCount(missing);
  if (count === 0 || policy === 'stop') return undefined;
  const one = count === 1;
  const frames = `${one ? 'Frame' : 'Frames'} ${printCoverage(missing).replaceAll(',', ', ')}${of ? ` of ${of}` : ''} missing`;
  const amount = grouped(count);
  if (policy === 'hold')
    return { code: 'frames-held', severity: 'doubt', sentence: `${frames}: the previous frame is repeated`, amount };
  if (policy === 'slate')
    return {
      code: 'frames-slated',
      severity: 'doubt',
      sentence: `${frames}: a slate is written instead`,
      amount,
    };
  if (isVideoFormat(write.format))
    return {
      code: 'closed-up',
      severity: 'fault',
      sentence: `${frames}: the video is that much shorter`,
      amount,
    };
  return {
    code: 'missing-frames',
    severity: 'fault',
    sentence: `${frames}: ${one ? 'its result' : 'their results'} will not exist`,
    amount,
  };
}

/** Colour that a video keeps less densely than light. */
export function chromaLosses({ write, video }: Spec): Loss[] {
  const chroma = isVideoFormat(write.format) && keptChroma(write.format, video);
  if (!chroma || chroma === '4:4:4') return [];
  const sentence = `Colour is kept ${chroma}: ${chroma === '4:2:0' ? 'one sample for four pixels' : 'one sample for two pixels'}`;
  return [{ code: 'colour-thinned', severity: 'doubt', sentence, amount: 'all' }];
}

/** What a small moving picture cannot hold as it is: times between its delays, and pixels that are half clear. */
export function animationLosses({ write, video }: Spec, rate: Rate | null): Loss[] {
  const { animation, controls } = codecRecord(write.format) ?? {};
  const delays = animation?.perSecond !== undefined && rate ? delayWords(rate, animation.perSecond) : undefined;
  const isCut = controls === 'palette' && writesAlpha(write.alpha);
  const forgets = !isCut && animation?.forgetsClear === true && writesAlpha(write.alpha);
  const onto =
    video.edgeColour === null
      ? ''
      : `, blended onto ${video.edgeColour === 'outline' ? 'the picture’s own outline' : video.edgeColour}`;
  const edge = video.alphaEdge === 'dithered' ? 'a pattern of clear and not' : `cut at ${video.alphaFrom} of 255`;
  const all = (code: string, severity: Loss['severity'], sentence: string): Loss => ({
    code,
    severity,
    sentence,
    amount: 'all',
  });
  return [
    ...(delays ? [all('delays-rounded', 'note', delays)] : []),
    ...(forgets ? [all('clear-colour-lost', 'note', 'Fully clear pixels do not keep their colour')] : []),
    ...(isCut ? [all('alpha-cut', 'doubt', `A pixel is clear or not: soft edges are ${edge}${onto}`)] : []),
  ];
}

/** A clip's own sound that was wanted and does not go with its pictures. */
export function soundLosses({ facts }: Source, { sound, write }: Spec, inTime: boolean): Loss[] {
  const wanted = sound.from === 'own' && (isVideoFormat(write.format) || sound.beside);
  const isMute = isAnimationFormat(write.format);
  if (!facts?.clip?.sound || !wanted || (inTime && !isMute)) return [];
  const sentence = isMute
    ? `Its sound is left out: ${codecRecord(write.format)!.words} holds none`
    : 'Its sound is left out: frames are not continuous, or play at another speed';
  return [{ code: 'sound-left-out', severity: 'doubt', sentence, amount: 'all' }];
}

/** How many codes each pair of curves and depths keeps apart: a plan is made anew at every key that is pressed. */
const keptLevels = new Map<string, number>();

/** How many of a depth's codes stay apart through a change of curve; the end codes are counted as any other. */
function levelsKept(
  from: Recipe['from']['transfer'],
  to: Recipe['to']['transfer'],
  before: number,
  after: number,
): number {
  const key = `${from} ${to} ${before} ${after}`;
  let kept = keptLevels.get(key);
  if (kept === undefined) {
    const curve = transferBetween(from, to);
    const seen = new Set<number>();
    for (let code = 0; code <= before; code += 1)
      seen.add(Math.min(after, Math.max(0, Math.floor(curve(code / before) * after + 0.5))));
    keptLevels.set(key, (kept = seen.size));
  }
  return kept;
}

/** Codes that a change of curve makes one, where the depth alone would have kept them. */
function mergedLevels({ sample }: Facts, { from, to }: Recipe): Loss | undefined {
  const [before, after] = [maxCode(sample), maxCode(to.sample)];
  if (before === undefined || after === undefined || from.transfer === to.transfer || after < before) return undefined;
  const kept = levelsKept(from.transfer, to.transfer, before, after);
  if (kept === before + 1) return undefined;
  return {
    code: 'levels-merged',
    severity: 'doubt',
    sentence: `The change of curve keeps ${grouped(kept)} of ${grouped(before + 1)} levels apart`,
    amount: grouped(before + 1 - kept),
  };
}

/** Pictures that differ from the others, and what becomes of them. */
/** Frames that are there and are treated as if they were not. */
export function damagedLosses(damaged: readonly FrameRange[], spec: Spec): Loss[] {
  const count = coverageCount(damaged);
  if (count === 0 || spec.damaged === 'fail') return [];
  const frames = `${count === 1 ? 'Frame' : 'Frames'} ${printCoverage(damaged).replaceAll(',', ', ')}`;
  return [
    {
      code: 'damaged-as-missing',
      severity: 'doubt',
      sentence: `${frames} ${count === 1 ? 'is' : 'are'} damaged and treated as missing`,
      amount: grouped(count),
    },
  ];
}

export function differingLosses(differing: readonly FrameRange[], { mixed }: Spec): Loss[] {
  const count = coverageCount(differing);
  if (count === 0 || mixed === 'stop') return [];
  const frames = `${count === 1 ? 'Frame' : 'Frames'} ${printCoverage(differing).replaceAll(',', ', ')}`;
  return [
    mixed === 'fit'
      ? {
          code: 'fitted',
          severity: 'doubt',
          sentence: `${frames} ${count === 1 ? 'differs' : 'differ'} from the others and ${count === 1 ? 'is' : 'are'} fitted to them`,
          amount: grouped(count),
        }
      : {
          code: 'differing-left-out',
          severity: 'fault',
          sentence: `${frames} ${count === 1 ? 'differs' : 'differ'} from the others: ${count === 1 ? 'its result' : 'their results'} will not exist`,
          amount: grouped(count),
        },
  ];
}

const belowWords = ({ over }: Picture): string =>
  over === null ? 'black' : isOverSource(over) ? over.source.name : 'a colour';

/** What geometry, levels and the like take away by their own terms. */
function pictureLosses(facts: Facts, { from, picture, to }: Recipe): Loss[] {
  const losses: Loss[] = [];
  const says = (code: string, sentence: string, amount = 'all') =>
    losses.push({ code, severity: 'doubt', sentence, amount });
  const upright = uprightBy(facts.orientation);
  if (facts.orientation !== undefined && (picture.turn !== upright.turn || picture.flip !== upright.flip))
    says(
      'orientation',
      `Its files ask to be displayed ${orientationWords(facts.orientation)}, and results are written as stored`,
    );
  const turned = turnedSize(facts, picture);
  const { crop, resize } = picture;
  if (crop) {
    const cut = turned.width * turned.height - crop.width * crop.height;
    if (cut > 0) says('cropped', 'Pixels outside the crop are cut off', `${grouped(cut)} px`);
  }
  if (resize) {
    const before = crop ?? turned;
    const after = resizedSize(before, resize, turnedAspect(from.pixelAspect, picture));
    if (after.width !== before.width || after.height !== before.height)
      says(
        'resized',
        `${before.width} x ${before.height} becomes ${after.width} x ${after.height}`,
        `${((after.width * after.height * 100) / (before.width * before.height)).toFixed(0)}%`,
      );
  }
  if (picture.key) says('keyed', 'Pixels of the screen colour become clear');
  if (picture.levels) says('levels', 'Levels change every sample');
  if (from.primaries !== to.primaries && !isFloat(to.sample))
    says('primaries', 'Other primaries: colours outside them are clipped, and rounding changes the rest');
  return losses;
}

function depthLoss(facts: Facts, recipe: Recipe): Loss | undefined {
  const before = maxCode(facts.sample);
  const after = maxCode(recipe.to.sample);
  if (after === undefined) {
    const narrows = facts.sample === 'f32' && recipe.to.sample === 'f16';
    const inexact = !isFloat(facts.sample) && recipe.to.sample === 'f16' && (before ?? 0) > 255;
    if (!narrows && !inexact) return undefined;
    return {
      code: 'depth-reduced',
      severity: 'doubt',
      sentence: `${sampleWords(facts.sample)} becomes half float: 11 bits of precision`,
      amount: '100%',
    };
  }
  if (before !== undefined && after >= before) return undefined;
  const levels = grouped(after + 1);
  return {
    code: 'depth-reduced',
    severity: 'doubt',
    sentence:
      before === undefined
        ? `${sampleWords(facts.sample)} becomes ${sampleWords(recipe.to.sample)}: ${levels} levels from 0 to 1`
        : `${facts.sample.slice(1)} bits become ${recipe.to.sample.slice(1)}: ${levels} of ${grouped(before + 1)} levels`,
    amount: '100%',
  };
}

export function lossyWords(spec: Spec): string | undefined {
  const { write, video } = spec;
  if (!isVideoFormat(write.format)) {
    const what = stillWrites(write.format).lossy?.(write);
    return what && `${what} changes samples`;
  }
  const { words, controls } = codecs[write.format];
  if (isLosslessVideo(write.format, video)) return undefined;
  return `${words}${controls !== 'profile' ? ` at ${videoWords(write.format, video)}` : ''} changes samples`;
}

const channelWords = ['red', 'green', 'blue'] as const;

/** `red 12, blue 3`; nothing for grey. */
function byChannel(counts: ByChannel, facts: Facts): string {
  if (facts.channels.includes('Y')) return '';
  const parts = channelWords.flatMap((word, at) => (counts[at]! > 0 ? [`${word} ${grouped(counts[at]!)}`] : []));
  return ` (${parts.join(', ')})`;
}

/** What the pixels of the frames looked at say; a line for each thing that can happen, with 0 where it did not. */
export function measuredLosses(counts: PixelCounts, facts: Facts | undefined, recipe: Recipe | null): Loss[] {
  if (!facts || !recipe) return [];
  const losses: Loss[] = [];
  const line = (code: string, sentence: string, amount: number, unit = '') =>
    losses.push({ code, severity: amount > 0 ? 'doubt' : 'note', sentence, amount: `${grouped(amount)}${unit}` });
  const { from, to, picture } = recipe;
  const [high, low] = [ofAll(counts.high), ofAll(counts.low)];
  if (isFloat(to.sample)) {
    if (high + low > 0) line('overflow', 'Samples too large for a half float become infinite', high + low);
    if (counts.nan > 0) line('not-a-number', 'Samples are not numbers, and stay as they are', counts.nan);
    if (counts.infinite > 0) line('infinite', 'Samples are infinite, and stay as they are', counts.infinite);
  } else if (isFloat(facts.sample) || high + low > 0) {
    const above = `Samples above the range of the result are clipped${byChannel(counts.high, facts)}`;
    const below = `Samples below 0 become 0${byChannel(counts.low, facts)}`;
    line('clipped-high', high > 0 ? above : 'No sample above 1', high);
    line('clipped-low', low > 0 ? below : 'No sample below 0', low);
    if (counts.nan > 0) line('not-a-number', 'Samples that are not numbers become 0', counts.nan);
  } else {
    line('clipped', 'Clipped samples', 0);
  }
  if (picture.highlights === 'roll-off')
    line('rolled-off', counts.rolled > 0 ? 'Samples above 1 are rolled off' : 'No sample above 1', counts.rolled);
  if (from.alpha !== 'straight' && to.alpha === 'straight' && counts.glow > 0)
    line('glow', 'Pixels with light but no alpha keep their colour', counts.glow, ' px');
  if (facts.hasAlpha && to.alpha !== 'matte') {
    const kept = to.alpha !== 'none' && from.alpha !== 'ignore';
    const over = picture.over ? `are laid over ${belowWords(picture)}` : 'lose their alpha';
    const dropped = counts.alphaDropped > 0 ? `Pixels that were not opaque ${over}` : 'Every pixel was opaque';
    line('alpha', kept ? 'Alpha kept' : dropped, kept ? 0 : counts.alphaDropped, ' px');
  }
  return losses;
}
