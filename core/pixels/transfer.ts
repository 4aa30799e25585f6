import type { DeclaredTransfer } from './colourNames.ts';

/** Between a stored value, 0 to 1 over the full range, and light; values beyond are carried on in both directions. */
export interface Curve {
  toLinear(value: number): number;
  fromLinear(light: number): number;
}

/** The function for negative values too: mirrored at 0, so that floats keep what they hold. */
const mirrored =
  (curve: (size: number) => number) =>
  (value: number): number =>
    value < 0 ? -curve(-value) : curve(value);

/** Linear light from an sRGB value (IEC 61966-2-1:1999, 5.2). */
export const srgbToLinear = mirrored((value) => (value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4));

/** An sRGB value from linear light (IEC 61966-2-1:1999, 5.2); the inverse of {@link srgbToLinear}. */
export const linearToSrgb = mirrored((light) =>
  light <= 0.0031308 ? light * 12.92 : 1.055 * light ** (1 / 2.4) - 0.055,
);

const power = (gamma: number): Curve => ({
  toLinear: mirrored((value) => value ** gamma),
  fromLinear: mirrored((light) => light ** (1 / gamma)),
});

/** ITU-R BT.2020-2, table 4, where BT.709-6 item 1.2 rounds: the two pieces meet in value and slope. */
const alpha709 = 1.09929682680944;
const beta709 = 0.018053968510807;

/** A camera's curve (ITU-R BT.709-6, item 1.2, with the exact constants of BT.2020-2). */
const bt709: Curve = {
  toLinear: mirrored((value) =>
    value < 4.5 * beta709 ? value / 4.5 : ((value + alpha709 - 1) / alpha709) ** (1 / 0.45),
  ),
  fromLinear: mirrored((light) => (light < beta709 ? light * 4.5 : alpha709 * light ** 0.45 - (alpha709 - 1))),
};

/**
 * Printing density of a film scan (SMPTE ST 268-1, transfer 1 and 3): a 10-bit code is 0.002 density, a negative's gamma is
 * 0.6, black lies at code 95 and white at 685, which are light 0 and 1.
 */
const film = { perCode: 0.002 / 0.6, white: 685, codes: 1023 };
const filmBlack = 10 ** ((95 - film.white) * film.perCode);
const filmLog: Curve = {
  toLinear: (value) => (10 ** ((value * film.codes - film.white) * film.perCode) - filmBlack) / (1 - filmBlack),
  fromLinear: (light) => {
    // Below the light of code 0 there is no logarithm to go on with.
    const exposed = Math.max(light * (1 - filmBlack) + filmBlack, 1e-10);
    return (Math.log10(exposed) / film.perCode + film.white) / film.codes;
  },
};

/** Light of diffuse white in cd/m2, which is 1.0 here (ITU-R BT.2408, 2.1). */
const diffuseWhite = 203;
const pqPeak = 10_000 / diffuseWhite;
const [m1, m2, c1, c2, c3] = [2610 / 16_384, (2523 / 4096) * 128, 3424 / 4096, (2413 / 4096) * 32, (2392 / 4096) * 32];

/** Perceptual quantiser (SMPTE ST 2084, 5.1 and 5.2); 203 cd/m2 is light 1. */
const pq: Curve = {
  toLinear: mirrored((value) => {
    const root = value ** (1 / m2);
    return pqPeak * (Math.max(root - c1, 0) / (c2 - c3 * root)) ** (1 / m1);
  }),
  fromLinear: mirrored((light) => {
    const root = (light / pqPeak) ** m1;
    return ((c1 + c2 * root) / (1 + c3 * root)) ** m2;
  }),
};

const [hlgA, hlgB, hlgC] = [0.178_832_77, 0.284_668_92, 0.559_910_73];
const hlgScene = (value: number): number =>
  value <= 0.5 ? value ** 2 / 3 : (Math.exp((value - hlgC) / hlgA) + hlgB) / 12;
/** Scene light of the signal that diffuse white has (ITU-R BT.2408, table 1: 75 %). */
const hlgWhite = hlgScene(0.75);

/** Hybrid log-gamma (ITU-R BT.2100-2, table 5) as light of the scene, no display's gamma applied; a signal of 75 % is light 1. */
const hlg: Curve = {
  toLinear: mirrored((value) => hlgScene(value) / hlgWhite),
  fromLinear: mirrored((light) => {
    const scene = light * hlgWhite;
    return scene <= 1 / 12 ? Math.sqrt(3 * scene) : hlgA * Math.log(12 * scene - hlgB) + hlgC;
  }),
};

const same = (value: number): number => value;

/** Every curve that is known. Gamma 2.4 is ITU-R BT.1886 with a black of 0. */
export const curves: Record<DeclaredTransfer, Curve> = {
  linear: { toLinear: same, fromLinear: same },
  srgb: { toLinear: srgbToLinear, fromLinear: linearToSrgb },
  bt709,
  'gamma-2.2': power(2.2),
  'gamma-2.4': power(2.4),
  'film-log': filmLog,
  pq,
  hlg,
};

/** The function that takes values of one transfer to another. */
export function transferBetween(from: DeclaredTransfer, to: DeclaredTransfer): (value: number) => number {
  if (from === to) return same;
  const { toLinear } = curves[from];
  const { fromLinear } = curves[to];
  if (from === 'linear') return fromLinear;
  return to === 'linear' ? toLinear : (value) => fromLinear(toLinear(value));
}

/** A curve with the table that it is looked up in, where it has one. */
export interface Quick {
  (value: number): number;
  known?: Float64Array;
}

/** Parts of 0..1 that {@link quickly} knows; between them it goes straight. */
const knownParts = 65_536;

/**
 * A curve by a table over 0..1, straight between its entries; outside it is asked itself. Within 1e-6 of the curve at the foot
 * of a root, within 1e-8 elsewhere: for floats that are looked at, keyed, dithered or mixed, never for codes that must be exact.
 */
export function quickly(curve: (value: number) => number): Quick {
  const known = new Float64Array(knownParts + 2);
  for (let part = 0; part <= knownParts + 1; part += 1) known[part] = curve(part / knownParts);
  const quick: Quick = (value) => {
    if (!(value >= 0 && value <= 1)) return curve(value);
    const place = value * knownParts;
    const part = place | 0;
    const from = known[part]!;
    return from + (known[part + 1]! - from) * (place - part);
  };
  quick.known = known;
  return quick;
}

const linears = new Map<DeclaredTransfer, Quick>();

/** {@link quickly} towards light, kept: these curves are smooth all over. */
export function quickToLinear(transfer: DeclaredTransfer): Quick {
  let known = linears.get(transfer);
  if (!known) linears.set(transfer, (known = transfer === 'linear' ? same : quickly(curves[transfer].toLinear)));
  return known;
}
