import type { ListedSource } from '@shale/contract';
import { useAppSelector } from '../state/store.ts';
import { stageSpan } from './frames.ts';

/** The frame that the stage stands at. */
export function useStageFrame(source: ListedSource): number {
  const asked = useAppSelector((state) => state.stage.frames[source.id]);
  const { first, last } = stageSpan(source);
  return Math.min(last, Math.max(first, asked ?? first));
}
