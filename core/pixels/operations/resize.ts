import { z } from 'zod';
import { isNull, lightSchema, sideSchema } from './common.ts';
import { operation, type Aspect, type Size } from './operation.ts';

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

export const resizeSchema = z
  .object({
    to: z.discriminatedUnion('by', [
      /** In pixels; a side left null keeps the proportion. */
      z.object({ by: z.literal('size'), width: sideSchema.nullable(), height: sideSchema.nullable() }).strict(),
      z.object({ by: z.literal('percent'), percent: z.number().min(0.1).max(10_000) }).strict(),
      /** No larger than this on either side, in proportion; a smaller picture stays. */
      z.object({ by: z.literal('limit'), width: sideSchema, height: sideSchema }).strict(),
      /** Square pixels by the declared pixel aspect, the height kept. */
      z.object({ by: z.literal('square') }).strict(),
    ]),
    filter: filterSchema.default('lanczos'),
    light: lightSchema.default('stored'),
  })
  .strict();
export type Resize = z.infer<typeof resizeSchema>;

const whole = (value: number): number => Math.max(1, Math.floor(value + 0.5));

/** The size that a resize gives. @param aspect width to height of a pixel */
export function resizedSize({ width, height }: Size, { to }: Resize, aspect: Aspect = { num: 1, den: 1 }): Size {
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

function sizeWords({ to }: Resize): string {
  switch (to.by) {
    case 'size':
      return `${to.width ?? 'in proportion'} x ${to.height ?? 'in proportion'}`;
    case 'percent':
      return `${to.percent} %`;
    case 'limit':
      return `within ${to.width} x ${to.height}`;
    case 'square':
      return 'to square pixels';
  }
}

export const resize = operation({
  schema: resizeSchema.nullable().default(null),
  label: 'Size',
  rest: 'as it is',
  isAtRest: isNull,
  does: (one) => (one!.filter === 'nearest' ? ['moves'] : ['moves', 'mixes']),
  row: (one) => `${sizeWords(one!)}, ${filterWords[one!.filter]}${one!.light === 'linear' ? ', in linear light' : ''}`,
  said: (one) => `resized ${sizeWords(one!)}`,
  size: (size, one, aspect) => resizedSize(size, one!, aspect),
  aspect: (aspect, one) => (one!.to.by === 'square' ? { num: 1, den: 1 } : aspect),
});
