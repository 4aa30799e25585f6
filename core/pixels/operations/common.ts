import { z } from 'zod';

/** The most pixels on a side, and in a picture. */
export const mostAcross = 65_536;
export const mostPixels = 2 ** 29;

/** A colour: red, green and blue in sRGB values, 0 to 1. */
export const colourSchema = z.tuple([z.number(), z.number(), z.number()]);
export type Colour = z.infer<typeof colourSchema>;

export const sideSchema = z.int().min(1).max(mostAcross);

/** Whether colours are mixed as they are stored, or as light. */
export const lightSchema = z.enum(['stored', 'linear']);

/** A source beside the one that is converted: by its root's id (a folder on the command line), its folder below that, its name. */
export const beside = z.object({
  root: z.string().max(4000),
  folder: z.string().max(4000),
  name: z.string().min(1).max(255),
});
export type Beside = z.infer<typeof beside>;

/** How frames of a second source go with those of the first. */
export const alongside = {
  source: beside.strict(),
  /** Its first frame goes with the first frame of the picture; this many later, or earlier where it is below 0. */
  offset: z.int().min(-1_000_000).max(1_000_000).default(0),
  /** When it ends before the picture is, or not begun: its nearest frame, from its beginning again, or refuse to run. */
  ends: z.enum(['hold', 'loop', 'stop']).default('stop'),
};

const endsWords = { hold: 'its first and last frames repeated', loop: 'looped', stop: 'as long as it lasts' };

/** How a second source goes along, in words. */
export const alongWords = ({ offset, ends }: { offset: number; ends: keyof typeof endsWords }): string =>
  [...(offset === 0 ? [] : [`${Math.abs(offset)} frames ${offset > 0 ? 'later' : 'earlier'}`]), endsWords[ends]].join(
    ', ',
  );

/** A colour as the trade of screens writes it: `#1a2b3c`. */
export const hexOf = (colour: Colour): string =>
  `#${colour
    .map((value) =>
      Math.round(Math.min(1, Math.max(0, value)) * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;

/** The colour of `#1a2b3c`; undefined for anything else. */
export function colourOfHex(text: string): Colour | undefined {
  const match = /^#?([\da-f]{2})([\da-f]{2})([\da-f]{2})$/i.exec(text.trim());
  return match ? (match.slice(1).map((part) => parseInt(part, 16) / 255) as Colour) : undefined;
}

export const isNull = (value: unknown): boolean => value === null;
