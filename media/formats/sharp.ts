import type { Sharp } from 'sharp';
import { filled, type Image } from '@shale/core';
import { sharp } from '../libvips.ts';

/** The libvips space in which samples pass unchanged. */
const spaceOf = (channels: number, sample: Image['sample']): string =>
  channels <= 2 ? (sample === 'u16' ? 'grey16' : 'b-w') : sample === 'u16' ? 'rgb16' : 'srgb';

/** Decodes with libvips. 16-bit samples stay exact only in the `rgb16` and `grey16` spaces. */
export async function readWithSharp(bytes: Buffer, sample: 'u8' | 'u16', page = 0): Promise<Image> {
  // Samples are wanted as they are stored: what a profile says is told by the header, and never applied on the way.
  const source = sharp(bytes, {
    // Whatever the decoder calls an error: with less, what could not be decoded comes out black.
    failOn: 'error',
    limitInputPixels: 2 ** 29,
    sequentialRead: true,
    ignoreIcc: true,
    page,
  });
  const { channels = 3 } = await source.metadata();
  // Raw output in `b-w` keeps the first band alone, so grey with alpha goes through RGBA.
  const unfolds = channels === 2 && sample === 'u8';
  const { data, info } = await source
    .toColourspace(unfolds ? 'srgb' : spaceOf(channels, sample))
    .raw({ depth: sample === 'u16' ? 'ushort' : 'uchar' })
    .toBuffer({ resolveWithObject: true });
  const { width, height } = info;
  if (unfolds) {
    const grey = filled(new Uint8Array(width * height * 2), (at) => data[(at >> 1) * 4 + (at & 1) * 3]!);
    return { width, height, channels: 2, sample, data: grey };
  }
  return {
    width,
    height,
    channels: info.channels,
    sample,
    data: sample === 'u8' ? data : new Uint16Array(data.buffer, data.byteOffset, data.length / 2),
  };
}

/** A libvips pipeline over a picture's samples, ended by the caller with a format. */
export function encodeWithSharp(image: Image, as: (pipeline: Sharp) => Sharp): Promise<Buffer> {
  const { width, height, channels, data } = image;
  const raw = data instanceof Uint16Array ? data : Buffer.from(data.buffer, data.byteOffset, data.byteLength);
  const pipeline = sharp(raw, { raw: { width, height, channels }, limitInputPixels: 2 ** 29 });
  return as(pipeline.toColourspace(spaceOf(channels, image.sample))).toBuffer();
}
