import { avGetPixFmtName, type AVPixelFormat, type Stream } from 'node-av';
import { AV_PKT_DATA_DISPLAYMATRIX } from 'node-av/constants';
import type { ClipFacts } from '@shale/core';
import { codingOf } from './colouring.ts';

/** What a stream's header says of how its pictures are to be taken. */
export type ClipTraits = Pick<ClipFacts, 'pixels' | 'matrix' | 'range' | 'turn'>;

/** Its turn is worked on decoding; a mirror is left to whoever converts it, as the facts of its orientation. */
export const mirrorOf = ({ codecpar }: Stream): 2 | undefined =>
  isMirrored(codecpar.getCodedSideData(AV_PKT_DATA_DISPLAYMATRIX)) ? 2 : undefined;

/** Whether a display matrix mirrors: its determinant is below 0. */
function isMirrored(matrix: Buffer | null): boolean {
  if (!matrix || matrix.length < 36) return false;
  const [a, b, c, d] = [0, 4, 12, 16].map((at) => matrix.readInt32LE(at)) as [number, number, number, number];
  return a * d - b * c < 0;
}

/**
 * Clockwise turn in degrees by a display matrix: nine whole numbers of 32 bits (ISO/IEC 14496-12, 8.3.2), whose first two are the
 * cosine and the sine of the turn. Turns that are no quarter are taken as none; of a mirror it is the turn before its flip across.
 */
export function turnOf(matrix: Buffer | null): ClipFacts['turn'] {
  if (!matrix || matrix.length < 36) return 0;
  const cosine = matrix.readInt32LE(0) * (isMirrored(matrix) ? -1 : 1);
  const degrees = (Math.atan2(matrix.readInt32LE(4), cosine) * 180) / Math.PI;
  const quarter = (((Math.round(degrees / 90) * 90) % 360) + 360) % 360;
  return Math.abs(degrees - Math.round(degrees / 90) * 90) < 1 ? (quarter as ClipFacts['turn']) : 0;
}

export function clipTraits({ codecpar }: Stream): ClipTraits {
  const pixels = avGetPixFmtName(codecpar.format as AVPixelFormat) ?? '';
  return {
    pixels,
    ...codingOf(pixels, codecpar.height, codecpar.colorSpace, codecpar.colorRange),
    turn: turnOf(codecpar.getCodedSideData(AV_PKT_DATA_DISPLAYMATRIX)),
  };
}
