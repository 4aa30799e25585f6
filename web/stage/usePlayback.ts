import { useEffect, useRef, useState } from 'react';
import { covers, type FrameRange, type Rate } from '@shale/core';
import type { FrameCache } from './frameCache.ts';

/** How playing goes. */
export interface PlaybackState {
  /** True while frames are fetched before the first is shown. */
  filling: boolean;
  /** Frames shown a second, over the last second. */
  achieved: number | null;
  dropped: number;
}

interface Options {
  playing: boolean;
  rate: Rate;
  span: { first: number; last: number };
  coverage: readonly FrameRange[];
  cache: FrameCache | null;
  at: number;
  onFrame: (frame: number) => void;
}

/** Frames that are fetched ahead before playing begins, and longest time that is waited for them. */
const ahead = 48;
const patience = 6000;

/** Plays at the declared rate, around and around: a frame that is not there in time is dropped and counted, never shown late. */
export function usePlayback({ playing, rate, span, coverage, cache, at, onFrame }: Options): PlaybackState {
  const [state, setState] = useState<PlaybackState>({ filling: false, achieved: null, dropped: 0 });
  const start = useRef(at);
  const report = useRef(onFrame);
  useEffect(() => {
    report.current = onFrame;
    if (!playing) start.current = at;
  });
  useEffect(() => {
    if (!playing || !cache) return undefined;
    const count = span.last - span.first + 1;
    const framesFrom = (frame: number, many: number) =>
      Array.from(
        { length: Math.min(many, count) },
        (_, offset) => span.first + ((frame - span.first + offset) % count),
      ).filter((one) => covers(coverage, one));
    const first = start.current;
    const opened = performance.now();
    let zero: number | null = null;
    let shown = -1;
    let dropped = 0;
    const times: number[] = [];
    let request = requestAnimationFrame(step);
    function step(now: number): void {
      request = requestAnimationFrame(step);
      if (zero === null) {
        const need = framesFrom(first, ahead);
        cache!.want(framesFrom(first, 240));
        if (cache!.settledOf(need) < need.length && now - opened < patience) {
          setState((before) => (before.filling ? before : { filling: true, achieved: null, dropped: 0 }));
          return;
        }
        zero = now;
      }
      // Exact: frames since the start are time x num / den, whole ones only.
      const due = Math.floor(((now - zero) * rate.num) / (1000 * rate.den));
      if (due === shown) return;
      const frame = span.first + ((first - span.first + due) % count);
      const held = cache!.get(frame);
      const canShow = !covers(coverage, frame) || (held !== undefined && held.state !== 'loading');
      if (due - shown > 1) dropped += due - shown - 1;
      shown = due;
      cache!.want(framesFrom(frame, 240));
      if (canShow) {
        times.push(now);
        report.current(frame);
      } else dropped += 1;
      while (times.length > 0 && now - times[0]! > 1000) times.shift();
      const spread = times.length > 1 ? times[times.length - 1]! - times[0]! : 0;
      const achieved = now - zero > 900 && spread > 0 ? ((times.length - 1) * 1000) / spread : null;
      setState({ filling: false, achieved, dropped });
    }
    return () => {
      cancelAnimationFrame(request);
      setState({ filling: false, achieved: null, dropped: 0 });
    };
  }, [playing, cache, rate.num, rate.den, span.first, span.last, coverage]);
  return state;
}
