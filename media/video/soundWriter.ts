import { createHash, type Hash } from 'node:crypto';
import { setImmediate } from 'node:timers/promises';
import {
  avGetSampleFmtFromName,
  avGetSampleFmtName,
  AVERROR_EAGAIN,
  Codec,
  CodecContext,
  Dictionary,
  FormatContext,
  Frame,
  Packet,
  type Stream,
} from 'node-av';
import { AV_CODEC_FLAG_GLOBAL_HEADER } from 'node-av/constants';
import {
  gainTo,
  keepMix,
  mixed,
  Quantiser,
  SoundMeter,
  type SoundFacts,
  type SoundFormatName,
  type SoundPlan,
} from '@shale/core';
import { DecodedSound, samplesOf } from './decodedSound.ts';
import { Chain, type FilterStep } from './graph.ts';
import { check } from './libav.ts';
import { isEnd, told } from './open.ts';
import { Loudness, scanSound } from './soundReader.ts';
import { layoutName, layoutOf } from './soundTrack.ts';

/** Frames between two moments at which a worker hears that nobody waits any more. */
const breath = 256;

/** The library's container of each format, and its encoder: of PCM and FLAC by bits. */
const written: Record<SoundFormatName, { container: string; encoder: string | Record<string, string> }> = {
  wav: { container: 'wav', encoder: { '16': 'pcm_s16le', '24': 'pcm_s24le', float: 'pcm_f32le' } },
  flac: { container: 'flac', encoder: 'flac' },
  aac: { container: 'ipod', encoder: 'aac' },
  opus: { container: 'opus', encoder: 'libopus' },
};

/** What samples are given as: 24 bits lie in the upper ones of 32. */
const givenAs = (depth: SoundPlan['depth']) => (depth === '16' ? 's16' : depth === '24' ? 's32' : 'flt');

/** What a sound is coded in. */
type Coding = Pick<SoundPlan, 'format' | 'rate' | 'depth' | 'bitrate'>;

/** A file of sound that is being written, from samples that are given one after another. */
class SoundFile {
  private readonly packet = new Packet();
  private readonly frame = new Frame();
  private done = 0;

  private constructor(
    private readonly output: FormatContext,
    private readonly stream: Stream,
    private readonly encoder: CodecContext,
    private readonly chain: Chain,
    private readonly channels: number,
    private readonly coding: Coding,
  ) {
    this.packet.alloc();
    this.frame.alloc();
  }

  /** @param path one that does not exist */
  static async open(path: string, channels: number, coding: Coding): Promise<SoundFile> {
    const { format, rate, depth, bitrate } = coding;
    const { container, encoder: named } = written[format];
    const name = typeof named === 'string' ? named : named[depth!]!;
    const codec = Codec.findEncoderByName(name as never);
    if (!codec) throw new Error(`there is no encoder ${name}`);
    const context = new CodecContext();
    const output = new FormatContext();
    try {
      context.allocContext3(codec);
      context.sampleRate = rate;
      const given = givenAs(depth);
      const formats = (codec.sampleFormats ?? []).map((one) => avGetSampleFmtName(one)!);
      const taken = formats.find((one) => one === given) ?? formats.find((one) => one.startsWith('flt')) ?? formats[0]!;
      context.sampleFormat = avGetSampleFmtFromName(taken);
      context.channelLayout = layoutOf(channels);
      context.timeBase = { num: 1, den: rate } as CodecContext['timeBase'];
      if (depth === '24') context.bitsPerRawSample = 24;
      if (depth === null) context.bitRate = BigInt(bitrate * 1000);
      context.flags = (context.flags | AV_CODEC_FLAG_GLOBAL_HEADER) as typeof context.flags;
      check(await context.open2(codec, Dictionary.fromObject({})), 'opening the encoder of the sound');
      output.allocOutputContext2(null, container, path);
      const stream = output.newStream(null);
      stream.codecpar.fromContext(context);
      stream.timeBase = context.timeBase;
      check(await output.openOutput(), 'opening the file');
      // Beyond 4 GiB a WAV says its length in 64 bits (EBU Tech 3306).
      check(await output.writeHeader(Dictionary.fromObject(format === 'wav' ? { rf64: 'auto' } : {})), 'beginning it');
      const layout = layoutName(channels);
      const chain = await Chain.make(
        `time_base=1/${rate}:sample_rate=${rate}:sample_fmt=${given}:channel_layout=${layout}`,
        [
          ['aformat', `sample_fmts=${taken}:channel_layouts=${layout}`],
          ['asetnsamples', `n=${context.frameSize > 0 ? context.frameSize : 4096}:p=0`],
        ],
        'sound',
      );
      return new SoundFile(output, stream, context, chain, channels, coding);
    } catch (error) {
      context.freeContext();
      await output.closeOutput();
      throw error;
    }
  }

