import type { Rate, Under } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useSourceQuery } from '../api/api.ts';
import type { ChosenSound } from '../stage/state.ts';
import { useAppSelector } from '../state/store.ts';
import { useUnder } from './useUnder.ts';

/** What is heard with a source on Inspect: the sound that was chosen for it, else its own, else nothing. */
export function useSourceSound(source: ListedSource, rate: Rate | null): ReturnType<typeof useUnder> {
  const chosen = useAppSelector(({ stage }) => stage.sounds[source.id]);
  const { data: other } = useSourceQuery(chosen?.id ?? '', { skip: !chosen });
  return useUnder(underOf(source, chosen, other, rate), rate);
}

function underOf(
  source: ListedSource,
  chosen: ChosenSound | null | undefined,
  other: ListedSource | undefined,
  rate: Rate | null,
): (Under & { modified: number }) | null {
  if (chosen === null || !rate) return null;
  const plain = { stream: null, later: 0 };
  if (chosen)
    return other
      ? {
          stream: chosen.stream,
          source: other.id,
          modified: other.modified,
          from: { num: -chosen.offset * rate.den, den: rate.num },
          later: chosen.later,
        }
      : null;
  if (!source.facts?.clip?.sound) return null;
  return { ...plain, source: source.id, modified: source.modified, from: { num: 0, den: 1 } };
}
