import { setImmediate } from 'node:timers/promises';
import { avGetSampleFmtFromName, Frame } from 'node-av';
import { AV_NOPTS_VALUE, AVMEDIA_TYPE_AUDIO, AVSEEK_FLAG_BACKWARD } from 'node-av/constants';
import { channelNames, SoundMeter, WaveMaker, type SoundFacts, type Wave } from '@shale/core';
import { DecodedSound, samplesOf } from './decodedSound.ts';
import { Chain } from './graph.ts';
import { decoderOf, told } from './open.ts';
import { beginningOf, layoutName, layoutOf } from './soundTrack.ts';

/** Where in a file samples are: times of packets, in the stream's units, and the samples that were decoded before them. */
export interface SoundIndex {
  times: number[];
  samples: number[];
}

/** A sound, measured over all its samples. */
export interface ScannedSound {
  facts: SoundFacts;
  wave: Wave;
  index: SoundIndex;
}

/** Seconds between what is noted in an index, and those that are decoded before what is wanted: coders lean on what was before. */
const noted = 0.5;
const warm = 1.5;

/** Frames of sound between two moments at which a worker hears that nobody waits any more. */
const breath = 256;

/** What the library's meter of EBU R 128 calls nothing. */
const nothingHeard = -70;

/** Loudness and its range by EBU R 128, of samples that are given one after another. */
export class Loudness {
  private readonly out = new Frame();
  private loudness: string | null | undefined;
  private range: string | null | undefined;
  private done = 0;

  private constructor(
    private readonly chain: Chain,
    private readonly rate: number,
    private readonly channels: number,
  ) {
    this.out.alloc();
  }

  static async make(rate: number, channels: number): Promise<Loudness> {
    const input = `time_base=1/${rate}:sample_rate=${rate}:sample_fmt=dbl:channel_layout=${layoutName(channels)}`;
    const chain = await Chain.make(input, [['ebur128', 'metadata=1:framelog=quiet']], 'sound');
    return new Loudness(chain, rate, channels);
  }

  /** @param data interleaved, 1 for full scale */
  add(data: Float64Array): void {
    if (data.length === 0) return;
    const frame = Frame.fromAudioBuffer(Buffer.from(data.buffer, data.byteOffset, data.byteLength), {
      nbSamples: data.length / this.channels,
      format: avGetSampleFmtFromName('dbl'),
      sampleRate: this.rate,
      channelLayout: layoutOf(this.channels),
      timeBase: { num: 1, den: this.rate },
      pts: BigInt(this.done),
    });
    this.done += frame.nbSamples;
    this.chain.putNow(frame);
    frame.free();
    this.drain();
  }

  private drain(): void {
    while (this.chain.takeNow(this.out)) {
      const said = this.out.getMetadata();
      this.loudness = said?.get('lavfi.r128.I') ?? this.loudness;
      this.range = said?.get('lavfi.r128.LRA') ?? this.range;
      this.out.unref();
    }
  }

  /** In LUFS and LU; null where too little is heard. */
  end(): { integrated: number | null; range: number | null } {
    this.chain.putNow(null);
    this.drain();
    const heard = Number(this.loudness ?? nothingHeard) > nothingHeard;
    return { integrated: heard ? Number(this.loudness) : null, range: heard ? Number(this.range) : null };
  }

  close(): void {
    this.out.free();
    this.chain.free();
  }
}

/**
 * Decodes a whole sound and measures it. What cannot be decoded is passed over and told.
 * @param nth which of several streams, from 1; null for the one that a player would take
 * @param tell hears how many seconds are done
 * @throws ShaleError naming the file
 */
