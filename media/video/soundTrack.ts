import {
  avGetSampleFmtName,
  Codec,
  CodecContext,
  Dictionary,
  Frame,
  Packet,
  type AVSampleFormat,
  type ChannelLayout,
  type FormatContext,
  type Stream,
  AVERROR_EAGAIN,
} from 'node-av';
import { AV_CHANNEL_ORDER_NATIVE, AV_CHANNEL_ORDER_UNSPEC, AV_NOPTS_VALUE } from 'node-av/constants';
import { soundLength, soundShift, type Rate } from '@shale/core';
import { Chain, type FilterStep } from './graph.ts';
import { check } from './libav.ts';
import { isEnd, openDecoder, openInput, streamOf } from './open.ts';

/** Which part of a sound is wanted, and as what. */
export interface WantedSound {
  path: string;
  encoder: 'aac' | 'pcm' | 'libopus' | 'flac';
  /** Which stream of sound, from 1; null or absent for the one that a player would take. */
  stream?: number | null;
  /** Bits of a sample of PCM; `source` or absent for 24 where the source has more than 16, else 16. */
  depth?: 'source' | '16' | '24' | 'float';
  /** Kilobits a second, of AAC and Opus. */
  bitrate: number;
  /** Samples a second that the container asks for; absent where the source's are taken. */
  sampleRate?: number;
  /** Where in the sound the result begins, in seconds as an exact fraction; below 0 silence goes before. */
  from: { num: number; den: number };
  /** Samples of the sound itself by which it begins later still; absent for none. */
  later?: number;
  /** How long the result is, as an exact fraction of seconds; it is cut or filled with silence. */
  length: Rate;
}

/** The samples a second that an encoder takes, nearest to the source's from above. */
function rateFor(encoder: WantedSound['encoder'], rate: number): number {
  if (encoder === 'libopus') return 48_000;
  const most = encoder === 'aac' ? 96_000 : 192_000;
  return Math.min(most, Math.max(8000, rate));
}

/** When the first picture of a file begins, against its sound: the sound's own beginning, in seconds; 0 where there is no picture. */
export function beginningOf(input: FormatContext, sound: Stream): number {
  const seconds = ({ startTime, timeBase }: Stream) =>
    startTime === AV_NOPTS_VALUE ? 0 : (Number(startTime) * timeBase.num) / timeBase.den;
  try {
    return seconds(sound) - seconds(streamOf(input, 'pictures'));
  } catch {
    return 0;
  }
}

/** A part of a sound, decoded, cut or filled to its length to the sample, and encoded bit by bit as it is asked for. */
export class SoundTrack {
  private readonly packet = new Packet();
  private readonly frame = new Frame();
  private chain!: Chain;
  private inputEnded = false;
  private taken = 0;
  private fed = 0;
  private ended = false;

  private constructor(
    private readonly input: FormatContext,
    private readonly stream: Stream,
    private readonly decoder: CodecContext,
    /** The encoder, open. */
    readonly context: CodecContext,
    /** Samples of the whole result. */
    readonly samples: number,
  ) {
    this.packet.alloc();
    this.frame.alloc();
  }

  /** @param globalHeader whether the container keeps the codec's header by itself. @throws ShaleError naming the file */
  static async open(wanted: WantedSound, prepare?: (context: CodecContext) => void): Promise<SoundTrack> {
    const input = await openInput(wanted.path);
    const context = new CodecContext();
    try {
      const stream = streamOf(input, 'sound', wanted.stream);
      const decoder = await openDecoder(stream, 1);
      const { sampleRate, channels, channelLayout } = stream.codecpar;
      const deep = stream.codecpar.bitsPerRawSample > 16 || /24|32|64|flt|dbl/.test(decoderFormat(decoder));
      const depth = wanted.depth === undefined || wanted.depth === 'source' ? (deep ? '24' : '16') : wanted.depth;
      const name = wanted.encoder === 'pcm' ? pcmOf[depth] : wanted.encoder;
      const encoder = Codec.findEncoderByName(name as never);
      if (!encoder) throw new Error(`there is no encoder ${name}`);
      const rate = wanted.sampleRate ?? rateFor(wanted.encoder, sampleRate);
      context.allocContext3(encoder);
      context.sampleRate = rate;
      const format = pickFormat(encoder.sampleFormats ?? [], deep);
      context.sampleFormat = format;
      context.channelLayout = knownLayout(channelLayout);
      context.timeBase = { num: 1, den: rate } as CodecContext['timeBase'];
      if (wanted.encoder === 'aac' || wanted.encoder === 'libopus') context.bitRate = BigInt(wanted.bitrate * 1000);
      prepare?.(context);
      check(await context.open2(encoder, Dictionary.fromObject({})), 'opening the encoder of the sound');
      const samples = soundLength(wanted.length, rate);
      const track = new SoundTrack(input, stream, decoder, context, samples);
      const layout = layoutName(channels);
      track.chain = await Chain.make(
        chainInput(sampleRate, channels, decoder),
        stepsOf({
          rate,
          format: avGetSampleFmtName(format)!,
          layout,
          shift: soundShift(wanted.from, beginningOf(input, stream) + (wanted.later ?? 0) / sampleRate, rate),
          samples,
          frame: context.frameSize,
        }),
        'sound',
      );
      return track;
    } catch (error) {
      context.freeContext();
      await input.closeInput();
      throw error;
    }
  }

