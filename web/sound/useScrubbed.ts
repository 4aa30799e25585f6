import { useEffect, useRef } from 'react';
import { sampleAt } from '@shale/core';
import { soundContext } from './context.ts';
import { SoundPlayer } from './player.ts';
import type { SoundUnder } from './useUnder.ts';

/** Seconds that are heard of a frame at the least. */
const least = 0.08;

/** Lets the sound of a frame be heard as it is stepped or dragged to. @param place of the frame in its row, from 0 */
export function useScrubbed(sound: SoundUnder | null, place: number, playing: boolean): void {
  const last = useRef(place);
  const player = useRef<SoundPlayer | null>(null);
  useEffect(() => {
    const moved = last.current !== place;
    last.current = place;
    if (!moved || playing || !sound || !navigator.userActivation?.hasBeenActive) return;
    const { lane, tape } = sound;
    const context = soundContext(tape.rate);
    if (!context) return;
    player.current?.end();
    const from = sampleAt(lane, place);
    const count = Math.max(sampleAt(lane, place + 1) - from, Math.round(least * tape.rate));
    const next = new SoundPlayer(context, tape, [{ from, count }]);
    player.current = next;
    next.begin();
  }, [sound, place, playing]);
  useEffect(() => () => player.current?.end(), []);
}
