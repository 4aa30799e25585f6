import { avGetPixFmtFromName, Codec, CodecContext, Dictionary, Frame, Packet, AVERROR_EAGAIN } from 'node-av';
import {
  AV_CODEC_FLAG_GLOBAL_HEADER,
  AV_PICTURE_TYPE_NONE,
  AVCHROMA_LOC_LEFT,
  AVCOL_RANGE_JPEG,
  AVCOL_RANGE_MPEG,
  AVCOL_SPC_BT2020_NCL,
  AVCOL_SPC_BT709,
  AVCOL_SPC_RGB,
} from 'node-av/constants';
import {
  codecRecord,
  codecs,
  containerOf,
  repeatEdge,
  ShaleError,
  type CodecId,
  type Format,
  type Image,
  type Primaries,
  type SampleFormat,
  type Transfer,
} from '@shale/core';
import { alphaApart, fromRgb } from './colouring.ts';
import { primariesPoints, transferPoints, unsaidPoint } from '../formats/format.ts';
import { writerOf } from './codecs/index.ts';
import type { CodecSettings } from './codecs/codec.ts';
import { Chain, type FilterStep } from './graph.ts';
import { check, fillFrame } from './libav.ts';
import { isEnd } from './open.ts';

/** What pictures are encoded as. */
export interface PictureSettings extends CodecSettings {
  format: CodecId;
  width: number;
  height: number;
  transfer: Transfer;
  primaries: Primaries;
  /** Width to height of a pixel. */
  pixelAspect: { num: number; den: number };
}

/** Takes a packet whose times count pictures; it is emptied afterwards. */
export type TakesPacket = (packet: Packet) => Promise<void>;

/** The samples in which pictures are given: 16 bits where a codec keeps more than 8 in its own way, else as they are kept. */
export const givenSample = (format: Format, sample: SampleFormat): SampleFormat =>
  sample === 'u8' || codecRecord(format)!.controls === 'lossless' ? sample : 'u16';

/** Encodes pictures, in order. */
export class PictureEncoder {
  private readonly packet = new Packet();
  private readonly frame = new Frame();
  private readonly coded = new Frame();
  /** Pictures so far. */
  count = 0;
  /** Bytes of packets so far. */
  bytes = 0;

  private constructor(
    readonly settings: PictureSettings,
    readonly codec: Codec,
    readonly context: CodecContext,
    private readonly chain: Chain,
    /** The size in which pictures are given to the chain. */
    private readonly even: { width: number; height: number },
  ) {
    this.packet.alloc();
    this.frame.alloc();
    this.coded.alloc();
  }

  /** @throws ShaleError `encoder-refused` where the codec does not take the size or the settings */
  static async open(settings: PictureSettings): Promise<PictureEncoder> {
    const { format, video, width, height, rate, pixelAspect, transfer, primaries, sample, hasAlpha } = settings;
    const { controls } = codecs[format];
    const made = writerOf(format);
    const codec = Codec.findEncoderByName(made.encoder as never);
    if (!codec) throw new Error(`there is no encoder ${made.encoder}`);
    const context = new CodecContext();
    const pixels = made.layout(settings);
    const isRgb = !pixels.startsWith('yuv');
    context.allocContext3(codec);
    context.width = width;
    context.height = height;
    context.pixelFormat = avGetPixFmtFromName(pixels);
    context.timeBase = { num: rate.den, den: rate.num } as CodecContext['timeBase'];
    context.framerate = { num: rate.num, den: rate.den } as CodecContext['framerate'];
    context.sampleAspectRatio = pixelAspect as CodecContext['sampleAspectRatio'];
    context.colorTrc = (transferPoints[transfer] ?? unsaidPoint) as CodecContext['colorTrc'];
    context.colorPrimaries = (primariesPoints[primaries] ?? unsaidPoint) as CodecContext['colorPrimaries'];
    context.colorSpace = isRgb ? AVCOL_SPC_RGB : primaries === 'bt2020' ? AVCOL_SPC_BT2020_NCL : AVCOL_SPC_BT709;
    context.colorRange = isRgb ? AVCOL_RANGE_JPEG : AVCOL_RANGE_MPEG;
    if (pixels.startsWith('yuv420') || pixels.startsWith('yuva420')) context.chromaLocation = AVCHROMA_LOC_LEFT;
    // MXF has no place of its own for a codec's header: it goes with the pictures.
    if (containerOf(format, video) !== 'mxf') context.setFlags(AV_CODEC_FLAG_GLOBAL_HEADER);
    made.prepare?.(context, settings);
    if (controls === 'rate') setBitrates(context, settings);
    try {
      const opened = await context.open2(codec, Dictionary.fromObject({ threads: '0', ...made.options(settings) }));
      try {
        check(opened, 'opening it');
      } catch (error) {
        throw new ShaleError({
          code: 'encoder-refused',
          fact: `The encoder refuses ${width} x ${height} at ${rate.num}/${rate.den} frames a second (${(error as Error).message}).`,
          wayOut: 'Choose a smaller size, another rate, or another format.',
          subject: 'write.format',
        });
      }
      const given = givenSample(format, sample);
      const even = evenSize(settings, pixels);
      const chain = await Chain.make(
        `width=${even.width}:height=${even.height}:pix_fmt=${inPixels(given, hasAlpha)}:time_base=1/25:pixel_aspect=1/1${isRgb ? '' : `:colorspace=gbr:range=pc${alphaApart}`}`,
        isRgb
          ? [
              ['scale', 'flags=accurate_rnd+bitexact'],
              ['format', `pix_fmts=${pixels}`],
            ]
          : [...toCoded(pixels, primaries), ...cutTo(settings, even)],
      );
      return new PictureEncoder(settings, codec, context, chain, even);
    } catch (error) {
      context.freeContext();
      throw error;
    }
  }

