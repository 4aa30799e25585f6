import type { Source } from '../numbering/source.ts';
import { declare } from '../spec/declaration.ts';
import { ofLayer, parseSpec } from '../spec/parse.ts';
import { makePlan } from './make.ts';
import { foldersRead } from './touched.ts';
import { printSentence, sentenceOf } from './sentence.ts';

const sourceOf = (name: string, stored: string[], more: object = {}): Source => ({
  ...{ kind: 'sequence', folder: 'shots', name: `${name}.####.exr`, irregular: [], doubled: [], findings: [] },
  ...{ pattern: { prefix: `${name}.`, padding: 4, suffix: '.exr' }, coverage: [{ first: 1, last: 8, step: 1 }] },
  ...{ files: 8, bytes: 0, modified: 0, weights: [1] },
  facts: {
    ...{ width: 40, height: 20, format: 'exr', sample: 'f16', channels: ['R', 'G', 'B'], hasAlpha: false, more: [] },
    stored,
    layers: ['diffuse'],
    ...more,
  },
});
const comp = sourceOf('comp', ['R', 'G', 'B', 'Z', 'diffuse.R']);
const motion = sourceOf('motion', ['u', 'v']);
const of = { root: 'museum', folder: 'shots', name: motion.name };
const write = { format: 'exr', sample: 'f16', alpha: 'none', transfer: 'linear' };
const R = { as: 'R', from: 'diffuse.R' };
const given = (source: Source) => ({ joined: [{ root: 'museum', source, declaration: declare(source) }] });
const plan = (channels: object[], more: object = {}, others: object = {}) =>
  makePlan('museum', comp, declare(comp), parseSpec({ version: 1, write, channels, ...more }), others);
const codes = (...of: Parameters<typeof plan>) => plan(...of).problems.map(({ code }) => code);

test('channels are carried over under other names, and those that are left are told', () => {
  const made = plan([R, { as: 'depth.Z', from: 'Z' }, { as: 'copy.Z', from: 'Z' }]);
  expect(made.problems).toEqual([]);
  expect([made.copies, made.files]).toEqual([false, 8]);
  expect(made.losses.map(({ sentence }) => sentence)).toEqual(['Channels that are left out: R, G, B']);
  expect(printSentence(sentenceOf(made))).toContain('write OpenEXR, 3 channels as they are');
});

test('those of another sequence are joined by its frames, which is named once however many are taken', () => {
  const channels = [R, { as: 'motion.u', from: 'u', of }, { as: 'motion.v', from: 'v', of }];
  const made = plan(channels, {}, given(motion));
  expect(made.problems).toEqual([]);
  expect(made.joined).toMatchObject([{ root: 'museum', source: { name: 'motion.####.exr' } }]);
  expect(foldersRead(made)).toHaveLength(2);
  expect(codes(channels)).toEqual(['joined-not-found']);
  const other = sourceOf('motion', ['u', 'v'], { width: 41 });
  expect(codes(channels, {}, given(other))).toEqual(['mixed-pictures']);
  expect(codes(channels, {}, given(sourceOf('motion', ['u', 'v'], { format: 'png' })))).toEqual(['channels-need-exr']);
  expect(codes([{ as: 'x', from: 'w', of }], {}, given(motion))).toEqual(['no-such-channel']);
});

test.each<[string, object[], object, string]>([
  ['a channel that is not there', [{ as: 'R', from: 'beauty.R' }], {}, 'no-such-channel'],
  ['two of one name', [R, { as: 'R', from: 'Z' }], {}, 'channel-twice'],
  ['another format', [R], { write: { ...write, format: 'png', sample: 'u16' } }, 'channels-need-exr'],
  ['work on the picture', [R], { picture: { turn: 90 } }, 'channels-alone'],
  ['slates', [R], { missing: 'slate' }, 'channels-alone'],
  ['text', [R], { burn: { left: '{frame}' } }, 'channels-alone'],
])('%s is refused', (_name, channels, more, code) => {
  expect(codes(channels, more)).toContain(code);
});

test('names of channels are text without control characters', () => {
  expect(() => parseSpec({ version: 1, write, channels: [{ as: 'a\nb', from: 'R' }] })).toThrow('channels.0.as');
  expect(() => parseSpec({ version: 1, write, channels: [{ as: '', from: 'R' }] })).toThrow('channels.0.as');
});

test('a layer goes into the names of a run over every one', () => {
  const spec = parseSpec({ version: 1, write });
  const into = (layer: string | null, template?: string) =>
    makePlan(
      'museum',
      comp,
      declare(comp),
      ofLayer(template ? { ...spec, names: { ...spec.names, template } } : spec, layer),
    ).into;
  expect(into('diffuse')).toMatchObject({ pattern: { prefix: 'comp_diffuse.' } });
  expect(into(null)).toMatchObject({ pattern: { prefix: 'comp_main.' } });
  expect(into('diffuse', '{layer}.{frame:6}.{ext}')).toMatchObject({ pattern: { prefix: 'diffuse.', padding: 6 } });
});
