import { readFile } from 'node:fs/promises';
import { LRUCache } from 'lru-cache';
import { Codec, CodecContext, Dictionary, Frame, Packet } from 'node-av';
import type { Image, Rate } from '@shale/core';
import { fileIdentity } from '../fileIdentity.ts';
import { imageOf } from '../video/frameImage.ts';
import { check } from '../video/libav.ts';
import { fraction, isEnd } from '../video/open.ts';

/** Pictures of an animation, and the rate where all are shown as long; else their shortest and longest time, in ms. */
export interface Animation {
  pictures: number;
  rate?: Rate;
  delays?: [least: number, most: number];
}

const milliseconds: Rate = { num: 1, den: 1000 };

/**
 * Decodes the pictures of an animated JPEG XL in their order, until `use` answers false.
 * @param tick seconds in which a picture's length is told @throws Error where one does not decode
 */
async function decodeEach(path: string, tick: Rate, use: (frame: Frame, at: number) => boolean): Promise<void> {
  const decoder = Codec.findDecoderByName('libjxl_anim' as never);
  if (!decoder) throw new Error('there is no decoder for it');
  const bytes = await readFile(path);
  const context = new CodecContext();
  const packet = new Packet();
  const frame = new Frame();
  frame.alloc();
  try {
    context.allocContext3(decoder);
    context.pktTimebase = tick as CodecContext['pktTimebase'];
    check(await context.open2(null, Dictionary.fromObject({ threads: '1' })), 'opening the decoder');
    packet.alloc();
    packet.data = bytes;
    packet.pts = 0n;
    check(await context.sendPacket(packet), 'decoding');
    check(await context.sendPacket(null), 'decoding');
    for (let at = 0; ; at += 1) {
      const code = await context.receiveFrame(frame);
      if (isEnd(code)) return;
      check(code, 'decoding');
      const goesOn = use(frame, at);
      frame.unref();
      if (!goesOn) return;
    }
  } finally {
    frame.free();
    packet.free();
    context.freeContext();
  }
}

/** What an animation's pictures tell; all of them are decoded, since nothing counts them. @param tick of the file, in seconds */
export async function animationOf(path: string, tick: Rate): Promise<Animation> {
  const ticks: bigint[] = [];
  await decodeEach(path, tick, ({ duration }) => {
    ticks.push(duration);
    return true;
  });
  if (ticks.length === 0) throw new Error('it holds no picture');
  const [first = 0n] = ticks;
  if (ticks.every((one) => one === first))
    return { pictures: ticks.length, rate: fraction(BigInt(tick.den), first * BigInt(tick.num)) };
  const times = ticks.map((one) => Math.round((Number(one) * tick.num * 1000) / tick.den));
  return { pictures: ticks.length, delays: [Math.min(...times), Math.max(...times)] };
}

/** How many pictures an animation has; all of them are decoded, since nothing counts them. */
export async function countPictures(path: string): Promise<number> {
  let count = 0;
  await decodeEach(path, milliseconds, () => {
    count += 1;
    return true;
  });
  return count;
}

/** Animations that are read one picture after another are decoded once: their pictures as far as they came. */
const kept = new LRUCache<string, Image[]>({
  maxSize: 256 << 20,
  sizeCalculation: (images) =>
    Math.max(
      1,
      images.reduce((sum, { data }) => sum + data.byteLength, 0),
    ),
});

/** One picture of an animation, as the canvas shows it. @param at from 0 @throws Error where there is none */
export async function animatedPicture(path: string, at: number): Promise<Image> {
  const key = await fileIdentity(path);
  const known = kept.get(key);
  if (known?.[at]) return known[at];
  const images: Image[] = [];
  let wanted: Image | undefined;
  let bytes = 0;
  await decodeEach(path, milliseconds, (frame, place) => {
    const image = imageOf(frame);
    bytes += image.data.byteLength;
    if (bytes <= kept.maxSize) images.push(image);
    if (place === at) wanted = image;
    // Where all do not fit, no more than what is asked for is decoded.
    return place < at || bytes <= kept.maxSize;
  });
  if (!wanted) throw new Error(`it has no picture ${at}`);
  if (bytes <= kept.maxSize) kept.set(key, images);
  return wanted;
}
