import { closeSync, fstatSync, openSync, readSync } from 'node:fs';

/** Bytes that are read at once from the beginning: nearly every header lies within. */
const headBytes = 16_384;

/** A file that ends before it should; its message stands behind "it is cut short:". */
export class CutShort extends Error {}

/**
 * A file opened to look at its header and its end. Reading is synchronous: it happens in worker processes, in pieces of a
 * few KiB, and is several times quicker so.
 */
export class HeaderFile {
  readonly size: number;
  /** Milliseconds since 1970. */
  readonly modified: number;
  /** The first bytes, up to 16 KiB. */
  readonly head: Buffer;
  private readonly descriptor: number;

  /** @throws what the file system says */
  constructor(readonly path: string) {
    this.descriptor = openSync(path, 'r');
    try {
      const { size, mtimeMs } = fstatSync(this.descriptor);
      this.size = size;
      this.modified = mtimeMs;
      const head = Buffer.allocUnsafe(Math.min(headBytes, size));
      this.head = head.subarray(0, readSync(this.descriptor, head, 0, head.length, 0));
    } catch (error) {
      closeSync(this.descriptor);
      throw error;
    }
  }

  /** Bytes from a place in the file; fewer where it ends before. */
  read(at: number, length: number): Buffer {
    if (at >= 0 && at + length <= this.head.length) return this.head.subarray(at, at + length);
    const bytes = Buffer.allocUnsafe(Math.max(0, Math.min(length, this.size - at)));
    return bytes.subarray(0, readSync(this.descriptor, bytes, 0, bytes.length, at));
  }

  /** Exactly so many bytes. @throws CutShort where the file ends before */
  need(at: number, length: number): Buffer {
    const bytes = this.read(at, length);
    if (bytes.length < length) throw new CutShort('it ends within its header');
    return bytes;
  }

  close(): void {
    closeSync(this.descriptor);
  }
}
