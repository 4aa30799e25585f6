import { open } from 'node:fs/promises';
import type { Image, SampleFormat } from '@shale/core';

/**
 * Room of pictures and files that are done with, taken again by the next ones: a span of frames asks for the same room again and again,
 * and each time the machine would clear new pages and the engine sweep for old ones.
 */
const free: ArrayBuffer[] = [];

/** Room that is kept while nobody needs it, bytes and pieces: what goes beyond is left to the engine, the oldest first. */
const keptAtMost = 96 << 20;
const piecesAtMost = 16;

/** What was handed out and may come back, each once. */
const handedOut = new WeakSet<ArrayBufferLike>();

const bytesOf: Record<SampleFormat, number> = { u8: 1, u10: 2, u12: 2, u16: 2, f16: 2, f32: 4 };

/** Room of so many bytes or, where `slack` allows, of some more; what it held before is still there. */
function take(bytes: number, slack: number): ArrayBuffer {
  const at = free.findIndex(({ byteLength }) => byteLength >= bytes && byteLength <= bytes + slack);
  const room = at < 0 ? new ArrayBuffer(bytes + (slack >> 1)) : free.splice(at, 1)[0]!;
  handedOut.add(room);
  return room;
}

function giveBack(room: ArrayBufferLike): void {
  if (!handedOut.delete(room)) return;
  free.push(room as ArrayBuffer);
  let sum = free.reduce((all, { byteLength }) => all + byteLength, 0);
  while (sum > keptAtMost || free.length > piecesAtMost) sum -= free.shift()!.byteLength;
}

/** Samples for whoever writes every one of them: they are not 0. @param more bytes behind them that belong to the same room */
export function roomFor(sample: SampleFormat, length: number, more = 0): Image['data'] {
  const room = take(length * bytesOf[sample] + more, 0);
  if (sample === 'u8') return new Uint8Array(room, 0, length);
  return sample === 'f32' ? new Float32Array(room, 0, length) : new Uint16Array(room, 0, length);
}

/** Gives the room of a picture back. Nobody may look at it afterwards; what is not of {@link roomFor} stays what it is. */
export const doneWith = ({ data }: Pick<Image, 'data'>): void => giveBack(data.buffer);

/** A file's bytes for as long as `work` looks at them. @throws what the system says, and what `work` throws */
export async function withBytes<T>(path: string, work: (bytes: Buffer) => T | Promise<T>): Promise<T> {
  const file = await open(path, 'r');
  try {
    const { size } = await file.stat();
    const room = take(size, (size >> 2) & ~7);
    try {
      const bytes = Buffer.from(room, 0, size);
      let came = 0;
      for (let more = 1; came < size && more > 0; came += more)
        more = (await file.read(bytes, came, size - came, came)).bytesRead;
      return await work(bytes.subarray(0, came));
    } finally {
      giveBack(room);
    }
  } finally {
    await file.close();
  }
}
