import { avGetPixFmtName, Frame, type AVColorRange, type AVColorSpace, type AVPixelFormat } from 'node-av';
import {
  AV_PIX_FMT_GBRAP,
  AV_PIX_FMT_GBRAP16LE,
  AV_PIX_FMT_GBRP,
  AV_PIX_FMT_GBRP16LE,
  AVCOL_RANGE_JPEG,
  AVCOL_RANGE_MPEG,
  AVCOL_SPC_BT2020_NCL,
  AVCOL_SPC_BT470BG,
  AVCOL_SPC_BT709,
  AVCOL_SPC_FCC,
  AVCOL_SPC_RGB,
  AVCOL_SPC_SMPTE170M,
  AVCOL_SPC_SMPTE240M,
  AVCOL_SPC_YCGCO,
} from 'node-av/constants';
import type { ClipFacts, Image, Matrix, SampleFormat, VideoRange } from '@shale/core';
import { imageOf, plainLayout } from './frameImage.ts';
import { Chain, type FilterStep } from './graph.ts';

const matrices = new Map<AVColorSpace, Matrix>([
  [AVCOL_SPC_RGB, 'rgb'],
  [AVCOL_SPC_BT709, 'bt709'],
  [AVCOL_SPC_SMPTE170M, 'bt601'],
  [AVCOL_SPC_BT470BG, 'bt601'],
  [AVCOL_SPC_BT2020_NCL, 'bt2020'],
  [AVCOL_SPC_SMPTE240M, 'smpte240m'],
  [AVCOL_SPC_FCC, 'fcc'],
  [AVCOL_SPC_YCGCO, 'ycgco'],
]);

/** The filter's names of matrices. */
const matrixNames: Record<Matrix, string> = {
  rgb: 'gbr',
  bt709: '709',
  bt601: '170m',
  bt2020: '2020_ncl',
  smpte240m: '240m',
  fcc: 'fcc',
  ycgco: 'ycgco',
};
/** The same as the library's frames and filters name them. */
const spaceNames: Record<Matrix, string> = {
  rgb: 'gbr',
  bt709: 'bt709',
  bt601: 'smpte170m',
  bt2020: 'bt2020nc',
  smpte240m: 'smpte240m',
  fcc: 'fcc',
  ycgco: 'ycgco',
};

/** How colour is coded in a stream. */
export interface Coding {
  matrix: Matrix;
  range: VideoRange;
}

export const isRgb = (pixels: string): boolean =>
  /^(rgb|bgr|gbr|argb|abgr|0rgb|0bgr|x2|pal8|mono|gray|ya\d)/.test(pixels);

/**
 * Matrix and range of a stream. What it does not say is taken as usual: full for RGB and grey in RGB codecs, else limited, and
 * BT.709 from 720 lines on, BT.601 below (ITU-R BT.709 and BT.601 by their picture sizes).
 */
export function codingOf(
  pixels: string,
  height: number,
  space: AVColorSpace,
  range: AVColorRange,
): Pick<ClipFacts, 'matrix' | 'range'> {
  if (isRgb(pixels)) return { matrix: { value: 'rgb', said: true }, range: { value: 'full', said: true } };
  const said = matrices.get(space);
  const full = pixels.startsWith('yuvj') || range === AVCOL_RANGE_JPEG;
  return {
    matrix: { value: said && said !== 'rgb' ? said : height >= 720 ? 'bt709' : 'bt601', said: said !== undefined },
    range: { value: full ? 'full' : 'limited', said: full || range === AVCOL_RANGE_MPEG },
  };
}

/** Sample depth and alpha by the pixel format's name, as `yuva444p12le` tells both. */
export function layoutOf(pixels: string): { bits: number; hasAlpha: boolean } {
  const deep = /(?:p|gray|x|f|p0|p2|p4|xv)(9|10|12|14|16)(?:le|be)?$/.exec(pixels)?.[1];
  const bits = deep ?? (/(48|64)(le|be)$/.test(pixels) ? '16' : /^x2(rgb|bgr)10/.test(pixels) ? '10' : '8');
  return { bits: Number(bits), hasAlpha: /yuva|ayuv|vuya|rgba|bgra|argb|abgr|gbrap|ya8|ya16|^pal8/.test(pixels) };
}

