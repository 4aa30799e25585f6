import { crc32 } from 'node:zlib';
import { problemOf, type Facts, type Problem } from '@shale/core';
import { headerOf, openStill, type HeaderFile } from './formats/index.ts';

/** What a look at a still's header, end and some of its data gave. */
export interface Look {
  facts?: Facts;
  /** Why there are no facts, or why the file is not whole. */
  problem?: Problem;
  /** Bytes of picture data: the file without its header. */
  picture: number;
  /** CRC-32 over samples of the picture data, never 0; 0 where the header could not be read. */
  content: number;
  /** Bytes and modification when it was looked at. */
  size: number;
  modified: number;
}

/** Places in the data that are sampled, and bytes at each. */
const samples = 4;
const sampleBytes = 4096;

/** Where the samples are taken: evenly, the first and the last bytes included; all of it where it is small. */
function contentOf(file: HeaderFile, dataAt: number): number {
  const length = file.size - dataAt;
  if (length <= samples * sampleBytes) return crc32(file.read(dataAt, length)) || 1;
  let sum = 0;
  for (let index = 0; index < samples; index += 1) {
    const at = dataAt + Math.floor(((length - sampleBytes) * index) / (samples - 1));
    sum = crc32(file.read(at, sampleBytes), sum);
  }
  return sum || 1;
}

/** Looks at a still without decoding it. Never throws: what is wrong is in the answer. */
export async function lookAt(path: string): Promise<Look> {
  let file: HeaderFile;
  try {
    file = openStill(path);
  } catch (error) {
    return { problem: problemOf(error), picture: 0, content: 0, size: 0, modified: 0 };
  }
  const { size, modified } = file;
  try {
    const { facts, dataAt } = await headerOf(file);
    return { facts, picture: size - dataAt, content: contentOf(file, dataAt), size, modified };
  } catch (error) {
    return { problem: problemOf(error), picture: 0, content: 0, size, modified };
  } finally {
    file.close();
  }
}

/** Bytes compared at once. */
const block = 1 << 20;

/**
 * Whether two stills have the same picture data, byte for byte; headers may differ.
 * @returns undefined where one of them cannot be read
 */
export async function samePicture(first: string, second: string): Promise<boolean | undefined> {
  const open: HeaderFile[] = [];
  try {
    for (const path of [first, second]) open.push(openStill(path));
    const [a, b] = open as [HeaderFile, HeaderFile];
    const from = [(await headerOf(a)).dataAt, (await headerOf(b)).dataAt] as const;
    const length = a.size - from[0];
    if (length !== b.size - from[1]) return false;
    for (let at = 0; at < length; at += block) {
      const bytes = Math.min(block, length - at);
      if (!a.read(from[0] + at, bytes).equals(b.read(from[1] + at, bytes))) return false;
    }
    return true;
  } catch {
    return undefined;
  } finally {
    for (const file of open) file.close();
  }
}
