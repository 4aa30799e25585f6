import { useEffect } from 'react';
import type { ListedSource } from '@shale/contract';
import type { Other } from './against.ts';
import { isThere, stageSpan } from './frames.ts';

/** What is asked for pictures. */
interface Wants {
  want(frames: readonly number[], firstAlone: boolean): void;
}

interface Options {
  source: ListedSource;
  at: number;
  playing: boolean;
  pictures: Wants | null;
  other: Other | null;
  /** Pictures of the other. */
  beside: Wants | null;
}

/** Frames around the one that is shown, the nearest first. */
const near = [0, 1, -1, 2, -2, 3];

/** Asks for the frame that the stage stands at, of both sources, and then for those beside it; not while it plays. */
export function useStill({ source, at, playing, pictures, other, beside }: Options): void {
  const aligned = JSON.stringify(other?.against);
  const others = other?.source;
  useEffect(() => {
    if (playing) return;
    const { first, last } = stageSpan(source);
    const frames = near.map((offset) => at + offset).filter((frame) => frame >= first && frame <= last);
    pictures?.want(
      frames.filter((frame) => isThere(source, frame)),
      true,
    );
    if (!beside || !others) return;
    const partners = frames.map((frame) => other.partner(frame));
    beside.want(
      partners.filter((frame): frame is number => frame !== undefined && isThere(others, frame)),
      true,
    );
    // Which frames go together changes with the alignment alone.
    // oxlint-disable-next-line react/exhaustive-deps
  }, [pictures, beside, at, playing, source, others, aligned]);
}
