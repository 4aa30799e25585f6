import {
  FFmpegError,
  Frame,
  Packet,
  type CodecContext,
  type FormatContext,
  type Stream,
  AVERROR_EAGAIN,
} from 'node-av';
import { AV_CODEC_ID_FFV1, AV_NOPTS_VALUE, AVERROR_INVALIDDATA, AVSEEK_FLAG_BACKWARD } from 'node-av/constants';
import { makeRate, orient, picturesAfter, ShaleError, type Fields, type Image, type Rate } from '@shale/core';
import { Colouring } from './colouring.ts';
import { indexOf, keyAt, pictureAt, type ClipIndex, type Key } from './clipIndex.ts';
import { clipTraits, type ClipTraits } from './clipTraits.ts';
import { Ffv1Slices } from './ffv1Slices.ts';
import { nameOfFile } from '../heldFiles.ts';
import { FieldWork } from './fieldWork.ts';
import { check } from './libav.ts';
import { isEnd, openDecoder, openInput, picturesOf, told } from './open.ts';

/** Pictures this near ahead are reached by decoding on, wherever keys are. */
const near = 12;

/** Pictures that cannot be had, from one to another, and why. */
interface Gap {
  from: number;
  to: number;
  why: string;
}

/** What a reader gives. */
export interface ClipOptions {
  /** What becomes of pictures whose lines belong to two moments. */
  fields?: Fields;
  /** Which of several streams of pictures; null or absent for the main one. */
  layer?: string | null;
  /** Threads of the decoder. */
  threads?: number;
  /** Whether packets are read and decoded on the thread that asks: quicker for small pictures one after another, where nothing else waits. */
  here?: boolean;
}

/**
 * Reads any picture of a clip by its number in display order, from 0: whatever its keys, B-frames, edit lists and times are. Pictures
 * in order cost one decode each; others are reached from the key before them. What is damaged is refused by its number.
 */
export class ClipReader {
  private readonly packet = new Packet();
  private readonly frame = new Frame();
  private readonly gaps: Gap[] = [];
  /** The picture that the decoder gave last; -1 at the beginning, undefined where it has to be set anew. */
  private last: number | undefined = -1;
  /** Whether the picture in `frame` is whole. */
  private holds = false;
  private drained = false;
  /** Until a packet of this time comes, pictures on which no other is built are passed over. */
  private skipUntil = -Infinity;
  private skips = false;
  /** Calls are carried out one after another. */
  private queue: Promise<unknown> = Promise.resolve();
  /** Of a codec whose decoder hides damage. */
  private readonly slices: Ffv1Slices | undefined;
  private readonly colouring: Colouring;
  private fieldWork: FieldWork | undefined;
  private closed = false;

  private constructor(
    /** As messages name it. */
    private readonly name: string,
    private readonly input: FormatContext,
    private readonly stream: Stream,
    private readonly context: CodecContext,
    readonly index: ClipIndex,
    readonly traits: ClipTraits,
    private readonly fields: Fields,
    private readonly here: boolean,
  ) {
    this.packet.alloc();
    this.frame.alloc();
    for (const { first: from, last: to } of index.torn)
      this.gaps.push({ from, to, why: 'data before it is missing, and it depends on that data' });
    this.slices = stream.codecpar.codecId === AV_CODEC_ID_FFV1 ? new Ffv1Slices() : undefined;
    this.colouring = new Colouring({ matrix: traits.matrix.value, range: traits.range.value });
  }

  /** @param index what was read of the file before; without it all packets are read once. @throws ShaleError naming the file */
  static async open(
    path: string,
    { fields = 'keep', layer = null, threads = 1, here = false }: ClipOptions = {},
    index?: ClipIndex,
  ): Promise<ClipReader> {
    const input = await openInput(path);
    try {
      const stream = picturesOf(input, layer);
      const traits = clipTraits(stream);
      const known = index ?? (await indexOf(path, layer));
      if (known.times.length === 0) throw new Error('no picture is in it');
      const context = await openDecoder(stream, threads);
      return new ClipReader(nameOfFile(path), input, stream, context, known, traits, fields, here);
    } catch (error) {
      await input.closeInput();
      throw told(path, error);
    }
  }

  /** Seconds of a tick of the index. */
  get tick(): Rate {
    const { num, den } = this.stream.timeBase;
    return makeRate(num, den);
  }

  /** How many pictures there are. */
  get count(): number {
    return picturesAfter(this.index.times.length, this.fields);
  }

