import { describeFolder } from '../numbering/describe.ts';
import type { Facts, Finding, Source } from '../numbering/source.ts';
import { declare, type Word } from '../spec/declaration.ts';
import { parseSpec } from '../spec/parse.ts';
import { circleThrough, type OrderPlace } from './circle.ts';
import { lookAt, standingOrderSchema, type StandingOrder } from './order.ts';

const facts: Facts = {
  ...{ width: 64, height: 48, format: 'exr', sample: 'f16', channels: ['R', 'G', 'B', 'A'], hasAlpha: true, more: [] },
};

const spec = (folder: string | null, more: object = {}) =>
  parseSpec({
    version: 1,
    write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
    into: { root: 'results', folder },
    ...more,
  });
const video = (folder: string | null) =>
  spec(folder, { write: { format: 'h264', sample: 'u8', alpha: 'none', transfer: 'bt709' } });

const order = (more: object = {}): StandingOrder =>
  standingOrderSchema.parse({
    ...{ version: 1, name: 'Lines', root: 'shots', folder: 'lines', fits: {}, outputs: [spec('{stem}')] },
    ...more,
  });

function sourceOf(frames: number[], more: Partial<Source> = {}, folder = 'lines/line_01'): Source {
  const names = frames.map((frame) => `bell.${String(frame).padStart(4, '0')}.exr`);
  const [described] = describeFolder(
    folder,
    { names, bytes: names.map(() => 10), modified: names.map(() => 0) },
    -1,
  ).sequences;
  return { ...described!.source, facts, ...more };
}
const span = (first: number, last: number) => Array.from({ length: last - first + 1 }, (_, at) => first + at);
const look = (fits: object, source: Source, word: Word = {}) => lookAt(order({ fits }), source, declare(source, word));
const finding = (code: Finding['code'], more: Partial<Finding> = {}): Finding => ({
  ...{ code, severity: 'fault', sentence: 'It is so.', short: 'So' },
  ...more,
});

describe('what a standing order makes of a source', () => {
  const whole = sourceOf(span(1, 8));

  test('it begins where the source is whole, quiet and fits', () => {
    expect(look({}, whole)).toEqual({ is: 'ready' });
    expect(look({ kinds: ['sequence'], name: 'b*.exr' }, whole)).toEqual({ is: 'ready' });
    expect(look({ rate: '24' }, whole, { rate: { num: 24, den: 1 } })).toEqual({ is: 'ready' });
    expect(look({ frames: '1-8' }, whole)).toEqual({ is: 'ready' });
  });

  test('another kind, name, rate or folder is nothing that it speaks of', () => {
    expect(look({ kinds: ['clip'] }, whole)).toEqual({ is: 'unfit' });
    expect(look({ name: '*.png' }, whole)).toEqual({ is: 'unfit' });
    expect(look({ name: 'ell*' }, whole)).toEqual({ is: 'unfit' });
    expect(look({ rate: '25' }, whole, { rate: { num: 24, den: 1 } })).toEqual({ is: 'unfit' });
    expect(look({}, sourceOf([1, 2], {}, 'lines_2'))).toEqual({ is: 'unfit' });
    expect(look({}, { ...whole, kind: 'sound' })).toEqual({ is: 'unfit' });
  });

  test('it waits for what is written, missing, damaged or not there yet, and says for what', () => {
    expect(look({}, sourceOf([1, 2], { findings: [finding('still-writing', { severity: 'doubt' })] }))).toEqual({
      is: 'waits',
      why: 'it is still being written',
    });
    expect(look({}, sourceOf([1, 2, 4, 5, 8]))).toEqual({ is: 'waits', why: 'frames 3,6-7 are missing' });
    expect(look({}, sourceOf([1, 3]))).toEqual({ is: 'waits', why: 'frame 2 is missing' });
    expect(look({ frames: '1-12' }, whole)).toEqual({ is: 'waits', why: 'frames 9-12 are not there yet' });
    expect(look({}, { ...whole, findings: [finding('cut-short')] })).toEqual({ is: 'waits', why: 'It is so.' });
    expect(look({}, { ...whole, findings: [finding('cut-short', { setAside: 'known' })] })).toEqual({ is: 'ready' });
  });

  test('gaps are taken where that is said, and a rate that is not declared is told', () => {
    expect(look({ gaps: 'take' }, sourceOf([1, 2, 4]))).toEqual({ is: 'ready' });
    expect(look({ rate: '24' }, whole)).toEqual({ is: 'left', why: 'its rate is not declared' });
  });

  test('what does not fit is refused as such', () => {
    const refused = (more: object) => standingOrderSchema.safeParse({ ...order(), ...more }).success;
    expect(refused({ fits: { frames: '9-1' } })).toBe(false);
    expect(refused({ fits: { frames: '1-9000000' } })).toBe(false);
    expect(refused({ fits: { rate: '24 fps' } })).toBe(false);
    expect(refused({ fits: { kinds: ['sound'] } })).toBe(false);
    expect(refused({ outputs: [] })).toBe(false);
    expect(refused({ name: ' ' })).toBe(false);
    expect(refused({ fits: { frames: '1-48,60' } })).toBe(true);
  });
});

describe('a standing order is not given its own results again', () => {
  const place = (
    watched: string,
    outputs = [spec('{stem}')],
    more: object = {},
    root = '/disk/results',
  ): OrderPlace => ({
    order: order({ name: watched, outputs, ...more }),
    watched,
    roots: outputs.map(() => root),
  });
  const circle = (first: OrderPlace, ...others: OrderPlace[]) => circleThrough(first, others)?.map(({ name }) => name);

  test('by itself', () => {
    expect(circle(place('/disk/results'))).toEqual(['/disk/results']);
    expect(circle(place('/disk'))).toEqual(['/disk']);
    expect(circle(place('/disk/shots'))).toBeUndefined();
    expect(circle(place('/disk/results_old'))).toBeUndefined();
    // A field may be any text; fixed text is what it is; the whole way may be any number of steps.
    expect(circle(place('/disk/results/in', [spec('{stem}_png')]))).toBeUndefined();
    expect(circle(place('/disk/results/in_png', [spec('{stem}_png')]))).toBeDefined();
    expect(circle(place('/disk/results/in', [spec('out/{stem}')]))).toBeUndefined();
    expect(circle(place('/disk/results/in/deep', [spec('{stem}')]))).toBeUndefined();
    expect(circle(place('/disk/results/in/deep', [spec('{path}/{stem}')]))).toBeDefined();
    // A video goes into the folder itself where nothing else is said.
    expect(circle(place('/disk/results/in', [video(null)]))).toBeUndefined();
    expect(circle(place('/disk/results', [video(null)]))).toBeDefined();
  });

  test('but where what it writes does not fit', () => {
    expect(circle(place('/disk/results', [video('')], { fits: { kinds: ['sequence'] } }))).toBeUndefined();
    expect(circle(place('/disk/results', undefined, { fits: { name: '*.exr' } }))).toBeUndefined();
    expect(circle(place('/disk/results', undefined, { fits: { name: '*.png' } }))).toBeDefined();
    expect(circle(place('/disk/results', undefined, { fits: { kinds: ['clip'] } }))).toBeUndefined();
  });

  test('through others', () => {
    const first = place('/disk/a', [spec('b')], {}, '/disk');
    const second = place('/disk/b', [spec('c')], {}, '/disk');
    const third = place('/disk/c', [spec('a')], {}, '/disk');
    expect(circle(first, second)).toBeUndefined();
    expect(circle(first, second, third)).toEqual(['/disk/a', '/disk/b', '/disk/c']);
  });
});
