import { useEffect, useRef, useState } from 'react';
import { covers, heardFrom, type Rate } from '@shale/core';
import { soundContext } from '../sound/context.ts';
import { SoundPlayer } from '../sound/player.ts';
import type { SoundUnder } from '../sound/useUnder.ts';
import { begunAfter, framesFrom, placeAfter, type Track } from './track.ts';

/** What a player asks of a cache of pictures. */
export interface Pictures {
  want(frames: readonly number[]): void;
  isSettled(frame: number): boolean;
  hereOf(frames: readonly number[]): number;
}

/** How playing one source goes. */
export interface Going {
  /** Frames shown a second, over the last second; null until it is known. */
  achieved: number | null;
  dropped: number;
}

export interface PlaybackState {
  /** True while frames are fetched before the first is shown. */
  filling: boolean;
  first: Going;
  second: Going;
  /** Whether a sound is heard that the pictures keep to; `refused` where the browser lets none out yet. */
  sound: 'heard' | 'silent' | 'refused';
  /** The frame of the second source that is shown. */
  secondFrame: number | null;
}

/** A source that plays beside the first. */
export interface Second extends Track {
  pictures: Pictures | null;
  /** Its own rate where it keeps its own time; null where its frames go with those of the first. */
  rate: Rate | null;
  /** The frame that goes with one of the first; or, in its own time, with so many frames of it since the first's first. */
  partner: (frame: number) => number | undefined;
}

interface Options extends Track {
  playing: boolean;
  rate: Rate;
  returns: boolean;
  halfSpeed: boolean;
  pictures: Pictures | null;
  second: Second | null;
  /** What is heard with the frames, first to last of the whole row; null for nothing. */
  sound: SoundUnder | null;
  /** The first frame of the row that the sound lies under. */
  rowFirst: number;
  at: number;
  onFrame: (frame: number) => void;
}

/** Frames that are fetched before playing begins, those that are wanted ahead, and the longest time that is waited for them. */
const before = 48;
/** Of those, how many are decoded before the first is shown. */
const decoded = 10;
const ahead = 240;
const patience = 6000;
/** Milliseconds that a browser is given to let sound out. */
const mutePatience = 1500;

/** The most frames that are passed over, and after how many that came in time one fewer is. */
const mostLead = 12;
const wellFor = 48;

const still: Going = { achieved: null, dropped: 0 };
const notPlaying: PlaybackState = { filling: false, first: still, second: still, sound: 'silent', secondFrame: null };

/** Counts what is shown and what is not. */
class Counter {
  private shown = -1;
  private readonly times: number[] = [];
  private dropped = 0;

  /** @returns whether the frame of this tick is another one than before */
  tick(tick: number): boolean {
    if (tick === this.shown) return false;
    if (tick - this.shown > 1 && this.shown >= 0) this.dropped += tick - this.shown - 1;
    this.shown = tick;
    return true;
  }

  note(isShown: boolean, now: number): void {
    if (isShown) this.times.push(now);
    else this.dropped += 1;
  }

  going(now: number, since: number): Going {
    const { times } = this;
    while (times.length > 0 && now - times[0]! > 1000) times.shift();
    const spread = times.length > 1 ? times[times.length - 1]! - times[0]! : 0;
    const achieved = now - since > 900 && spread > 0 ? ((times.length - 1) * 1000) / spread : null;
    return { achieved, dropped: this.dropped };
  }
}

const canShow = ({ coverage }: Track, pictures: Pictures | null, frame: number): boolean =>
  !covers(coverage, frame) || (pictures?.isSettled(frame) ?? false);