  /** Adds the next picture: of the size and depth that the settings say, with alpha or without. */
  async add(image: Image, take: TakesPacket): Promise<void> {
    const { sample, hasAlpha, format } = this.settings;
    fillFrame(this.frame, {
      ...this.even,
      format: avGetPixFmtFromName(inPixels(givenSample(format, sample), hasAlpha)),
      bytes: packed(repeatEdge(image, this.even), hasAlpha),
    });
    await this.chain.put(this.frame);
    this.frame.unref();
    if (!(await this.chain.take(this.coded))) throw new Error('no picture came of a frame');
    this.coded.pts = BigInt(this.count);
    this.coded.duration = 1n;
    this.coded.pictType = AV_PICTURE_TYPE_NONE;
    this.coded.sampleAspectRatio = this.context.sampleAspectRatio;
    this.count += 1;
    check(await this.context.sendFrame(this.coded), 'encoding');
    this.coded.unref();
    await this.drain(take);
  }

  /** Gives the packets that are left. */
  async finish(take: TakesPacket): Promise<void> {
    check(await this.context.sendFrame(null), 'encoding');
    await this.drain(take);
  }

  close(): void {
    this.chain.free();
    for (const frame of [this.frame, this.coded]) frame.free();
    this.packet.free();
    this.context.freeContext();
  }

  private async drain(take: TakesPacket): Promise<void> {
    for (;;) {
      const code = await this.context.receivePacket(this.packet);
      if (code === AVERROR_EAGAIN || isEnd(code)) return;
      check(code, 'encoding');
      this.bytes += this.packet.size;
      if (this.packet.duration === 0n) this.packet.duration = 1n;
      await take(this.packet);
      this.packet.unref();
    }
  }
}

/** The bitrate to reach, and the most. */
function setBitrates(context: CodecContext, { format, video }: PictureSettings): void {
  if (video.control === 'bitrate') context.bitRate = BigInt(video.bitrate) * 1000n;
  if (video.maxBitrate === null) return;
  // A most holds beside a quality too: the quality is given up where the pictures ask for more.
  context.rcMaxRate = BigInt(video.maxBitrate) * 1000n;
  context.rcBufferSize = video.maxBitrate * 1000;
  // VP9 keeps a quality below a rate by that rate itself.
  if (format === 'vp9' && video.control === 'quality') context.bitRate = context.rcMaxRate;
}

/** The size in which colour is brought to a layout: the filter refuses sides that its shared samples do not divide. */
function evenSize({ width, height }: PictureSettings, pixels: string): { width: number; height: number } {
  const evened = (side: number, shared: boolean) => (shared ? side + (side % 2) : side);
  return { width: evened(width, /42[02]p/.test(pixels)), height: evened(height, /420p/.test(pixels)) };
}

/** Leaves out what {@link evenSize} added. */
const cutTo = ({ width, height }: PictureSettings, even: { width: number; height: number }): FilterStep[] =>
  even.width === width && even.height === height ? [] : [['crop', `w=${width}:h=${height}:x=0:y=0:exact=1`]];

/** From RGB in planes to a coded layout; what comes interleaved is laid into planes first, exactly. */
function toCoded(pixels: string, primaries: Primaries): FilterStep[] {
  const deep = /1\dle$/.test(pixels);
  const planes = `gbr${pixels.startsWith('yuva') ? 'a' : ''}p${deep ? '16le' : ''}`;
  return [
    ['scale', 'flags=accurate_rnd+bitexact'],
    ['format', `pix_fmts=${planes}`],
    ...fromRgb({ matrix: primaries === 'bt2020' ? 'bt2020' : 'bt709', range: 'limited' }, pixels),
  ];
}

/** The library's name for the layout in which pictures are given to the chain. */
function inPixels(sample: SampleFormat, hasAlpha: boolean): string {
  if (sample === 'u8') return hasAlpha ? 'rgba' : 'rgb24';
  if (sample === 'u16') return hasAlpha ? 'rgba64le' : 'rgb48le';
  return `gbr${hasAlpha ? 'a' : ''}p${sample.slice(1)}le`;
}

/** A picture's bytes as {@link inPixels} lays them: interleaved, or green, blue, red and alpha one after another. */
function packed({ width, height, channels, sample, data }: Image, hasAlpha: boolean): Buffer {
  if (channels !== (hasAlpha ? 4 : 3)) throw new Error(`a picture of ${channels} channels does not go into this video`);
  if (sample === 'u8' || sample === 'u16') return Buffer.from(data.buffer, data.byteOffset, data.byteLength);
  const planes = new Uint16Array(data.length);
  const size = width * height;
  [1, 2, 0, 3].slice(0, channels).forEach((channel, plane) => {
    for (let pixel = 0, from = channel; pixel < size; pixel += 1, from += channels)
      planes[plane * size + pixel] = data[from]!;
  });
  return Buffer.from(planes.buffer);
}
