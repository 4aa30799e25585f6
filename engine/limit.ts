import { rename, rm, stat } from 'node:fs/promises';
import { openMoving } from '@shale/media';
import {
  exactBytes,
  givenWords,
  limitOf,
  modelledLoss,
  planGiven,
  ShaleError,
  solveLimit,
  stepOf,
  type LimitTry,
  type Plan,
  type PlanRow,
} from '@shale/core';
import { encodeRows, type Encoded } from './encode.ts';
import type { VideoProgress, Whole } from './encodeOnce.ts';

/** An animation with so much given up, as it was encoded into a file. */
export interface EncodedGiven {
  encoded: Encoded;
  /** Those of the whole that it shows. */
  rows: PlanRow[];
  /** Of the file. */
  bytes: number;
}

/** Encodes a whole animation of which so much is given up. @returns undefined where it was stopped */
export async function encodeGiven(
  { plan, places, rows, path, expected }: Whole,
  given: number,
  onPicture: (bytes: number) => void = () => undefined,
  signal?: AbortSignal,
): Promise<EncodedGiven | undefined> {
  const fitted = planGiven({ ...plan, frames: rows.length }, given);
  const some = fitted.results.map((at) => rows[at]!);
  const work = { plan: fitted.plan, places, rows: some, expected };
  await rm(path, { force: true });
  const encoded = await encodeRows({ ...work, open: (settings) => openMoving(path, settings) }, onPicture, signal);
  return encoded && { encoded, rows: some, bytes: (await stat(path)).size };
}

/** Why no animation of a plan is within its limit. @param name of its file @param tries at least one */
function limitNotReached(name: string, plan: Plan, tries: readonly LimitTry[], cannot: boolean): ShaleError {
  const nearest = tries.reduce((least, one) => (one.bytes < least.bytes ? one : least));
  return new ShaleError({
    code: 'limit-not-reached',
    fact: `${name} ${cannot ? 'cannot be' : 'was not brought'} within ${exactBytes(limitOf(plan.spec)!)}: with ${nearest.words || 'nothing given up'} it has ${exactBytes(nearest.bytes)}.`,
    wayOut: `Raise the limit to ${exactBytes(nearest.bytes)}, allow more to be given up, use fewer frames, or another format.`,
    subject: 'video.limit',
  });
}

/** What came of a search within a limit. */
export interface Within extends Omit<EncodedGiven, 'bytes'> {
  tries: LimitTry[];
}

/**
 * Encodes an animation within its plan's limit, giving up as little as has to be; or with as much given up as was chosen, where that
 * is within it. @param spare a path of its own beside the file's, where tries are made
 * @returns undefined where it was stopped
 * @throws ShaleError `limit-not-reached`
 */
export async function encodeWithin(
  whole: Whole,
  spare: string,
  name: string,
  onProgress: (progress: VideoProgress) => void,
  signal?: AbortSignal,
): Promise<Within | undefined> {
  const { rows, path } = whole;
  const plan: Plan = { ...whole.plan, frames: rows.length };
  const limit = limitOf(plan.spec) ?? Infinity;
  const chosen = plan.spec.video.given;
  const tries: LimitTry[] = [];
  let best: EncodedGiven | undefined;
  let done = 0;
  let of = 0;
  const encode = async (given: number): Promise<number> => {
    of += planGiven(plan, given).results.length;
    const onPicture = (bytes: number) => onProgress({ done: (done += 1), of, bytes, safe: 0, before: 0 });
    const made = await encodeGiven({ ...whole, path: spare }, given, onPicture, signal);
    signal?.throwIfAborted();
    const { bytes } = made!;
    tries.push({ given, bytes, words: givenWords(plan, given) });
    if (bytes <= limit && (!best || bytes > best.bytes)) {
      await rename(spare, path);
      best = made!;
    } else await rm(spare, { force: true });
    return bytes;
  };
  try {
    if (chosen !== null && (await encode(chosen)) <= limit) return { ...best!, tries };
    const search = { limit, encode, settings: (given: number) => stepOf(plan, given), modelled: modelledLoss(plan) };
    const { cannot } = await solveLimit(search);
    if (best) return { ...best, tries };
    throw limitNotReached(name, plan, tries, cannot);
  } catch (error) {
    if (signal?.aborted) return undefined;
    throw error;
  } finally {
    await rm(spare, { force: true });
  }
}
