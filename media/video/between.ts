import { Frame } from 'node-av';
import { AV_PIX_FMT_GRAY8, AV_PIX_FMT_YUV444P } from 'node-av/constants';
import { hasAlphaChannel, isFloat, leastForMotion, makeSamples, maxCode, ShaleError, type Image } from '@shale/core';
import { Chain } from './graph.ts';
import { check, fillFrame, tightRows } from './libav.ts';

/**
 * How motion is looked for and followed: in both directions, blocks overlapping, small ones where it differs. Over a cut the filter takes the
 * frame before it.
 */
const settings = 'mi_mode=mci:mc_mode=aobmc:me_mode=bidir:vsbmc=1:scd=fdiff';

/** Frames to an interval, as the timing of what goes in. */
const ticks = 1024;

/**
 * A picture between two that follow one another, as the library's filter makes it up by motion.
 * @param around the frame before, the two, and the one after
 * @param weight how far on the way from the second to the third, in 1,024ths, 1 to 1,023
 * @throws ShaleError `motion-refused` for float samples and pictures that are too small
 */
export async function betweenByMotion(around: readonly [Image, Image, Image, Image], weight: number): Promise<Image> {
  const [, a] = around;
  const { width, height, channels, sample } = a;
  if (isFloat(sample) || width < leastForMotion || height < leastForMotion)
    throw new ShaleError({
      code: 'motion-refused',
      fact: isFloat(sample)
        ? 'Frames by motion cannot be made of float samples: the filter works in 8 bits.'
        : `Pictures of ${width} x ${height} are too small to find motion in.`,
      wayOut: 'Blend frames, or use the nearest.',
      subject: 'time.between',
    });
  const colours = channels > 2 ? 3 : 1;
  const colour = await filtered(
    around.map((image) => planesOf(image, 0, colours)),
    width,
    height,
    colours,
    weight,
  );
  const alpha = hasAlphaChannel(a)
    ? await filtered(
        around.map((image) => planesOf(image, colours, 1)),
        width,
        height,
        1,
        weight,
      )
    : undefined;
  const most = maxCode(sample)!;
  const data = makeSamples(sample, width * height * channels);
  const spread = (code: number) => (most === 255 ? code : Math.round((code * most) / 255));
  for (let pixel = 0; pixel < width * height; pixel += 1) {
    for (let channel = 0; channel < colours; channel += 1)
      data[pixel * channels + channel] = spread(colour[channel * width * height + pixel]!);
    if (alpha) data[pixel * channels + colours] = spread(alpha[pixel]!);
  }
  return { width, height, channels, sample, data };
}

/** Some channels of a picture as planes of 8 bits, one after another; of three the second comes first, which motion is looked for in. */
function planesOf({ width, height, channels, sample, data }: Image, from: number, count: number): Buffer {
  const bytes = Buffer.alloc(width * height * count);
  const most = maxCode(sample)!;
  for (let plane = 0; plane < count; plane += 1) {
    const channel = from + (count === 3 ? order[plane]! : plane);
    for (let pixel = 0; pixel < width * height; pixel += 1) {
      const value = data[pixel * channels + channel]!;
      bytes[plane * width * height + pixel] = most === 255 ? value : Math.round((value * 255) / most);
    }
  }
  return bytes;
}

/** Which channel each plane has: green stands for light. */
const order = [1, 2, 0];

/**
 * The filter gives frames at even times from the first one on. With one interval and the share of the second between them, exactly one
 * falls between the second and the third.
 */
async function filtered(
  around: readonly Buffer[],
  width: number,
  height: number,
  planes: 1 | 3,
  weight: number,
): Promise<Uint8Array> {
  const pixels = planes === 3 ? 'yuv444p' : 'gray';
  const format = planes === 3 ? AV_PIX_FMT_YUV444P : AV_PIX_FMT_GRAY8;
  const chain = await Chain.make(
    `width=${width}:height=${height}:pix_fmt=${pixels}:time_base=1/${ticks}:pixel_aspect=1/1:frame_rate=1/1`,
    [['minterpolate', `fps=${ticks}/${ticks + weight}:${settings}`]],
  );
  const out = new Frame();
  out.alloc();
  try {
    let given = 0;
    // The last one again and again, until the filter has given what is between.
    for (let at = 0; at < around.length + 6; at += 1) {
      const frame = new Frame();
      fillFrame(frame, { width, height, format, bytes: around[Math.min(at, around.length - 1)]! });
      frame.pts = BigInt(at * ticks);
      frame.duration = BigInt(ticks);
      await chain.put(frame);
      frame.free();
      while (await chain.take(out)) {
        if (given === 1) return planesFrom(out, width, height, planes);
        given += 1;
        out.unref();
      }
    }
    check(-1, 'making up a picture by motion');
    return new Uint8Array();
  } finally {
    out.free();
    chain.free();
  }
}

/** The planes of a frame one after another, in the order of our channels. */
function planesFrom(frame: Frame, width: number, height: number, planes: 1 | 3): Uint8Array {
  const bytes = new Uint8Array(width * height * planes);
  for (let plane = 0; plane < planes; plane += 1) {
    const rows = tightRows(frame.data![plane]!, frame.linesize[plane]!, width, height);
    bytes.set(rows, (planes === 3 ? order[plane]! : 0) * width * height);
  }
  return bytes;
}
