import fc from 'fast-check';
import { boxAround, centredBox, contentBox, crop, nearest, orient, pad } from './geometry.ts';
import { makeSamples, type Image } from './image.ts';
import { pictureSchema, resizedSize, resizeSchema, sizeAfter, turnedSize, untouched } from './picture.ts';

/** Every pixel tells where it was. */
function telling(width: number, height: number, channels: Image['channels'] = 3): Image {
  const data = makeSamples('u16', width * height * channels);
  for (let at = 0; at < width * height; at += 1)
    for (let channel = 0; channel < channels; channel += 1) data[at * channels + channel] = at * 4 + channel;
  return { width, height, channels, sample: 'u16', data };
}
const pixelAt = (image: Image, x: number, y: number) =>
  Math.floor(image.data[(y * image.width + x) * image.channels]! / 4);

const pictures = fc.record({
  width: fc.integer({ min: 1, max: 9 }),
  height: fc.integer({ min: 1, max: 9 }),
  channels: fc.constantFrom(1 as const, 2 as const, 3 as const, 4 as const),
});

test('a quarter turn takes the left edge to the top; four are none, and a flip twice is none', () => {
  // 0 1 2 / 3 4 5 turned clockwise is 3 0 / 4 1 / 5 2.
  const turned = orient(telling(3, 2), { turn: 90, flip: 'none' });
  expect([0, 1, 2].map((y) => [0, 1].map((x) => pixelAt(turned, x, y)))).toEqual([
    [3, 0],
    [4, 1],
    [5, 2],
  ]);
  fc.assert(
    fc.property(pictures, ({ width, height, channels }) => {
      const image = telling(width, height, channels);
      const turn = (one: Image) => orient(one, { turn: 90, flip: 'none' });
      expect(turn(turn(turn(turn(image))))).toEqual(image);
      expect(turn(turn(image))).toEqual(orient(image, { turn: 180, flip: 'none' }));
      expect(turn(turn(turn(image)))).toEqual(orient(image, { turn: 270, flip: 'none' }));
      for (const flip of ['across', 'down'] as const) {
        const flipped = orient(image, { turn: 0, flip });
        expect(orient(flipped, { turn: 0, flip })).toEqual(image);
        expect(pixelAt(flipped, 0, 0)).toBe(flip === 'across' ? width - 1 : (height - 1) * width);
      }
      // Across and down together are half a turn.
      expect(orient(orient(image, { turn: 0, flip: 'across' }), { turn: 0, flip: 'down' })).toEqual(
        orient(image, { turn: 180, flip: 'none' }),
      );
    }),
  );
});

test('a crop holds the pixels of its box, and padding puts it back into nothing', () => {
  fc.assert(
    fc.property(
      pictures,
      fc.nat(100),
      fc.nat(100),
      fc.nat(100),
      fc.nat(100),
      ({ width, height, channels }, a, b, c, d) => {
        const image = telling(width, height, channels);
        const [left, top] = [a % width, b % height];
        const box = { left, top, width: 1 + (c % (width - left)), height: 1 + (d % (height - top)) };
        const part = crop(image, box);
        for (let y = 0; y < box.height; y += 1)
          for (let x = 0; x < box.width; x += 1) expect(pixelAt(part, x, y)).toBe((top + y) * width + left + x);
        const padded = pad(part, { width: box.width + 3, height: box.height + 2 }, 'around');
        expect(crop(padded, { left: 1, top: 1, width: box.width, height: box.height })).toEqual(part);
        const sum = (one: Image) => [...one.data].reduce((total, value) => total + value, 0);
        expect(sum(padded)).toBe(sum(part));
      },
    ),
  );
});

