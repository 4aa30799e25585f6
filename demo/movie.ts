import {
  Codec,
  CodecContext,
  Dictionary,
  FormatContext,
  Frame,
  Packet,
  Rational,
  SoftwareScaleContext,
  type AVPixelFormat,
  type Stream,
  AVERROR_EAGAIN,
} from 'node-av';
import {
  AV_CODEC_FLAG_GLOBAL_HEADER,
  AV_PIX_FMT_RGBA,
  AV_SAMPLE_FMT_FLTP,
  AVERROR_EOF,
  SWS_BICUBIC,
} from 'node-av/constants';
import { check, fillFrame } from '@shale/media';
import type { Layer } from './raster.ts';
import { sampleRate } from './wave.ts';

export interface MovieSettings {
  path: string;
  width: number;
  height: number;
  /** Whole frames per second. */
  rate: number;
  encoder: string;
  format: AVPixelFormat;
  options: Record<string, string | number>;
  /** One channel at 48 kHz, laid under as AAC. */
  sound?: Float32Array;
}

/** Encodes pictures one after another into a movie. */
export async function writeMovie(
  settings: MovieSettings,
  frames: number,
  pictureOf: (frame: number) => Layer,
): Promise<void> {
  const output = new FormatContext();
  output.allocOutputContext2(null, null, settings.path);
  const video = await openEncoder(settings.encoder, settings.options, (context) => {
    context.width = settings.width;
    context.height = settings.height;
    context.pixelFormat = settings.format;
    context.timeBase = new Rational(1, settings.rate);
    context.framerate = new Rational(settings.rate, 1);
  });
  const picture = addStream(output, video);
  const audio = settings.sound
    ? await openEncoder('aac', { b: 128_000 }, (context) => {
        context.sampleRate = sampleRate;
        context.sampleFormat = AV_SAMPLE_FMT_FLTP;
        context.channelLayout = { nbChannels: 1, order: 1, mask: 4n } as CodecContext['channelLayout'];
        context.timeBase = new Rational(1, sampleRate);
      })
    : undefined;
  const track = audio ? addStream(output, audio) : undefined;
  check(await output.openOutput(), 'opening the movie');
  check(await output.writeHeader(Dictionary.fromObject({ movflags: 'faststart' })), 'writing the header');

  const scaler = new SoftwareScaleContext();
  scaler.getContext(
    settings.width,
    settings.height,
    AV_PIX_FMT_RGBA,
    settings.width,
    settings.height,
    settings.format,
    SWS_BICUBIC,
  );
  for (let index = 0; index < frames; index += 1) {
    const { width, height, data } = pictureOf(index);
    const rgba = new Frame();
    fillFrame(rgba, {
      width,
      height,
      format: AV_PIX_FMT_RGBA,
      bytes: Buffer.from(data.buffer, data.byteOffset, data.byteLength),
    });
    const frame = new Frame();
    frame.alloc();
    frame.width = width;
    frame.height = height;
    frame.format = settings.format;
    check(frame.getBuffer(0), 'taking memory');
    check(await scaler.scaleFrame(frame, rgba), 'converting a picture');
    frame.pts = BigInt(index);
    await push(output, picture, video, frame);
    rgba.free();
    frame.free();
  }
  await push(output, picture, video, null);
  if (audio && track) await pushSound(output, track, audio, settings.sound!);
  check(await output.writeTrailer(), 'closing the movie');
  await output.closeOutput();
  scaler.freeContext();
  video.freeContext();
  audio?.freeContext();
}

async function openEncoder(
  name: string,
  options: Record<string, string | number>,
  set: (context: CodecContext) => void,
): Promise<CodecContext> {
  const codec = Codec.findEncoderByName(name as never);
  if (!codec) throw new Error(`no encoder ${name}`);
  const context = new CodecContext();
  context.allocContext3(codec);
  set(context);
  context.setFlags(AV_CODEC_FLAG_GLOBAL_HEADER);
  check(await context.open2(codec, Dictionary.fromObject({ threads: 2, ...options })), `opening ${name}`);
  return context;
}

function addStream(output: FormatContext, context: CodecContext): Stream {
  const stream = output.newStream();
  check(stream.codecpar.fromContext(context), 'describing a stream');
  stream.timeBase = context.timeBase;
  return stream;
}

async function push(output: FormatContext, stream: Stream, context: CodecContext, frame: Frame | null): Promise<void> {
  check(await context.sendFrame(frame), 'encoding');
  const packet = new Packet();
  packet.alloc();
  for (;;) {
    const code = await context.receivePacket(packet);
    if (code === AVERROR_EAGAIN || code === AVERROR_EOF) break;
    check(code, 'encoding');
    packet.streamIndex = stream.index;
    // Without a length of its own the last picture would be left out of the movie's duration.
    if (packet.duration === 0n && context.width > 0) packet.duration = 1n;
    packet.rescaleTs(context.timeBase, stream.timeBase);
    check(await output.interleavedWriteFrame(packet), 'writing');
  }
  packet.free();
}

async function pushSound(
  output: FormatContext,
  stream: Stream,
  context: CodecContext,
  sound: Float32Array,
): Promise<void> {
  const size = context.frameSize || 1024;
  for (let start = 0; start < sound.length; start += size) {
    const part = new Float32Array(size);
    part.set(sound.subarray(start, start + size));
    const frame = Frame.fromAudioBuffer(Buffer.from(part.buffer), {
      nbSamples: size,
      format: AV_SAMPLE_FMT_FLTP,
      sampleRate,
      channelLayout: context.channelLayout,
      timeBase: { num: 1, den: sampleRate },
    });
    frame.pts = BigInt(start);
    await push(output, stream, context, frame);
    frame.free();
  }
  await push(output, stream, context, null);
}
