import type { Primaries } from './colourNames.ts';

/** Three rows of three numbers. */
export type Matrix3 = readonly [Row, Row, Row];
export type Row = readonly [number, number, number];

/** Chromaticities x and y of red, green, blue and white. */
export const chromaticities: Record<Primaries, readonly number[]> = {
  // ITU-R BT.709-6, items 1.3 and 1.4
  bt709: [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329],
  // SMPTE EG 432-1
  p3: [0.68, 0.32, 0.265, 0.69, 0.15, 0.06, 0.3127, 0.329],
  // ITU-R BT.2020-2, table 3
  bt2020: [0.708, 0.292, 0.17, 0.797, 0.131, 0.046, 0.3127, 0.329],
  // ACES AP1, S-2014-004
  acescg: [0.713, 0.293, 0.165, 0.83, 0.128, 0.044, 0.32168, 0.33767],
};

const times = (matrix: Matrix3, [x, y, z]: Row): Row =>
  matrix.map((row) => row[0] * x + row[1] * y + row[2] * z) as unknown as Row;

const column = (matrix: Matrix3, at: 0 | 1 | 2): Row => [matrix[0][at], matrix[1][at], matrix[2][at]];

function product(a: Matrix3, b: Matrix3): Matrix3 {
  const columns = ([0, 1, 2] as const).map((at) => times(a, column(b, at)));
  return [0, 1, 2].map((row) => columns.map((one) => one[row])) as unknown as Matrix3;
}

function inverse([[a, b, c], [d, e, f], [g, h, i]]: Matrix3): Matrix3 {
  const determinant = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  const over = (value: number) => value / determinant;
  return [
    [over(e * i - f * h), over(c * h - b * i), over(b * f - c * e)],
    [over(f * g - d * i), over(a * i - c * g), over(c * d - a * f)],
    [over(d * h - e * g), over(b * g - a * h), over(a * e - b * d)],
  ];
}

const xyz = (x: number, y: number): Row => [x / y, 1, (1 - x - y) / y];

/** Linear RGB of these primaries to CIE XYZ, white having Y = 1 (SMPTE RP 177, 3.3). */
export function toXyz(points: readonly number[]): Matrix3 {
  const [xr, yr, xg, yg, xb, yb, xw, yw] = points as [number, ...number[]] & number[];
  const red = xyz(xr, yr!);
  const green = xyz(xg!, yg!);
  const blue = xyz(xb!, yb!);
  const colours = [0, 1, 2].map((row) => [red[row], green[row], blue[row]]) as unknown as Matrix3;
  const amounts = times(inverse(colours), xyz(xw!, yw!));
  return colours.map((row) => row.map((value, at) => value * amounts[at]!)) as unknown as Matrix3;
}

/** The Bradford cone response (ICC.1:2010, annex E). */
const bradford: Matrix3 = [
  [0.8951, 0.2664, -0.1614],
  [-0.7502, 1.7135, 0.0367],
  [0.0389, -0.0685, 1.0296],
];

/** XYZ under one white to XYZ under another, by Bradford (ICC.1:2010, annex E). */
function adaptation(from: Row, to: Row): Matrix3 {
  const before = times(bradford, from);
  const after = times(bradford, to);
  const scale = [0, 1, 2].map((row) =>
    [0, 1, 2].map((at) => (row === at ? after[row]! / before[row]! : 0)),
  ) as unknown as Matrix3;
  return product(inverse(bradford), product(scale, bradford));
}

/** Linear RGB of these primaries to XYZ under another white than theirs. @param white in XYZ, Y being 1 */
export const toXyzUnder = (points: readonly number[], white: Row): Matrix3 =>
  product(adaptation(xyz(points[6]!, points[7]!), white), toXyz(points));

/** Linear RGB of some primaries to linear RGB of others, white to white; undefined where they are the same. */
export function primariesBetween(from: Primaries, to: Primaries): Matrix3 | undefined {
  if (from === to) return undefined;
  const [source, target] = [chromaticities[from], chromaticities[to]];
  return product(inverse(toXyz(target)), toXyzUnder(source, xyz(target[6]!, target[7]!)));
}
