/** @jest-environment ./web/testing/page.mjs */
import { jest } from '@jest/globals';
import { act, cleanup, renderHook } from '@testing-library/react';
import type { ListedSource } from '@shale/contract';
import { useRested } from '../pieces/useRested.ts';
import type { Other } from './against.ts';
import { useBlink } from './useBlink.ts';
import { useCache } from './useCache.ts';
import { usePlayback, type Pictures, type Second } from './usePlayback.ts';
import { useStill } from './useStill.ts';

const rate = { num: 24, den: 1 };
const whole = (first: number, last: number) => [{ first, last, step: 1 }];

/** The browser's clock and its drawing, moved by hand. */
class Clock {
  now = 0;
  private waiting = new Map<number, FrameRequestCallback>();
  private last = 0;

  constructor() {
    jest.spyOn(performance, 'now').mockImplementation(() => this.now);
    jest.spyOn(window, 'requestAnimationFrame').mockImplementation((draw) => {
      this.waiting.set((this.last += 1), draw);
      return this.last;
    });
    jest.spyOn(window, 'cancelAnimationFrame').mockImplementation((id) => void this.waiting.delete(id));
  }

  get idle(): boolean {
    return this.waiting.size === 0;
  }

  /** Lets time pass in drawings of 60 a second. */
  pass(milliseconds: number): void {
    for (const end = this.now + milliseconds; this.now < end;) {
      this.now += 1000 / 60;
      const [drawn] = [this.waiting];
      this.waiting = new Map();
      act(() => drawn.forEach((draw) => draw(this.now)));
    }
  }
}

/** Pictures that are here as a test says. */
class Here implements Pictures {
  asked: readonly number[] = [];
  constructor(private readonly has: (frame: number) => boolean = () => true) {}
  want(frames: readonly number[]): void {
    this.asked = frames;
  }
  isSettled(frame: number): boolean {
    return this.has(frame);
  }
  hereOf(frames: readonly number[]): number {
    return frames.filter((frame) => this.has(frame)).length;
  }
}

let clock: Clock;
beforeEach(() => {
  clock = new Clock();
});
afterEach(() => {
  cleanup();
  jest.restoreAllMocks();
  jest.useRealTimers();
});

describe('playing', () => {
  const span = { first: 101, last: 200 };
  const coverage = whole(101, 200);
  function play(pictures: Pictures, more: Partial<Parameters<typeof usePlayback>[0]> = {}) {
    const shown: number[] = [];
    const options = {
      ...{ playing: true, rate, span, coverage, returns: false, halfSpeed: false, pictures, second: null, at: 101 },
      ...{ sound: null, rowFirst: 101 },
      onFrame: (frame: number) => void shown.push(frame),
      ...more,
    };
    const hook = renderHook((props: typeof options) => usePlayback(props), { initialProps: options });
    return { shown, hook, options };
  }

  test('goes by the clock at the declared rate, and around', () => {
    const { shown, hook } = play(new Here());
    clock.pass(1000);
    // 24 frames and the one that it began at, each once, in order.
    expect(Math.abs(shown.length - 25)).toBeLessThanOrEqual(1);
    expect(shown).toEqual(Array.from({ length: shown.length }, (_, at) => 101 + at));
    clock.pass(3500);
    expect(shown.slice(99, 102)).toEqual([200, 101, 102]);
    expect(hook.result.current.first.dropped).toBe(0);
    expect(hook.result.current.first.achieved).toBeCloseTo(24, 0);
  });

  test('half speed takes twice as long; there and back shows the ends once', () => {
    const { shown } = play(new Here(), { halfSpeed: true });
    clock.pass(1000);
    expect(Math.abs(shown.length - 13)).toBeLessThanOrEqual(1);
    cleanup();
    const small = { span: { first: 1, last: 3 }, coverage: whole(1, 3), at: 1 };
    const back = play(new Here(), { ...small, returns: true });
    clock.pass(350);
    expect(back.shown.slice(0, 7)).toEqual([1, 2, 3, 2, 1, 2, 3]);
  });

  test('waits until what comes first is here, but not for ever', () => {
    let here = false;
    const late = play(new Here(() => here));
    clock.pass(500);
    expect([late.shown, late.hook.result.current.filling]).toEqual([[], true]);
    here = true;
    clock.pass(100);
    expect(late.hook.result.current.filling).toBe(false);
    expect(late.shown[0]).toBe(101);
    cleanup();
    // After six seconds what is here is shown, and the rest counted.
    const never = play(new Here((frame) => frame % 2 === 0));
    clock.pass(6000);
    expect(never.shown).toEqual([]);
    clock.pass(1100);
    expect(never.shown.length).toBeGreaterThan(5);
    expect(never.shown.every((frame) => frame % 2 === 0)).toBe(true);
    expect(never.hook.result.current.first.dropped).toBeGreaterThan(5);
  });

  test('a frame that is missing keeps its time; one that is late is dropped, never shown late', () => {
    const lacks = { coverage: [...whole(101, 104), ...whole(107, 200)] };
    const { shown } = play(new Here((frame) => frame !== 160), lacks);
    clock.pass(800);
    expect(shown.slice(0, 8)).toEqual([101, 102, 103, 104, 105, 106, 107, 108]);
    clock.pass(1900);
    expect(shown.at(-1)).toBeGreaterThan(160);
    expect(shown).not.toContain(160);
  });

  test('a second source goes with the first, or by its own rate', () => {
    const second = (more: Partial<Second>): Second => ({
      ...{ span: { first: 1, last: 100 }, coverage: whole(1, 100), pictures: new Here(), rate: null },
      partner: (frame) => frame - 100,
      ...more,
    });
    const along = play(new Here(), { second: second({}) });
    clock.pass(500);
    expect(along.hook.result.current.secondFrame).toBe(along.shown.at(-1)! - 100);
    cleanup();
    const own = second({ rate: { num: 12, den: 1 }, partner: (frame) => 1 + Math.floor((frame - 101) / 2) });
    const slower = play(new Here(), { second: own });
    clock.pass(1000);
    const expected = 1 + Math.floor((slower.shown.at(-1)! - 101) / 2);
    expect(Math.abs(slower.hook.result.current.secondFrame! - expected)).toBeLessThanOrEqual(1);
  });

  test('asks ahead for what it will show, and for nothing once it has stopped', () => {
    const pictures = new Here();
    const { hook, options } = play(pictures);
    clock.pass(200);
    expect(pictures.asked.length).toBeGreaterThan(90);
    expect(pictures.asked.every((frame) => frame >= 101 && frame <= 200)).toBe(true);
    hook.rerender({ ...options, playing: false });
    expect(clock.idle).toBe(true);
    expect(hook.result.current).toMatchObject({ filling: false, secondFrame: null });
  });
});