/** Plays at the declared rate: a frame that is not there in time is dropped and counted, never shown late. */
export function usePlayback(options: Options): PlaybackState {
  const [state, setState] = useState<PlaybackState>(notPlaying);
  const { playing, rate, span, coverage, returns, halfSpeed, pictures, second, sound, rowFirst, at, onFrame } = options;
  const start = useRef(at);
  const report = useRef(onFrame);
  const other = useRef(second);
  useEffect(() => {
    report.current = onFrame;
    other.current = second;
    if (!playing) start.current = at;
  });
  const hasSecond = second !== null;
  const ownRate = second?.rate ?? null;
  useEffect(() => {
    if (!playing || !pictures) return undefined;
    const track = { span, coverage };
    const route = { start: Math.min(span.last, Math.max(span.first, start.current)), returns };
    const [mine, theirs] = [new Counter(), new Counter()];
    const opened = performance.now();
    let zero: number | null = null;
    // Frames that are passed over: what takes longer to decode than it is shown is begun so much earlier.
    let lead = 0;
    let well = 0;
    // Sound has the time: pictures that do not keep up with it are left out. Back and forth nothing is heard.
    const context = sound && !returns ? soundContext(sound.tape.rate) : null;
    const heard =
      sound && heardFrom(sound.lane, span.first - rowFirst, span.last - span.first + 1, route.start - span.first);
    let player = context && heard && new SoundPlayer(context, sound.tape, heard, halfSpeed ? 0.5 : 1);
    let sounds: PlaybackState['sound'] = player ? 'heard' : 'silent';
    let request = requestAnimationFrame(step);

    /** Asks for what is shown next, of both. */
    function want(gone: number): number[] {
      const frames = framesFrom(track, route, gone, ahead);
      pictures!.want(frames);
      const beside = other.current;
      if (beside) beside.pictures?.want(partners(beside, frames));
      return frames;
    }
    function step(now: number): void {
      request = requestAnimationFrame(step);
      if (zero === null) {
        const frames = want(0);
        const need = frames.slice(0, before);
        const isHere =
          pictures!.hereOf(need) === need.length &&
          need.slice(0, decoded).every((frame) => canShow(track, pictures, frame));
        if ((!isHere || (player && !player.isReady)) && now - opened < patience) {
          setState((state) => (state.filling ? state : { ...notPlaying, filling: true }));
          return;
        }
        if (player && context?.state !== 'running') {
          // Browsers let no sound out before something was pressed.
          if (now - opened < mutePatience) return;
          player.end();
          player = null;
          sounds = 'refused';
        }
        player?.begin();
        zero = now;
      }
      const seconds = player?.heard() ?? null;
      const gone = seconds === null ? begunAfter(now - zero, rate, halfSpeed) : (seconds * rate.num) / rate.den;
      const place = placeAfter(span, route, gone);
      const beside = other.current;
      let changed = false;
      let secondFrame: number | null = null;
      if (beside) {
        const [tick, frame] = secondAt(beside, rate, span.first, gone, place);
        secondFrame = frame;
        if (theirs.tick(tick)) {
          theirs.note(canShow(beside, beside.pictures, frame), now);
          changed = true;
        }
      }
      if (mine.tick(Math.floor(gone))) {
        const frame = span.first + placeAfter(span, route, Math.floor(gone));
        const isShown = canShow(track, pictures, frame);
        mine.note(isShown, now);
        well = isShown ? well + 1 : 0;
        if (!isShown) lead = Math.min(mostLead, lead + 1);
        else if (well % wellFor === 0) lead = Math.max(0, lead - 1);
        want(Math.floor(gone) + lead);
        if (isShown) {
          report.current(frame);
          // Begun anew, as when the source changes, it goes on from here.
          start.current = frame;
        }
        changed = true;
      }
      if (!changed) return;
      setState({
        filling: false,
        first: mine.going(now, zero),
        second: theirs.going(now, zero),
        sound: sounds,
        secondFrame,
      });
    }
    return () => {
      cancelAnimationFrame(request);
      player?.end();
      setState(notPlaying);
    };
    // Rates are new objects with every poll: their numbers say when they change.
    // oxlint-disable-next-line react/exhaustive-deps
  }, [
    playing,
    pictures,
    rate.num,
    rate.den,
    span,
    rowFirst,
    coverage,
    returns,
    halfSpeed,
    sound,
    hasSecond,
    ownRate?.num,
    ownRate?.den,
  ]);
  return state;
}

/** Frames of the second that go with frames of the first, and those in between where it has more. */
function partners({ span, coverage, partner, rate }: Second, frames: readonly number[]): number[] {
  const found = new Set<number>();
  for (const frame of frames) {
    const from = partner(frame);
    if (from === undefined) continue;
    const to = rate ? Math.max(from, (partner(frame + 1) ?? from + 1) - 1) : from;
    for (let one = from; one <= to; one += 1) {
      const kept = Math.min(span.last, one);
      if (covers(coverage, kept)) found.add(kept);
    }
  }
  return [...found];
}

/** The tick and frame of the second source: its own time's where it has a rate, else the first's. */
function secondAt(
  { span, rate, partner }: Second,
  firstRate: Rate,
  first: number,
  gone: number,
  place: number,
): [tick: number, frame: number] {
  const whole = Math.floor(place);
  const begin = partner(first + whole) ?? span.first - 1;
  if (!rate) return [Math.floor(gone), begin];
  const factor = (rate.num * firstRate.den) / (rate.den * firstRate.num);
  const offset = (partner(first) ?? span.first) - span.first;
  const frame = span.first + offset + Math.floor(place * factor);
  return [Math.floor(gone * factor), Math.min(span.last, Math.max(begin, frame))];
}