test('nearest by a whole factor repeats every pixel, and back gives the picture', () => {
  fc.assert(
    fc.property(pictures, fc.integer({ min: 1, max: 4 }), ({ width, height, channels }, factor) => {
      const image = telling(width, height, channels);
      const large = nearest(image, { width: width * factor, height: height * factor });
      for (let y = 0; y < large.height; y += 1)
        for (let x = 0; x < large.width; x += 1)
          expect(pixelAt(large, x, y)).toBe(Math.floor(y / factor) * width + Math.floor(x / factor));
      expect(nearest(large, image)).toEqual(image);
    }),
  );
});

test('the content box holds every pixel that is not clear, and no row or column more', () => {
  const image = telling(6, 5, 4);
  image.data.fill(0);
  expect(contentBox(image)).toBeUndefined();
  for (const [x, y] of [
    [2, 1],
    [4, 3],
  ] as const)
    image.data[(y * 6 + x) * 4 + 3] = 1;
  expect(contentBox(image)).toEqual({ left: 2, top: 1, width: 3, height: 3 });
  expect(contentBox(telling(6, 5, 3))).toEqual({ left: 0, top: 0, width: 6, height: 5 });
  expect(boxAround({ left: 0, top: 4, width: 2, height: 1 }, { left: 5, top: 1, width: 1, height: 1 })).toEqual({
    left: 0,
    top: 1,
    width: 6,
    height: 4,
  });
  expect(boxAround(undefined, undefined)).toBeUndefined();
});

test.each([
  [{ by: 'size', width: 960, height: null }, 960, 540],
  [{ by: 'size', width: null, height: 100 }, 178, 100],
  [{ by: 'size', width: 100, height: 100 }, 100, 100],
  [{ by: 'percent', percent: 50 }, 960, 540],
  [{ by: 'percent', percent: 0.1 }, 2, 1],
  [{ by: 'limit', width: 1280, height: 1280 }, 1280, 720],
  [{ by: 'limit', width: 4000, height: 1080 }, 1920, 1080],
  [{ by: 'limit', width: 4000, height: 540 }, 960, 540],
  [{ by: 'square' }, 3840, 1080],
] as const)('1920 x 1080 by %j is %i x %i', (to, width, height) => {
  expect(resizedSize({ width: 1920, height: 1080 }, resizeSchema.parse({ to }), { num: 2, den: 1 })).toEqual({
    width,
    height,
  });
});

test('sizes follow the order: turn, crop, resize, pad', () => {
  const picture = pictureSchema.parse({
    turn: 90,
    crop: { left: 0, top: 0, width: 100, height: 301 },
    resize: { to: { by: 'percent', percent: 50 } },
    pad: { multiple: 16 },
  });
  expect(turnedSize({ width: 640, height: 480 }, picture)).toEqual({ width: 480, height: 640 });
  expect(sizeAfter({ width: 640, height: 480 }, picture)).toEqual({ width: 64, height: 160 });
  expect(sizeAfter({ width: 640, height: 480 }, untouched)).toEqual({ width: 640, height: 480 });
  // A pixel twice as wide as high is half as wide once it lies on its side.
  const square = pictureSchema.parse({ turn: 90, resize: { to: { by: 'square' } } });
  expect(sizeAfter({ width: 100, height: 80 }, square, { num: 2, den: 1 })).toEqual({ width: 40, height: 100 });
});

test('a centred box holds the box, has the middle of the picture, and is the smallest that does', () => {
  const boxes = fc.record({
    left: fc.nat(20),
    top: fc.nat(20),
    width: fc.integer({ min: 1, max: 20 }),
    height: fc.integer({ min: 1, max: 20 }),
  });
  fc.assert(
    fc.property(boxes, fc.nat(20), fc.nat(20), (box, right, below) => {
      const size = { width: box.left + box.width + right, height: box.top + box.height + below };
      const centred = centredBox(box, size);
      expect(boxAround(centred, box)).toEqual(centred);
      expect([2 * centred.left + centred.width, 2 * centred.top + centred.height]).toEqual([size.width, size.height]);
      expect(centred.left === box.left || centred.left === right).toBe(true);
      expect(centred.top === box.top || centred.top === below).toBe(true);
    }),
  );
});
