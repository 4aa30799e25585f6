import { randomUUID } from 'node:crypto';
import { rename, rm } from 'node:fs/promises';
import { dirname } from 'node:path';
import { compiledKernel, frameBytesOf, openMade, openMoving, similarQuickly } from '@shale/media';
import {
  codecRecord,
  givenWords,
  haloOf,
  likenessOf,
  planGiven,
  resultsOf,
  sampleFrames,
  sizeOfPlan,
  type Halo,
  type Image,
  type Plan,
  type PlanRow,
  type ShownTry,
  filled,
} from '@shale/core';
import { cutShortByDisk, writeError } from './files.ts';
import { madeOf } from './encode.ts';
import { FrameMaker, type Places } from './frame.ts';
import { encodeGiven, type EncodedGiven } from './limit.ts';

/** Pictures of a try that are held against what is wanted, at the most, and pixels of them together. */
const mostHeld = 12;
const heldPixels = 40e6;

/** Bytes of a picture up to which it is kept for the next try. */
const keptBytes = 4 << 20;

/** Pictures whose edges are judged, at the most. */
const mostJudged = 4;

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
  // A try that was stopped may not have ended yet when the same is made again: neither writes or takes away what is the other's.
  const path = `${to}.${randomUUID()}.part`;
  try {
    return await make({ plan, places, given, to }, path, onPicture, signal);
  } catch (error) {
    throw writeError(to, await cutShortByDisk(error, dirname(to), to));
  } finally {
    await rm(path, { force: true });
  }
}

async function make(
  { plan, places, given, to }: TryWork,
  path: string,
  onPicture: (done: number) => void,
  signal?: AbortSignal,
): Promise<ShownTry | undefined> {
  const rows = resultsOf(plan, 0, plan.frames);
  let done = 0;
  const made = await encodeGiven({ plan, places, rows, path }, given, () => onPicture((done += 1)), signal);
  if (!made || signal?.aborted) return undefined;
  const { format, width, height, rate } = made.encoded.settings;
  const ssim = await likeness({ plan, places, rows, given, path }, made);
  const halo = await haloIn({ plan, places, rows, given, path }, made);
  const frameBytes = await frameBytesOf(path, format);
  if (codecRecord(format)!.animation?.unseen) await writeTwin(path, shownTwin(to), made);
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
    halo,
    frameBytes,
  };
}

interface Held extends Pick<TryWork, 'plan' | 'places' | 'given'> {
  /** Of the whole plan. */
  rows: readonly PlanRow[];
  path: string;
}

/**
 * Pictures as a plan wants them, by their place: every try of a search is held against the same. A process holds a plan as long as it
 * is asked for.
 */
const wantedOf = new WeakMap<Plan, Map<number, Image>>();

/** Mean SSIM of some pictures, each against the one that is wanted at its time. */
async function likeness(
  { plan, places, rows, given, path }: Held,
  { encoded, rows: shown }: EncodedGiven,
): Promise<number> {
  const { results } = planGiven(plan, given);
  // What was cut off the end is not compared; what was left out between is held against what stands in its place.
  const { rate } = encoded.settings;
  const seconds = (results.length * rate.den) / rate.num;
  const last = Math.min(rows.length, Math.max(1, Math.round((seconds * plan.rate!.num) / plan.rate!.den))) - 1;
  let wanted = wantedOf.get(plan);
  if (!wanted) wantedOf.set(plan, (wanted = new Map()));
  const maker = new FrameMaker(plan, places, 'try');
  const reader = await openMade(path, madeOf(encoded), shown.length);
  try {
    const size = sizeOfPlan(plan);
    const pixels = size ? size.width * size.height : 1;
    const held = evenly(last + 1, Math.min(mostHeld, Math.max(1, Math.floor(heldPixels / pixels))));
    let sum = 0;
    for (const at of held) {
      const image = wanted.get(at) ?? (await maker.picture(rows[at]!)).image;
      if (image.data.byteLength <= keptBytes) wanted.set(at, image);
      let standing = 0;
      while (standing + 1 < results.length && results[standing + 1]! <= at) standing += 1;
      sum += likenessOf(image, await reader.picture(standing), compiledKernel.pass, similarQuickly);
    }
    return sum / held.length;
  } finally {
    await reader.close();
    await maker.close();
  }
}

/** The most pixels of a halo in some pictures; null where what is half-clear stays so. */
async function haloIn(
  { plan, places, given, path }: Held,
  { encoded, rows: shown }: EncodedGiven,
): Promise<Halo | null> {
  const { settings } = encoded;
  if (codecRecord(settings.format)!.controls !== 'palette' || !settings.hasAlpha) return null;
  const maker = new FrameMaker(planGiven(plan, given).plan, places, 'try');
  const reader = await openMade(path, madeOf(encoded), shown.length);
  const halo: Halo = { dark: 0, light: 0 };
  try {
    for (const at of evenly(shown.length, mostJudged)) {
      const found = haloOf((await maker.picture(shown[at]!)).image, await reader.picture(at));
      halo.dark = Math.max(halo.dark, found.dark);
      halo.light = Math.max(halo.light, found.light);
    }
    return halo;
  } finally {
    await reader.close();
    await maker.close();
  }
}

/** Some of so many places, the first and the last among them. */
const evenly = (count: number, most: number): number[] => sampleFrames([{ first: 0, last: count - 1, step: 1 }], most);

/** The file beside a try that browsers show in its place. */
export const shownTwin = (to: string): string => `${to}.webp`;

/** Writes what an animation shows as a lossless WebP of 8 bits, for looking at. */
async function writeTwin(path: string, to: string, { encoded, rows }: EncodedGiven): Promise<void> {
  const { settings } = encoded;
  await rm(to, { force: true });
  const video = { ...settings.video, lossless: true, container: 'mp4' as const };
  const reader = await openMade(path, madeOf(encoded), rows.length);
  const writer = await openMoving(to, { ...settings, format: 'webpanim', sample: 'u8', video });
  try {
    for (let at = 0; at < rows.length; at += 1) {
      const image = await reader.picture(at);
      const { sample, data: codes } = image;
      const data = sample === 'u16' ? filled(new Uint8Array(codes.length), (at) => codes[at]! >> 8) : codes;
      await writer.add({ ...image, sample: 'u8', data });
    }
    await writer.finish();
  } finally {
    await writer.close();
    await reader.close();
  }
}
