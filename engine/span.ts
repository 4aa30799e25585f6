import pLimit from 'p-limit';
import { isVideo, problemOf, resultsOf, type Failure, type Plan, type Written } from '@shale/core';
import { stopCodes } from './files.ts';
import { Company, type CompanyOf } from './company.ts';
import { FrameMaker, type Places } from './frame.ts';
import type { Expected } from './stamps.ts';

/** A stretch of a plan's results: `indices` count written files from 0. */
export interface Span {
  plan: Plan;
  places: Places;
  job: string;
  indices: number[];
  /** What its files are to be. */
  expected?: Expected;
  /** Results among them that take the place of the file that has their name. */
  again?: readonly number[];
  /** Spans of other plans that are made of the same pictures, at the same time. */
  company?: CompanyOf;
}

/** Told of each result as it is done. */
export type FrameEvent = { kind: 'written'; written: Written } | { kind: 'failed'; index: number; failure: Failure };

/**
 * Carries a span out, frame by frame. A frame that fails is told and the next begins.
 * @throws ShaleError of a stop code (disk full, folder gone, not writable): nothing further is begun
 */
export async function runSpan(span: Span, onFrame: (event: FrameEvent) => void, signal?: AbortSignal): Promise<void> {
  const atOnce = isVideo(span.plan.source) ? ofClipAtOnce : 1;
  const member = span.company && Company.enter(span.company, atOnce);
  const maker = new FrameMaker(span.plan, span.places, span.job, span.expected, member?.company);
  let stopped: unknown;
  // Whoever stops is not waited for, and waits for nobody: it has two seconds.
  const stop = () => member?.stop();
  signal?.addEventListener('abort', stop);
  if (signal?.aborted) stop();
  const makeOne = async (index: number): Promise<void> => {
    if (signal?.aborted || stopped) return;
    const [row] = resultsOf(span.plan, index, index + 1);
    try {
      onFrame({ kind: 'written', written: await maker.make(row!, index, span.again?.includes(index)) });
    } catch (error) {
      const problem = problemOf(error);
      if (stopCodes.has(problem.code)) {
        stopped ??= error;
        stop();
        return;
      }
      const name = row!.to.slice(row!.to.lastIndexOf('/') + 1);
      const failure = { ...problem, frame: row!.frame, sourceFrame: row!.sourceFrame, name };
      onFrame({ kind: 'failed', index, failure });
    }
  };
  const side = pLimit(atOnce);
  const inTurn = (index: number, at: number) => (member ? member.take(at, () => makeOne(index)) : makeOne(index));
  try {
    await Promise.all(span.indices.map((index, at) => side(inTurn, index, at)));
    await maker.flushNames();
  } finally {
    await maker.close();
    signal?.removeEventListener('abort', stop);
    await member?.leave();
  }
  // Whatever a frame threw goes on as it is.
  // oxlint-disable-next-line typescript/only-throw-error
  if (stopped) throw stopped;
}

/** Pictures of a clip that are worked and written at once, while the decoder goes on with the next. */
const ofClipAtOnce = 2;