  /** Seconds that were encoded so far. */
  get seconds(): number {
    return this.taken / this.context.sampleRate;
  }

  /** The next packets; undefined once all are out. */
  async next(give: (packet: Packet) => Promise<void>): Promise<boolean> {
    if (this.ended) return false;
    this.frame.unref();
    while (!(await this.chain.take(this.frame))) {
      if (this.inputEnded) {
        this.ended = true;
        check(await this.context.sendFrame(null), 'encoding the sound');
        await this.drain(give);
        return false;
      }
      await this.feed();
    }
    this.frame.pts = BigInt(this.taken);
    this.taken += this.frame.nbSamples;
    check(await this.context.sendFrame(this.frame), 'encoding the sound');
    await this.drain(give);
    return true;
  }

  private async drain(give: (packet: Packet) => Promise<void>): Promise<void> {
    const out = new Packet();
    out.alloc();
    try {
      for (;;) {
        const code = await this.context.receivePacket(out);
        if (code === AVERROR_EAGAIN || isEnd(code)) return;
        check(code, 'encoding the sound');
        await give(out);
        out.unref();
      }
    } finally {
      out.free();
    }
  }

  /** Gives the chain the next decoded samples, or its end. */
  private async feed(): Promise<void> {
    const decoded = new Frame();
    decoded.alloc();
    try {
      for (;;) {
        const code = await this.decoder.receiveFrame(decoded);
        if (code >= 0) {
          decoded.pts = BigInt(this.fed);
          this.fed += decoded.nbSamples;
          await this.chain.put(decoded);
          return;
        }
        if (isEnd(code)) {
          this.inputEnded = true;
          await this.chain.put(null);
          return;
        }
        const read = await this.input.readFrame(this.packet);
        if (read >= 0 && this.packet.streamIndex !== this.stream.index) {
          this.packet.unref();
          continue;
        }
        check(await this.decoder.sendPacket(read < 0 ? null : this.packet), 'decoding the sound');
        this.packet.unref();
      }
    } finally {
      decoded.free();
    }
  }

  async close(): Promise<void> {
    this.chain?.free();
    this.frame.free();
    this.packet.free();
    this.decoder.freeContext();
    this.context.freeContext();
    await this.input.closeInput();
  }
}

/** The library's encoders of PCM, by bits. */
const pcmOf = { '16': 'pcm_s16le', '24': 'pcm_s24le', float: 'pcm_f32le' } as const;

/** Speakers by count where a file names none: front, then the usual 5.1 and 7.1. */
const usualMasks: Record<number, bigint> = { 1: 0x4n, 2: 0x3n, 6: 0x3fn, 8: 0x63fn };

function knownLayout(layout: ChannelLayout): ChannelLayout {
  const mask = usualMasks[layout.nbChannels];
  if (layout.order === AV_CHANNEL_ORDER_NATIVE || mask === undefined) return layout;
  return { nbChannels: layout.nbChannels, order: AV_CHANNEL_ORDER_NATIVE, mask };
}

/** The speakers of so many channels. */
export const layoutOf = (channels: number): ChannelLayout =>
  knownLayout({ nbChannels: channels, order: AV_CHANNEL_ORDER_UNSPEC, mask: 0n });

/** Speakers by count, as the library calls them. */
export const layoutName = (channels: number): string =>
  ({ 1: 'mono', 2: 'stereo', 6: '5.1', 8: '7.1' })[channels] ?? `${channels}c`;

/** What a chain of filters is told of a decoder's sound, its times counted in samples. */
export const chainInput = (rate: number, channels: number, decoder: CodecContext): string =>
  `time_base=1/${rate}:sample_rate=${rate}:sample_fmt=${decoderFormat(decoder)}:channel_layout=${layoutName(channels)}`;

const decoderFormat = (decoder: CodecContext): string => avGetSampleFmtName(decoder.sampleFormat) ?? 'fltp';

function pickFormat(formats: readonly AVSampleFormat[], deep: boolean): AVSampleFormat {
  const named = formats.map((format) => [avGetSampleFmtName(format), format] as const);
  const wanted = deep ? ['fltp', 'flt', 's32', 's16'] : ['fltp', 's16', 'flt', 's32'];
  for (const name of wanted) {
    const found = named.find(([one]) => one === name);
    if (found) return found[1];
  }
  return formats[0]!;
}

/** To the encoder's samples; begun later or earlier; cut or filled to the length; in pieces as large as the encoder takes. */
function stepsOf(of: {
  rate: number;
  format: string;
  layout: string;
  /** Samples that are left out at the beginning; below 0 so many of silence go before. */
  shift: number;
  samples: number;
  frame: number;
}): FilterStep[] {
  const { rate, format, layout, shift, samples, frame } = of;
  return [
    ['aresample', String(rate)],
    ['aformat', `sample_fmts=${format}:channel_layouts=${layout}`],
    ...(shift > 0 ? [['atrim', `start_sample=${shift}`] as const, ['asetpts', 'N/SR/TB'] as const] : []),
    ...(shift < 0 ? [['adelay', `delays=${-shift}S:all=1`] as const] : []),
    ['apad', `whole_len=${samples}`],
    ['atrim', `end_sample=${samples}`],
    // Some of these work in a layout of their own.
    ['aformat', `sample_fmts=${format}:channel_layouts=${layout}`],
    ['asetnsamples', `n=${frame > 0 ? frame : 1024}:p=0`],
  ];
}
