import { pieceLength } from '../spec/video.ts';
import type { Plan } from './plan.ts';

/**
 * Bytes that a disk needs free for results of so many bytes: a video of several pieces is there twice while they are joined.
 * @param bytes of all results
 */
export function roomWanted({ into, spec, rate, frames }: Plan, bytes: number): number {
  const piece = into.kind === 'video' && rate ? pieceLength(spec.write.format, spec.video, rate) : null;
  return piece !== null && frames > piece ? 2 * bytes : bytes;
}
