import {
  avGetPixFmtFromName,
  Codec,
  CodecContext,
  Dictionary,
  FormatContext,
  Frame,
  Packet,
  AVERROR_EAGAIN,
} from 'node-av';
import { AV_PKT_DATA_DISPLAYMATRIX, AVERROR_EOF, AV_CODEC_FLAG_GLOBAL_HEADER } from 'node-av/constants';
import type { Image } from '@shale/core';
import { Chain, type FilterStep } from './graph.ts';
import { check, fillFrame } from './libav.ts';

/** A clip for tests, written by the library's own encoders in whatever way is asked for. */
export interface TestClip {
  count: number;
  width?: number;
  height?: number;
  encoder?: string;
  options?: Record<string, string>;
  /** The library's short name of the container. */
  container?: string;
  /** Of the pictures as given; the encoder's layout comes of the filters. */
  pixels?: string;
  filters?: FilterStep[];
  coded?: string;
  /** Ticks of a picture, 1/1000 s; without it 40 each. */
  time?: (at: number) => number;
  /** The bytes of a picture. */
  picture?: (at: number, width: number, height: number) => Buffer;
  set?: (context: CodecContext) => void;
  muxer?: Record<string, string>;
  /** Clockwise, as players are told. */
  turn?: 90 | 180 | 270;
  from?: number;
}

const blocks = 12;

/** A grey picture that shows its number as twelve blocks across the upper half, black or white, and moves below. */
export function numbered(at: number, width: number, height: number): Buffer {
  const bytes = Buffer.alloc(width * height);
  const block = width / blocks;
  for (let y = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1)
      bytes[y * width + x] =
        y < height / 2 ? ((at >> Math.floor(x / block)) & 1 ? 235 : 20) : (x * 3 + y + at * 7) % 200;
  return bytes;
}

/** The number that a picture shows; -1 where its blocks are neither black nor white. */
export function numberIn({ width, height, channels, data, sample }: Image): number {
  const most = sample === 'u8' ? 255 : 65_535;
  let number = 0;
  for (let bit = 0; bit < blocks; bit += 1) {
    const x = Math.floor(((bit + 0.5) * width) / blocks);
    const value = data[(Math.floor(height / 4) * width + x) * channels]! / most;
    if (value > 0.25 && value < 0.75) return -1;
    if (value > 0.5) number |= 1 << bit;
  }
  return number;
}

export async function writeTestClip(path: string, clip: TestClip): Promise<void> {
  const {
    count,
    width = 192,
    height = 96,
    encoder = 'libx264',
    options = {},
    container = 'mp4',
    pixels = 'gray',
  } = clip;
  const { filters = [], coded = 'yuv420p', time = (at: number) => at * 40, picture = numbered, from = 0 } = clip;
  const codec = Codec.findEncoderByName(encoder as never)!;
  const output = new FormatContext();
  output.allocOutputContext2(null, container, path);
  const context = new CodecContext();
  context.allocContext3(codec);
  context.width = width;
  context.height = height;
  context.pixelFormat = avGetPixFmtFromName(coded);
  context.timeBase = { num: 1, den: 1000 } as CodecContext['timeBase'];
  context.framerate = { num: 25, den: 1 } as CodecContext['framerate'];
  if (container !== 'mpegts' && container !== 'avi') context.setFlags(AV_CODEC_FLAG_GLOBAL_HEADER);
  clip.set?.(context);
  check(await context.open2(codec, Dictionary.fromObject({ threads: '1', ...options })), 'opening the encoder');
  const stream = output.newStream(codec);
  stream.codecpar.fromContext(context);
  stream.timeBase = context.timeBase;
  stream.avgFrameRate = context.framerate;
  if (clip.turn !== undefined) stream.codecpar.addCodedSideData(AV_PKT_DATA_DISPLAYMATRIX, turnMatrix(clip.turn));
  check(await output.openOutput(), 'opening the file');
  check(await output.writeHeader(Dictionary.fromObject(clip.muxer ?? {})), 'the header');
  const chain = await Chain.make(
    `width=${width}:height=${height}:pix_fmt=${pixels}:time_base=1/1000:pixel_aspect=1/1:frame_rate=25/1`,
    [...filters, ['scale', 'flags=accurate_rnd+bitexact'], ['format', `pix_fmts=${coded}`]],
  );
  const frame = new Frame();
  const out = new Frame();
  const packet = new Packet();
  out.alloc();
  packet.alloc();
  let made = 0;
  const drain = async () => {
    for (;;) {
      const code = await context.receivePacket(packet);
      if (code === AVERROR_EAGAIN || code === AVERROR_EOF) return;
      check(code, 'encoding');
      packet.streamIndex = 0;
      packet.rescaleTs(context.timeBase, stream.timeBase);
      check(await output.interleavedWriteFrame(packet), 'writing');
      packet.unref();
    }
  };
  const taken = async () => {
    while (await chain.take(out)) {
      out.pts = BigInt(time(made));
      out.pictType = 0 as Frame['pictType'];
      made += 1;
      check(await context.sendFrame(out), 'encoding');
      out.unref();
      await drain();
    }
  };
  for (let at = 0; at < count; at += 1) {
    fillFrame(frame, { width, height, format: avGetPixFmtFromName(pixels), bytes: picture(at + from, width, height) });
    frame.pts = BigInt(at * 40);
    await chain.put(frame);
    frame.unref();
    await taken();
  }
  await chain.put(null);
  await taken();
  check(await context.sendFrame(null), 'encoding');
  await drain();
  check(await output.writeTrailer(), 'the end');
  await output.closeOutput();
  context.freeContext();
  for (const one of [frame, out]) one.free();
  packet.free();
  chain.free();
}

/** ISO/IEC 14496-12, 8.3.2: 16.16 fixed point, the last column 2.30. */
function turnMatrix(turn: 90 | 180 | 270): Buffer {
  const [cos, sin] = { 90: [0, 1], 180: [-1, 0], 270: [0, -1] }[turn] as [number, number];
  const bytes = Buffer.alloc(36);
  [cos * 65_536, sin * 65_536, 0, -sin * 65_536, cos * 65_536, 0, 0, 0, 2 ** 30].forEach((value, at) =>
    bytes.writeInt32LE(value, at * 4),
  );
  return bytes;
}

/** Puts the pictures of some clips into one file, a stream each, in their order. */
export async function joinTestClips(path: string, clips: readonly string[], container = 'matroska'): Promise<void> {
  const output = new FormatContext();
  output.allocOutputContext2(null, container, path);
  const packet = new Packet();
  packet.alloc();
  const inputs: FormatContext[] = [];
  for (const clip of clips) {
    const input = new FormatContext();
    check(await input.openInput(clip, null, Dictionary.fromObject({})), 'opening a clip');
    check(await input.findStreamInfo(), 'reading a clip');
    const stream = output.newStream(null);
    check(input.streams[0]!.codecpar.copy(stream.codecpar), 'copying a stream');
    stream.timeBase = input.streams[0]!.timeBase;
    inputs.push(input);
  }
  check(await output.openOutput(), 'opening the file');
  check(await output.writeHeader(Dictionary.fromObject({})), 'the header');
  for (const [at, input] of inputs.entries()) {
    while ((await input.readFrame(packet)) >= 0) {
      packet.rescaleTs(input.streams[0]!.timeBase, output.streams[at]!.timeBase);
      packet.streamIndex = at;
      check(await output.interleavedWriteFrame(packet), 'writing');
      packet.unref();
    }
    await input.closeInput();
  }
  check(await output.writeTrailer(), 'the end');
  await output.closeOutput();
  packet.free();
}
