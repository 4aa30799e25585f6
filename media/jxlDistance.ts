/** JPEG XL's own scale of loss (0 none, 1 not to be seen, 25 most) for a quality of JPEG's kind, as its own tools map it. */
export const distanceOf = (quality: number): number =>
  quality >= 30 ? 0.1 + (100 - quality) * 0.09 : (53 / 3000) * quality ** 2 - (23 / 20) * quality + 25;
