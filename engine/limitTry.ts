import { rename } from 'node:fs/promises';
import { compiledKernel, frameBytesOf, openMade } from '@shale/media';
import { givenWords, likenessOf, planGiven, resultsOf, type Plan, type PlanRow, type ShownTry } from '@shale/core';
import { FrameMaker, type Places } from './frame.ts';
import { encodeGiven, type EncodedGiven } from './limit.ts';

/** Pictures of a try that are held against what is wanted, at the most. */
const mostHeld = 12;

/** A try that is kept in a file, to be looked at. */
export interface TryWork {
  plan: Plan;
  places: Places;
  given: number;
  /** Its file; what is there is replaced once it is whole. */
  to: string;
}

/**
 * Makes an animation of which so much is given up, and holds it against what is wanted without palette and compression, at the wanted
 * size and time. @returns undefined where it was stopped
 */
export async function makeTry(
  { plan, places, given, to }: TryWork,
  onPicture: (done: number) => void,
  signal?: AbortSignal,
): Promise<ShownTry | undefined> {
  const rows = resultsOf(plan, 0, plan.frames);
  const path = `${to}.part`;
  let done = 0;
  const made = await encodeGiven({ plan, places, rows, path }, given, () => onPicture((done += 1)), signal);
  if (!made || signal?.aborted) return undefined;
  const { format, width, height, rate } = made.encoded.settings;
  const ssim = await likeness({ plan, places, rows, given, path }, made);
  const frameBytes = await frameBytesOf(path, format);
  await rename(path, to);
  return {
    given,
    bytes: made.bytes,
    words: givenWords(plan, given),
    width,
    height,
    rate,
    frames: made.rows.length,
    ssim,
    frameBytes,
  };
}

interface Held extends Pick<TryWork, 'plan' | 'places' | 'given'> {
  /** Of the whole plan. */
  rows: readonly PlanRow[];
  path: string;
}

/** Mean SSIM of some pictures, each against the one that is wanted at its time. */
async function likeness(
  { plan, places, rows, given, path }: Held,
  { encoded: { settings }, rows: shown }: EncodedGiven,
): Promise<number> {
  const { results } = planGiven(plan, given);
  // What was cut off the end is not compared; what was left out between is held against what stands in its place.
  const { rate } = settings;
  const seconds = (results.length * rate.den) / rate.num;
  const last = Math.min(rows.length, Math.max(1, Math.round((seconds * plan.rate!.num) / plan.rate!.den))) - 1;
  const many = Math.min(mostHeld, last + 1);
  const maker = new FrameMaker(plan, places, 'try');
  const reader = await openMade(path, settings, shown.length);
  try {
    let sum = 0;
    for (let k = 0; k < many; k += 1) {
      const at = many === 1 ? 0 : Math.round((k * last) / (many - 1));
      const { image } = await maker.picture(rows[at]!);
      let standing = 0;
      while (standing + 1 < results.length && results[standing + 1]! <= at) standing += 1;
      sum += likenessOf(image, await reader.picture(standing), compiledKernel.pass);
    }
    return sum / many;
  } finally {
    await reader.close();
    await maker.close();
  }
}
