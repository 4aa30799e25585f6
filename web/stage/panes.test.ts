import { areasOf, layOut, needsPieces, scaled } from './panes.ts';

const stage = { width: 804, height: 400 };
const small = { width: 200, height: 100, aspect: 1 };
const large = { width: 400, height: 200, aspect: 1 };

test('pictures share the stage, or have a half each with a gap between', () => {
  expect(areasOf(stage, null)).toEqual([{ x: 0, y: 0, width: 804, height: 400 }]);
  expect(areasOf(stage, 'wipe')).toHaveLength(1);
  expect(areasOf(stage, 'side')).toEqual([
    { x: 0, y: 0, width: 400, height: 400 },
    { x: 404, y: 0, width: 400, height: 400 },
  ]);
});

test('a second picture of another size shows the same part when the first is zoomed', () => {
  const [first, second] = layOut([small, large], areasOf(stage, 'side'), { scale: 4, x: 50, y: 25 });
  // Pixel (50, 25) of the first is (100, 50) of the second: both in the middle of their areas.
  expect(first!.place.x + 50 * (first!.place.width / 200)).toBeCloseTo(200);
  expect(second!.place.x + 100 * (second!.place.width / 400)).toBeCloseTo(604);
  expect(second!.place.y + 50 * (second!.place.height / 200)).toBeCloseTo(200);
  expect(first!.place.width).toBe(800);
  expect(second!.place.width).toBe(800);
});

test('where they share one area both stand whole in it', () => {
  const [first, second] = layOut([small, large], areasOf(stage, 'blink'), null);
  expect(first!.area).toEqual(second!.area);
  expect(second!.place).toEqual(first!.place);
});

test('a pixel goes to the pixel at the same place of the other size, and stays inside it', () => {
  expect(scaled({ x: 0, y: 0 }, small, large)).toEqual({ x: 1, y: 1 });
  expect(scaled({ x: 199, y: 99 }, small, large)).toEqual({ x: 399, y: 199 });
  expect(scaled({ x: 399, y: 199 }, large, small)).toEqual({ x: 199, y: 99 });
});

test('own samples are drawn once a fetched picture is coarser than the screen', () => {
  const [whole] = layOut([{ width: 1920, height: 1080, aspect: 1 }], areasOf({ width: 960, height: 540 }, null), null);
  expect(needsPieces(whole!, 960, 1)).toBe(false);
  expect(needsPieces(whole!, 480, 1)).toBe(true);
  expect(needsPieces(whole!, 960, 2)).toBe(true);
});
