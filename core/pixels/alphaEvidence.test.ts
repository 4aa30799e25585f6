import { alphaEvidence } from './alphaEvidence.ts';
import { numberToHalf } from './half.ts';
import type { Image } from './image.ts';

/** A disc of a colour with a soft edge, composed by a rule from colour and alpha, 0 to 1. */
function disc(colour: number[], compose: (value: number, alpha: number, channel: number) => number): Image {
  const size = 64;
  const data = new Uint8Array(size * size * 4);
  for (let at = 0; at < size * size; at += 1) {
    const away = Math.hypot((at % size) - 32, Math.floor(at / size) - 32);
    const alpha = Math.min(1, Math.max(0, (24 - away) / 6));
    const coded = Math.round(alpha * 255) / 255;
    colour.forEach((value, channel) => (data[at * 4 + channel] = Math.round(compose(value, coded, channel) * 255)));
    data[at * 4 + 3] = Math.round(alpha * 255);
  }
  return { width: size, height: size, channels: 4, sample: 'u8', data };
}
const told = (image: Image) => alphaEvidence([{ frame: 7, image }]);
const colour = [0.8, 0.4, 0.2];

test('straight colour exceeds its alpha, premultiplied never does', () => {
  const straight = told(disc(colour, (value, alpha) => (alpha === 0 ? 0 : value)));
  expect(straight).toMatchObject({ frames: [7], pixels: 4096, leans: 'straight' });
  expect(straight.opaque + straight.partial + straight.clear).toBe(4096);
  const premultiplied = told(disc(colour, (value, alpha) => value * alpha));
  expect(premultiplied).toMatchObject({ leans: 'premultiplied', exceeding: 0, clearColoured: 0, againstMatte: null });
});

test('a picture laid over a colour is told from a straight one that keeps a colour under its clear parts', () => {
  const white = told(disc(colour, (value, alpha) => value * alpha + (1 - alpha)));
  expect(white).toMatchObject({ leans: 'over-colour', againstMatte: 0, matte: { colour: [1, 1, 1], share: 1 } });
  const kept = told(disc([0.1, 0.1, 0.1], (value, alpha) => (alpha === 0 ? 1 : value)));
  expect(kept.againstMatte).toBeGreaterThan(kept.partial / 4);
  expect(kept.leans).not.toBe('over-colour');
  // One colour everywhere: both readings give the same samples.
  expect(told(disc(colour, (value) => value)).leans).toBe('unclear');
});

test('nothing is made up where there is nothing to tell by', () => {
  const opaque: Image = { width: 2, height: 1, channels: 4, sample: 'u8', data: new Uint8Array(8).fill(255) };
  expect(told(opaque).leans).toBe('opaque');
  const hard: Image = { width: 2, height: 1, channels: 2, sample: 'u8', data: Uint8Array.of(255, 255, 0, 0) };
  expect(told(hard)).toMatchObject({ leans: 'unclear', opaque: 1, clear: 1 });
  expect(() => told({ ...opaque, channels: 3, data: new Uint8Array(6) })).toThrow(RangeError);
});

test('half floats are read as their values; light above 1 over half an alpha is counted', () => {
  const values = [2, 0.5, 0.25, 0.5, 0.1, 0.1, 0.1, 0.5];
  const image: Image = {
    width: 2,
    height: 1,
    channels: 4,
    sample: 'f16',
    data: Uint16Array.from(values, numberToHalf),
  };
  expect(told(image)).toMatchObject({ partial: 2, exceeding: 1, leans: 'straight' });
});
