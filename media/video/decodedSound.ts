import { Frame, Packet, avGetSampleFmtName, type CodecContext, type FormatContext, type Stream } from 'node-av';
import type { SoundFacts } from '@shale/core';
import { Chain } from './graph.ts';
import { check } from './libav.ts';
import { decoderOf, isEnd, openDecoder, openInput, streamOf, told } from './open.ts';
import { chainInput } from './soundTrack.ts';

/** A sound opened to be decoded. */
export class DecodedSound {
  private readonly packet = new Packet();
  private readonly frame = new Frame();
  /** Why packets could not be decoded: the first reason. */
  fault: string | undefined;

  private constructor(
    readonly input: FormatContext,
    readonly stream: Stream,
    readonly decoder: CodecContext,
  ) {
    this.packet.alloc();
    this.frame.alloc();
  }

  static async open(path: string, nth: number | null): Promise<DecodedSound> {
    const input = await openInput(path);
    try {
      const stream = streamOf(input, 'sound', nth);
      return new DecodedSound(input, stream, await openDecoder(stream, 1));
    } catch (error) {
      await input.closeInput();
      throw told(path, error);
    }
  }

  get rate(): number {
    return this.stream.codecpar.sampleRate;
  }

  get channels(): number {
    return this.stream.codecpar.channels;
  }

  /** Bits of a sample; PCM and lossless coders have them. */
  get depth(): SoundFacts['depth'] {
    const { bitsPerRawSample } = this.stream.codecpar;
    const name = decoderOf(this.stream).name ?? '';
    const format = avGetSampleFmtName(this.decoder.sampleFormat) ?? '';
    if (/^pcm_f/.test(name)) return 'float';
    if (!/^(pcm_|flac|alac|wavpack|tta|ape|truehd|mlp)/.test(name)) return 'coded';
    if (/^(u8|s16)/.test(format)) return '16';
    return bitsPerRawSample > 0 && bitsPerRawSample <= 24 ? '24' : '32';
  }

  /** The next decoded frame, valid until the next is asked for; undefined at the end. What cannot be decoded is passed over. */
  next(): Frame | undefined {
    for (;;) {
      const code = this.decoder.receiveFrameSync(this.frame);
      if (code >= 0) return this.frame;
      if (isEnd(code)) return undefined;
      const read = this.input.readFrameSync(this.packet);
      if (read >= 0 && this.packet.streamIndex !== this.stream.index) {
        this.packet.unref();
        continue;
      }
      try {
        check(this.decoder.sendPacketSync(read < 0 ? null : this.packet), 'decoding the sound');
      } catch (error) {
        this.fault ??= (error as Error).message;
      }
      this.packet.unref();
    }
  }

  /** A chain of filters that all of it goes through. */
  chain(steps: Parameters<typeof Chain.make>[1]): Promise<Chain> {
    return Chain.make(chainInput(this.rate, this.channels, this.decoder), steps, 'sound');
  }

  async close(): Promise<void> {
    this.frame.free();
    this.packet.free();
    this.decoder.freeContext();
    await this.input.closeInput();
  }
}

/** The interleaved samples of a frame of 64-bit or 32-bit floats, valid as long as it is. */
export function samplesOf(frame: Frame, channels: number, each: 4 | 8): Float32Array | Float64Array {
  const { buffer, byteOffset } = frame.data![0]!;
  const count = frame.nbSamples * channels;
  return each === 8 ? new Float64Array(buffer, byteOffset, count) : new Float32Array(buffer, byteOffset, count);
}
