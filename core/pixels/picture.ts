import { z } from 'zod';

/** The most pixels on a side, and in a picture. */
export const mostAcross = 65_536;
export const mostPixels = 2 ** 29;

/** A colour: red, green and blue in sRGB values, 0 to 1. */
export const colourSchema = z.tuple([z.number(), z.number(), z.number()]);
export type Colour = z.infer<typeof colourSchema>;

const side = z.int().min(1).max(mostAcross);

/** A part of a picture in pixels from its upper left corner. */
export const boxSchema = z.object({ left: z.int().min(0), top: z.int().min(0), width: side, height: side }).strict();
export type Box = z.infer<typeof boxSchema>;

/**
 * How samples between pixels are found: the nearest; linear between two; a cubic through four (Keys 1981, a = -0.5); a sinc
 * windowed by itself over three lobes; the mean of what is covered.
 */
export const filterSchema = z.enum(['nearest', 'bilinear', 'bicubic', 'lanczos', 'area']);
export type Filter = z.infer<typeof filterSchema>;
export const filterWords: Record<Filter, string> = {
  nearest: 'nearest',
  bilinear: 'bilinear',
  bicubic: 'bicubic',
  lanczos: 'Lanczos',
  area: 'area',
};

/** Whether colours are mixed as they are stored, or as light. */
export const lightSchema = z.enum(['stored', 'linear']);

export const resizeSchema = z
  .object({
    to: z.discriminatedUnion('by', [
      /** In pixels; a side left null keeps the proportion. */
      z.object({ by: z.literal('size'), width: side.nullable(), height: side.nullable() }).strict(),
      z.object({ by: z.literal('percent'), percent: z.number().min(0.1).max(10_000) }).strict(),
      /** No larger than this on either side, in proportion; a smaller picture stays. */
      z.object({ by: z.literal('limit'), width: side, height: side }).strict(),
      /** Square pixels by the declared pixel aspect, the height kept. */
      z.object({ by: z.literal('square') }).strict(),
    ]),
    filter: filterSchema.default('lanczos'),
    light: lightSchema.default('stored'),
  })
  .strict();
export type Resize = z.infer<typeof resizeSchema>;

/** Alpha from the distance of a pixel's colour to the screen's, in the plane of colour differences. */
export const keySchema = z
  .object({
    /** The screen's colour in sRGB values. */
    colour: colourSchema,
    /** Distance up to which a pixel is clear, and how much further until it is opaque. */
    tolerance: z.number().min(0).max(1).default(0.15),
    softness: z.number().min(0).max(1).default(0.15),
    /** How much of the screen's cast is taken from what is kept, 0 to 1. */
    spill: z.number().min(0).max(1).default(1),
  })
  .strict();
export type Key = z.infer<typeof keySchema>;

const perChannel = <T extends z.ZodType>(value: T) => z.tuple([value, value, value]);

/** Levels by channel: black goes to 0, white to 1, and between them `value ** (1 / gamma)`; on values as stored. */
export const levelsSchema = z
  .object({
    black: perChannel(z.number().min(-10).max(10)).default([0, 0, 0]),
    white: perChannel(z.number().min(-10).max(100)).default([1, 1, 1]),
    gamma: perChannel(z.number().min(0.05).max(20)).default([1, 1, 1]),
    /** In stops, on light: 1 doubles. */
    exposure: z.number().min(-20).max(20).default(0),
  })
  .strict()
  .refine(({ black, white }) => black.every((value, at) => value !== white[at]), 'black and white are the same');
export type Levels = z.infer<typeof levelsSchema>;

export const padSchema = z
  .object({
    /** Sides become multiples of this. */
    multiple: z.int().min(2).max(4096),
    /** On the right and below, or half of it on every side. */
    where: z.enum(['end', 'around']).default('end'),
  })
  .strict();

/** A source beside the one that is converted: by its root's id (a folder on the command line), its folder below that, its name. */
export const beside = z.object({
  root: z.string().max(4000),
  folder: z.string().max(4000),
  name: z.string().min(1).max(255),
});
export type Beside = z.infer<typeof beside>;

/** How frames of a second source go with those of the first. */
const alongside = {
  source: beside.strict(),
  /** Its first frame goes with the first frame of the picture; this many later, or earlier where it is below 0. */
  offset: z.int().min(-1_000_000).max(1_000_000).default(0),
  /** Where it is over before the picture is, or not begun: its nearest frame, from its beginning again, or refuse to run. */
  ends: z.enum(['hold', 'loop', 'stop']).default('stop'),
};

export const overColourSchema = z.object({ colour: colourSchema, light: lightSchema.default('stored') }).strict();
export const overSourceSchema = z
  .object({
    ...alongside,
    /** As large as lies within the picture, as large as covers it, or its own size; then `scale`. */
    fit: z.enum(['within', 'cover', 'own']).default('cover'),
    /** In percent. */
    scale: z.number().min(0.1).max(10_000).default(100),
    /** Clockwise about its middle, in degrees. */
    rotation: z.number().min(-360).max(360).default(0),
    /** From the middle of the picture, in pixels to the right and down. */
    right: z.number().min(-mostAcross).max(mostAcross).default(0),
    down: z.number().min(-mostAcross).max(mostAcross).default(0),
    light: lightSchema.default('stored'),
  })
  .strict();