export async function scanSound(
  path: string,
  nth: number | null,
  signal?: AbortSignal,
  tell?: (seconds: number) => void,
): Promise<ScannedSound> {
  const sound = await DecodedSound.open(path, nth);
  const { rate, channels } = sound;
  const out = new Frame();
  out.alloc();
  let chain: Chain | undefined;
  let loudness: Loudness | undefined;
  try {
    chain = await sound.chain([['aformat', 'sample_fmts=dbl']]);
    loudness = await Loudness.make(rate, channels);
    const meter = new SoundMeter(rate, channels);
    const wave = new WaveMaker(channels);
    const index: SoundIndex = { times: [], samples: [] };
    let done = 0;
    let turn = 0;
    let damaged: SoundFacts['damaged'] = null;
    const drain = () => {
      while (chain!.takeNow(out)) {
        const data = samplesOf(out, channels, 8) as Float64Array;
        meter.add(data);
        wave.add(data);
        loudness!.add(data);
        out.unref();
      }
    };
    for (;;) {
      const frame = sound.next();
      if (sound.fault !== undefined) damaged ??= { at: done, fact: sound.fault };
      if (!frame || signal?.aborted) break;
      const last = index.samples.at(-1);
      if (frame.pts !== AV_NOPTS_VALUE && (last === undefined || done - last >= noted * rate)) {
        index.times.push(Number(frame.pts));
        index.samples.push(done);
      }
      frame.pts = BigInt(done);
      done += frame.nbSamples;
      chain.putNow(frame);
      drain();
      if ((turn += 1) % breath === 0) {
        tell?.(done / rate);
        await setImmediate();
      }
    }
    chain.putNow(null);
    drain();
    const measured = meter.end();
    const { integrated, range } = loudness.end();
    const heard = measured.sounds !== null;
    return {
      facts: {
        rate,
        channels,
        names: channelNames(channels),
        codec: decoderOf(sound.stream).name ?? 'unknown',
        depth: sound.depth,
        streams: sound.input.streams.filter(({ codecpar }) => codecpar.codecType === AVMEDIA_TYPE_AUDIO).length,
        begins: beginningOf(sound.input, sound.stream),
        loudness: heard ? integrated : null,
        range: heard ? range : null,
        damaged,
        ...measured,
      },
      wave: wave.end(),
      index,
    };
  } catch (error) {
    throw told(path, error);
  } finally {
    out.free();
    chain?.free();
    loudness?.close();
    await sound.close();
  }
}

/**
 * Samples of a sound, interleaved, 1 for full scale: the very ones that a whole decoding gives at that place. Fewer come where it ends.
 * @param from the first, from 0
 * @throws ShaleError naming the file
 */
export async function readSound(
  path: string,
  nth: number | null,
  index: SoundIndex,
  from: number,
  count: number,
): Promise<Float32Array<ArrayBuffer>> {
  return (
    (await readFrom(path, nth, index, from, count, true)) ?? (await readFrom(path, nth, index, from, count, false))!
  );
}

/** @returns undefined where what was gone to is not what the index says, and it has to be read from its beginning */
async function readFrom(
  path: string,
  nth: number | null,
  index: SoundIndex,
  from: number,
  count: number,
  seeks: boolean,
): Promise<Float32Array<ArrayBuffer> | undefined> {
  const sound = await DecodedSound.open(path, nth);
  const { rate, channels, stream, input } = sound;
  const known = new Map(index.times.map((time, at) => [time, index.samples[at]!]));
  const out = new Frame();
  out.alloc();
  let chain: Chain | undefined;
  try {
    chain = await sound.chain([['aformat', 'sample_fmts=flt']]);
    const entry = seeks ? index.samples.findLastIndex((at) => at <= from - warm * rate) : -1;
    let at: number | undefined = entry > 0 ? undefined : 0;
    if (entry > 0) {
      const time = BigInt(index.times[entry]!);
      if ((await input.seekFrame(stream.index, time, AVSEEK_FLAG_BACKWARD)) < 0) return undefined;
    }
    // Beyond that time what is noted should have come.
    const latest = (index.times[entry] ?? 0) + (2 * noted * stream.timeBase.den) / stream.timeBase.num;
    const wanted = new Float32Array(count * channels);
    let filled = 0;
    let agreed = 0;
    while (filled < count) {
      const frame = sound.next();
      if (!frame) break;
      const here = known.get(Number(frame.pts));
      // Containers that tell times by pages may tell others once they were gone to.
      if (seeks && at !== undefined && here !== undefined && here !== at) return undefined;
      if (here !== undefined) agreed += 1;
      at ??= here;
      if (at === undefined) {
        if (Number(frame.pts) > latest) return undefined;
        continue;
      }
      frame.pts = BigInt(at);
      at += frame.nbSamples;
      await chain.put(frame);
      while (await chain.take(out)) {
        const begun = Number(out.pts);
        const first = Math.max(0, from - begun);
        const length = Math.min(out.nbSamples, from + count - begun) - first;
        if (length > 0) {
          if (entry > 0 && agreed < 2) return undefined;
          const data = samplesOf(out, channels, 4).subarray(first * channels, (first + length) * channels);
          wanted.set(data, (begun + first - from) * channels);
          filled = begun + first - from + length;
        }
        out.unref();
      }
    }
    return at === undefined ? undefined : wanted.slice(0, filled * channels);
  } catch (error) {
    throw told(path, error);
  } finally {
    out.free();
    chain?.free();
    await sound.close();
  }
}