  /** @param data interleaved, as {@link givenAs} says */
  put(data: Int16Array | Int32Array | Float32Array): void {
    const { rate, depth } = this.coding;
    const count = data.length / this.channels;
    if (count === 0) return;
    const frame = Frame.fromAudioBuffer(Buffer.from(data.buffer, data.byteOffset, data.byteLength), {
      nbSamples: count,
      format: avGetSampleFmtFromName(givenAs(depth)),
      sampleRate: rate,
      channelLayout: layoutOf(this.channels),
      timeBase: { num: 1, den: rate },
      pts: BigInt(this.done),
    });
    this.done += count;
    this.chain.putNow(frame);
    frame.free();
    this.encode();
  }

  private encode(): void {
    while (this.chain.takeNow(this.frame)) {
      check(this.encoder.sendFrameSync(this.frame), 'encoding the sound');
      this.frame.unref();
      this.drain();
    }
  }

  private drain(): void {
    for (;;) {
      const code = this.encoder.receivePacketSync(this.packet);
      if (code === AVERROR_EAGAIN || isEnd(code)) return;
      check(code, 'encoding the sound');
      this.packet.streamIndex = 0;
      this.packet.rescaleTs(this.encoder.timeBase, this.stream.timeBase);
      check(this.output.interleavedWriteFrameSync(this.packet), 'writing');
      this.packet.unref();
    }
  }

  /** Ends the file. */
  async end(): Promise<void> {
    this.chain.putNow(null);
    this.encode();
    check(this.encoder.sendFrameSync(null), 'encoding the sound');
    this.drain();
    check(await this.output.writeTrailer(), 'ending the file');
  }

  async close(): Promise<void> {
    this.chain.free();
    this.frame.free();
    this.packet.free();
    this.encoder.freeContext();
    await this.output.closeOutput();
  }
}

/** To another rate: a longer filter than the usual one, worked in 64 bits. */
const resampled = (rate: number): FilterStep => [
  'aresample',
  `${rate}:filter_size=64:phase_shift=10:cutoff=0.98:internal_sample_fmt=dblp`,
];

/** Decodes what goes in, at the rate of the result, and gives it in pieces: interleaved, of the source's channels. */
async function through(
  path: string,
  { stream, part, rate, sourceRate }: SoundPlan,
  signal: AbortSignal,
  take: (samples: Float64Array) => void,
): Promise<void> {
  const sound = await DecodedSound.open(path, stream);
  const out = new Frame();
  out.alloc();
  let chain: Chain | undefined;
  try {
    chain = await sound.chain([
      ['aformat', 'sample_fmts=dbl'],
      ['atrim', `start_sample=${part.from}:end_sample=${part.to}`],
      ['asetpts', 'N/SR/TB'],
      ...(rate === sourceRate ? [] : [resampled(rate)]),
      ['aformat', 'sample_fmts=dbl'],
    ]);
    const drain = () => {
      while (chain!.takeNow(out)) {
        take(samplesOf(out, sound.channels, 8) as Float64Array);
        out.unref();
      }
    };
    let done = 0;
    let turn = 0;
    while (done < part.to && !signal.aborted) {
      const frame = sound.next();
      if (!frame) break;
      frame.pts = BigInt(done);
      done += frame.nbSamples;
      chain.putNow(frame);
      drain();
      if ((turn += 1) % breath === 0) await setImmediate();
    }
    chain.putNow(null);
    drain();
  } finally {
    out.free();
    chain?.free();
    await sound.close();
  }
}

