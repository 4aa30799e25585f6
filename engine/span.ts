import pLimit from 'p-limit';
import type { ShaleError } from '@shale/core';
import { problemOf, resultsOf, type Failure, type Plan, type Written } from '@shale/core';
import { stopCodes } from './files.ts';
import { FrameMaker, type Places } from './frame.ts';

/** A stretch of a plan's results: `indices` count written files from 0. */
export interface Span {
  plan: Plan;
  places: Places;
  job: string;
  indices: number[];
}

/** Told of each result as it is done. */
export type FrameEvent = { kind: 'written'; written: Written } | { kind: 'failed'; index: number; failure: Failure };

/** Frames of a span that are in work at once: one is decoded or encoded while another is calculated. */
export const lanes = 2;

/**
 * Carries a span out. A frame that fails is told and the others go on.
 * @throws ShaleError of a stop code (disk full, folder gone, not writable): nothing further is begun
 */
export async function runSpan(span: Span, onFrame: (event: FrameEvent) => void, signal?: AbortSignal): Promise<void> {
  const maker = new FrameMaker(span.plan, span.places, span.job);
  const lane = pLimit(lanes);
  let stopped: ShaleError | undefined;
  await Promise.all(
    span.indices.map((index) =>
      lane(async () => {
        if (stopped || signal?.aborted) return;
        const [row] = resultsOf(span.plan, index, index + 1);
        try {
          onFrame({ kind: 'written', written: await maker.make(row!, index) });
        } catch (error) {
          const problem = problemOf(error);
          if (stopCodes.has(problem.code)) stopped ??= error as ShaleError;
          else {
            const name = row!.to.slice(row!.to.lastIndexOf('/') + 1);
            onFrame({
              kind: 'failed',
              index,
              failure: { ...problem, frame: row!.frame, sourceFrame: row!.sourceFrame, name },
            });
          }
        }
      }),
    ),
  );
  if (stopped) throw stopped;
}
