import { open, type FileHandle } from 'node:fs/promises';
import { LRUCache } from 'lru-cache';
import { Frame, Packet, type FormatContext, type Stream, AVERROR_EAGAIN } from 'node-av';
import { AV_NOPTS_VALUE, AV_PKT_FLAG_CORRUPT, AV_PKT_FLAG_DISCARD } from 'node-av/constants';
import { coverageOf, type FrameRange } from '@shale/core';
import { fileIdentity } from '../fileIdentity.ts';
import { damaged, isEnd, openDecoder, picturesOf, withFile } from './open.ts';

/** A picture from which decoding can begin. */
export interface Key {
  /** Its number in display order. */
  picture: number;
  /** When it is shown and when it is decoded, in ticks. */
  pts: bigint;
  dts: bigint;
}

/** Where the pictures of a clip are: one pass over its packets, none decoded. */
export interface ClipIndex {
  /** When each picture begins, ticks of the stream's time base, in display order. */
  times: Float64Array;
  /** Bytes of each picture's packet, in display order. */
  bytes: Uint32Array;
  keys: Key[];
  /** How long the last picture is shown, in ticks; 0 where nothing says so. */
  last: number;
  /** Packets at the end that are not whole. */
  cut: number;
  /** Pictures that are built on packets that are lost or not whole, up to the next key. */
  torn: FrameRange[];
  /** Pictures that an edit list leaves out. */
  leftOut: number;
  /** False where packets lack times or share them: pictures are then counted as they come out of the decoder. */
  timed: boolean;
  /** What was counted: packets, or pictures where packets do not tell. */
  counted: 'packets' | 'pictures';
}

/** Which picture begins at a time; -1 where none does. */
export function pictureAt({ times }: Pick<ClipIndex, 'times'>, tick: number): number {
  let low = 0;
  let high = times.length - 1;
  while (low <= high) {
    const middle = (low + high) >> 1;
    if (times[middle]! === tick) return middle;
    if (times[middle]! < tick) low = middle + 1;
    else high = middle - 1;
  }
  return -1;
}

