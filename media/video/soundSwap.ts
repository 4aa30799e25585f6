import { createHash } from 'node:crypto';
import { Dictionary, FormatContext, Packet, type Stream } from 'node-av';
import {
  AV_CODEC_FLAG_GLOBAL_HEADER,
  AV_NOPTS_VALUE,
  AVMEDIA_TYPE_SUBTITLE,
  AVMEDIA_TYPE_VIDEO,
} from 'node-av/constants';
import { makeRate, type Fraction } from '@shale/core';
import { check } from './libav.ts';
import { openInput, streamOf, told } from './open.ts';
import { SoundTrack, type WantedSound } from './soundTrack.ts';

/** A sound that a clip is to have. */
export interface NewSound extends Pick<WantedSound, 'encoder' | 'depth' | 'bitrate'> {
  path: string;
  stream: number | null;
  /** Seconds by which it begins later than the picture; below 0 earlier. */
  delay: Fraction;
  /** Samples of its own by which it begins later still. */
  later: number;
}

/** What became of a clip with other sound. */
export interface Swapped {
  /** Packets of pictures that were taken over. */
  pictures: number;
  /** Whether the pictures that were read back are the clip's own, bit for bit, at the same times. */
  same: boolean;
  /** Streams that the result does not have. */
  left: number;
}

/** Streams that are taken over; times on tape go along as words of the pictures. */
const kept = (stream: Stream): boolean =>
  stream.codecpar.codecType === AVMEDIA_TYPE_VIDEO || stream.codecpar.codecType === AVMEDIA_TYPE_SUBTITLE;

/** How long a file's pictures are, in seconds as an exact fraction. */
async function lengthOf(path: string): Promise<{ num: number; den: number }> {
  const input = await openInput(path);
  const packet = new Packet();
  packet.alloc();
  try {
    const stream = streamOf(input, 'pictures');
    let [first, end] = [Infinity, 0];
    while (input.readFrameSync(packet) >= 0) {
      if (packet.streamIndex === stream.index && packet.pts !== AV_NOPTS_VALUE) {
        first = Math.min(first, Number(packet.pts));
        end = Math.max(end, Number(packet.pts) + Number(packet.duration));
      }
      packet.unref();
    }
    if (!(end > first)) throw new Error('it holds no picture');
    return { num: (end - first) * stream.timeBase.num, den: stream.timeBase.den };
  } finally {
    packet.free();
    await input.closeInput();
  }
}

/** A digest of a file's coded pictures and of when each is seen, counted from the first. */
async function picturesOf(path: string, signal: AbortSignal): Promise<{ digest: string; count: number }> {
  const input = await openInput(path);
  const packet = new Packet();
  packet.alloc();
  const hash = createHash('sha256');
  let count = 0;
  try {
    const stream = streamOf(input, 'pictures');
    const { num, den } = stream.timeBase;
    let first: number | undefined;
    while (!signal.aborted && input.readFrameSync(packet) >= 0) {
      if (packet.streamIndex === stream.index) {
        first ??= Number(packet.pts);
        hash.update(packet.data ?? Buffer.alloc(0));
        // To the tenth of a millisecond: containers count in parts of their own.
        hash.update(String(Math.round(((Number(packet.pts) - first) * num * 10_000) / den)));
        count += 1;
      }
      packet.unref();
    }
    return { digest: hash.digest('hex'), count };
  } finally {
    packet.free();
    await input.closeInput();
  }
}

/**
 * Writes a clip with other sound: its pictures are taken over as they are coded, its own sound is left out, each new one is cut or filled to their
 * length. @param container the library's name of it @param to a path that does not exist
 * @throws ShaleError naming the file that cannot be read
 */
export async function swapSound(
  clip: string,
  container: string,
  sounds: readonly NewSound[],
  to: string,
  signal: AbortSignal,
): Promise<Swapped> {
  const length = await lengthOf(clip).catch((error: unknown) => {
    throw told(clip, error);
  });
  const input = await openInput(clip);
  const output = new FormatContext();
  const packet = new Packet();
  packet.alloc();
  const tracks: { track: SoundTrack; stream: Stream }[] = [];
  let left = 0;
  try {
    output.allocOutputContext2(null, container, to);
    const streams = new Map<number, Stream>();
    for (const one of input.streams) {
      if (!kept(one)) {
        left += 1;
        continue;
      }
      const stream = output.newStream(null);
      check(one.codecpar.copy(stream.codecpar), 'taking a stream over');
      stream.timeBase = one.timeBase;
      stream.avgFrameRate = one.avgFrameRate;
      stream.sampleAspectRatio = one.sampleAspectRatio;
      stream.disposition = one.disposition;
      if (one.metadata) stream.metadata = one.metadata;
      streams.set(one.index, stream);
    }
    for (const { delay, ...sound } of sounds) {
      const track = await SoundTrack.open(
        { ...sound, from: { num: -delay.num, den: delay.den }, length: makeRate(length.num, length.den) },
        (context) => context.setFlags(AV_CODEC_FLAG_GLOBAL_HEADER),
      );
      const stream = output.newStream(null);
      stream.codecpar.fromContext(track.context);
      stream.timeBase = track.context.timeBase;
      tracks.push({ track, stream });
    }
    const pictures = streamOf(input, 'pictures');
    check(await output.openOutput(), 'opening the file');
    const moving = container === 'mp4' || container === 'mov';
    const options: Record<string, string> = moving ? { movflags: '+faststart+write_colr' } : {};
    // The container counts as the clip's did, so that no time is rounded.
    if (moving) options.video_track_timescale = String(pictures.timeBase.den);
    check(await output.writeHeader(Dictionary.fromObject(options)), 'beginning the file');
    const soundUpTo = async (seconds: number): Promise<void> => {
      for (const { track, stream } of tracks)
        while (track.seconds < seconds) {
          const more = await track.next(async (one) => {
            one.streamIndex = stream.index;
            one.rescaleTs(track.context.timeBase, stream.timeBase);
            check(await output.interleavedWriteFrame(one), 'writing');
          });
          if (!more) break;
        }
    };
    while (!signal.aborted && input.readFrameSync(packet) >= 0) {
      const stream = streams.get(packet.streamIndex);
      if (stream) {
        const from = input.streams[packet.streamIndex]!.timeBase;
        if (packet.streamIndex === pictures.index && packet.dts !== AV_NOPTS_VALUE)
          await soundUpTo((Number(packet.dts) * from.num) / from.den);
        packet.streamIndex = stream.index;
        packet.pos = -1n;
        packet.rescaleTs(from, stream.timeBase);
        check(await output.interleavedWriteFrame(packet), 'writing');
      }
      packet.unref();
    }
    await soundUpTo(Infinity);
    check(await output.writeTrailer(), 'ending the file');
  } catch (error) {
    throw told(clip, error);
  } finally {
    packet.free();
    for (const { track } of tracks) await track.close();
    await input.closeInput();
    await output.closeOutput();
  }
  const [before, after] = [await picturesOf(clip, signal), await picturesOf(to, signal)];
  return { pictures: after.count, same: before.digest === after.digest, left };
}