test('a still stage asks for its frame first, then for those beside it that are there', () => {
  const asked: number[][] = [];
  const wants = { want: (frames: readonly number[]) => void asked.push([...frames]) };
  const source = { kind: 'sequence', coverage: [...whole(1, 4), ...whole(6, 9)] } as unknown as ListedSource;
  const other = { source, against: {}, rate: null, partner: (frame: number) => frame + 3 } as unknown as Other;
  const options = { source, at: 4, playing: false, pictures: wants, other, beside: wants };
  const { rerender } = renderHook((props: typeof options) => useStill(props), { initialProps: options });
  expect(asked).toEqual([
    [4, 3, 6, 2, 7],
    [7, 8, 6, 9],
  ]);
  rerender({ ...options, playing: true, at: 8 });
  expect(asked).toHaveLength(2);
});

test('a cache lives as long as what it is of, and is closed with its page', () => {
  const made: string[] = [];
  const source = (identity: string) => () => {
    made.push(identity);
    return { load: () => Promise.resolve(''), sizeOf: () => 1 };
  };
  const begins: { identity: string | null } = { identity: 'a' };
  const decode = () => Promise.reject<ImageBitmap>(new Error('none'));
  const { result, rerender, unmount } = renderHook(
    ({ identity }: { identity: string | null }) => useCache(identity, source(identity ?? ''), '', decode),
    { initialProps: begins },
  );
  const first = result.current!;
  const close = jest.spyOn(first, 'close');
  rerender({ identity: 'a' });
  expect(result.current).toBe(first);
  rerender({ identity: 'b' });
  expect(result.current).not.toBe(first);
  expect(close).toHaveBeenCalled();
  rerender({ identity: null });
  expect(result.current).toBeNull();
  expect(made).toEqual(['a', 'b']);
  unmount();
});

test('a value follows once it has been left alone; blinking takes turns while it is on', () => {
  jest.useFakeTimers();
  const rested = renderHook(({ value }) => useRested(value, 500), { initialProps: { value: 'a' } });
  rested.rerender({ value: 'b' });
  act(() => void jest.advanceTimersByTime(400));
  rested.rerender({ value: 'c' });
  act(() => void jest.advanceTimersByTime(400));
  expect(rested.result.current).toBe('a');
  act(() => void jest.advanceTimersByTime(100));
  expect(rested.result.current).toBe('c');

  const blink = renderHook(({ on }) => useBlink(on), { initialProps: { on: true } });
  const turns = [0, 1, 2].map(() => {
    act(() => void jest.advanceTimersByTime(700));
    return blink.result.current;
  });
  expect(turns).toEqual([true, false, true]);
  blink.rerender({ on: false });
  expect(blink.result.current).toBe(false);
});
