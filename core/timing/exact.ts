/** `value * num / den` as a whole number and what is left, exact for any safe whole numbers; `den` above 0. */
export function mulDiv(value: number, num: number, den: number): { whole: number; rest: number } {
  const product = value * num;
  if (Number.isSafeInteger(product)) {
    const whole = Math.floor(product / den);
    return { whole, rest: product - whole * den };
  }
  const exact = BigInt(value) * BigInt(num);
  const divisor = BigInt(den);
  const cut = exact / divisor;
  const whole = exact % divisor < 0n ? cut - 1n : cut;
  return { whole: Number(whole), rest: Number(exact - whole * divisor) };
}

/** `value * num / den` to the nearest whole number, a half upwards. */
export const mulDivNear = (value: number, num: number, den: number): number => {
  const { whole, rest } = mulDiv(value, num, den);
  return rest * 2 >= den ? whole + 1 : whole;
};