/** The place of the last key at or before a picture, in display order; -1 where there is none. */
export function keyAt({ keys }: Pick<ClipIndex, 'keys'>, picture: number): number {
  let low = 0;
  let high = keys.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (keys[middle]!.picture <= picture) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** A list of whole numbers that grows without a boxed value each. */
class Growing {
  private values = new Float64Array(4096);
  length = 0;
  push(value: number): void {
    if (this.length === this.values.length) {
      const larger = new Float64Array(this.length * 2);
      larger.set(this.values);
      this.values = larger;
    }
    this.values[this.length++] = value;
  }
  drop(): void {
    this.length = Math.max(0, this.length - 1);
  }
  get all(): Float64Array {
    return this.values.subarray(0, this.length);
  }
}

/** Pictures by which it is looked whether they come as packets say. */
const looked = 12;

/** Indexes that a process keeps, by file, modification and size. */
const kept = new LRUCache<string, Promise<ClipIndex>>({ max: 8 });

/**
 * Where the pictures of a file are. Its packets are read once; where they lack times, or where pictures do not come as packets say (two
 * packets may hold the fields of one), all pictures are decoded instead.
 * @param layer which of several streams of pictures; null for the main one @throws ShaleError naming the file
 */
export async function indexOf(path: string, layer: string | null = null): Promise<ClipIndex> {
  const key = `${await fileIdentity(path)}\0${layer ?? ''}`;
  let known = kept.get(key);
  if (!known) kept.set(key, (known = makeIndex(path, layer)));
  try {
    return await known;
  } catch (error) {
    kept.delete(key);
    throw error;
  }
}

async function makeIndex(path: string, layer: string | null): Promise<ClipIndex> {
  const index = withoutTornEnd(
    await withFile(path, async (input) => indexStream(input, picturesOf(input, layer), await endsTorn(path, input))),
  );
  if (index.times.length === 0) throw damaged(path, 'no picture is in it');
  if (index.timed) {
    const first = await decodeTimes(path, layer, looked);
    const known = index.times.subarray(0, first.times.length);
    // What is not whole at the end may be decoded all the same.
    const same = (time: number, at: number) => time === known[at] || (index.cut > 0 && at >= known.length);
    if (!first.whole || first.times.every(same)) return index;
  }
  const all = await decodeTimes(path, layer, Infinity);
  if (all.times.length === 0) return index;
  const rising = all.times.every((time, at) => at === 0 || time > all.times[at - 1]!);
  const times = Float64Array.from(all.times, (time, at) => (rising ? time : at));
  const starts = new Map(all.times.map((time, at) => [time, at]));
  const keys = rising
    ? index.keys.flatMap((key) => {
        const picture = starts.get(Number(key.pts));
        return picture === undefined ? [] : [{ ...key, picture }];
      })
    : [];
  const mean = Math.round(index.bytes.reduce((sum, bytes) => sum + bytes, 0) / times.length);
  return {
    ...index,
    // Where decoding was broken off there may be more.
    cut: index.cut + (all.whole ? 0 : 1),
    torn: [],
    times,
    bytes: new Uint32Array(times.length).fill(mean),
    keys,
    timed: rising,
    counted: 'pictures',
  };
}

/** Pictures at the end of a clip that is cut short among which some are missing: those that lean on what is lost come before it. */
const tornEnd = 16;

/** An index whose last pictures follow one another: of a clip that is cut short what comes after the first gap near its end is left out. */
function withoutTornEnd(index: ClipIndex): ClipIndex {
  const { times, cut, timed } = index;
  if (cut === 0 || !timed || times.length < 3) return index;
  const steps = Float64Array.from(times.subarray(1), (time, at) => time - times[at]!).sort();
  const usual = steps[steps.length >> 1]!;
  for (let at = Math.max(1, times.length - tornEnd); at < times.length; at += 1) {
    if (times[at]! - times[at - 1]! <= usual * 1.6) continue;
    const keys = index.keys.filter(({ picture }) => picture < at);
    return {
      ...index,
      times: times.subarray(0, at),
      bytes: index.bytes.subarray(0, at),
      keys,
      torn: index.torn.filter(({ last }) => last < at),
      cut: cut + times.length - at,
    };
  }
  return index;
}

/** When pictures begin, as they come out of the decoder from the file's beginning. @returns `whole` false where decoding failed */
function decodeTimes(path: string, layer: string | null, most: number): Promise<{ times: number[]; whole: boolean }> {
  return withFile(path, async (input) => {
    const stream = picturesOf(input, layer);
    const context = await openDecoder(stream, 1);
    const packet = new Packet();
    const frame = new Frame();
    packet.alloc();
    frame.alloc();
    const times: number[] = [];
    let ended = false;
    try {
      while (times.length < most) {
        const code = await context.receiveFrame(frame);
        if (code >= 0) {
          times.push(Number(frame.pts === AV_NOPTS_VALUE ? frame.bestEffortTimestamp : frame.pts));
          frame.unref();
          continue;
        }
        if (code !== AVERROR_EAGAIN) return { times, whole: isEnd(code) };
        if (ended) return { times, whole: true };
        const read = await input.readFrame(packet);
        ended = read < 0;
        if (!ended && packet.streamIndex !== stream.index) {
          packet.unref();
          continue;
        }
        const sent = await context.sendPacket(ended ? null : packet);
        packet.unref();
        if (sent < 0) return { times, whole: false };
      }
      return { times, whole: true };
    } finally {
      frame.free();
      packet.free();
      context.freeContext();
    }
  });
}

/** Where a packet ends, in seconds. */
function endOf(packet: Packet, input: FormatContext): number {
  const stream = input.streams[packet.streamIndex];
  const time = packet.pts === AV_NOPTS_VALUE ? packet.dts : packet.pts;
  if (!stream || time === AV_NOPTS_VALUE) return 0;
  return (Number(time + packet.duration) * stream.timeBase.num) / stream.timeBase.den;
}

/** Containers whose header tells the length; of others the library works it out of what there is. */
const tellLength = /^(mov|matroska|mxf)/;

/** Whether a file ends well before the length that its header tells. */
function endsEarly(input: FormatContext, end: number, count: number): boolean {
  if (!tellLength.test(input.iformat?.name ?? '') || input.duration <= 0n || count === 0) return false;
  // Matroska's length is written as where the last picture ends, also by what begins late.
  const begins = input.startTime !== AV_NOPTS_VALUE && !input.iformat!.name!.startsWith('matroska');
  const begin = begins ? Number(input.startTime) / 1e6 : 0;
  const lacks = Number(input.duration) / 1e6 + Math.max(0, begin) - end;
  // MXF counts in pictures; of others the last one's length may not be told.
  const few = input.iformat!.name === 'mxf' ? 0.5 : 1.5;
  return lacks > Math.max(few * 0.02, (few * Math.max(0, end)) / count);
}

/** What is wrong with a packet: data of its own is lost, or of one before it on which its picture is built. */
const notWhole = 2;
const leaning = 1;

/** Bytes of a packet of a transport stream (ISO/IEC 13818-1, 2.4.3.2), of which each begins with the same byte. */
const transport = { packet: 188, sync: 0x47, looked: 2048 };
/** A page of Ogg is at most so long (RFC 3533, section 6); the fifth bit of its sixth byte says that it is a stream's last. */
const ogg = { page: 65_307, flags: 5, last: 4 };

/** By container: whether a file is broken off, by its own marks, where the library tells nothing of it. */
const brokenOff: Record<string, (file: FileHandle, size: number) => Promise<boolean>> = {
  async mpegts(file, size) {
    const { packet, sync, looked } = transport;
    const { buffer, bytesRead } = await file.read(Buffer.alloc(looked), 0, looked, 0);
    const begins = buffer.findIndex(
      (byte, at) => byte === sync && buffer[at + packet] === sync && buffer[at + 2 * packet] === sync,
    );
    // Of packets with time codes or checksums the length is another.
    return begins >= 0 && bytesRead === looked && (size - begins) % packet !== 0;
  },
  async avi(file, size) {
    // The length of the first of its chunks, which is all of a file below 1 GiB.
    const { buffer } = await file.read(Buffer.alloc(8), 0, 8, 0);
    return buffer.readUInt32LE(4) + 8 > size;
  },
  async ogg(file, size) {
    const length = Math.min(size, ogg.page);
    const { buffer } = await file.read(Buffer.alloc(length), 0, length, size - length);
    const page = buffer.lastIndexOf('OggS');
    return page < 0 || ((buffer[page + ogg.flags] ?? 0) & ogg.last) === 0;
  },
};

/** Whether a file ends within what belongs to it, and its last picture with it. */
async function endsTorn(path: string, input: FormatContext): Promise<boolean> {
  const asks = brokenOff[input.iformat?.name ?? ''];
  if (!asks) return false;
  const file = await open(path);
  try {
    return await asks(file, (await file.stat()).size);
  } finally {
    await file.close();
  }
}

/** What the packets of a stream tell, one after another in the order in which they are decoded. */
class Packets {
  private readonly pts = new Growing();
  private readonly dts = new Growing();
  private readonly bytes = new Growing();
  private readonly isKey = new Growing();
  private readonly torn = new Growing();
  private timed = true;
  private leftOut = 0;
  /** Packets at the end that are not whole. */
  private cut = 0;
  private lastPts = -Infinity;
  private last = 0;
  /** Whether data was lost since the last key, and whether any was before it, on which pictures shown before the key are built. */
  private readonly lost = { now: false, beforeKey: false, key: -Infinity };

  /** @param delays how many pictures the decoder holds back: those without a time of showing cannot be ordered */
  constructor(private readonly delays: number) {}

  take(packet: Packet): void {
    const whole = (packet.flags & AV_PKT_FLAG_CORRUPT) === 0;
    const hasTime = packet.pts !== AV_NOPTS_VALUE;
    const isTimed = hasTime || packet.dts !== AV_NOPTS_VALUE;
    if (!whole) this.lost.now = true;
    if (!whole && !isTimed) this.cut += 1;
    else if ((packet.flags & AV_PKT_FLAG_DISCARD) !== 0) this.leftOut += 1;
    else {
      if (!isTimed || (!hasTime && this.delays > 0)) this.timed = false;
      const time = hasTime ? Number(packet.pts) : Number(packet.dts);
      this.torn.push(this.tornBy(packet.isKeyframe, whole, time));
      this.pts.push(this.timed ? time : this.pts.length);
      this.dts.push(packet.dts === AV_NOPTS_VALUE ? time : Number(packet.dts));
      this.bytes.push(packet.size);
      this.isKey.push(packet.isKeyframe ? 1 : 0);
      if (time > this.lastPts) {
        this.lastPts = time;
        this.last = Number(packet.duration);
      }
    }
  }

  private tornBy(isKey: boolean, whole: boolean, time: number): number {
    const { lost } = this;
    if (!whole) return notWhole;
    this.cut = 0;
    // A parser may put what is lost of one picture down to the one before it: whether a key is whole its decoder says.
    if (isKey) Object.assign(lost, { now: false, beforeKey: lost.now, key: time });
    return lost.now || (lost.beforeKey && time < lost.key) ? leaning : 0;
  }

  private dropLast(): void {
    this.cut += 1;
    for (const list of [this.pts, this.dts, this.bytes, this.isKey, this.torn]) list.drop();
  }

  /** Brings them into the order in which they are shown. @param readFails whether reading ended with an error */
  index({
    readFails,
    endsTorn,
    endsEarly,
  }: {
    readFails: boolean;
    endsTorn: boolean;
    endsEarly(count: number): boolean;
  }): ClipIndex {
    if (readFails) this.cut += 1;
    while (this.torn.all.at(-1) === notWhole) this.dropLast();
    if (endsTorn && this.cut === 0 && this.pts.length > 1) this.dropLast();
    const count = this.pts.length;
    if (this.cut === 0 && endsEarly(count)) this.cut = 1;
    const order = Uint32Array.from({ length: count }, (_, at) => at);
    const [time, decode, size, key, torn] = [this.pts.all, this.dts.all, this.bytes.all, this.isKey.all, this.torn.all];
    if (this.timed) order.sort((a, b) => time[a]! - time[b]!);
    const timed = this.timed && order.every((place, at) => at === 0 || time[place]! !== time[order[at - 1]!]!);
    const places = timed ? [...order.keys()] : [];
    return {
      times: Float64Array.from(order, (place, at) => (timed ? time[place]! : at)),
      bytes: Uint32Array.from(order, (place) => size[place]!),
      keys: places
        .filter((picture) => key[order[picture]!] === 1)
        .map((picture) => ({ picture, pts: BigInt(time[order[picture]!]!), dts: BigInt(decode[order[picture]!]!) })),
      last: this.last,
      cut: this.cut,
      torn: coverageOf(places.filter((picture) => torn[order[picture]!] !== 0)),
      leftOut: this.leftOut,
      timed,
      counted: 'packets',
    };
  }
}

/**
 * Reads all packets of a stream from the file's beginning. Pictures that an edit list leaves out are not in it.
 * @param isTorn whether the last packet is not whole, which nothing else tells
 */
export async function indexStream(input: FormatContext, stream: Stream, isTorn = false): Promise<ClipIndex> {
  const packet = new Packet();
  packet.alloc();
  const packets = new Packets(stream.codecpar.videoDelay);
  /** Where the last packet of any stream ends, in seconds. */
  let end = 0;
  try {
    for (;;) {
      const code = await input.readFrame(packet);
      if (code < 0)
        return packets.index({
          readFails: !isEnd(code),
          endsTorn: isTorn,
          endsEarly: (count) => endsEarly(input, end, count),
        });
      end = Math.max(end, endOf(packet, input));
      if (packet.streamIndex === stream.index) packets.take(packet);
      packet.unref();
    }
  } finally {
    packet.free();
  }
}
