/** @jest-environment ./web/testing/page.mjs */
import { jest } from '@jest/globals';
import { fireEvent, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { daylight } from '../theme/tokens.ts';
import { forget, show } from '../testing/answers.tsx';
import { listed } from '../testing/samples.ts';
import { CoverageStrip } from './CoverageStrip.tsx';
import { stripOf, type StripModel } from './model.ts';

type Drawn = [call: string, colour: string, ...numbers: number[]];
const width = 100;
const model: StripModel = stripOf({ ...listed([1, 2, 3, 5, 6]), weights: [10, 10, 10, 0, 10, 20] });

beforeEach(() => {
  jest.spyOn(HTMLElement.prototype, 'clientWidth', 'get').mockReturnValue(width);
  globalThis.ResizeObserver = class {
    constructor(private readonly told: ResizeObserverCallback) {}
    observe() {
      this.told([], this);
    }
    unobserve() {}
    disconnect() {}
  };
});
afterEach(() => {
  forget();
  jest.restoreAllMocks();
});
const drawn = (element: HTMLElement, call: string) =>
  (element as unknown as { drawn: Drawn[] }).drawn.filter(([name]) => name === call);
const colours = daylight;

test('each frame is a cell in its place, the heaviest the darkest, a missing one a foot', () => {
  show(<CoverageStrip model={model} height={24} />);
  const strip = screen.getByRole('img');
  const cells = drawn(strip, 'fillRect');
  const places = cells.map(([, , x]) => Math.round((x! / width) * 6));
  expect(places).toEqual([0, 1, 2, 3, 4, 5]);
  const [, colour, , y, , height] = cells[3]!;
  expect([colour, y, height]).toEqual([colours.fault, 21, 3]);
  const lightness = (at: number) => Number(/(\d+)%\)$/.exec(cells[at]![1])![1]);
  const { light, heavy } = colours.strata;
  expect([lightness(0), lightness(5)]).toEqual([light, heavy]);
  expect(strip.getAttribute('aria-label')).toMatch(/missing/);
});

test('a marker stands where it begins, for as long as it lasts; the pointer at its frame', () => {
  const marker = { frame: 2, length: 3, name: 'bell', note: '', colour: 'ochre' as const };
  show(<CoverageStrip model={{ ...model, markers: [marker] }} at={5} />);
  const strip = screen.getByRole('img');
  const each = width / 6;
  const [pole, , line] = drawn(strip, 'fillRect').slice(6);
  expect(pole![2]).toBeCloseTo(1.5 * each - 0.75);
  expect(line!.slice(2, 5)).toEqual([1.5 * each, 22, 2 * each]);
  const pointer = drawn(strip, 'fillRect').at(-1)!;
  expect([pointer[1], pointer[2]]).toEqual([colours.act, 4.5 * each - 1]);
});

test('as a scrubber it is a slider that says its frame, goes by keys and stops at its ends', async () => {
  const sought: number[] = [];
  show(<CoverageStrip model={model} at={4} onSeek={(frame) => void sought.push(frame)} />);
  const slider = screen.getByRole('slider', { name: 'Frame' });
  expect(slider.getAttribute('aria-valuetext')).toBe('frame 4, missing');
  expect(['min', 'max', 'now'].map((what) => slider.getAttribute(`aria-value${what}`))).toEqual(['1', '6', '4']);
  slider.focus();
  await userEvent.keyboard('{ArrowLeft}{ArrowRight}{PageUp}{PageDown}{Home}{End}x');
  expect(sought).toEqual([3, 5, 1, 6, 1, 6]);
});

test('a press and a drag seek the frame below them, a move without a button does not', () => {
  const sought: number[] = [];
  show(<CoverageStrip model={model} at={1} onSeek={(frame) => void sought.push(frame)} />);
  const slider = screen.getByRole('slider');
  slider.setPointerCapture = () => undefined;
  slider.getBoundingClientRect = () => new DOMRect(10, 0, width, 24);
  fireEvent.pointerDown(slider, { clientX: 11 });
  fireEvent.pointerMove(slider, { clientX: 60, buttons: 1 });
  fireEvent.pointerMove(slider, { clientX: 90, buttons: 0 });
  fireEvent.pointerMove(slider, { clientX: 500, buttons: 1 });
  expect(sought).toEqual([1, 4, 6]);
});

test('one that is only looked at takes no keys', () => {
  show(<CoverageStrip model={model} label="Frames of pan" />);
  expect(screen.getByRole('img', { name: 'Frames of pan' }).tabIndex).toBe(-1);
});
