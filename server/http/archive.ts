import { createHash } from 'node:crypto';
import type { Stats } from 'node:fs';
import { stat } from 'node:fs/promises';
import { Transform, type TransformCallback } from 'node:stream';
import { ZipArchive } from 'archiver';
import type { Request, Response } from 'express';
import { ShaleError, writeSums, type Written } from '@shale/core';

/** A file that a job wrote, as an archive needs it; its name may have folders. */
export type WrittenFile = Pick<Written, 'name' | 'bytes' | 'sha256'> & {
  /** Where it lies, absolute. */
  path: string;
};

/** What is handed over in one file. */
export interface Handed {
  /** Of the archive and of the folder within it. */
  name: string;
  files: readonly WrittenFile[];
  /** The moment that everything in it bears: the same archive comes of the same files. */
  at: Date;
}

/** The greatest number of four bytes: beyond it a ZIP needs the records of its large form (APPNOTE.TXT 6.3.10, 4.3.14 to 4.5.3). */
const large = 0xffff_ffff;

/**
 * Bytes of an archive whose files are stored as they are, one after another, each with its sizes behind it, the last without
 * (APPNOTE.TXT 6.3.10, 4.3.7, 4.3.9, 4.3.12 and 4.3.16).
 */
export function archiveLength(entries: readonly { name: string; bytes: number }[]): number {
  let central = 0;
  let at = 0;
  for (const [place, { name, bytes }] of entries.entries()) {
    const letters = Buffer.byteLength(name);
    const isLarge = bytes > large;
    const isLast = place === entries.length - 1;
    central += 46 + letters + (isLarge || at > large ? 28 : 0);
    at += 30 + letters + bytes + (isLast ? 0 : isLarge ? 24 : 16);
  }
  const isLarge = entries.length > 0xffff || at > large || central > large;
  return at + central + 22 + (isLarge ? 76 : 0);
}

/** Lets through a stretch of what comes, and ends after it. */
class Stretch extends Transform {
  private at = 0;

  /** @param last the last byte of it, within it */
  constructor(
    private readonly first: number,
    private readonly last: number,
  ) {
    super();
  }

  override _transform(piece: Buffer, _encoding: BufferEncoding, done: TransformCallback): void {
    const before = this.at;
    this.at += piece.length;
    if (before <= this.last) {
      const part = piece.subarray(Math.max(0, this.first - before), this.last + 1 - before);
      if (part.length > 0) this.push(part);
      if (this.at > this.last) this.push(null);
    }
    done();
  }

  override _flush(done: TransformCallback): void {
    done(this.at > this.last ? null : new Error('what was to come is cut short'));
  }
}

/** An archive holds what its receipt says: a file that is gone or has another size is told, not left out. */
async function refuseChanged({ files }: Handed): Promise<Stats[]> {
  const all: Stats[] = [];
  for (const { name, bytes, path } of files) {
    const told = await stat(path).catch(() => undefined);
    if (told?.size === bytes) all.push(told);
    else
      throw new ShaleError({
        code: 'source-changed',
        fact: told ? `${name} was changed after it was written.` : `${name} no longer exists.`,
        wayOut: 'Run the conversion again into another folder.',
        subject: name,
      });
  }
  return all;
}

/** The stretch of so many bytes that is asked for; all of them where none is, or the archive is no longer the one that was begun. */
function stretchOf(request: Request, length: number, tag: string): { first: number; last: number } | 'none' {
  const all = { first: 0, last: length - 1 };
  const unlike = request.headers['if-range'];
  if (unlike !== undefined && unlike !== tag) return all;
  const asked = request.range(length);
  if (asked === undefined || asked === -2) return all;
  if (asked === -1) return 'none';
  const [only] = asked;
  return asked.type === 'bytes' && asked.length === 1 && only ? { first: only.start, last: only.end } : all;
}

/**
 * Sends files as one ZIP archive, of a length that is told before, from the byte that is asked for: a download that was broken
 * off goes on (RFC 9110, section 14). @throws ShaleError `source-changed`
 */
export async function sendArchive(request: Request, response: Response, handed: Handed): Promise<void> {
  const { name, files, at } = handed;
  const stats = await refuseChanged(handed);
  const sums = writeSums([...files]);
  const manifest = { name: `${name}/manifest.sha256`, bytes: Buffer.byteLength(sums) };
  const entries = files.map((file) => ({ name: `${name}/${file.name}`, bytes: file.bytes }));
  const length = archiveLength([...entries, manifest]);
  const tag = `"${createHash('sha256').update(`${name}\0${at.getTime()}\0${sums}`).digest('hex').slice(0, 32)}"`;
  response.attachment(`${name}.zip`).set({ 'Accept-Ranges': 'bytes', ETag: tag });
  const stretch = stretchOf(request, length, tag);
  if (stretch === 'none') {
    response.status(416).set('Content-Range', `bytes */${length}`).end();
    return;
  }
  const { first, last } = stretch;
  if (first > 0 || last < length - 1) response.status(206).set('Content-Range', `bytes ${first}-${last}/${length}`);
  response.set('Content-Length', String(last - first + 1));
  if (request.method === 'HEAD') {
    response.end();
    return;
  }
  // Pictures do not shrink any further: they are stored as they are.
  const archive = new ZipArchive({ store: true, forceLocalTime: false });
  archive.on('error', () => response.destroy());
  // Who gives the download up leaves no file open.
  response.once('close', () => !response.writableFinished && archive.abort());
  const through = new Stretch(first, last);
  through.on('error', () => response.destroy());
  if (last < length - 1) through.once('end', () => archive.abort());
  archive.pipe(through).pipe(response);
  for (const [place, entry] of entries.entries())
    archive.file(files[place]!.path, { name: entry.name, date: at, mode: 0o644, stats: stats[place]! });
  archive.append(sums, { name: manifest.name, date: at, mode: 0o644 });
  await archive.finalize();
}
