import fc from 'fast-check';
import { makeConverter } from '../pixels/convert.ts';
import { numberToHalf } from '../pixels/half.ts';
import type { Image } from '../pixels/image.ts';
import { recipeOf } from '../pixels/testing.ts';
import { plainLooking, showDifference, shownChannels, showPacked, showView, warningColours } from './show.ts';
import { takenAs, viewOf, warningBits, type Taken } from './view.ts';
import { packPiece, packView, pieceOf, unpackPiece, unpackView } from './wire.ts';
import { runs } from '../testRuns.ts';

const straight: Taken = { alpha: 'straight', transfer: 'srgb', primaries: 'bt709', matte: null };
const light: Taken = { ...straight, alpha: 'premultiplied', transfer: 'linear' };

const rgba = (width: number, data: number[], sample: Image['sample'] = 'u8'): Image => ({
  width,
  height: data.length / 4 / width,
  channels: 4,
  sample,
  data: sample === 'u8' ? Uint8Array.from(data) : sample === 'f32' ? Float32Array.from(data) : Uint16Array.from(data),
});
const halves = (width: number, data: number[]): Image => rgba(width, data.map(numberToHalf), 'f16');

const samples = fc.array(fc.integer({ min: 0, max: 255 }), { minLength: 48, maxLength: 48 });

test('in its own size a picture of 8 bits is shown with the very codes that it has', () => {
  fc.assert(
    fc.property(samples, (data) => {
      const shown = showView(viewOf(rgba(4, data), straight, 4), plainLooking);
      expect([...shown]).toEqual(data);
    }),
  );
});

test('premultiplied light is shown as the conversion to straight 8-bit sRGB has it, within a code', () => {
  const values = fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 48, maxLength: 48 });
  const convert = makeConverter(recipeOf({ alpha: 'premultiplied', transfer: 'linear' }), 'f16');
  fc.assert(
    fc.property(values, (raw) => {
      const data = raw.map((value, at) =>
        at % 4 === 3 ? 0.25 + 0.75 * value : value * (0.25 + 0.75 * raw[at - (at % 4) + 3]!),
      );
      const image = halves(4, data);
      const shown = showView(viewOf(image, light, 4), plainLooking);
      const made = convert(image).image.data;
      expect(Math.max(...Array.from(shown, (code, at) => Math.abs(code - made[at]!)))).toBeLessThanOrEqual(1);
    }),
  );
});

test('smaller, every pixel is the mean of the light that it covers, by area', () => {
  // Three columns into two: the middle one is shared.
  const image = rgba(3, [1, 1, 1, 1, 0.5, 0.5, 0.5, 1, 0, 0, 0, 1], 'f32');
  const { data, width, height } = viewOf(image, { ...light, alpha: 'none' }, 2);
  expect([width, height]).toEqual([2, 1]);
  expect(data[0]).toBeCloseTo((1 + 0.25) / 1.5, 6);
  expect(data[4]).toBeCloseTo(0.25 / 1.5, 6);
});

test('the mean of everything stays, whatever the size', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 40 }),
      fc.integer({ min: 1, max: 40 }),
      fc.integer({ min: 1, max: 40 }),
      (width, height, across) => {
        const data = Array.from({ length: width * height * 4 }, (_, at) => ((at * 7919) % 997) / 997);
        const view = viewOf(rgba(width, data, 'f32'), { ...light, alpha: 'premultiplied' }, across);
        expect(view.width).toBe(Math.min(width, across));
        const mean = (values: ArrayLike<number>) =>
          Array.from(values).reduce((sum, one) => sum + one, 0) / values.length;
        expect(mean(view.data)).toBeCloseTo(mean(Float32Array.from(data)), 4);
      },
    ),
  );
});

test('straight colours are weighed by their alpha; where all is clear they show as they are', () => {
  const half = viewOf(rgba(2, [255, 0, 0, 255, 0, 255, 0, 0]), straight, 1);
  expect([...half.data]).toEqual([1, 0, 0, 0.5]);
  const clear = viewOf(rgba(2, [255, 0, 0, 0, 255, 0, 0, 0]), straight, 1);
  expect([...clear.data]).toEqual([1, 0, 0, 0]);
});

test('what is no number is shown as a number and warned of, and does not spoil its neighbours', () => {
  const { data, warnings } = viewOf(halves(2, [NaN, 2, -1, 1, Infinity, 0.5, 0, 1]), light, 1);
  expect(warnings[0]).toBe(warningBits.notNumber | warningBits.above | warningBits.below);
  expect(data.every(Number.isFinite)).toBe(true);
  expect(data[1]).toBeCloseTo(1.25, 3);
  expect(data[2]).toBeCloseTo(-0.5, 3);
});

