import { compareRates, placesAfterFrames, soundPart, type Plan, type Under } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useSourcePageQuery } from '../api/api.ts';
import { stageSpan } from '../stage/frames.ts';
import { useUnder } from './useUnder.ts';

/** The sound of a plan, under the frames of its source as the stage plays them; none where the plan changes their time or leaves some out. */
export function usePlanSound(source: ListedSource, plan: Plan): ReturnType<typeof useUnder> {
  const rate = source.declaration.rate.value;
  const { sound, spec } = plan;
  const { from } = spec.sound;
  const file = typeof from === 'string' ? null : from;
  const { currentData: found = [] } = useSourcePageQuery(
    { filter: { root: file?.root, text: file?.name ?? '' }, sort: 'name', descending: false, page: 0 },
    { skip: !file || !sound },
  );
  const other = file
    ? found.find(({ root, folder, name }) => root === file.root && folder === file.folder && name === file.name)
    : source;
  const places = placesAfterFrames(plan);
  const isPlain = rate && plan.rate && compareRates(rate, plan.rate) === 0 && spec.clip.fields === 'keep';
  const under = sound && other && isPlain && places !== undefined ? underPlan(source, other, plan, places) : null;
  return useUnder(under, rate);
}

/** What a plan writes under its results, brought to the first frame of the source. @param places by which results come after their frames */
function underPlan(
  source: ListedSource,
  { id, modified }: ListedSource,
  plan: Plan,
  places: number,
): Under & { modified: number } {
  const { from, later } = soundPart(plan, plan.frames);
  const { num, den } = plan.rate!;
  const before = places + stageSpan(source).first;
  return {
    source: id,
    modified,
    stream: plan.spec.sound.stream,
    from: { num: from.num * num + before * den * from.den, den: from.den * num },
    later,
  };
}
