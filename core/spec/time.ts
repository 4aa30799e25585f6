import { z } from 'zod';
import { curveSchema } from '../timing/curve.ts';
import { printRate, rateSchema } from '../timing/rate.ts';

/** Which lines of a picture belong to the earlier moment. */
export const lineOrderSchema = z.enum(['top', 'bottom']);

/** What stands between two frames of the source. */
export const betweenSchema = z.enum(['nearest', 'before', 'blend', 'motion']);
export type Between = z.infer<typeof betweenSchema>;

export const betweenWords: Record<Between, string> = {
  nearest: 'the nearest frame',
  before: 'the frame before, dropped or repeated',
  blend: 'a blend of the two',
  motion: 'a frame made by motion',
};

/** What becomes of the frames that are taken, in the order of the fields. */
export const timeSchema = z
  .object({
    /** What is taken back first: frames that repeat the one before, or 3:2 pulldown woven into the frames. */
    undo: z.enum(['nothing', 'holds', 'pulldown']).default('nothing'),
    /** Of the pulldown that is taken back or made: the place in its cycle of five at which the first frame is, and its lines. */
    phase: z.int().min(0).max(4).default(0),
    lines: lineOrderSchema.default('top'),
    /**
     * Every frame once, each held for `hold` results, other frames at the same speed (`rate`), or as the curve says.
     */
    how: z.enum(['every-frame', 'hold', 'rate', 'curve']).default('every-frame'),
    hold: z.int().min(1).max(1000).default(2),
    /** The rate of the results; null keeps that of the frames. Where `how` is not `rate` the same frames run at another speed. */
    rate: rateSchema.nullable().default(null),
    between: betweenSchema.default('nearest'),
    curve: curveSchema.prefault({ keys: [] }),
    /** Of so many results the first stands for all: 2 is on twos. */
    stand: z.int().min(1).max(1000).default(1),
    /** Which results are kept, counted from 0; null keeps all. */
    keep: z
      .object({ first: z.int().min(0), last: z.int().min(0) })
      .nullable()
      .default(null),
    /** Whether the results follow once more from the last but one back to the second: a loop that runs there and back. */
    back: z.boolean().default(false),
    /** Weaves four frames into five, as film is brought to video (3:2 pulldown). */
    pulldown: z.boolean().default(false),
  })
  .strict();
export type TimeSpec = z.infer<typeof timeSchema>;

export const plainTime: TimeSpec = timeSchema.parse({});

/** Whether frames stay what and where they are; their rate may be another. */
export const isPlainTime = ({ undo, how, stand, keep, back, pulldown }: TimeSpec): boolean =>
  undo === 'nothing' && how === 'every-frame' && stand === 1 && keep === null && !back && !pulldown;

/** How the trade names a drawing's hold. */
export const onesWords = (each: number): string => ['', 'ones', 'twos', 'threes', 'fours'][each] ?? `${each}s`;

/** What becomes of time, in a few words: `on twos`, `25 fps by the nearest frame`. */
export function timeSaid({ undo, how, hold, rate, between, curve, stand, keep, back, pulldown }: TimeSpec): string[] {
  const at = rate ? printRate(rate) : 'the same rate';
  return [
    ...(undo === 'holds' ? ['without repeated frames'] : undo === 'pulldown' ? ['without its pulldown'] : []),
    ...(how === 'hold' ? [`each frame held for ${hold}`] : []),
    ...(how === 'rate' ? [`brought to ${at} by ${betweenWords[between]}`] : []),
    ...(how === 'curve'
      ? [
          `retimed by ${curve.keys.length} keys${between === 'nearest' ? '' : `, between them ${betweenWords[between]}`}`,
        ]
      : []),
    ...(how !== 'rate' && rate ? [`played at ${at}`] : []),
    ...(stand > 1 ? [`on ${onesWords(stand)}`] : []),
    ...(keep ? [`results ${keep.first} to ${keep.last}`] : []),
    ...(back ? ['there and back'] : []),
    ...(pulldown ? ['with 3:2 pulldown'] : []),
  ];
}
