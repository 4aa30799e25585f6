import { compareRates, placesAfterFrames, soundPart, type Plan, type Rate, type Under } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useSourceQuery } from '../api/api.ts';
import { useNamedQuery } from '../api/named.ts';
import { stageSpan } from '../stage/frames.ts';
import type { ChosenSound } from '../stage/state.ts';
import { useAppSelector } from '../state/store.ts';
import { useUnder } from './useUnder.ts';

/** The source that a plan's sound is in; undefined before it is known. */
function useSoundOf(
  source: ListedSource,
  {
    sound,
    spec: {
      sound: { from },
    },
  }: Plan,
): ListedSource | undefined {
  const file = sound && typeof from !== 'string' ? from : null;
  const { currentData: found } = useNamedQuery(
    file ? [{ root: file.root, folder: file.folder, name: file.name }] : [],
    {
      skip: !file,
    },
  );
  return file ? (found?.[0] ?? undefined) : source;
}

/** The sound of a plan, under the frames of its source as the stage plays them; none where the plan changes their time or leaves some out. */
export function usePlanSound(source: ListedSource, plan: Plan): ReturnType<typeof useUnder> {
  const rate = source.declaration.rate.value;
  const { sound, spec } = plan;
  const other = useSoundOf(source, plan);
  const places = placesAfterFrames(plan);
  const isPlain = rate && plan.rate && compareRates(rate, plan.rate) === 0 && spec.clip.fields === 'keep';
  const under =
    sound && other && isPlain && plan.shots.length === 0 && places !== undefined
      ? underPlan(source, other, plan, places)
      : null;
  return useUnder(under, rate);
}

/**
 * What is heard with a plan's results in their own time: what is written with them; or, where they are files, the sound that was chosen for
 * the source on Inspect.
 */
export function useResultSound(source: ListedSource, plan: Plan, wanted: boolean): ReturnType<typeof useUnder> {
  const other = useSoundOf(source, plan);
  const chosen = useAppSelector(({ stage }) => stage.sounds[source.id]);
  const { currentData: listed } = useSourceQuery(chosen?.id ?? '', { skip: !chosen || plan.sound !== null });
  const { rate, sound } = plan;
  const under = (): (Under & { modified: number }) | null => {
    if (!wanted || !rate) return null;
    const { stream } = plan.spec.sound;
    if (sound)
      return other ? { source: other.id, modified: other.modified, stream, ...soundPart(plan, plan.frames) } : null;
    if (!chosen || !listed) return null;
    return { ...chosenUnder(chosen, rate), source: listed.id, modified: listed.modified };
  };
  return useUnder(under(), rate);
}

/** A sound that was chosen for a source, laid under results from their first. */
const chosenUnder = ({ offset, later, stream }: ChosenSound, { num, den }: Rate) => ({
  ...{ stream, later },
  from: { num: -offset * den, den: num },
});

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
