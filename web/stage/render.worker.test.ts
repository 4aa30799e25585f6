import { jest } from '@jest/globals';
import { packPiece, packView, type Image, type Looking, type View } from '@shale/core';
import type { Answer, Asked } from './render.worker.ts';

/** What a worker has in a browser, as far as the stage's needs it: bitmaps keep their pixels here. */
interface Pixels {
  width: number;
  height: number;
  data: Uint8ClampedArray;
}
const answers: Answer[] = [];
const scope: { onmessage?: (event: { data: Asked }) => void; postMessage: (answer: Answer) => void } = {
  postMessage: (answer) => void answers.push(answer),
};
class Painted implements Pixels {
  constructor(
    readonly data: Uint8ClampedArray,
    readonly width: number,
    readonly height: number,
  ) {}
}
const bitmap = jest.fn((image: Pixels, _options: object) => Promise.resolve(image));
Object.assign(globalThis, { self: scope, ImageData: Painted, createImageBitmap: bitmap });
beforeAll(() => import('./render.worker.ts'));

async function worked(work: Asked['work']): Promise<Answer> {
  const id = answers.length + 1;
  scope.onmessage!({ data: { id, work } });
  while (answers.length < id) await new Promise((done) => setTimeout(done, 1));
  expect(answers.at(-1)!.id).toBe(id);
  return answers.at(-1)!;
}
const pixelsOf = async (work: Asked['work']): Promise<Pixels> => {
  const answer = await worked(work);
  if ('error' in answer) throw new Error(answer.error);
  return answer.picture as unknown as Pixels;
};

const view = (data: readonly number[], more: Partial<View> = {}): View => ({
  ...{ width: data.length / 4, height: 1, alpha: 'straight' },
  ...{ data: Float32Array.from(data), warnings: new Uint8Array(data.length / 4) },
  ...more,
});
/** IEC 61966-2-1: a linear value as an 8-bit sRGB code. */
const srgb = (linear: number) =>
  Math.round(255 * (linear <= 0.0031308 ? linear * 12.92 : 1.055 * linear ** (1 / 2.4) - 0.055));
const plain: Looking = { channel: 'colour', exposure: 0, gamma: 1, warns: false };

test.each(['half', 'float'] as const)('a view in %s precision is drawn as sRGB, exposed as told', async (precision) => {
  const bytes = packView(view([0.25, 0.5, 1, 1, 0, 0.125, 0.75, 0.5]), precision);
  const shown = await pixelsOf({ kind: 'view', bytes, looking: plain });
  expect([shown.width, shown.height]).toEqual([2, 1]);
  expect([...shown.data]).toEqual([srgb(0.25), srgb(0.5), 255, 255, 0, srgb(0.125), srgb(0.75), 128]);
  const brighter = await pixelsOf({ kind: 'view', bytes, looking: { ...plain, exposure: 1 } });
  expect([...brighter.data].slice(0, 3)).toEqual([srgb(0.5), 255, 255]);
  const green = await pixelsOf({ kind: 'view', bytes, looking: { ...plain, channel: 'green' } });
  expect([...green.data].slice(0, 3)).toEqual([srgb(0.5), srgb(0.5), srgb(0.5)]);
  expect(bitmap.mock.lastCall![1]).toEqual({ premultiplyAlpha: 'none' });
});

test('a difference is nothing where two are the same, and grows with its gain where they are not', async () => {
  const a = packView(view([0.5, 0.5, 0.5, 1, 0.5, 0.5, 0.5, 1]), 'float');
  const b = packView(view([0.5, 0.5, 0.5, 1, 0.5, 0.6, 0.5, 1]), 'float');
  const once = await pixelsOf({ kind: 'difference', a, b, looking: plain, gain: 1 });
  const more = await pixelsOf({ kind: 'difference', a, b, looking: plain, gain: 4 });
  expect([...once.data].slice(0, 3)).toEqual([0, 0, 0]);
  expect(once.data[5]).toBeGreaterThan(0);
  expect(more.data[5]).toBeGreaterThan(once.data[5]!);
  expect([once.data[4], once.data[6]]).toEqual([0, 0]);
});

test('a piece is its file’s own samples, shown as they are taken', async () => {
  const image: Image = {
    ...{ width: 2, height: 1, channels: 3, sample: 'u8' },
    data: Uint8Array.of(0, 64, 128, 255, 32, 16),
  };
  const bytes = packPiece({ left: 5, top: 6, image });
  const taken = { alpha: 'none', transfer: 'srgb', primaries: 'bt709', matte: null } as never;
  const shown = await pixelsOf({ kind: 'piece', bytes, taken, looking: plain });
  expect([...shown.data]).toEqual([0, 64, 128, 255, 255, 32, 16, 255]);
});

test('what is no picture is answered as such, by its number, and the next is worked', async () => {
  const answer = await worked({ kind: 'view', bytes: new Uint8Array(40), looking: plain });
  expect(answer).toMatchObject({ error: expect.stringContaining('not a picture') });
  const cut = packView(view([0, 0, 0, 1]), 'half').subarray(0, 26);
  expect(await worked({ kind: 'view', bytes: cut, looking: plain })).toHaveProperty('error');
  expect(await worked({ kind: 'view', bytes: packView(view([0, 0, 0, 1]), 'half'), looking: plain })).toHaveProperty(
    'picture',
  );
});
