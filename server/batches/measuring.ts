import { resultsOf, sampleFrames, type BatchPart } from '@shale/core';
import type { PartEstimate } from '@shale/contract';
import type { Workshop } from '../workshop.ts';
import { sourcePlaces } from '../jobs/places.ts';

/** Parts of which results are really made, and how many of each. */
const looked = { parts: 8, results: 2 };

/** Parts that are likely to weigh alike: of one output, from files of one kind and size. */
function kindOf({ output, plan }: BatchPart): string {
  const { format, width, height, sample, hasAlpha } = plan.source.facts ?? {};
  return [output, plan.source.kind, format, width, height, sample, hasAlpha].join(' ');
}

const pixelsOf = ({ plan }: BatchPart): number =>
  plan.source.facts ? plan.source.facts.width * plan.source.facts.height : 0;

/** What a result costs, as it was measured of one part. */
interface Cost {
  output: number;
  pixels: number;
  bytes: number;
  seconds: number;
}

/**
 * About what each part that may run comes to: a few results of some kinds of them are made and measured, the others go by their
 * pixels. Parts of which nothing could be measured are not among them.
 */
export async function measureMany(
  parts: readonly BatchPart[],
  house: Workshop,
  signal: AbortSignal,
  asker: object,
): Promise<PartEstimate[]> {
  const runs = parts.filter(({ plan }) => plan.problems.length === 0 && plan.frames > 0);
  const first = new Map<string, BatchPart>();
  for (const part of runs) if (!first.has(kindOf(part))) first.set(kindOf(part), part);
  const costs = new Map<string, Cost>();
  await Promise.all(
    [...first].slice(0, looked.parts).map(async ([kind, part]) => {
      const cost = await costOf(part, house, signal, asker);
      if (cost) costs.set(kind, cost);
    }),
  );
  return runs.flatMap((part) => {
    const { source, output, plan } = part;
    const own = costs.get(kindOf(part)) ?? near(part, [...costs.values()]);
    if (!own) return [];
    // A video is one work of one process, whose codec uses all cores.
    const side = plan.into.kind === 'video' ? 1 : house.workers;
    return [{ source, output, bytes: own.bytes * plan.frames, seconds: (own.seconds * plan.frames) / side }];
  });
}

/** What was measured of the same output, by pixels. */
function near(part: BatchPart, costs: readonly Cost[]): Cost | undefined {
  const other = costs.find(({ output, pixels }) => output === part.output && pixels > 0);
  if (!other) return undefined;
  const share = pixelsOf(part) / other.pixels;
  return { ...other, bytes: other.bytes * share, seconds: other.seconds * share };
}

async function costOf(
  part: BatchPart,
  { pools, roots }: Workshop,
  signal: AbortSignal,
  asker: object,
): Promise<Cost | undefined> {
  const { plan, output } = part;
  const written = resultsOf(plan, 0, plan.frames).flatMap(({ kind }, at) => (kind === 'write' ? at : []));
  const results = sampleFrames(
    written.map((at) => ({ first: at, last: at, step: 1 })),
    looked.results,
  );
  if (results.length === 0) return undefined;
  const places = await sourcePlaces(plan, roots);
  const measured = await pools.trying.run('measure', { plan, places, results }, { signal, asker });
  return measured.frames.length === 0
    ? undefined
    : { output, pixels: pixelsOf(part), bytes: measured.bytes, seconds: measured.seconds };
}
