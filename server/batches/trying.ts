import pLimit from 'p-limit';
import { problemOf, resultsOf, type BatchPart } from '@shale/core';
import type { TriedPart } from '@shale/contract';
import type { Workshop } from '../workshop.ts';

/** Results that are tried at once. */
const side = pLimit(4);

/** The frame in the middle of what is written: far from slates, fades and whatever is at the ends. */
function frameToTry({ plan }: BatchPart): number | undefined {
  const written = resultsOf(plan, 0, plan.frames).filter(({ kind, shot }) => kind === 'write' && shot === 0);
  return written[Math.floor(written.length / 2)]?.sourceFrame;
}

/** One result of each part that may run, made as a run would make it; nothing of them stays. */
export function tryMany(parts: readonly BatchPart[], { made }: Workshop, signal: AbortSignal): Promise<TriedPart[]> {
  const tryOne = async (part: BatchPart): Promise<TriedPart> => {
    const { source, output, plan } = part;
    const nothing = { source, output, sourceFrame: null, bytes: 0, check: 'none', most: 0 } as const;
    if (plan.problems[0]) return { ...nothing, problem: plan.problems[0] };
    const sourceFrame = frameToTry(part);
    if (sourceFrame === undefined) return { ...nothing, problem: null };
    try {
      const { bytes, check, most } = await made.tryOne(plan, sourceFrame, signal);
      return { source, output, sourceFrame, bytes, check, most, problem: null };
    } catch (error) {
      signal.throwIfAborted();
      return { ...nothing, sourceFrame, problem: problemOf(error) };
    }
  };
  return Promise.all(parts.map((part) => side(tryOne, part)));
}
