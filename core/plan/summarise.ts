import { coverageOf } from '../numbering/ranges.ts';
import { addCounts, noCounts, type PixelCounts } from '../pixels/recipe.ts';
import { writtenAs } from './into.ts';
import { printSentence, sentenceOf } from './sentence.ts';
import { measuredLosses } from './losses.ts';
import type { Plan } from './plan.ts';
import type { Failure, WrittenVideo, Receipt, Written } from './receipt.ts';

/** What has come of a job so far; {@link tally} adds a file to it. */
export interface Tally {
  written: number;
  bytes: number;
  readBack: number;
  identical: number;
  most: number;
  counts: PixelCounts;
  frames: number[];
  /** Source files that were taken although they had changed. */
  changed: Set<string>;
  video?: WrittenVideo;
}

export const noTally = (): Tally => ({
  written: 0,
  bytes: 0,
  readBack: 0,
  identical: 0,
  most: 0,
  counts: noCounts(),
  frames: [],
  changed: new Set(),
});

/** Adds one written file, in place. */
export function tally(sum: Tally, one: Written): void {
  sum.written += 1;
  sum.bytes += one.bytes;
  for (const { file, changed } of one.sources) if (changed) sum.changed.add(file);
  if (one.check !== 'none') sum.readBack += 1;
  if (one.check === 'identical') sum.identical += 1;
  sum.most = Math.max(sum.most, one.most);
  addCounts(sum.counts, one.counts);
  if (one.video) {
    sum.video = one.video;
    for (let frame = 0; frame < one.video.frames; frame += 1) sum.frames.push(frame);
  } else sum.frames.push(one.frame);
}

/** The receipt of a job. Times are ISO 8601. */
export function summarise(
  plan: Plan,
  sum: Tally,
  failed: Failure[],
  times: { started: string; finished: string; workSeconds: number },
  more: Partial<Pick<Receipt, 'sound' | 'estimate' | 'sources' | 'shale' | 'kept'>> = {},
): Receipt {
  const { source, spec, declaration, into } = plan;
  return {
    version: 1,
    source: { root: plan.root, folder: source.folder, name: source.name },
    into: { root: into.root, folder: into.folder, pattern: writtenAs(into) },
    sentence: printSentence(sentenceOf(plan)),
    declaration,
    setAside: plan.setAside,
    spec,
    planned: plan.files,
    written: sum.written,
    bytes: sum.bytes,
    failed,
    leftOut: spec.missing === 'leave-out' ? plan.missing : [],
    check: { readBack: sum.readBack, identical: sum.identical, most: sum.most },
    losses: [...plan.losses, ...measuredLosses(sum.counts, source.facts, plan.recipe)],
    ...(sum.video ? { video: sum.video } : {}),
    sources: [],
    changed: [...sum.changed, ...(more.sources ?? []).flatMap(({ file, changed }) => (changed ? file : []))].sort(),
    ...more,
    coverage: coverageOf([...sum.frames].sort((a, b) => a - b)),
    ...times,
  };
}
