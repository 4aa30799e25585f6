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
  /** Half-clear pixels that no colour laid over the matte could give; null where there is no such colour but black. */
  againstMatte: count.nullable(),
  /** What the counts lean to, `over-colour` meaning laid over the matte's colour; a person decides. */
  leans: z.enum(['opaque', 'straight', 'premultiplied', 'over-colour', 'unclear']),
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

/** Calls back for every pixel that is not opaque, with its colour and alpha, 0 to 1 as stored; counts the others. */
function eachSoft(
  { data, channels, sample }: Image,
  visit: (red: number, green: number, blue: number, alpha: number) => void,
): { opaque: number } {
  const colours = channels - 1;
  const most = maxCode(sample) ?? 1;
  const half = sample === 'f16';
  const value = (code: number): number => (half ? halfToNumber(code) : isFloat(sample) ? code : code / most);
  let opaque = 0;
  for (let at = 0; at < data.length; at += channels) {
    const alpha = value(data[at + colours]!);
    if (alpha >= 1) {
      opaque += 1;
      continue;
    }
    const red = value(data[at]!);
    if (colours === 3) visit(red, value(data[at + 1]!), value(data[at + 2]!), alpha);
    else visit(red, red, red, alpha);
  }
  return { opaque };
}

/** A code of rounding either way is no evidence. */
const slackOf = ({ sample }: Image): number => (isFloat(sample) ? 1e-3 : 1.01 / maxCode(sample)!);

function countInto(counts: Counts, image: Image): void {
  const slack = slackOf(image);
  const { opaque } = eachSoft(image, (red, green, blue, alpha) => {
    const strongest = Math.max(red, green, blue);
    if (strongest > alpha + slack) counts.exceeding += 1;
    if (alpha > 0) {
      counts.partial += 1;
      return;
    }
    counts.clear += 1;
    if (strongest > slack) counts.clearColoured += 1;
    const key = (Math.round(red * 15) << 8) | (Math.round(green * 15) << 4) | Math.round(blue * 15);
    const held = counts.mattes.get(key) ?? { count: 0, sum: [0, 0, 0] };
    held.count += 1;
    held.sum = [held.sum[0] + red, held.sum[1] + green, held.sum[2] + blue];
    counts.mattes.set(key, held);
  });
  counts.opaque += opaque;
  counts.pixels += image.width * image.height;
}

/** Half-clear pixels that cannot be `alpha x F + (1 - alpha) x matte` with F from 0 to 1, and those that are the matte itself. */
function countAgainst(image: Image, matte: readonly number[]): { against: number; same: number } {
  // A colour of its own coding, and rounding of colour and alpha both, widen the bounds.
  const slack = 3 * slackOf(image);
  let against = 0;
  let same = 0;
  eachSoft(image, (red, green, blue, alpha) => {
    if (alpha <= 0) return;
    if ([red, green, blue].every((value, channel) => Math.abs(value - matte[channel]!) <= slack)) same += 1;
    const fits = [red, green, blue].every((value, channel) => {
      const base = (1 - alpha) * matte[channel]!;
      return value >= base - slack && value <= base + alpha + slack;
    });
    if (!fits) against += 1;
  });
  return { against, same };
}

/** Share of the clear pixels that must have one colour for it to count as a matte. */
const oneColour = 0.95;
/** Share of the half-clear pixels that may speak against a reading: glows and noise. */
const stray = 0.01;

/**
 * Looks at the pixels of pictures with alpha (two or four channels), as they are stored: premultiplied on black is
 * impossible where a colour exceeds its alpha, and what clear pixels hold suggests the colour that it was laid over. Never a
 * decision.
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
    ? { colour: best.sum.map((sum) => sum / best.count) as [number, number, number], share: best.count / counts.clear }
    : null;
  const coloured = matte !== null && matte.share > oneColour && Math.max(...matte.colour) > 0.02;
  const held = coloured ? images.map(({ image }) => countAgainst(image, matte.colour)) : null;
  const againstMatte = held && held.reduce((sum, { against }) => sum + against, 0);
  const bled = held !== null && held.reduce((sum, { same }) => sum + same, 0) > counts.partial / 2;
  const frames = images.map(({ frame }) => frame);
  return { frames, ...rest, matte, againstMatte, ...leaning(counts, againstMatte, bled) };
}

const percent = (share: number): string => `${(share * 100).toFixed(share < 0.01 ? 2 : share < 0.1 ? 1 : 0)} %`;

function leaning(
  counts: Counts,
  againstMatte: number | null,
  bled: boolean,
): Pick<AlphaEvidence, 'leans' | 'sentence'> {
  const { partial, clear, exceeding, clearColoured } = counts;
  if (partial + clear === 0) {
    return { leans: 'opaque', sentence: 'Every pixel is opaque: straight and premultiplied are the same.' };
  }
  if (partial === 0) {
    const left = clearColoured > 0 ? 'clear pixels keep a colour' : 'clear pixels are black';
    return {
      leans: clearColoured > 0 && againstMatte === null ? 'straight' : 'unclear',
      sentence: `Alpha is only 0 or 1, and ${left}: there is no edge to tell by.`,
    };
  }
  if (bled) {
    return {
      leans: 'unclear',
      sentence:
        'Edges and clear parts have one colour: it is straight with its colour carried on, or laid over that very colour.',
    };
  }
  if (againstMatte !== null && againstMatte / partial <= stray) {
    return {
      leans: 'over-colour',
      sentence:
        'Clear pixels have one colour, and every edge fits a picture laid over it: this suggests premultiplied on that colour.',
    };
  }
  const share = (exceeding - clearColoured) / partial;
  if (share > stray) {
    return {
      leans: 'straight',
      sentence: `In ${percent(share)} of the half-clear pixels a colour exceeds its alpha, which premultiplied on black cannot have: this suggests straight.`,
    };
  }
  const how =
    share === 0
      ? `In none of ${partial.toLocaleString('en-GB')} half-clear pixels a colour exceeds its alpha`
      : `In only ${percent(share)} of the half-clear pixels a colour exceeds its alpha`;
  if (clearColoured > clear * stray) {
    return {
      leans: 'unclear',
      sentence: `${how}, but clear pixels keep a colour: check the edges over several backgrounds.`,
    };
  }
  return { leans: 'premultiplied', sentence: `${how}: this suggests premultiplied.` };
}
