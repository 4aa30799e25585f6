import { mkdtemp, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openMoving, type VideoSettings } from '@shale/media';
import { addCounts, limitOf, noCounts, problemOf, resultsOf, type Plan, type PlanRow } from '@shale/core';
import { encodeRows } from './encode.ts';
import { blankEnd } from './video.ts';
import type { Places } from './frame.ts';
import type { Measured } from './measured.ts';

/** Frames in a row that a trial encodes at each place: enough for the codec to spend as it will. */
const together = 24;

/** Seconds after which a trial begins no further stretch. */
const patience = 5;

/** Stretches of a plan's results, evenly spread, the first and the last of it among them. */
function stretches(plan: Plan, places: number): PlanRow[][] {
  if (plan.frames <= together * places) return [resultsOf(plan, 0, plan.frames)];
  return Array.from({ length: places }, (_, at) => {
    const from = Math.round((at * (plan.frames - together)) / Math.max(1, places - 1));
    return resultsOf(plan, from, from + together);
  });
}

/**
 * Encodes some of a video for real and throws it away: bytes and seconds of a picture, what was lost, and whether its end is blank.
 * @param frames as many pictures as this at least are looked at, in stretches
 * @param signal ends it within a picture: what was measured till then is told, and nobody waits for it
 */
export async function measureVideo(
  plan: Plan,
  places: Places,
  frames: number,
  signal?: AbortSignal,
): Promise<Measured> {
  const measured: Measured = { frames: [], counts: noCounts(), bytes: 0, seconds: 0, problems: [] };
  const folder = await mkdtemp(join(tmpdir(), 'shale-measure-'));
  try {
    const whole = frames >= plan.frames;
    const parts = whole ? [resultsOf(plan, 0, plan.frames)] : stretches(plan, 3);
    for (const [at, rows] of parts.entries()) {
      if (signal?.aborted || (at > 0 && !whole && measured.seconds > patience)) break;
      const path = join(folder, `${at}.part`);
      const start = performance.now();
      const onePass = { ...plan, spec: { ...plan.spec, readBack: false } };
      try {
        const open = (settings: VideoSettings) => openMoving(path, settings);
        const encoded = await encodeRows({ plan: onePass, places, rows, open }, undefined, signal);
        if (!encoded) break;
        measured.seconds += (performance.now() - start) / 1000;
        measured.bytes += (await stat(path)).size;
        addCounts(measured.counts, encoded.counts);
        measured.frames.push(...rows.map(({ sourceFrame }) => sourceFrame));
      } catch (error) {
        measured.problems.push(problemOf(error));
      }
    }
    if (plan.spec.video.blankEnd === 'stop' && !signal?.aborted) {
      const blank = await blankEnd(plan, places).catch(() => 0);
      if (blank > 0)
        measured.problems.push({
          code: 'blank-end',
          fact: `The last ${blank === 1 ? 'frame is' : `${blank} frames are`} a single colour.`,
          wayOut: 'Choose the frames before them, or keep them.',
          subject: 'video.blankEnd',
        });
    }
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
  const looked = Math.max(1, measured.frames.length);
  // What is read back takes about a third of its time again, and a second pass all of it.
  const twice = plan.spec.video.control === 'bitrate' && plan.spec.video.passes === 2 ? 2 : 1;
  const limit = limitOf(plan.spec) ?? Infinity;
  const seconds = measured.seconds * twice * (plan.spec.readBack ? 1.2 : 1);
  return {
    ...measured,
    frames: [...new Set(measured.frames)],
    bytes: Math.round(Math.min(measured.bytes / looked, limit / Math.max(1, plan.frames))),
    seconds: seconds / looked,
  };
}
