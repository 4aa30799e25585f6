import { readFile, writeFile } from 'node:fs/promises';
import { lacking, refuseAbsurdSize, type StillFormat } from './format.ts';
import type { HeaderFile } from './headerFile.ts';
import { profileFacts, readProfile, type Profile } from './icc.ts';
import { rateOfDelays, type Facts } from '@shale/core';
import { encodeWithSharp, readWithSharp } from './sharp.ts';

/** Size, alpha and way of coding by the first chunk (RFC 9649, sections 2.4 to 2.7). */
function firstChunk(file: HeaderFile): { width: number; height: number; hasAlpha: boolean; coding: string } {
  const head = file.need(0, 30);
  const kind = head.toString('latin1', 12, 16);
  if (kind === 'VP8X') {
    return {
      width: head.readUIntLE(24, 3) + 1,
      height: head.readUIntLE(27, 3) + 1,
      hasAlpha: (head[20]! & 0x10) !== 0,
      coding: 'extended',
    };
  }
  if (kind === 'VP8L') {
    const bits = head.readUInt32LE(21);
    return {
      width: (bits & 0x3fff) + 1,
      height: ((bits >>> 14) & 0x3fff) + 1,
      hasAlpha: ((bits >>> 28) & 1) === 1,
      coding: 'lossless',
    };
  }
  if (kind !== 'VP8 ') throw new Error('its first chunk is unknown to Shale');
  return {
    width: head.readUInt16LE(26) & 0x3fff,
    height: head.readUInt16LE(28) & 0x3fff,
    hasAlpha: false,
    coding: 'lossy',
  };
}

/** The profile of an extended file, right behind its first chunk (RFC 9649, section 2.7.1.4). */
function profileIn(file: HeaderFile): Profile | undefined {
  if (file.head.toString('latin1', 12, 16) !== 'VP8X' || (file.head[20]! & 0x20) === 0) return undefined;
  const head = file.need(30, 8);
  return head.toString('latin1', 0, 4) === 'ICCP' ? readProfile(file.need(38, head.readUInt32LE(4))) : undefined;
}

/** Pictures of an animation, and their rate where all stand equally long (RFC 9649, section 2.7.1.1). */
function animationOf(file: HeaderFile): Pick<Facts, 'pictures' | 'rate'> {
  if (file.head.toString('latin1', 12, 16) !== 'VP8X' || (file.head[20]! & 2) === 0) return {};
  const delays: number[] = [];
  for (let at = 30; at + 8 <= file.size && delays.length < 100_000;) {
    const head = file.read(at, 24);
    if (head.length < 8) break;
    if (head.toString('latin1', 0, 4) === 'ANMF' && head.length === 24) delays.push(head.readUIntLE(20, 3));
    const length = head.readUInt32LE(4);
    at += 8 + length + (length % 2);
  }
  if (delays.length < 2) return {};
  return { pictures: delays.length, rate: rateOfDelays(delays, 1000) };
}

/** WebP through libvips; an animation picture by picture. */
export const webp = {
  recognises: (head) => head.toString('latin1', 0, 4) === 'RIFF' && head.toString('latin1', 8, 12) === 'WEBP',
  header(file) {
    const { width, height, hasAlpha, coding } = firstChunk(file);
    refuseAbsurdSize(width, height);
    return {
      facts: {
        width,
        height,
        format: 'webp',
        sample: 'u8',
        channels: hasAlpha ? ['R', 'G', 'B', 'A'] : ['R', 'G', 'B'],
        hasAlpha,
        ...profileFacts(profileIn(file)),
        compression: coding,
        ...animationOf(file),
        more: [],
      },
      dataAt: 12,
      cutShort: lacking(file.size, file.head.readUInt32LE(4) + 8),
    };
  },
  read: async (path, _facts, picture) => readWithSharp(await readFile(path), 'u8', picture),
  async write(path, image, { lossless, quality }) {
    // Exact: the colour of clear pixels is kept as well. Effort 2 takes a third longer for 0 to 4 % fewer bytes.
    const how = lossless ? { lossless, exact: true, effort: 1 } : { quality, effort: 4 };
    await writeFile(path, await encodeWithSharp(image, (pipeline) => pipeline.webp(how)), { flag: 'wx' });
  },
} satisfies StillFormat;