  /** A picture, upright, as RGB or grey. @throws ShaleError `no-such-frame`, `damaged-frame`, naming file and frame */
  picture(number: number): Promise<Image> {
    return this.inTurn(() => this.read(number));
  }

  /** Works on a frame as it was decoded; it is valid until `work` is done. */
  frameAt<T>(number: number, work: (frame: Frame) => Promise<T>): Promise<T> {
    return this.inTurn(async () => work(await this.decode(number)));
  }

  async close(): Promise<void> {
    if (this.closed) return;
    this.closed = true;
    await this.queue.catch(() => undefined);
    this.fieldWork?.free();
    await this.colouring.free();
    this.frame.free();
    this.packet.free();
    this.context.freeContext();
    await this.input.closeInput();
  }

  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    const done = this.queue.then(work);
    this.queue = done.catch(() => undefined);
    return done;
  }

  private async read(number: number): Promise<Image> {
    if (number < 0 || number >= this.count)
      throw this.refuse('no-such-frame', number, `there are ${this.count} pictures, counted from 0`);
    try {
      const image = await this.colouring.imageOf(
        this.fields === 'keep' ? await this.decode(number) : await this.worked(number, this.fields),
      );
      return orient(image, { turn: this.traits.turn, flip: 'none' });
    } catch (error) {
      if (error instanceof ShaleError) throw error;
      throw this.refuse('damaged-frame', number, (error as Error).message);
    }
  }

  /** A picture that is made of several stored ones. */
  private async worked(number: number, fields: Exclude<Fields, 'keep'>): Promise<Frame> {
    this.fieldWork ??= new FieldWork(fields, this.index.times.length, (at) => this.decode(at));
    return this.fieldWork.picture(number);
  }

  private refuse(code: string, number: number, why: string): ShaleError {
    return new ShaleError({
      code,
      fact: `Picture ${number} of ${this.name} cannot be read: ${why}.`,
      wayOut:
        code === 'no-such-frame'
          ? 'Choose an existing picture.'
          : 'Use the pictures before and after it, or ask for the clip again.',
      subject: String(number),
    });
  }

  /** The stored picture of a number in display order, in `frame` until the next one is asked for. */
  private async decode(number: number): Promise<Frame> {
    if (this.last === number && this.holds) return this.frame;
    this.refuseGap(number);
    // Where pictures are not timed there are no keys.
    const { keys } = this.index;
    const at = keyAt(this.index, number);
    const onward =
      this.last !== undefined &&
      this.last < number &&
      (number - this.last <= near || (keys[at]?.picture ?? 0) <= this.last + 1);
    if (onward && (await this.decodeUpTo(number))) return this.frame;
    // Keys at which some codecs begin lean on pictures before them: then one key further back, and the beginning at last.
    for (const from of [...keys.slice(Math.max(0, at - 2), at + 1).reverse(), undefined]) {
      this.refuseGap(number);
      await this.goTo(from);
      if (await this.decodeUpTo(number)) return this.frame;
    }
    this.refuseGap(number);
    const why = 'its data gives no picture';
    this.gaps.push({ from: number, to: number, why });
    throw this.refuse('damaged-frame', number, why);
  }

  private refuseGap(number: number): void {
    const gap = this.gapAt(number);
    if (gap) throw this.refuse('damaged-frame', number, gap.why);
  }

  private gapAt(number: number): Gap | undefined {
    return this.gaps.find(({ from, to }) => number >= from && number <= to);
  }

  /** Decodes on until a picture; false where it does not come. On the way there pictures on which no other is built are passed over. */
  private async decodeUpTo(number: number): Promise<boolean> {
    const { timed, times } = this.index;
    if (timed && number - (this.last ?? -1) > near) this.skipUntil = times[number]!;
    for (;;) {
      const at = await this.next();
      if (at === number) return true;
      if (at === undefined || at > number) {
        this.last = undefined;
        return false;
      }
    }
  }

  /** Begins to decode at a key, or at the beginning of the file. */
  private async goTo(key: Key | undefined): Promise<void> {
    this.context.flushBuffers();
    this.skipUntil = -Infinity;
    this.drained = false;
    this.holds = false;
    this.last = -1;
    const start = this.stream.startTime === AV_NOPTS_VALUE ? 0n : this.stream.startTime;
    // Some containers look keys up by the time of decoding, some by that of showing: what was reached is looked at.
    const tries = key ? [key.pts, key.dts] : [];
    for (const at of [...tries, start < 0n ? start : 0n]) {
      const code = await this.input.seekFrame(this.stream.index, at, AVSEEK_FLAG_BACKWARD);
      if (code < 0) continue;
      if (!key) return;
      const first = await this.peek();
      if (first !== undefined && first <= key.dts) return;
      this.packet.unref();
    }
    // No way back but from the beginning.
    check(await this.input.seekFrame(-1, 0n, AVSEEK_FLAG_BACKWARD), 'going to a picture');
    this.packet.unref();
    this.pending = false;
  }

  /** Whether `packet` holds one that was read and not yet decoded. */
  private pending = false;

  /** When the next packet of the stream is decoded, leaving it to be read. */
  private async peek(): Promise<bigint | undefined> {
    this.pending = false;
    for (;;) {
      const code = this.here ? this.input.readFrameSync(this.packet) : await this.input.readFrame(this.packet);
      if (code < 0) return undefined;
      if (this.packet.streamIndex === this.stream.index) break;
      this.packet.unref();
    }
    this.pending = true;
    return this.packet.dts === AV_NOPTS_VALUE ? this.packet.pts : this.packet.dts;
  }

  /** Decodes the next picture into `frame`; undefined at the end. */
  private async next(): Promise<number | undefined> {
    for (;;) {
      this.frame.unref();
      this.holds = false;
      const code = this.here ? this.context.receiveFrameSync(this.frame) : await this.context.receiveFrame(this.frame);
      if (code >= 0) {
        const number = this.numberOf(this.frame);
        // Pictures before the beginning that an edit list sets.
        if (number < 0) continue;
        this.last = number;
        if (this.frame.decodeErrorFlags !== 0) {
          this.lose(number, 'parts of it are missing');
          continue;
        }
        // A decoder may give what it made of data that it complained of.
        if (this.gapAt(number)) continue;
        this.holds = true;
        return number;
      }
      if (isEnd(code)) return undefined;
      if (code !== AVERROR_EAGAIN) {
        this.lose((this.last ?? -1) + 1, new FFmpegError(code).message);
        return undefined;
      }
      await this.feed();
    }
  }

  /** Tells the decoder to pass over pictures on which no other is built, or not to. */
  private skip(skips: boolean): void {
    if (skips === this.skips) return;
    this.skips = skips;
    check(this.context.setOption('skip_frame', skips ? 'noref' : 'default'), 'setting the decoder');
  }

  private numberOf(frame: Frame): number {
    if (!this.index.timed) return (this.last ?? -1) + 1;
    const time = frame.pts === AV_NOPTS_VALUE ? frame.bestEffortTimestamp : frame.pts;
    return pictureAt(this.index, Number(time));
  }

  private async feed(): Promise<void> {
    if (this.drained) return;
    if (!this.pending) {
      const first = await this.peek();
      if (first === undefined && !this.pending) {
        this.drained = true;
        check(await this.send(null), 'decoding');
        return;
      }
    }
    this.pending = false;
    const time = this.packet.pts === AV_NOPTS_VALUE ? this.packet.dts : this.packet.pts;
    if (Number(time) >= this.skipUntil) this.skipUntil = -Infinity;
    this.skip(this.skipUntil > -Infinity);
    const damaged = this.slices?.isDamaged(this.packet.data ?? new Uint8Array()) === true;
    const code = damaged ? AVERROR_INVALIDDATA : await this.send(this.packet);
    this.packet.unref();
    if (code >= 0 || code === AVERROR_EAGAIN) return;
    const number = this.index.timed ? pictureAt(this.index, Number(time)) : (this.last ?? -1) + 1;
    this.lose(Math.max(0, number), new FFmpegError(code).message);
    // What was decoded before it still comes out.
    this.drained = true;
    check(await this.send(null), 'decoding');
  }

  private send(packet: Packet | null): number | Promise<number> {
    return this.here ? this.context.sendPacketSync(packet) : this.context.sendPacket(packet);
  }

  /** Notes a picture whose data does not decode, and those after it up to the next key, which are built on it. */
  private lose(number: number, said: string): void {
    const next = this.index.keys.find(({ picture }) => picture > number)?.picture ?? this.index.times.length;
    this.gaps.push({
      from: number,
      to: next - 1,
      why: `the data of picture ${number} is damaged (${said}), and the pictures up to the next key depend on it`,
    });
  }
}
