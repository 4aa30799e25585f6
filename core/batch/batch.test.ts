import fc from 'fast-check';
import { describeFolder } from '../numbering/describe.ts';
import type { Facts, Source } from '../numbering/source.ts';
import { writeSameNames } from '../plan/touched.ts';
import { printSentence } from '../plan/sentence.ts';
import { declare, type Word } from '../spec/declaration.ts';
import { parseSpec } from '../spec/parse.ts';
import type { Spec } from '../spec/schema.ts';
import {
  type Batch,
  batchOf,
  batchSchema,
  ownIn,
  specFor,
  withDifference,
  withOutput,
  withoutDifference,
  withoutOutput,
} from './batch.ts';
import { folderApart } from './apart.ts';
import { breachesOf } from '../receiver/breaches.ts';
import { conformBatch } from '../receiver/conformBatch.ts';
import { heldPlan } from '../receiver/held.ts';
import { receiverSchema } from '../receiver/receiver.ts';
import { collisionsAmong } from './collisions.ts';
import { ownOf, withOwn } from './own.ts';
import { digestOfBatch, partsOf, planPart, sumsOf, type BatchPart, type BatchSource } from './plan.ts';
import { sentenceOfBatch } from './sentence.ts';
import { sourcesSaid, spokenOf } from './spoken.ts';

const facts: Facts = {
  width: 64,
  height: 48,
  format: 'png',
  sample: 'u16',
  channels: ['R', 'G', 'B', 'A'],
  hasAlpha: true,
  more: [],
};

function sourceOf(folder: string, stem: string, frames: number[], word: Word = {}): BatchSource {
  const names = frames.map((frame) => `${stem}.${String(frame).padStart(4, '0')}.png`);
  const zeros = frames.map(() => 0);
  const [described] = describeFolder(folder, { names, bytes: zeros.map(() => 10), modified: zeros }, -1).sequences;
  const source: Source = { ...described!.source, facts };
  return { id: `${folder}/${stem}`, root: 'museum', source, declaration: declare(source, word) };
}

const span = (first: number, last: number) => Array.from({ length: last - first + 1 }, (_, at) => first + at);

