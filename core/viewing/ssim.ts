/** Values of a picture with one number a pixel. */
export interface Plane {
  width: number;
  height: number;
  data: Float32Array;
}

/** Window and constants (Wang, Bovik, Sheikh, Simoncelli: Image Quality Assessment, IEEE TIP 13(4), 2004, III-B), values 0 to 1. */
const radius = 5;
const sigma = 1.5;
const c1 = 0.01 ** 2;
const c2 = 0.03 ** 2;

const window1d = (() => {
  const raw = Array.from({ length: 2 * radius + 1 }, (_, at) => Math.exp(-((at - radius) ** 2) / (2 * sigma * sigma)));
  const sum = raw.reduce((total, value) => total + value, 0);
  return Float64Array.from(raw, (value) => value / sum);
})();

/** The least size that the window fits into. */
export const ssimNeeds = 2 * radius + 1;

/**
 * Mean structural similarity of two planes of one size: 1 where they are the same. Only windows that lie within the picture
 * count. Null where a side is shorter than {@link ssimNeeds}.
 */
export function ssimOf(a: Plane, b: Plane): number | null {
  const { width, height } = a;
  if (width < ssimNeeds || height < ssimNeeds) return null;
  const across = width - 2 * radius;
  // Rows of the five means that have been gone over across: of a, b, aa, bb, ab; kept round and round.
  const rows = Array.from({ length: ssimNeeds }, () => new Float64Array(across * 5));
  let sum = 0;
  for (let y = 0; y < height; y += 1) {
    meansAcross(a, b, y, rows[y % ssimNeeds]!);
    if (y >= 2 * radius) sum += rowOf(rows, y - 2 * radius, across);
  }
  return sum / (across * (height - 2 * radius));
}

function meansAcross(a: Plane, b: Plane, y: number, into: Float64Array): void {
  const { width } = a;
  const start = y * width;
  for (let x = 0, to = 0; x + 2 * radius < width; x += 1, to += 5) {
    let ma = 0;
    let mb = 0;
    let aa = 0;
    let bb = 0;
    let ab = 0;
    for (let tap = 0; tap <= 2 * radius; tap += 1) {
      const weight = window1d[tap]!;
      const left = a.data[start + x + tap]!;
      const right = b.data[start + x + tap]!;
      ma += weight * left;
      mb += weight * right;
      aa += weight * left * left;
      bb += weight * right * right;
      ab += weight * left * right;
    }
    into[to] = ma;
    into[to + 1] = mb;
    into[to + 2] = aa;
    into[to + 3] = bb;
    into[to + 4] = ab;
  }
}

function rowOf(rows: Float64Array[], first: number, across: number): number {
  let sum = 0;
  for (let at = 0; at < across * 5; at += 5) {
    let ma = 0;
    let mb = 0;
    let aa = 0;
    let bb = 0;
    let ab = 0;
    for (let tap = 0; tap <= 2 * radius; tap += 1) {
      const weight = window1d[tap]!;
      const row = rows[(first + tap) % ssimNeeds]!;
      ma += weight * row[at]!;
      mb += weight * row[at + 1]!;
      aa += weight * row[at + 2]!;
      bb += weight * row[at + 3]!;
      ab += weight * row[at + 4]!;
    }
    const spread = aa - ma * ma + (bb - mb * mb);
    const together = ab - ma * mb;
    sum += ((2 * ma * mb + c1) * (2 * together + c2)) / ((ma * ma + mb * mb + c1) * (spread + c2));
  }
  return sum;
}
