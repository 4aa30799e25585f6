import { coverageCount, printCoverage, type FrameRange } from '../numbering/ranges.ts';
import type { Facts } from '../numbering/source.ts';
import { isFloat, maxCode, sampleWords } from '../pixels/image.ts';
import type { PixelCounts, Recipe } from '../pixels/recipe.ts';
import { formatRules, type Spec } from '../spec/schema.ts';
import type { Loss } from './plan.ts';

const grouped = (value: number): string => value.toLocaleString('en-GB');

/** What is lost by the plan's own terms, before any pixel is looked at. */
export function knownLosses(
  facts: Facts | undefined,
  recipe: Recipe | null,
  spec: Spec,
  missing: FrameRange[],
): Loss[] {
  const losses: Loss[] = [];
  const count = coverageCount(missing);
  if (count > 0) {
    losses.push({
      code: 'missing-frames',
      severity: 'fault',
      sentence: `${count === 1 ? 'Frame' : 'Frames'} ${printCoverage(missing).replaceAll(',', ', ')} missing: ${count === 1 ? 'its result' : 'their results'} will not exist`,
      amount: grouped(count),
    });
  }
  if (!facts || !recipe) return losses;
  const depth = depthLoss(facts, recipe);
  if (depth) losses.push(depth);
  if (facts.hasAlpha && (recipe.to.alpha === 'none' || recipe.from.alpha === 'ignore')) {
    losses.push({
      code: 'alpha-dropped',
      severity: 'doubt',
      sentence:
        recipe.from.alpha === 'ignore'
          ? 'Alpha is ignored and not written'
          : 'Alpha is laid over black and not written',
      amount: 'all',
    });
  }
  const lossy = lossyWords(spec);
  if (lossy) losses.push({ code: 'lossy-format', severity: 'doubt', sentence: lossy, amount: 'all' });
  const extra = facts.channels.filter((name) => !/^([RGBAY]|alpha|grey)$/i.test(name));
  if (extra.length > 0) {
    losses.push({
      code: 'channels-dropped',
      severity: 'doubt',
      sentence: `Channels other than colour and alpha are left out: ${extra.slice(0, 4).join(', ')}${extra.length > 4 ? ' ...' : ''}`,
      amount: grouped(extra.length),
    });
  }
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

function lossyWords(spec: Spec): string | undefined {
  if (!formatRules[spec.write.format].lossless) return `JPEG at quality ${spec.write.quality} changes samples`;
  const lossyExr = ['PXR24', 'B44', 'B44A', 'DWAA', 'DWAB'];
  if (spec.write.format === 'exr' && lossyExr.includes(spec.write.exrCompression)) {
    return `${spec.write.exrCompression} compression changes samples`;
  }
  return undefined;
}

/** What the pixels of the frames looked at say; a line for each thing that can happen, with 0 where it did not. */
export function measuredLosses(counts: PixelCounts, facts: Facts | undefined, recipe: Recipe | null): Loss[] {
  if (!facts || !recipe) return [];
  const losses: Loss[] = [];
  const line = (code: string, sentence: string, amount: number, unit = '') =>
    losses.push({ code, severity: amount > 0 ? 'doubt' : 'note', sentence, amount: `${grouped(amount)}${unit}` });
  if (isFloat(facts.sample) && !isFloat(recipe.to.sample)) {
    line(
      'clipped-high',
      counts.high > 0 ? 'Samples above 1 are clipped to 1' : 'No sample above 1 is clipped',
      counts.high,
    );
    line('clipped-low', counts.low > 0 ? 'Samples below 0 become 0' : 'No sample lies below 0', counts.low);
    if (counts.nan > 0) line('not-a-number', 'Samples that are not a number become 0', counts.nan);
  } else {
    line('clipped', 'Clipped samples', 0);
  }
  if (recipe.from.alpha === 'premultiplied' && recipe.to.alpha === 'straight') {
    if (counts.glow > 0) line('glow', 'Pixels with light but no alpha keep their colour undivided', counts.glow, ' px');
  }
  if (facts.hasAlpha) {
    const kept = recipe.to.alpha !== 'none' && recipe.from.alpha !== 'ignore';
    line(
      'alpha',
      kept
        ? 'Alpha kept'
        : counts.alphaDropped > 0
          ? 'Pixels that were not opaque lose their alpha'
          : 'Every pixel was opaque',
      kept ? 0 : counts.alphaDropped,
      ' px',
    );
  }
  return losses;
}
