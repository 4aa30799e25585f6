import { useState } from 'react';
import type { Plan } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { usePlanSound, useResultSound } from '../../sound/usePlanSound.ts';
import { useRowOf } from '../../stage/useRowOf.ts';
import type { Look } from './Looked.tsx';

/** What the stage of Convert shows, in whose time, and what is heard with it. */
export function useLook(source: ListedSource, plan: Plan) {
  const row = useRowOf(source, plan);
  const [chosen, setLook] = useState<Look | null>(null);
  // Shots that follow are looked at as one, unless something else is asked for.
  const asked = chosen ?? (plan.shots.length > 0 ? 'time' : 'source');
  const look = asked === 'time' && !row ? 'source' : asked;
  const timed = look === 'time' ? row : null;
  const { sound: inSource } = usePlanSound(source, plan);
  const { sound: inTime } = useResultSound(source, plan, timed !== null);
  return { row, look, setLook, timed, sound: timed ? inTime : inSource };
}