test('integers are warned of at both ends, clear pixels not; no warning is lost by making smaller', () => {
  fc.assert(
    fc.property(samples, fc.integer({ min: 1, max: 4 }), (data, across) => {
      const image = rgba(4, data);
      const all = viewOf(image, straight, 4).warnings.reduce((sum, bits) => sum | bits, 0);
      const own = data.reduce((sum, code, at) => {
        if (at % 4 === 3 || data[at - (at % 4) + 3] === 0) return sum;
        return sum | (code === 255 ? warningBits.top : code === 0 ? warningBits.bottom : 0);
      }, 0);
      expect(all).toBe(own);
      expect(viewOf(image, straight, across).warnings.reduce((sum, bits) => sum | bits, 0)).toBe(own);
    }),
  );
});

test('premultiplied in a curve, and on a colour, are brought to straight light', () => {
  // Half of sRGB 1 lies as 0.5 in a file that is premultiplied in its values.
  const [red] = viewOf(rgba(1, [0.5, 0, 0, 0.5], 'f32'), { ...straight, alpha: 'premultiplied' }, 1).data;
  expect(red).toBeCloseTo(1, 6);
  const onWhite = viewOf(rgba(1, [1, 0.5, 0.5, 0.5], 'f32'), { ...straight, alpha: 'on-colour', matte: [1, 1, 1] }, 1);
  expect(onWhite.data[0]).toBeCloseTo(1, 6);
  expect(onWhite.data[1]).toBeCloseTo(0, 6);
});

test('grey is three colours; primaries are brought to BT.709', () => {
  const grey: Image = { width: 1, height: 1, channels: 2, sample: 'u8', data: Uint8Array.of(255, 128) };
  expect([...viewOf(grey, straight, 1).data]).toEqual([1, 1, 1, Math.fround(128 / 255)]);
  const wide = viewOf(rgba(1, [0, 1, 0, 1], 'f32'), { ...light, primaries: 'bt2020' }, 1).data;
  // ITU-R BT.2087-0, table 2: BT.2020 green lies outside BT.709.
  expect(wide[0]).toBeCloseTo(-0.5876, 3);
  expect(wide[1]).toBeCloseTo(1.1329, 3);
});

test('exposure is stops of light, gamma a power of what is displayed', () => {
  const view = viewOf(halves(1, [0.25, 2, 0.1, 1]), light, 1);
  expect(showView(view, { ...plainLooking, exposure: 2 })[0]).toBe(255);
  expect(showView(view, { ...plainLooking, exposure: -1 })[1]).toBe(255);
  // sRGB of 1 is 1, of 0.5 is 0.7354 (IEC 61966-2-1).
  expect(showView(view, { ...plainLooking, exposure: -2 })[1]).toBe(Math.round(255 * 0.7354));
  expect(showView(view, { ...plainLooking, exposure: -2, gamma: 2 })[1]).toBe(Math.round(255 * Math.sqrt(0.7354)));
});

test('channels, alpha and luminance are opaque grey', () => {
  const view = viewOf(rgba(1, [1, 0.5, 0.25, 0.5], 'f32'), light, 1);
  const grey = (channel: 'red' | 'alpha' | 'luminance') => [...showView(view, { ...plainLooking, channel })];
  expect(grey('red')).toEqual([255, 255, 255, 255]);
  expect(grey('alpha')).toEqual([128, 128, 128, 255]);
  const luminance = 0.2126 + 0.7152 * 0.5 + 0.0722 * 0.25;
  const code = Math.round(255 * (1.055 * luminance ** (1 / 2.4) - 0.055));
  expect(grey('luminance')).toEqual([code, code, code, 255]);
});

test('light without alpha glows', () => {
  const shown = showView(viewOf(halves(1, [1, 0.5, 0, 0]), light, 1), plainLooking);
  expect(shown[3]).toBe(255);
  expect(shown[1]).toBe(Math.round(255 * 0.7354));
});

test('a view is shown from its bytes as it is from its values', () => {
  const value = fc.oneof(fc.double({ min: 0, max: 1, noNaN: true }), fc.constantFrom(0, 1, -0.5, 3, NaN, Infinity));
  const channels = fc.constantFrom(...shownChannels);
  fc.assert(
    fc.property(
      fc.array(value, { minLength: 48, maxLength: 48 }),
      channels,
      fc.constantFrom('straight' as const, 'premultiplied' as const),
      fc.constantFrom('half' as const, 'float' as const),
      fc.boolean(),
      (data, channel, alpha, precision, warns) => {
        const opacities = data.map((one, at) => (at % 4 === 3 ? Math.min(1, Math.max(0, one || 0)) : one));
        const bytes = packView(viewOf(halves(4, opacities), { ...light, alpha }, 4), precision);
        const looking = { channel, exposure: 0.5, gamma: 1.2, warns };
        const { width, height, pixels } = showPacked(bytes, looking);
        expect([width, height]).toEqual([4, 3]);
        expect(pixels).toEqual(showView(unpackView(bytes), looking));
      },
    ),
  );
});

