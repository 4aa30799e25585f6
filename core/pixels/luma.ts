/** Weights of red, green and blue in luma (ITU-R BT.709-6, item 3.2). */
export const luma709 = [0.2126, 0.7152, 0.0722] as const;

/** The luma of three values. */
export const lumaOf = (red: number, green: number, blue: number): number =>
  luma709[0] * red + luma709[1] * green + luma709[2] * blue;
