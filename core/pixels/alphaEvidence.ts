import { z } from 'zod';
import { halfToNumber } from './half.ts';
import { isFloat, maxCode, type Image } from './image.ts';

const count = z.int().min(0);

/** What the pixels of some frames say about how colour and alpha belong together. Counts are of pixels. */
export const alphaEvidenceSchema = z.object({
  /** Frames that were looked at. */
  frames: z.array(z.int()),
  pixels: count,
  /** Alpha 1, alpha 0, and between. */
  opaque: count,
  clear: count,
  partial: count,
  /** Pixels with a colour greater than their alpha, alpha below 1: impossible if premultiplied and not glowing. */
  exceeding: count,
  /** Clear pixels that have a colour all the same. */
  clearColoured: count,
  /** The colour that most clear pixels share, 0 to 1 as stored, and their share of the clear ones; null where none is clear. */
  matte: z.object({ colour: z.tuple([z.number(), z.number(), z.number()]), share: z.number() }).nullable(),
  /** What the counts lean to; a person decides. */
  leans: z.enum(['opaque', 'straight', 'premultiplied', 'unclear']),
  /** The leaning in a sentence. */
  sentence: z.string(),
});
export type AlphaEvidence = z.infer<typeof alphaEvidenceSchema>;

/** Counts of one picture, to be added up; colours of clear pixels by their code in 4 bits a channel. */
interface Counts {
  pixels: number;
  opaque: number;
  clear: number;
  partial: number;
  exceeding: number;
  clearColoured: number;
  mattes: Map<number, { count: number; sum: [number, number, number] }>;
}

const noCounts = (): Counts => ({
  pixels: 0,
  opaque: 0,
  clear: 0,
  partial: 0,
  exceeding: 0,
  clearColoured: 0,
  mattes: new Map(),
});

/** Counts a picture with alpha into a sum. Samples are taken as they are stored, without undoing the transfer. */
function countInto(counts: Counts, image: Image): void {
  const { data, channels, sample } = image;
  const colours = channels - 1;
  const most = maxCode(sample) ?? 1;
  const half = sample === 'f16';
  const value = (code: number): number => (half ? halfToNumber(code) : isFloat(sample) ? code : code / most);
  // A code of rounding either way is no evidence.
  const slack = isFloat(sample) ? 1e-3 : 1 / most;
  for (let at = 0; at < data.length; at += channels) {
    const alpha = value(data[at + colours]!);
    counts.pixels += 1;
    if (alpha >= 1) {
      counts.opaque += 1;
      continue;
    }
    const red = value(data[at]!);
    const green = colours === 3 ? value(data[at + 1]!) : red;
    const blue = colours === 3 ? value(data[at + 2]!) : red;
    const strongest = Math.max(red, green, blue);
    if (alpha > 0) {
      counts.partial += 1;
      if (strongest > alpha + slack) counts.exceeding += 1;
      continue;
    }
    counts.clear += 1;
    if (strongest > slack) {
      counts.clearColoured += 1;
      counts.exceeding += 1;
    }
    const key = (Math.round(red * 15) << 8) | (Math.round(green * 15) << 4) | Math.round(blue * 15);
    const held = counts.mattes.get(key);
    if (held) {
      held.count += 1;
      held.sum = [held.sum[0] + red, held.sum[1] + green, held.sum[2] + blue];
    } else counts.mattes.set(key, { count: 1, sum: [red, green, blue] });
  }
}

/**
 * Looks at the pixels of pictures with alpha (two or four channels): premultiplied on black is impossible where a colour
 * exceeds its alpha, and what clear pixels hold suggests the colour that was matted on. Never a decision.
 * @throws RangeError for a picture without alpha
 */
export function alphaEvidence(images: readonly { frame: number; image: Image }[]): AlphaEvidence {
  const counts = noCounts();
  for (const { image } of images) {
    if (image.channels !== 2 && image.channels !== 4) throw new RangeError('the picture has no alpha channel');
    countInto(counts, image);
  }
  const { mattes, ...rest } = counts;
  const [best] = [...mattes.values()].sort((a, b) => b.count - a.count);
  const matte = best
    ? {
        colour: best.sum.map((sum) => sum / best.count) as [number, number, number],
        share: best.count / counts.clear,
      }
    : null;
  return { frames: images.map(({ frame }) => frame), ...rest, matte, ...leaning(counts, matte) };
}

const percent = (share: number): string => `${(share * 100).toFixed(share < 0.01 ? 2 : share < 0.1 ? 1 : 0)} %`;

function leaning(counts: Counts, matte: AlphaEvidence['matte']): Pick<AlphaEvidence, 'leans' | 'sentence'> {
  const soft = counts.partial + counts.clear;
  if (soft === 0)
    return { leans: 'opaque', sentence: 'Every pixel is opaque: straight and premultiplied are the same.' };
  const share = counts.exceeding / soft;
  const coloured = matte !== null && matte.share > 0.95 && Math.max(...matte.colour) > 0.02;
  const partialExceeding = counts.exceeding - counts.clearColoured;
  if (coloured && partialExceeding > 0) {
    return {
      leans: 'unclear',
      sentence: `Clear pixels all have one colour: it may be premultiplied on that colour, or straight with it left under the clear parts.`,
    };
  }
  if (share > 0.01) {
    return {
      leans: 'straight',
      sentence: `In ${percent(share)} of the pixels that are not opaque a colour exceeds its alpha, which premultiplied on black cannot have: it speaks for straight.`,
    };
  }
  if (counts.partial === 0) {
    return {
      leans: 'unclear',
      sentence: 'Alpha is only 0 or 1, and clear pixels are black: straight and premultiplied look the same.',
    };
  }
  return {
    leans: 'premultiplied',
    sentence:
      counts.exceeding === 0
        ? `No colour exceeds its alpha in ${counts.partial.toLocaleString('en-GB')} half-clear pixels: it speaks for premultiplied.`
        : `Only ${percent(share)} of the pixels that are not opaque have a colour above their alpha: it speaks for premultiplied, with some that glow.`,
  };
}
