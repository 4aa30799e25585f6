import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { open } from 'node:fs/promises';
import { c4Of, sumOf, type SumKind } from '@shale/core';
import { diskAddon } from './disk/addon.ts';

/** Several digests of what is behind a descriptor, by one reading: hexadecimal, but for C4, which has a form of its own. */
export async function digestsOf(fd: number, kinds: readonly string[]): Promise<Record<string, string>> {
  const hashes = new Map(kinds.map((kind) => [kind, createHash(kind === 'c4' ? 'sha512' : kind)]));
  for await (const piece of createReadStream('', { fd, autoClose: false, start: 0, highWaterMark: 1 << 20 }))
    for (const hash of hashes.values()) hash.update(piece as Buffer);
  return Object.fromEntries(
    [...hashes].map(([kind, hash]) => [kind, kind === 'c4' ? c4Of(hash.digest('hex')) : hash.digest('hex')]),
  );
}

/** A checksum of what is behind a descriptor, as a receipt keeps those of files that were read. */
export const sumOfFile = async (fd: number, kind: SumKind = 'xxh128'): Promise<string> =>
  sumOf(kind, await (kind === 'xxh128' ? diskAddon.xxh128(fd) : digestOf(fd)));

/** SHA-256 of what is behind a descriptor, in hexadecimal. */
export const digestOf = async (fd: number): Promise<string> => (await digestsOf(fd, ['sha256'])).sha256!;

/** SHA-256 of a file, in hexadecimal. */
export async function digestOfFile(path: string): Promise<string> {
  const file = await open(path, 'r');
  try {
    return await digestOf(file.fd);
  } finally {
    await file.close();
  }
}