/** The gain that a plan asks for: measured on what it mixes, where it asks for a loudness. Decibels. */
async function gainOf(path: string, plan: SoundPlan, signal: AbortSignal): Promise<{ gain: number; held: boolean }> {
  const { loudness, peak, files, channels, rate } = plan;
  if (loudness === null) return { gain: plan.gain, held: false };
  const mix = files.length === 1 ? files[0]!.mix : keepMix(channels);
  const meter = new SoundMeter(rate, mix.length);
  const found = await Loudness.make(rate, mix.length);
  try {
    await through(path, plan, signal, (samples) => {
      const one = mixed(samples, channels, mix);
      meter.add(one);
      found.add(one);
    });
    const { integrated } = found.end();
    const truePeak = Math.max(...meter.end().truePeaks);
    // What has become too quiet by the mix stays as it is.
    return integrated === null || truePeak === 0
      ? { gain: 0, held: false }
      : gainTo({ loudness, peak }, { loudness: integrated, truePeak });
  } finally {
    found.close();
  }
}

/** A digest of a file's decoded samples, as they come out of its decoder. */
async function digestOf(path: string, signal: AbortSignal): Promise<string> {
  const sound = await DecodedSound.open(path, null);
  const hash = createHash('sha256');
  try {
    const bytes = sound.depth === '16' ? 2 : 4;
    for (let turn = 1; !signal.aborted; turn += 1) {
      const frame = sound.next();
      if (!frame) break;
      const { buffer, byteOffset } = frame.data![0]!;
      hash.update(new Uint8Array(buffer, byteOffset, frame.nbSamples * sound.channels * bytes));
      if (turn % breath === 0) await setImmediate();
    }
    return hash.digest('hex');
  } finally {
    await sound.close();
  }
}

/** What came of a conversion: by file what it holds, and whether it is what was given. */
export interface WrittenSounds {
  gain: number;
  /** Whether the true peak kept it below the loudness that was asked for. */
  held: boolean;
  /** Samples beyond full scale. */
  clipped: number;
  same: boolean | null;
  facts: SoundFacts[];
}

/** Mixes and rounds for one file. */
class Maker {
  readonly hash: Hash = createHash('sha256');
  private readonly quantiser: Quantiser | undefined;

  constructor(
    private readonly plan: SoundPlan,
    private readonly mix: number[][],
    private readonly file: SoundFile,
  ) {
    const { depth, dithers } = plan;
    if (depth === '16' || depth === '24') this.quantiser = new Quantiser(depth === '16' ? 16 : 24, dithers);
  }

  get clipped(): number {
    return this.quantiser?.clipped ?? 0;
  }

  put(samples: Float64Array, factor: number): void {
    const one = mixed(samples, this.plan.channels, this.mix, factor);
    const data = this.quantiser ? this.quantiser.put(one) : Float32Array.from(one);
    if (this.plan.depth !== null) this.hash.update(new Uint8Array(data.buffer, data.byteOffset, data.byteLength));
    this.file.put(data);
  }
}

/**
 * Writes a sound as its plan says, and reads back what was written: where it keeps every sample, each is held against what was meant.
 * @param to paths of the plan's files, none of which exists
 * @throws ShaleError naming the source
 */
export async function writeSounds(
  path: string,
  plan: SoundPlan,
  to: readonly string[],
  signal: AbortSignal,
): Promise<WrittenSounds> {
  const files: SoundFile[] = [];
  try {
    const { gain, held } = await gainOf(path, plan, signal);
    const factor = 10 ** (gain / 20);
    for (const [at, { mix }] of plan.files.entries()) files.push(await SoundFile.open(to[at]!, mix.length, plan));
    const makers = plan.files.map(({ mix }, at) => new Maker(plan, mix, files[at]!));
    await through(path, plan, signal, (samples) => makers.forEach((one) => one.put(samples, factor)));
    for (const one of files) await one.end();
    await Promise.all(files.splice(0).map((one) => one.close()));
    const facts: SoundFacts[] = [];
    let same: boolean | null = plan.depth === null ? null : true;
    for (const [at, one] of makers.entries()) {
      if (signal.aborted) break;
      facts.push((await scanSound(to[at]!, null, signal)).facts);
      if (plan.depth !== null) same &&= one.hash.digest('hex') === (await digestOf(to[at]!, signal));
    }
    return { gain, held, clipped: makers.reduce((sum, { clipped }) => sum + clipped, 0), same, facts };
  } catch (error) {
    throw told(path, error);
  } finally {
    for (const one of files) await one.close();
  }
}