/** The samples and channels as which pictures of a pixel format are given. */
export function givenAs(format: AVPixelFormat): { sample: SampleFormat; channels: number } {
  const plain = plainLayout(format);
  if (plain) return plain;
  const { bits, hasAlpha } = layoutOf(avGetPixFmtName(format) ?? '');
  return { sample: bits > 8 ? 'u16' : 'u8', channels: hasAlpha ? 4 : 3 };
}

/**
 * Turns decoded frames into pictures. Frames in RGB or grey are taken bit for bit; others are brought to RGB by their matrix and
 * range in 32-bit floats (ITU-T H.273, 8.3), rounded to 8 bits where they have 8 and to 16 where they have more.
 */
export class Colouring {
  private chain: Promise<Chain> | undefined;
  private of = '';

  constructor(private readonly coding: Coding) {}

  async imageOf(frame: Frame): Promise<Image> {
    if (plainLayout(frame.format as AVPixelFormat)) return imageOf(frame);
    const { width, height, format } = frame;
    const of = `${width} ${height} ${format}`;
    if (of !== this.of) {
      await this.free();
      this.of = of;
      this.chain = this.make(frame);
    }
    const chain = await this.chain!;
    const result = new Frame();
    result.alloc();
    try {
      await chain.put(frame);
      if (!(await chain.take(result))) throw new Error('no picture came of a frame');
      return imageOf(result);
    } finally {
      result.free();
    }
  }

  private make({ width, height, format }: Frame): Promise<Chain> {
    const pixels = avGetPixFmtName(format as AVPixelFormat) ?? '';
    const { sample, channels } = givenAs(format as AVPixelFormat);
    const deep = sample === 'u16';
    const planar = avGetPixFmtName(
      channels === 4 ? (deep ? AV_PIX_FMT_GBRAP16LE : AV_PIX_FMT_GBRAP) : deep ? AV_PIX_FMT_GBRP16LE : AV_PIX_FMT_GBRP,
    )!;
    const packed = channels === 4 ? (deep ? 'rgba64le' : 'rgba') : deep ? 'rgb48le' : 'rgb24';
    const { matrix, range } = this.coding;
    const input = `width=${width}:height=${height}:pix_fmt=${pixels}:time_base=1/25:pixel_aspect=1/1`;
    const coded = `:colorspace=${spaceNames[matrix]}:range=${range === 'full' ? 'pc' : 'tv'}${alphaApart}`;
    if (isRgb(pixels))
      return Chain.make(input, [
        ['scale', exactly],
        ['format', `pix_fmts=${packed}`],
      ]);
    return Chain.make(input + coded, [
      ...toRgb(this.coding, width, height),
      ['format', `pix_fmts=${planar}`],
      ['scale', exactly],
      ['format', `pix_fmts=${packed}`],
    ]);
  }

  async free(): Promise<void> {
    const chain = await this.chain?.catch(() => undefined);
    chain?.free();
    this.chain = undefined;
    this.of = '';
  }
}

/**
 * Told to the filters of every picture, so that they leave colour and alpha apart: of straight alpha they would multiply colour by it
 * and divide it again, which loses the colour of clear parts.
 */
export const alphaApart = ':alpha_mode=premultiplied';

/** What the scaler is asked for where it only changes a layout. */
const exactly = 'flags=accurate_rnd+full_chroma_int+full_chroma_inp+bitexact';

/** Brings coded colour to full-range RGB. */
function toRgb({ matrix, range }: Coding, width: number, height: number): FilterStep[] {
  const of = `matrixin=${matrixNames[matrix]}:rangein=${range}`;
  // The filter refuses sizes that the subsampling does not divide; the other scaler takes them, 8 bits exact.
  if (width % 2 === 1 || height % 2 === 1)
    return [
      [
        'scale',
        `in_color_matrix=${spaceNames[matrix]}:in_range=${range === 'full' ? 'full' : 'limited'}:out_range=full:${exactly}`,
      ],
    ];
  return [['zscale', `${of}:matrix=gbr:range=full:dither=none:filter=bicubic`]];
}

/** Brings full-range RGB to coded colour in a pixel format. */
export const fromRgb = ({ matrix, range }: Coding, pixels: string): FilterStep[] => [
  ['zscale', `matrixin=gbr:rangein=full:matrix=${matrixNames[matrix]}:range=${range}:dither=none:filter=bicubic`],
  ['format', `pix_fmts=${pixels}`],
];