export type OverSource = z.infer<typeof overSourceSchema>;

/** What the picture is laid over, a colour or another source, and whether it is mixed as stored or as light. */
export const overSchema = z.union([overColourSchema, overSourceSchema]);
export const isOverSource = (over: z.infer<typeof overSchema> | null): over is OverSource =>
  over !== null && 'source' in over;

/** Alpha that comes from another source. */
export const alphaFromSchema = z
  .object({
    ...alongside,
    /** Its alpha, or its luma (ITU-R BT.709) as stored. */
    use: z.enum(['alpha', 'luma']).default('luma'),
    /** Black becomes white. */
    inverted: z.boolean().default(false),
    /** Whether the colour is multiplied by that alpha already. */
    premultiplied: z.boolean().default(false),
  })
  .strict();
export type AlphaFrom = z.infer<typeof alphaFromSchema>;

/** What happens to a picture between reading and writing, in the order in which it happens; null and 0 leave it. */
export const pictureSchema = z
  .object({
    /** A layer of a file that has several; null takes the main picture. */
    layer: z.string().min(1).max(255).nullable().default(null),
    /** Takes the place of an alpha that there is. */
    alphaFrom: alphaFromSchema.nullable().default(null),
    /** Quarter turns clockwise, in degrees. */
    turn: z.union([z.literal(0), z.literal(90), z.literal(180), z.literal(270)]).default(0),
    /** After the turn. */
    flip: z.enum(['none', 'across', 'down']).default('none'),
    crop: boxSchema.nullable().default(null),
    key: keySchema.nullable().default(null),
    resize: resizeSchema.nullable().default(null),
    pad: padSchema.nullable().default(null),
    over: overSchema.nullable().default(null),
    levels: levelsSchema.nullable().default(null),
    /** Light above 1 on the way to integers: cut at 1, or rolled off from 0.8 on towards 1. */
    highlights: z.enum(['clip', 'roll-off']).default('clip'),
    /** How rounding to fewer codes is spread. */
    dither: z.enum(['none', 'ordered', 'diffusion', 'blue-noise']).default('none'),
  })
  .strict();
export type Picture = z.infer<typeof pictureSchema>;

/** A picture that is left as it is. */
export const untouched: Picture = pictureSchema.parse({});

export interface Size {
  width: number;
  height: number;
}

const whole = (value: number): number => Math.max(1, Math.floor(value + 0.5));

/** The size that a resize gives. @param aspect width to height of a pixel */
export function resizedSize({ width, height }: Size, { to }: Resize, aspect = { num: 1, den: 1 }): Size {
  switch (to.by) {
    case 'size': {
      if (to.width === null && to.height === null) return { width, height };
      return {
        width: to.width ?? whole((width * to.height!) / height),
        height: to.height ?? whole((height * to.width!) / width),
      };
    }
    case 'percent':
      return { width: whole((width * to.percent) / 100), height: whole((height * to.percent) / 100) };
    case 'limit': {
      if (width <= to.width && height <= to.height) return { width, height };
      // Exact by integers: the side that is over by more decides.
      return width * to.height > height * to.width
        ? { width: to.width, height: whole((height * to.width) / width) }
        : { width: whole((width * to.height) / height), height: to.height };
    }
    case 'square':
      return { width: whole((width * aspect.num) / aspect.den), height };
  }
}

/** The size of a picture once turned. */
export const turnedSize = ({ width, height }: Size, { turn }: Pick<Picture, 'turn'>): Size =>
  turn === 90 || turn === 270 ? { width: height, height: width } : { width, height };

/** Width to height of a pixel once turned. */
export const turnedAspect = (
  aspect: { num: number; den: number },
  { turn }: Pick<Picture, 'turn'>,
): { num: number; den: number } => (turn === 90 || turn === 270 ? { num: aspect.den, den: aspect.num } : aspect);

/** Width to height of a pixel of what comes out: square where it is made so, else what it was. */
export const aspectAfter = (aspect: { num: number; den: number }, picture: Picture): { num: number; den: number } =>
  picture.resize?.to.by === 'square' ? { num: 1, den: 1 } : turnedAspect(aspect, picture);

/** The size that comes out. */
export function sizeAfter(size: Size, picture: Picture, aspect = { num: 1, den: 1 }): Size {
  const turned = turnedSize(size, picture);
  const cropped = picture.crop ?? turned;
  const resized = picture.resize ? resizedSize(cropped, picture.resize, turnedAspect(aspect, picture)) : cropped;
  const { pad } = picture;
  if (!pad) return { width: resized.width, height: resized.height };
  const up = (value: number) => Math.ceil(value / pad.multiple) * pad.multiple;
  return { width: up(resized.width), height: up(resized.height) };
}