test('warnings are painted over, beyond the range hatched', () => {
  const view = viewOf(halves(2, [0.5, 0.5, 2, 1, 0.5, 0.5, 2, 1, 0.5, 0.5, 2, 1, 0.5, 0.5, 2, 1]), light, 2);
  const shown = showView(view, { ...plainLooking, warns: true });
  const above = warningColours.find(([bit]) => bit === warningBits.above)![1];
  expect([...shown.slice(0, 3)]).toEqual([...above]);
  expect(showView(view, plainLooking)[0]).toBe(Math.round(255 * 0.7354));
});

test('the difference of a picture with itself is black, with another it is the distance times the gain', () => {
  fc.assert(
    fc.property(samples, (data) => {
      const view = viewOf(rgba(4, data), straight, 4);
      const shown = showDifference(view, view, plainLooking, 64);
      expect(shown.every((value, at) => value === (at % 4 === 3 ? 255 : 0))).toBe(true);
    }),
  );
  const [a, b] = [100, 102].map((code) => viewOf(rgba(1, [code, 50, 50, 255]), straight, 1)) as [never, never];
  expect([...showDifference(a, b, plainLooking, 8)]).toEqual([16, 0, 0, 255]);
});

test('a view and a piece come out of their bytes as they went in', () => {
  // Under the least normal half its neighbours are 2^-24 apart (IEEE 754-2019, 3.6).
  const faint = [...new Array<number>(16).fill(0), 1, 0, 0, 1, 0, 0, 0, 31, ...new Array<number>(24).fill(0)];
  fc.assert(
    fc.property(samples, fc.integer({ min: 0, max: 3 }), fc.integer({ min: 0, max: 2 }), (data, left, top) => {
      const image = rgba(4, data);
      const view = viewOf(image, straight, 3);
      expect(unpackView(packView(view, 'float'))).toEqual(view);
      const rough = unpackView(packView(view, 'half'));
      const isNear = (value: number, at: number) =>
        Math.abs(value - view.data[at]!) <= Math.max(view.data[at]! / 2047, 2 ** -25);
      expect([...rough.data].every(isNear)).toBe(true);
      const piece = pieceOf(image, left, top, 2, 2);
      const again = unpackPiece(packPiece(piece));
      expect(again).toEqual(piece);
      expect([...again.image.data.slice(0, 4)]).toEqual(data.slice((top * 4 + left) * 4, (top * 4 + left) * 4 + 4));
    }),
    { examples: [[faint, 0, 0]] },
  );
});

test('half floats are packed to the nearest, as the slow rule has it', () => {
  fc.assert(
    fc.property(fc.float({ min: -65_504, max: 65_504, noNaN: true }), (value) => {
      const view = { ...viewOf(rgba(1, [0, 0, 0, 1], 'f32'), light, 1), data: Float32Array.of(value, 0, 0, 1) };
      const bytes = packView(view, 'half');
      expect(new Uint16Array(bytes.buffer, 24, 1)[0]).toBe(numberToHalf(Math.fround(value)));
    }),
    { numRuns: runs(2000) },
  );
});

test('bytes that are no picture, and pictures that are cut, are refused', () => {
  const bytes = packView(viewOf(rgba(1, [1, 2, 3, 4]), straight, 1), 'half');
  expect(() => unpackView(bytes.slice(0, -1))).toThrow('not whole');
  expect(() => unpackView(new TextEncoder().encode('<!doctype html><title>no</title>'))).toThrow('not a picture');
  expect(() => unpackPiece(bytes)).toThrow('not a picture');
  expect(() => pieceOf(rgba(1, [1, 2, 3, 4]), 1, 0, 1, 1)).toThrow('outside');
});

test('what is not declared is looked at as straight sRGB', () => {
  const nothing = { value: null, grounds: 'none' as const };
  const declaration = {
    rate: nothing,
    alpha: nothing,
    transfer: nothing,
    primaries: nothing,
    first: nothing,
    pixelAspect: nothing,
    matte: nothing,
  };
  expect(takenAs(declaration)).toEqual(straight);
});
