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

export const hasAlphaChannel = (image: Pick<Image, 'channels'>): boolean =>
  image.channels === 2 || image.channels === 4;

/** `8-bit`, `half float`: how a person calls a sample format. */
export function sampleWords(sample: SampleFormat): string {
  if (sample === 'f16') return 'half float';
  return sample === 'f32' ? 'float' : `${sample.slice(1)}-bit`;
}
