import type { SampleFormat } from '../numbering/source.ts';

/** Samples of a picture: half floats as their 16 bits in a Uint16Array, integers of 10 and 12 bits unscaled in one. */
export type Samples = Uint8Array | Uint16Array | Float32Array;

/** A picture in memory: rows from the top, samples of a pixel together, no gap between rows. */
export interface Image {
  /** Pixels, 1 to 65,536 each. */
  width: number;
  height: number;
  /** 1 grey, 2 grey and alpha, 3 RGB, 4 RGBA. */
  channels: 1 | 2 | 3 | 4;
  sample: SampleFormat;
  /** `width * height * channels` samples. */
  data: Samples;
}

/** Whether two pictures have one size, as many channels, and samples of one kind. */
export const areAlike = (a: Image, b: Image): boolean =>
  a.width === b.width && a.height === b.height && a.channels === b.channels && a.sample === b.sample;

/** The greatest code of an integer sample; undefined for floats. */
export function maxCode(sample: SampleFormat): number | undefined {
  switch (sample) {
    case 'u8':
      return 255;
    case 'u10':
      return 1023;
    case 'u12':
      return 4095;
    case 'u16':
      return 65_535;
    default:
      return undefined;
  }
}

export const isFloat = (sample: SampleFormat): boolean => sample === 'f16' || sample === 'f32';

/** An array of samples for a format, all 0. */
export function makeSamples(sample: SampleFormat, length: number): Samples {
  if (sample === 'u8') return new Uint8Array(length);
  return sample === 'f32' ? new Float32Array(length) : new Uint16Array(length);
}

/** Grey as three equal colours, with its alpha where it has one. Bit-exact. */
export function greyToColour(image: Image): Image {
  if (image.channels > 2) return image;
  const { width, height, channels, sample, data: source } = image;
  const wide = (channels + 2) as Image['channels'];
  const data = makeSamples(sample, width * height * wide);
  for (let from = 0, to = 0; from < source.length; from += channels, to += wide) {
    data.fill(source[from]!, to, to + 3);
    if (channels === 2) data[to + 3] = source[from + 1]!;
  }
  return { width, height, channels: wide, sample, data };
}

export const hasAlphaChannel = (image: Pick<Image, 'channels'>): boolean =>
  image.channels === 2 || image.channels === 4;

/** `8-bit`, `half float`: how a person calls a sample format. */
export function sampleWords(sample: SampleFormat): string {
  if (sample === 'f16') return 'half float';
  return sample === 'f32' ? 'float' : `${sample.slice(1)}-bit`;
}

/** The stored sample of alpha 1. */
export const fullAlpha = (image: Image): number => maxCode(image.sample) ?? (image.sample === 'f16' ? 0x3c00 : 1);

/** How many pixels have an alpha that is not full. */
export function notOpaque(image: Image): number {
  const full = fullAlpha(image);
  let count = 0;
  for (let at = image.channels - 1; at < image.data.length; at += image.channels)
    if (image.data[at] !== full) count += 1;
  return count;
}
