import { open } from 'node:fs/promises';
import {
  chromaticities,
  gcd,
  orientationWords,
  type Facts,
  type Image,
  type Primaries,
  type Rate,
  type SettingName,
  type Spec,
  type Transfer,
} from '@shale/core';
import type { ExrAttribute, ExrWindow } from '../exr/addon.ts';
import type { HeaderFile } from './headerFile.ts';
import { NotRead } from '../notRead.ts';

/** How a file is written: the part of a spec that its format looks at, and what the file is to say of itself. */
export interface WriteSettings extends Pick<Spec['write'], 'transfer' | 'alpha' | SettingName>, Carried {
  primaries: Primaries;
}

/** What a file says beside its picture, carried from a source to its result where both formats have a place for it. */
export interface Carried {
  rate?: Rate;
  /** SMPTE ST 12-1, `hh:mm:ss:ff`, a `;` before the frames of drop-frame. */
  timecode?: string;
  /** Width to height of a pixel. */
  pixelAspect?: { num: number; den: number };
  /** Attributes that only OpenEXR has. */
  attributes?: ExrAttribute[];
  /** Texts by what they are called, as facts have them. */
  texts?: [string, string][];
  /** Windows that only OpenEXR has, where the picture is all of the data window. */
  windows?: Windows;
}

/** Where pixels are, and which of them are shown. */
export interface Windows {
  data: ExrWindow;
  display: ExrWindow;
}

/** A picture as {@link StillHeader.read} gives it. */
export interface ReadPicture {
  image: Image;
  windows?: Windows;
}

/** Settings to begin with. */
export const usualSettings: WriteSettings = {
  transfer: 'srgb',
  primaries: 'bt709',
  alpha: 'straight',
  effort: 3,
  quality: 92,
  jpegChroma: '4:4:4',
  lossless: true,
  exrCompression: 'ZIP',
  dwaLevel: 45,
  tiffCompression: 'deflate',
};

/** What the header and the end of a file tell, without decoding a pixel. */
export interface StillHeader {
  facts: Facts;
  /** Where the picture's data begins: what stands before may differ between files of one picture. */
  dataAt: number;
  /** Set where the file is not whole: how that is seen, to be read behind "it is cut short:". */
  cutShort?: string;
  /** What only OpenEXR says, to be carried to a result. */
  attributes?: ExrAttribute[];
  /** Texts beside the picture, whole; facts have their beginnings. */
  texts?: [string, string][];
  /** Reads the picture by what the header has told already, or one of its layers. In place of {@link StillFormat.read}. */
  read?(layer: string | null, window: 'display' | 'data'): Promise<ReadPicture>;
}

/** A still format: files <-> pixels. Errors are plain; {@link readStill} and its like name the file. */
export interface StillFormat {
  /** Whether a file's first bytes are of this format; a name is asked only where bytes cannot tell. */
  recognises(head: Buffer, name: string): boolean;
  /** What header and end say. Refuses what no reader should be fed: absurd sizes, headers that make no sense. */
  header(file: HeaderFile): StillHeader | Promise<StillHeader>;
  /** Whether {@link StillHeader.read} reads it, in place of `read`. */
  layered?: true;
  /** The whole picture in the file's own samples, of an animation the one that is asked for. A damaged file throws; it never gives a picture. Absent where only headers are read. */
  read?(path: string, facts: Facts, picture: number): Promise<Image>;
  /** Writes the picture to a path that does not exist. Not flushed; the caller sees to that. */
  write?(path: string, image: Image, settings: WriteSettings): Promise<void>;
}

/** Orientation 1 is as stored; others are none (TIFF 6.0, field 274). */
const isAsking = (orientation: number | undefined): orientation is number =>
  orientation !== undefined && orientation >= 2 && orientation <= 8;

/** The fact of an orientation, where it is one that asks for something. */
export const asksToBeShown = (orientation: number | undefined): Pick<Facts, 'orientation'> =>
  isAsking(orientation) ? { orientation } : {};

/** The same as a row of facts. */
export const shownRow = (orientation: number | undefined): [string, string][] =>
  isAsking(orientation) ? [['Asks to be shown', orientationWords(orientation)]] : [];

/** Writes buffers one behind the other into a new file, so that none is copied to join them. */
export async function writePieces(path: string, pieces: Buffer[]): Promise<void> {
  const file = await open(path, 'wx');
  try {
    await file.writev(pieces);
  } finally {
    await file.close();
  }
}

/** The largest picture that is read: 2^29 pixels, 65,536 on a side. */
export function refuseAbsurdSize(width: number, height: number): void {
  if (width < 1 || height < 1) throw new Error(`its header claims ${width} x ${height} pixels`);
  if (width > 65_536 || height > 65_536 || width * height > 2 ** 29) {
    throw new NotRead(`its header claims ${width} x ${height} pixels, more than Shale accepts`);
  }
}

/** Whether libav's decoders take a picture of a size (av_image_check_size2: fewer than 2^28 pixels with 128 more on each side). */
export const libavTakes = ({ width, height }: Pick<Facts, 'width' | 'height'>): boolean =>
  (width + 128) * (height + 128) < 2 ** 28 - 1;

/** Refuses what libav would call damaged, being too large for it. */
export function refuseBeyondLibav(facts: Pick<Facts, 'width' | 'height'>): void {
  if (libavTakes(facts)) return;
  throw new Error(
    `its ${facts.width} x ${facts.height} pixels are more than the decoder of this format takes (2^28); convert it to PNG, TIFF or OpenEXR first`,
  );
}

/** What is missing of so many bytes, as {@link StillHeader.cutShort} says it; undefined where all are there. */
export const lacking = (size: number, needs: number): string | undefined =>
  size < needs ? `${size.toLocaleString('en-GB')} bytes of ${needs.toLocaleString('en-GB')}` : undefined;

/** A ratio given as a decimal, as the nearest fraction of ten-thousandths; undefined for a square pixel and for nonsense. */
export function aspectOf(ratio: number): Facts['pixelAspect'] {
  if (!(ratio > 0.01 && ratio < 100) || Math.abs(ratio - 1) < 1e-4) return undefined;
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

/** The same the other way: code points of what is written; what has none is {@link unsaidPoint}. */
export const transferPoints: Partial<Record<Transfer, number>> = {
  bt709: 1,
  'gamma-2.2': 4,
  linear: 8,
  srgb: 13,
  pq: 16,
  hlg: 18,
};
export const primariesPoints: Partial<Record<Primaries, number>> = { bt709: 1, bt2020: 9, p3: 12 };
export const unsaidPoint = 2;

/** The primaries that eight chromaticities are, to within 0.001; else the numbers. */
export function primariesBy(values: readonly number[]): string {
  const found = Object.entries(chromaticities).find(([, points]) =>
    points.every((point, at) => Math.abs(point - values[at]!) < 0.001),
  );
  return found ? found[0] : values.map((value) => Number(value.toFixed(4))).join(' ');
}
