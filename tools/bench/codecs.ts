import { Codec } from 'node-av';
import { AV_CODEC_ID_PNG, AV_PIX_FMT_RGBA, AV_PIX_FMT_RGBA64BE } from 'node-av/constants';
import { makeSamples, type Image } from '@shale/core';
import { decodePacket, encodePacket } from '@shale/media';
import { encodeWithSharp, readWithSharp } from '@shale/media/formats/sharp.ts';

/** A 1080p picture with gradients and some grain, as footage has. */
function picture(sample: 'u8' | 'u16'): Image {
  const data = makeSamples(sample, 1920 * 1080 * 4);
  const most = sample === 'u8' ? 255 : 65_535;
  let state = 1;
  for (let at = 0; at < data.length; at += 1) {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    const pixel = at >> 2;
    const grain = (state / 4_294_967_296) * 0.02;
    data[at] =
      (at & 3) === 3
        ? most
        : Math.round(Math.min(1, ((pixel % 1920) / 1920) * 0.6 + (pixel / 1920 / 1080) * 0.35 + grain) * most);
  }
  return { width: 1920, height: 1080, channels: 4, sample, data };
}

async function rate(work: () => Promise<unknown>): Promise<string> {
  await work();
  const start = performance.now();
  let count = 0;
  while (count < 4 || performance.now() - start < 1500) {
    await work();
    count += 1;
  }
  return ((count * 1000) / (performance.now() - start)).toFixed(1);
}

/** Which codec is the faster for PNG, by direction and depth: the grounds of the choice in media/formats/png.ts. */
export async function codecTable(): Promise<void> {
  console.log('PNG RGBA 1920 x 1080, one at a time, frames/s');
  for (const sample of ['u8', 'u16'] as const) {
    const image = picture(sample);
    const coded = await encodeWithSharp(image, (pipeline) => pipeline.png({ compressionLevel: 3 }));
    const bytes = Buffer.from(image.data.buffer.slice(0));
    if (sample === 'u16') bytes.swap16();
    const format = sample === 'u8' ? AV_PIX_FMT_RGBA : AV_PIX_FMT_RGBA64BE;
    const encoder = Codec.findEncoder(AV_CODEC_ID_PNG)!;
    const read = await rate(async () => (await decodePacket(AV_CODEC_ID_PNG, coded)).free());
    const readSharp = await rate(() => readWithSharp(coded, sample));
    const write = await rate(() =>
      encodePacket(encoder, { width: 1920, height: 1080, format, bytes }, { compression_level: 3 }),
    );
    const writeSharp = await rate(() => encodeWithSharp(image, (pipeline) => pipeline.png({ compressionLevel: 3 })));
    console.log(
      `  ${sample === 'u8' ? ' 8' : '16'} bits  read: libav ${read}, libvips ${readSharp}   write: libav ${write}, libvips ${writeSharp}`,
    );
  }
}
