import { untouched, type Picture } from './picture.ts';
import type { Recipe } from './recipe.ts';

/** A recipe from straight sRGB to straight 8-bit sRGB, but for what is said otherwise. For tests. */
export const recipeOf = (
  from: Partial<Recipe['from']> = {},
  to: Partial<Recipe['to']> = {},
  picture: Partial<Picture> = {},
): Recipe => ({
  from: {
    alpha: 'straight',
    transfer: 'srgb',
    primaries: 'bt709',
    pixelAspect: { num: 1, den: 1 },
    matte: null,
    ...from,
  },
  under: null,
  picture: { ...untouched, ...picture },
  to: { alpha: 'straight', transfer: 'srgb', primaries: from.primaries ?? 'bt709', sample: 'u8', matte: null, ...to },
});
