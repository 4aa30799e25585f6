import { open, type FileHandle } from 'node:fs/promises';
import { createReadStream } from 'node:fs';
import { Packet } from 'node-av';
import { AV_PKT_DATA_MATROSKA_BLOCKADDITIONAL } from 'node-av/constants';

/**
 * Packets of an encoder in a file of our own, which lives only while its video is made: each is its times (three whole numbers
 * of 64 bits, counting pictures), its flags and the lengths of two blocks (32 bits each), all little-endian, and the blocks:
 * its bytes, and what Matroska keeps beside them (the alpha of a VP9 picture).
 */
const headBytes = 36;

/** Writes packets, one after another. */
export class PacketFile {
  private constructor(private readonly file: FileHandle) {}

  static async create(path: string): Promise<PacketFile> {
    return new PacketFile(await open(path, 'w'));
  }

  async put(packet: Packet): Promise<void> {
    const data = packet.data ?? Buffer.alloc(0);
    const beside = packet.getSideData(AV_PKT_DATA_MATROSKA_BLOCKADDITIONAL) ?? Buffer.alloc(0);
    const head = Buffer.alloc(headBytes);
    head.writeBigInt64LE(packet.pts, 0);
    head.writeBigInt64LE(packet.dts, 8);
    head.writeBigInt64LE(packet.duration, 16);
    head.writeInt32LE(packet.flags, 24);
    head.writeUInt32LE(data.length, 28);
    head.writeUInt32LE(beside.length, 32);
    await this.file.appendFile(Buffer.concat([head, data, beside]));
  }

  /** The sound of a video goes in once its pieces are put together. */
  async soundUpTo(): Promise<void> {}

  /** Flushes it to the disk. */
  async finish(): Promise<void> {
    await this.file.datasync();
  }

  async close(): Promise<void> {
    await this.file.close();
  }
}

/** The packets of a file, their times later by some pictures. Each is good until the next is asked for. */
export async function* packetsOf(path: string, later: number): AsyncGenerator<Packet> {
  const packet = new Packet();
  packet.alloc();
  let held: Buffer = Buffer.alloc(0);
  try {
    for await (const piece of createReadStream(path, { highWaterMark: 1 << 20 })) {
      held = held.length === 0 ? (piece as Buffer) : Buffer.concat([held, piece as Buffer]);
      for (;;) {
        if (held.length < headBytes) break;
        const [bytes, beside] = [held.readUInt32LE(28), held.readUInt32LE(32)];
        const end = headBytes + bytes + beside;
        if (held.length < end) break;
        packet.data = held.subarray(headBytes, headBytes + bytes);
        packet.pts = held.readBigInt64LE(0) + BigInt(later);
        packet.dts = held.readBigInt64LE(8) + BigInt(later);
        packet.duration = held.readBigInt64LE(16);
        packet.flags = held.readInt32LE(24) as Packet['flags'];
        if (beside > 0) packet.addSideData(AV_PKT_DATA_MATROSKA_BLOCKADDITIONAL, held.subarray(headBytes + bytes, end));
        held = held.subarray(end);
        yield packet;
        packet.unref();
      }
    }
    if (held.length > 0) throw new Error(`${held.length} bytes are left over: the file is cut short`);
  } finally {
    packet.free();
  }
}
