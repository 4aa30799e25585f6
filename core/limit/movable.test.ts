import { parseSpec } from '../spec/parse.ts';
import { givenUp, givenWords, modelledLoss, usualMovable } from './movable.ts';

const facts = { width: 960, height: 540 };
const gif = parseSpec({ version: 1, write: { format: 'gif', sample: 'u8', alpha: 'straight', transfer: 'srgb' } });
const webp = parseSpec({
  version: 1,
  write: { format: 'webpanim', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
});

test('nothing given up is the spec as it is; all of it is every floor', () => {
  const movable = usualMovable(gif.write, gif.video);
  expect(givenUp(gif, facts, undefined, movable, 0)).toEqual(gif);
  const all = givenUp(gif, facts, undefined, movable, 1);
  expect(all.video).toMatchObject({ colours: 32, tolerance: 0, quality: gif.video.quality });
  expect(all.picture.resize!.to).toEqual({ by: 'size', width: 192, height: 108 });
  expect(givenWords(all, gif)).toBe('192 x 108, 32 colours');
  expect(givenUp(webp, facts, undefined, usualMovable(webp.write, webp.video), 1).video.quality).toBe(40);
});

test('what weighs more is at its floor sooner; what may not move does not', () => {
  const movable = { size: { floor: 25, weight: 1 }, colours: { floor: 64, weight: 2 }, quality: null, tolerance: null };
  const half = givenUp(gif, facts, undefined, movable, 0.5);
  expect(half.video).toMatchObject({ colours: 64, tolerance: 0 });
  // Half way from 100 to 25 per cent by even proportions is 50.
  expect(half.picture.resize!.to).toEqual({ by: 'size', width: 480, height: 270 });
});

test('a size that was asked for is made smaller by its own filter; a padded picture keeps its size', () => {
  const movable = usualMovable(gif.write, gif.video);
  const small = parseSpec({
    ...gif,
    picture: { ...gif.picture, resize: { to: { by: 'limit', width: 320, height: 320 }, filter: 'nearest' } },
  });
  expect(givenUp(small, facts, undefined, movable, 1).picture.resize).toMatchObject({
    to: { by: 'size', width: 64, height: 36 },
    filter: 'nearest',
  });
});

test('the model grows with what may be given up', () => {
  const movable = usualMovable(gif.write, gif.video);
  expect(modelledLoss(gif, movable)).toBeGreaterThan(modelledLoss(gif, { ...movable, size: null }));
  expect(modelledLoss(gif, { size: null, colours: null, quality: null, tolerance: null })).toBe(0);
});
