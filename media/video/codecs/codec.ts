import type { CodecContext } from 'node-av';
import type { Rate, SampleFormat, VideoSpec } from '@shale/core';

/** What an encoder is asked for. */
export interface CodecSettings {
  video: VideoSpec;
  /** Depth of the result. */
  sample: SampleFormat;
  hasAlpha: boolean;
  rate: Rate;
  /** Which of two passes this is, and the file by which the first tells the second; absent for one. */
  pass?: { number: 1 | 2; log: string };
}

/** How a codec is written: the other half of its record in core/formats/codecs. */
export interface CodecWriter {
  /** The encoder's name in the library. */
  encoder: string;
  /** The pixel layout that is coded, by the library's name. */
  layout(settings: CodecSettings): string;
  /** Options of the encoder's own. */
  options(settings: CodecSettings): Record<string, string>;
  /** What the encoder is to know of samples beside their layout. */
  prepare?(context: CodecContext, settings: CodecSettings): void;
  /** A tag other than the container's own for it. */
  tag?: string;
  /** What the stream says of itself. */
  words?(settings: CodecSettings): Record<string, string>;
}

/** Bits of a sample. */
export const bitsIn = (sample: SampleFormat): number => Number(sample.slice(1));

/** The end of a layout's name: `10le` for ten bits, nothing for eight. */
export const deep = (sample: SampleFormat): string => (sample === 'u8' ? '' : `${bitsIn(sample)}le`);
