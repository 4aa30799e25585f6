import fc from 'fast-check';
import {
  fit,
  movedBy,
  pieceAt,
  pieceBegin,
  piecesIn,
  pieceSide,
  pixelUnder,
  placeOf,
  zoomedAt,
  type Zoom,
} from './place.ts';

test.each([
  [1920, 1080, 800, 600, { x: 0, y: 75, width: 800, height: 450 }],
  [100, 100, 800, 600, { x: 200, y: 100, width: 400, height: 400 }],
  [1, 1000, 500, 500, { x: 249.75, y: 0, width: 0.5, height: 500 }],
])('a picture of %i x %i stands whole and in the middle of %i x %i', (width, height, stageWidth, stageHeight, box) =>
  expect(fit({ width, height, aspect: 1 }, { x: 0, y: 0, width: stageWidth, height: stageHeight })).toEqual(box),
);

const area = { x: 0, y: 0, width: 800, height: 500 };
const extent = fc.record({
  width: fc.integer({ min: 1, max: 16_384 }),
  height: fc.integer({ min: 1, max: 16_384 }),
  aspect: fc.constantFrom(1, 2, 10 / 11, 16 / 11),
});
const point = fc.record({ x: fc.integer({ min: 1, max: 799 }), y: fc.integer({ min: 1, max: 499 }) });

test('the point under the pointer stays where it is while the picture grows', () => {
  fc.assert(
    fc.property(extent, point, fc.double({ min: 1, max: 4, noNaN: true }), (picture, at, factor) => {
      const before = placeOf(picture, area, null);
      const under = { x: (at.x - before.x) / before.width, y: (at.y - before.y) / before.height };
      // Beside the picture nothing is to stay.
      fc.pre(under.x >= 0 && under.x <= 1 && under.y >= 0 && under.y <= 1);
      const scale = before.height / picture.height;
      fc.pre(scale * factor < 64 && scale * factor > 1 / 32);
      const zoom = zoomedAt(picture, area, null, factor, at);
      const middle = { x: zoom.x / picture.width, y: zoom.y / picture.height };
      // The middle of the stage is held to the picture.
      fc.pre(middle.x > 0 && middle.x < 1 && middle.y > 0 && middle.y < 1);
      const after = placeOf(picture, area, zoom);
      expect(after.x + under.x * after.width).toBeCloseTo(at.x, 3);
      expect(after.y + under.y * after.height).toBeCloseTo(at.y, 3);
    }),
  );
});

test('a pixel is found in the middle of where it is drawn', () => {
  fc.assert(
    fc.property(extent, fc.nat(), fc.nat(), fc.integer({ min: -3, max: 5 }), (picture, a, b, power) => {
      const pixel = { x: a % picture.width, y: b % picture.height };
      const zoom: Zoom = { scale: 2 ** power, x: picture.width / 3, y: picture.height / 3 };
      const place = placeOf(picture, area, zoom);
      const drawn = {
        x: place.x + (pixel.x + 0.5) * zoom.scale * picture.aspect,
        y: place.y + (pixel.y + 0.5) * zoom.scale,
      };
      expect(pixelUnder(place, picture, drawn)).toEqual(pixel);
    }),
  );
});

test('beside the picture there is no pixel, and the picture cannot be moved out of sight', () => {
  const picture = { width: 100, height: 100, aspect: 1 };
  expect(pixelUnder(placeOf(picture, area, null), picture, { x: 1, y: 250 })).toBeUndefined();
  const zoom = movedBy(picture, { scale: 8, x: 50, y: 50 }, 100_000, -100_000);
  expect(zoom).toEqual({ scale: 8, x: 0, y: 100 });
});

test('a piece is known by a number, and those that are seen hold every pixel that is', () => {
  fc.assert(
    fc.property(extent, fc.nat(), fc.nat(), fc.integer({ min: 0, max: 5 }), point, (picture, a, b, power, at) => {
      const zoom: Zoom = { scale: 2 ** power, x: a % picture.width, y: b % picture.height };
      const place = placeOf(picture, area, zoom);
      const pixel = pixelUnder(place, picture, at);
      const pieces = piecesIn(place, picture, area);
      expect(new Set(pieces).size).toBe(pieces.length);
      expect(pieces.length).toBeLessThanOrEqual(9);
      if (pixel) expect(pieces).toContain(pieceAt(pixel));
    }),
  );
  expect(pieceBegin(pieceAt({ x: 1030, y: 600 }))).toEqual({ x: 2 * pieceSide, y: pieceSide });
});

test('pixels that are wider than high are drawn so', () => {
  const squeezed = { width: 960, height: 540, aspect: 2 };
  expect(fit(squeezed, { x: 0, y: 0, width: 960, height: 540 })).toEqual({ x: 0, y: 135, width: 960, height: 270 });
  expect(placeOf(squeezed, area, { scale: 1, x: 0, y: 0 })).toEqual({ x: 400, y: 250, width: 1920, height: 540 });
});
