import type { Source } from '../numbering/source.ts';
import { declare } from '../spec/declaration.ts';
import { parseSpec } from '../spec/parse.ts';
import { makePlan } from './make.ts';

const source: Source = {
  ...{ kind: 'sequence', folder: 'shots', name: 'f.####.exr', irregular: [], doubled: [], findings: [] },
  ...{ pattern: { prefix: 'f.', padding: 4, suffix: '.exr' }, coverage: [{ first: 1, last: 8, step: 1 }] },
  ...{ files: 8, bytes: 0, modified: 0, weights: [1] },
  facts: {
    ...{ width: 100, height: 60, format: 'exr', sample: 'f16', channels: ['R', 'G', 'B'], hasAlpha: false, more: [] },
    compression: 'ZIP',
    window: { left: -10, top: -5, width: 130, height: 60 },
  },
};
const exr = { format: 'exr', sample: 'f16', alpha: 'none', transfer: 'linear', exrCompression: 'PIZ' };
const plan = (more: object = {}, write: object = exr, of = source) =>
  makePlan('museum', of, declare(of), parseSpec({ version: 1, write, ...more }));
const cut = (made: ReturnType<typeof plan>) => made.losses.find(({ code }) => code === 'overscan-cut')?.sentence;

test('windows go from OpenEXR to OpenEXR where no pixel is moved', () => {
  expect(plan().window).toBe('kept');
  expect(cut(plan())).toBeUndefined();
  expect(plan({ picture: { highlights: 'roll-off' } }, exr).window).toBe('kept');
});

test.each<[string, object, object]>([
  ['another format', {}, { format: 'png', sample: 'u16', alpha: 'none', transfer: 'linear' }],
  ['a crop', { picture: { crop: { left: 0, top: 0, width: 50, height: 50 } } }, exr],
  ['a turn', { picture: { turn: 90 } }, exr],
  ['a cut that is asked for', { picture: { window: 'display' } }, exr],
  ['pictures that are fitted', { mixed: 'fit' }, exr],
])('%s cuts to what is shown, and tells on which sides pixels are lost', (_name, more, write) => {
  const made = plan(more, write);
  expect(made.window).toBe('display');
  expect(cut(made)).toBe('Pixels outside what is shown are cut off: 10 left, 5 top, 20 right');
});

test('where the data window lies within what is shown nothing is lost', () => {
  const small = { ...source, facts: { ...source.facts!, window: { left: 10, top: 5, width: 20, height: 20 } } };
  expect(cut(plan({ picture: { window: 'display' } }, exr, small))).toBeUndefined();
});

test('all of the data window is a picture of its size', () => {
  const made = plan({ picture: { window: 'data' } });
  expect([made.window, made.source.facts!.width, made.source.facts!.height]).toEqual(['data', 130, 60]);
  expect(cut(made)).toBeUndefined();
  expect(plan({ picture: { window: 'data', crop: { left: 100, top: 0, width: 30, height: 60 } } }).problems).toEqual(
    [],
  );
});
