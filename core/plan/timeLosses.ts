import { picturesAfter } from '../numbering/clipFacts.ts';
import { frameCount, isVideo, type Source } from '../numbering/source.ts';
import { isFloat, maxCode } from '../pixels/image.ts';
import type { Spec } from '../spec/schema.ts';
import { isPlainTime } from '../spec/time.ts';
import { printRate, type Rate } from '../timing/rate.ts';
import { frameOfRun } from './places.ts';
import type { Loss, PlanRun } from './plan.ts';

const grouped = (value: number): string => value.toLocaleString('en-GB');

/** What results are made of: frames that are used, and results of whole, mixed and woven frames. */
interface Used {
  frames: number;
  results: number;
  mixed: { blend: number; motion: number; lines: number };
}

function usedBy(runs: readonly PlanRun[]): Used {
  const used: Used = { frames: 0, results: 0, mixed: { blend: 0, motion: 0, lines: 0 } };
  const seen = new Map<number, Set<number>>();
  for (const run of runs) {
    if (run.kind !== 'write') continue;
    used.results += run.count;
    const shot = run.shot ?? 0;
    const frames = seen.get(shot) ?? new Set();
    seen.set(shot, frames);
    for (let at = 0; at < run.count; at += 1) {
      const { frame, mixed } = frameOfRun(run, at);
      frames.add(frame);
      if (!mixed) continue;
      frames.add(mixed.frame);
      used.mixed[mixed.how] += 1;
    }
  }
  for (const frames of seen.values()) used.frames += frames.size;
  return used;
}

/** What work on time drops, repeats and makes up. */
function workedTime(used: Used, { time }: Spec, { facts }: Source, taken: number, results: Rate | null): Loss[] {
  const losses: Loss[] = [];
  const says = (code: string, sentence: string, count: number) => {
    if (count > 0) losses.push({ code, severity: 'doubt', sentence, amount: grouped(count) });
  };
  const at = results ? ` at ${printRate(results)}` : '';
  const { blend, motion, lines } = used.mixed;
  const made = blend + motion + lines;
  const repeated = used.results - made - used.frames;
  if (time.undo === 'holds')
    says('pictures-dropped', 'Frames that repeat the one before are dropped', taken - used.frames);
  else says('pictures-dropped', `Frames that are not needed${at} are dropped`, taken - used.frames);
  says('pictures-doubled', `Frames are shown more than once${at}`, made > 0 ? 0 : repeated);
  says('frames-blended', 'Results are blends of two frames: what moves is seen twice', blend);
  says('frames-made-up', 'Results are made by motion between two frames: newly visible parts are guessed', motion);
  if (motion > 0 && facts && (isFloat(facts.sample) || (maxCode(facts.sample) ?? 0) > 255))
    losses.push({
      code: 'depth-reduced',
      severity: 'doubt',
      sentence: 'Frames made by motion are computed in 8 bits',
      amount: grouped(motion),
    });
  says('fields-woven', 'Results combine the lines of two frames', lines);
  return losses;
}

/**
 * What happens to time: pictures that are dropped, doubled, mixed or shown for another while, fields that are worked.
 * @param taken frames that are taken, over all shots
 */
export function timeLosses(
  source: Source,
  spec: Spec,
  runs: readonly PlanRun[],
  taken: number,
  { results }: { results: Rate | null },
): Loss[] {
  const losses: Loss[] = [];
  const says = (code: string, sentence: string, amount = 'all') =>
    losses.push({ code, severity: 'doubt', sentence, amount });
  const { clip, time } = spec;
  const { clip: facts } = source.facts ?? {};
  const byTimes = isVideo(source) && clip.timing === 'constant-rate' && results !== null;
  if (isVideo(source) && facts) {
    if (clip.fields === 'remove-pulldown') {
      const stored = frameCount(source);
      says(
        'fields-worked',
        'The repeated picture of every five is dropped',
        grouped(stored - picturesAfter(stored, clip.fields)),
      );
    } else if (clip.fields !== 'keep') says('fields-worked', 'Missing lines of each field are interpolated');
    if (facts.variable && !byTimes) says('times-lost', 'Pictures of different durations become evenly spaced');
  }
  if (!isPlainTime(time)) losses.push(...workedTime(usedBy(runs), spec, source, taken, results));
  else if (byTimes) {
    const used = usedBy(runs);
    if (taken > used.frames)
      says(
        'pictures-dropped',
        `Pictures that fall between frames at ${printRate(results)} are dropped`,
        grouped(taken - used.frames),
      );
    if (used.results > used.frames)
      says(
        'pictures-doubled',
        `Pictures that stay on longer are repeated at ${printRate(results)}`,
        grouped(used.results - used.frames),
      );
  }
  return losses;
}