const spec = (more: object = {}): Spec =>
  parseSpec({ version: 1, write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' }, ...more });

const review = spec({
  write: { format: 'h264', sample: 'u8', alpha: 'none', transfer: 'bt709' },
  video: { name: '{folder}_review.mp4', oddSize: 'crop' },
});

function partsOfAll(sources: BatchSource[], outputs: Spec[], batch = batchOf(...outputs)): BatchPart[] {
  return sources.flatMap((source) =>
    outputs.map((_, output) => ({ source: source.id, output, plan: planPart(source, batch, output, {}) })),
  );
}

const some = [sourceOf('line_01', 'bell', span(1, 60)), sourceOf('line_02', 'loop', [1, 2, 4, 5])];
const rated = [sourceOf('line_01', 'bell', span(1, 60), { rate: { num: 24, den: 1 } })];

describe('what a source has otherwise', () => {
  test('is the fields that differ, and said again over the rest it is what was wanted', () => {
    const wanted = spec({ names: { first: 7 }, frames: '2-9', picture: { flip: 'across' } });
    const own = ownOf(spec(), wanted);
    expect(own).toEqual({ 'names.first': 7, frames: '2-9', 'picture.flip': 'across' });
    expect(withOwn(spec(), own)).toEqual(wanted);
    // The rest may change meanwhile: only what was said otherwise stays.
    expect(withOwn(spec({ names: { stem: 'x' } }), own).names).toMatchObject({ stem: 'x', first: 7 });
  });

  test('any two specs: one over the other gives the other', () => {
    const specs = fc
      .record({
        frames: fc.constantFrom('all', '1-5', '3'),
        missing: fc.constantFrom('leave-out', 'hold', 'slate'),
        names: fc.record({
          first: fc.option(fc.integer({ min: 0, max: 99 })),
          stem: fc.option(fc.constantFrom('a', 'b')),
        }),
        then: fc.array(fc.constant({ source: { root: 'r', folder: '', name: 'x.####.png' } }), { maxLength: 2 }),
      })
      .map(spec);
    fc.assert(fc.property(specs, specs, (a, b) => expect(withOwn(a, ownOf(a, b))).toEqual(b)));
  });

  test('what a spec does not have is refused, and forbids that part alone', () => {
    expect(() => withOwn(spec(), { 'names.nothing': 1 })).toThrow(/nothing/);
    const batch = {
      ...batchOf(spec()),
      differences: [{ source: some[0]!.id, output: 0, own: { 'write.format': 'x' } }],
    };
    const parts = partsOf(partsOfAll(some, batch.outputs, batch), batch);
    expect(parts.map(({ problems }) => problems.map(({ code }) => code))).toEqual([['bad-spec'], []]);
    expect(sumsOf(parts)).toEqual({ sources: 2, ready: 1, files: 4, videos: 0, frames: 4 });
  });

  test('stays when the rest changes, and is set back', () => {
    const [bell, loop] = some as [BatchSource, BatchSource];
    const first = withDifference(batchOf(spec(), review), loop.id, 0, spec({ frames: '1-2' }));
    const changed = withOutput(first, 0, spec({ names: { first: 5 } }));
    expect(specFor(changed, loop.id, 0)).toMatchObject({ frames: '1-2', names: { first: 5 } });
    expect(specFor(changed, bell.id, 0).frames).toBe('all');
    expect(ownIn(withoutDifference(changed, [loop.id]), loop.id, 0)).toBeUndefined();
    expect(withDifference(changed, loop.id, 0, changed.outputs[0]!).differences).toEqual([]);
    // The output behind one that is taken away keeps its differences.
    const second = withDifference(changed, bell.id, 1, spec({ frames: '3' }));
    const one = withoutOutput(second, 0);
    expect([one.outputs, one.differences.map(({ source, output }) => [output, source])]).toEqual([
      [review],
      [[0, bell.id]],
    ]);
    expect(withoutOutput(one, 0)).toEqual(one);
    expect(batchSchema.parse(JSON.parse(JSON.stringify(second)))).toEqual(second);
  });
});

describe('names among sources', () => {
  test('a template that gives two sources one name forbids both, and says with whom', () => {
    const both = [sourceOf('line_01', 'bell', span(1, 9)), sourceOf('line_02', 'bell', span(1, 5)), some[1]!];
    const parts = partsOf(partsOfAll(both, [spec()]), batchOf(spec()));
    expect(parts.map(({ problems }) => problems.map(({ code }) => code))).toEqual([['same-names'], ['same-names'], []]);
    expect(parts[0]!.problems[0]!.fact).toBe('bell/bell.####.png would be written for line_02/bell.####.png too.');
    const apart = spec({ into: { folder: '{folder}' } });
    expect(partsOf(partsOfAll(both, [apart]), batchOf(apart)).flatMap(({ problems }) => problems)).toEqual([]);
  });

  test('outputs that would write the same names contradict each other', () => {
    const parts = partsOf(
      partsOfAll(some, [spec(), spec({ frames: '1-2' })]),
      batchOf(spec(), spec({ frames: '1-2' })),
    );
    expect(parts.map(({ problems }) => problems[0]?.fact)).toEqual([
      'bell/bell.####.png would be written for another output of the same source too.',
      'bell/bell.####.png would be written for another output of the same source too.',
      'loop/loop.####.png would be written for another output of the same source too.',
      'loop/loop.####.png would be written for another output of the same source too.',
    ]);
  });

  test('are found where a comparison of each with each finds them', () => {
    const names = fc.constantFrom('a.{frame:4}.png', 'a{frame:2}.png', 'b.{frame}.png', '{stem}.{frame:4}.png');
    const part = fc
      .record({ stem: fc.constantFrom('a', 'b', 'a.1'), folder: fc.constantFrom('x', 'y'), names, video: fc.boolean() })
      .map(({ stem, folder, names: template, video }) => ({
        plan: planPart(
          { ...rated[0]!, source: sourceOf('f', stem, [1, 2, 3]).source },
          batchOf(
            video
              ? { ...review, into: { root: 'results', folder }, video: { ...review.video, name: 'a.0001.png' } }
              : spec({ names: { template }, into: { folder } }),
          ),
          0,
          {},
        ),
      }));
    fc.assert(
      fc.property(fc.array(part, { maxLength: 7 }), (parts) => {
        const found = collisionsAmong(parts);
        for (const [at, { plan }] of parts.entries()) {
          const same = parts.some((other, place) => place !== at && writeSameNames(plan, other.plan));
          expect(found.has(at)).toBe(same);
        }
      }),
    );
  });
});

test('a batch is told by what would run: another word or spec is another digest, what waits is not in it', () => {
  const digest = (sources: BatchSource[], ...outputs: Spec[]) =>
    digestOfBatch(partsOf(partsOfAll(sources, outputs), batchOf(...outputs)));
  expect(digest(rated, review)).toBe(digest(rated, review));
  expect(digest(rated, review)).not.toBe(digest(rated, { ...review, frames: '1-9' }));
  // Without a rate there is no video: the source waits.
  expect(digest([...rated, some[1]!], review)).toBe(digest(rated, review));
});

const spoken = (sources: BatchSource[]) =>
  spokenOf(sources.map(({ source, declaration }) => ({ ...source, declaration })));

test('many are told together: kinds, rates each once, the rate that most have, a folder that keeps them apart', () => {
  const at = (rate: number | null, folder: string) =>
    sourceOf(folder, 'bell', [1, 2], rate ? { rate: { num: rate, den: 1 } } : {});
  expect(spoken([at(25, 'a'), at(30, 'b'), at(25, 'c'), at(null, 'd')])).toEqual({
    ...{ count: 4, name: 'bell.####.png', kinds: ['sequence'], apart: '{folder}' },
    rates: [{ num: 25, den: 1 }, { num: 30, den: 1 }, null],
    usualRate: { num: 25, den: 1 },
  });
  expect(spoken([at(null, 'a')])).toMatchObject({ rates: [null], usualRate: { num: 24, den: 1 }, apart: null });
});

test('what a receiver would trip over is mended for all; a stem for its source alone', () => {
  const strict = receiverSchema.parse({ version: 1, name: 'strict', formats: ['tiff'], letters: 'lower' });
  const sources = [sourceOf('a', 'Bell_1', [1, 2]), sourceOf('b', 'LOOP', [1, 2])];
  const batch = batchOf(spec());
  const held = (some: Batch) => {
    const parts = partsOfAll(sources, some.outputs, some);
    return partsOf(parts, some).map((one, at) => ({
      ...one,
      breaches: breachesOf(heldPlan(parts[at]!.plan, '/'), strict),
    }));
  };
  expect(held(batch).some(({ breaches }) => breaches.length > 0)).toBe(true);
  const mended = conformBatch(batch, strict, held(batch));
  expect(mended.outputs[0]!.write.format).toBe('tiff');
  expect(mended.outputs[0]!.names.stem).toBeNull();
  expect(held(mended).flatMap(({ breaches }) => breaches)).toEqual([]);
});

test('the sentence speaks of many, with what each source gives as fields', () => {
  const said = (sources: BatchSource[], ...outputs: Spec[]) =>
    sentenceOfBatch(batchOf(...outputs), sourcesSaid(spoken(sources)), spoken(sources).rates);
  const parts = said(some, spec({ names: { first: 1001 }, into: { folder: '{folder}' } }), review);
  expect(printSentence(parts)).toBe(
    'Take 2 sequences as declared; write PNG, 8-bit with straight alpha, sRGB, named {stem}.####.png from 1001, into results/{folder}; and H.264, 8-bit at quality 18, 4:2:0 with no alpha, BT.709, named {folder}_review.mp4, into results.',
  );
  expect(parts.find(({ control }) => control === 'rate')).toMatchObject({ doubt: true });
  const formats = parts.filter(({ control }) => control === 'format');
  expect(formats).toMatchObject([{ output: 0 }, { output: 1 }]);
  expect(printSentence(said(rated, spec()))).toMatch(/^Take 1 sequence as 24 fps; write PNG/);
  expect(sourcesSaid({ count: 3, kinds: ['clip', 'sequence', 'still'] })).toBe('3 sources');
});

test('the folder keeps names apart with as little as that needs', () => {
  const of = (...all: [folder: string, name: string][]) => folderApart(all.map(([folder, name]) => ({ folder, name })));
  expect(of(['lines/a', 'bell.####.png'], ['lines/b', 'loop.####.png'])).toBeNull();
  expect(of(['lines/a', 'bell.####.png'], ['lines/b', 'bell.####.png'])).toBe('{folder}');
  expect(of(['one/a', 'bell.####.png'], ['two/a', 'bell.####.png'])).toBe('{path}/{stem}');
});
