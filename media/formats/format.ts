import type { Facts, Image, Spec } from '@shale/core';
import type { HeaderFile } from './headerFile.ts';

/** How a file is written: the part of a spec that its format looks at. */
export type WriteSettings = Pick<
  Spec['write'],
  'transfer' | 'alpha' | 'effort' | 'quality' | 'exrCompression' | 'tiffCompression'
>;

/** What the header and the end of a file tell, without decoding a pixel. */
export interface StillHeader {
  facts: Facts;
  /** Where the picture's data begins: what stands before may differ between files of one picture. */
  dataAt: number;
  /** Set where the file is not whole: how that is seen, to be read behind "it is cut short:". */
  cutShort?: string;
}

/** A still format: files <-> pixels. Errors are plain; {@link readStill} and its like name the file. */
export interface StillFormat {
  /** Lower-case id, as in specs and facts. */
  id: string;
  /** Whether a file's first bytes are of this format; a name is asked only where bytes cannot tell. */
  recognises(head: Buffer, name: string): boolean;
  /** What header and end say. Refuses what no reader should be fed: absurd sizes, headers that make no sense. */
  header(file: HeaderFile): StillHeader | Promise<StillHeader>;
  /** The whole picture in the file's own samples. A damaged file throws; it never gives a picture. Absent where only headers are read. */
  read?(path: string, facts: Facts): Promise<Image>;
  /** Writes the picture to a path that does not exist. Not flushed; the caller sees to that. */
  write?(path: string, image: Image, settings: WriteSettings): Promise<void>;
}

/** The largest picture that is read: 2^29 pixels, 65,536 on a side. */
export function refuseAbsurdSize(width: number, height: number): void {
  if (width < 1 || height < 1 || width > 65_536 || height > 65_536 || width * height > 2 ** 29) {
    throw new Error(`its header claims ${width} x ${height} pixels, which Shale does not take`);
  }
}

/** What is missing of so many bytes, as {@link StillHeader.cutShort} says it; undefined where all are there. */
export const lacking = (size: number, needs: number): string | undefined =>
  size < needs ? `${size.toLocaleString('en-GB')} bytes of ${needs.toLocaleString('en-GB')}` : undefined;

/** A ratio given as a decimal, as the nearest fraction of ten-thousandths; undefined for a square pixel and for nonsense. */
export function aspectOf(ratio: number): Facts['pixelAspect'] {
  if (!(ratio > 0.01 && ratio < 100) || Math.abs(ratio - 1) < 1e-4) return undefined;
  const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b));
  const num = Math.round(ratio * 10_000);
  const shared = gcd(num, 10_000);
  return { num: num / shared, den: 10_000 / shared };
}

/** Transfer and primaries by their code points (ITU-T H.273, tables 2 and 3); undefined where unspecified. */
export const transferByCode = (code: number): string | undefined =>
  code === 2 || code === 0
    ? undefined
    : ({
        1: 'bt709',
        4: 'gamma-2.2',
        6: 'bt709',
        8: 'linear',
        13: 'srgb',
        14: 'bt709',
        15: 'bt709',
        16: 'pq',
        18: 'hlg',
      }[code] ?? `transfer ${code} of H.273`);
export const primariesByCode = (code: number): string | undefined =>
  code === 2 || code === 0 ? undefined : ({ 1: 'bt709', 9: 'bt2020', 12: 'p3' }[code] ?? `primaries ${code} of H.273`);

/** Chromaticities of red, green, blue and white, x then y. */
const known: [string, readonly number[]][] = [
  // ITU-R BT.709-6, item 1.3 and 1.4
  ['bt709', [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329]],
  // SMPTE EG 432-1
  ['p3', [0.68, 0.32, 0.265, 0.69, 0.15, 0.06, 0.3127, 0.329]],
  // ITU-R BT.2020-2, table 3
  ['bt2020', [0.708, 0.292, 0.17, 0.797, 0.131, 0.046, 0.3127, 0.329]],
  // ACES AP1, S-2014-004
  ['acescg', [0.713, 0.293, 0.165, 0.83, 0.128, 0.044, 0.32168, 0.33767]],
];

/** The primaries that eight chromaticities are, to within 0.001; else the numbers. */
export function primariesBy(values: readonly number[]): string {
  const found = known.find(([, points]) => points.every((point, at) => Math.abs(point - values[at]!) < 0.001));
  return found ? found[0] : values.map((value) => Number(value.toFixed(4))).join(' ');
}
