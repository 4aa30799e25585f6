import { namingSpecSchema } from '../naming/rules.ts';
import { planRename } from '../naming/rename.ts';
import { numbered, sourcesOf } from '../naming/testing.ts';
import type { ToName } from '../naming/renamePlan.ts';
import { makePlan } from '../plan/make.ts';
import { startingSpec } from '../spec/parse.ts';
import { breachesOf } from './breaches.ts';
import { conformNaming, conformSpec, namingMend, specMend } from './conform.ts';
import { heldPlan, heldRename, heldSource } from './held.ts';
import { receiverSchema, type ReceiverInput } from './receiver.ts';
import { receiverSentences } from './sentences.ts';
import { shippedReceivers } from './shipped.ts';
import { strictRead } from './strict.ts';

const plate = shippedReceivers['viewport-plate']!;
const receiver = (rules: Partial<ReceiverInput>) => receiverSchema.parse({ version: 1, name: 'test', ...rules });
const four = (frame: number) => String(frame).padStart(4, '0');

/** bell_turn_1.png to bell_turn_60.png without 37, 16 bits, declared. */
function bell(): ToName {
  const names = numbered(1, 60, (frame) => `bell_turn_${frame}.png`).filter((name) => name !== 'bell_turn_37.png');
  const [item] = sourcesOf('turntables', names);
  item!.source.facts = {
    width: 1280,
    height: 720,
    format: 'png',
    sample: 'u16',
    channels: ['R', 'G', 'B', 'A'],
    hasAlpha: true,
    more: [],
  };
  const said = <T>(value: T) => ({ value, grounds: 'word' as const, detail: '' });
  item!.declaration = {
    ...item!.declaration,
    alpha: said('straight' as const),
    transfer: said('srgb' as const),
    rate: said({ num: 24, den: 1 }),
  };
  return item!;
}
const rulesOf = (list: { rule: string }[]) => list.map(({ rule }) => rule);

test('every shipped receiver reads as sentences, and none is like another', () => {
  for (const [id, one] of Object.entries(shippedReceivers)) {
    expect(id).toMatch(/^[a-z-]+$/);
    const told = receiverSentences(one).map(({ sentence }) => sentence);
    expect(told.length).toBeGreaterThan(3);
    for (const sentence of told) expect(sentence).toMatch(/^[A-Z].*\.$/);
  }
  expect(
    receiverSentences(plate)
      .map(({ sentence }) => sentence)
      .slice(0, 4),
  ).toEqual([
    'Names use only letters and digits, apart from the separator and the dot before the ending.',
    'Before the number comes a dot, and after it only the ending, as name.0000.png.',
    'The number has exactly 4 digits.',
    'It plays files in order of their names: numbers need the same width.',
  ]);
  expect(receiverSentences(receiver({}))).toEqual([]);
});

test('a source is held against a receiver: each breach by its rule', () => {
  const { source, declaration } = bell();
  const held = heldSource(source, declaration, '/mnt/shows');
  const found = breachesOf(held, plate);
  expect(found.map(({ rule, sentence }) => `${rule}: ${sentence}`)).toEqual([
    'characters: "bell_turn" holds "_".',
    'separator: Before the number comes "_", not a dot.',
    'digits: Numbers have 1 digit.',
    'byName: Sorted by name, its numbers are out of order: 1, 10, 2.',
    'first: Numbers begin at 1.',
    'unbroken: Number 37 is missing.',
  ]);
  const more = receiver({
    formats: ['exr'],
    samples: ['u8'],
    alpha: ['none'],
    transfers: ['linear'],
    maxWidth: 1000,
    multipleOf: 32,
    rates: [{ num: 25, den: 1 }],
    totalBytes: 1,
    pathLength: 20,
    letters: 'upper',
  });
  const heavy = { ...held, bytes: 1000 };
  expect(rulesOf(breachesOf(heavy, more))).toEqual([
    'letters',
    'pathLength',
    'formats',
    'samples',
    'alpha',
    'transfers',
    'size',
    'multipleOf',
    'rates',
    'totalBytes',
  ]);
  const undeclared = { ...held, alpha: null, transfer: null, rate: null };
  expect(
    breachesOf(undeclared, more)
      .filter(({ unknown }) => unknown)
      .map(({ rule }) => rule),
  ).toEqual(['alpha', 'transfers', 'rates']);
});

test('one press a breach, and the strict reader then loads all of it', () => {
  const item = bell();
  const before = strictRead(
    item.source.pattern ? planOf(item, namingSpecSchema.parse({ version: 1 })).from : [],
    plate,
  );
  expect(before.plays).toEqual([]);
  let spec = namingSpecSchema.parse({ version: 1 });
  for (let press = 0; press < 10; press += 1) {
    const [breach] = breachesOf(heldRename(planOf(item, spec), [item], '/mnt/shows')[0]!, plate);
    if (!breach) break;
    expect(namingMend(breach, plate)).toBeDefined();
    spec = conformNaming(spec, plate, [breach]);
  }
  const made = planOf(item, spec);
  expect(made.problems).toEqual([]);
  expect(made.to[0]).toBe('bellturn.0000.png');
  expect(made.to[58]).toBe('bellturn.0058.png');
  const after = strictRead(made.to, plate);
  expect(after).toMatchObject({ leftOut: [], sentence: 'It loads 59 frames.' });
  // All at once leads to the same names.
  const all = breachesOf(heldSource(item.source, item.declaration, '/mnt/shows'), plate);
  expect(planOf(item, conformNaming(namingSpecSchema.parse({ version: 1 }), plate, all)).to).toEqual(made.to);
});

const planOf = (item: ToName, spec: ReturnType<typeof namingSpecSchema.parse>) =>
  planRename([item], spec, { root: 'a', into: 'a', names: () => [] });

test('a template and a tail give way to what the receiver asks', () => {
  const [item] = sourcesOf(
    'f',
    numbered(1, 3, (frame) => `frame_${four(frame)}_left.png`),
  );
  const spec = namingSpecSchema.parse({ version: 1, rules: [] });
  const breaches = breachesOf(
    heldSource(item!.source, item!.declaration, '/'),
    receiver({ separator: '.', digits: 5 }),
  );
  expect(planOf(item!, conformNaming(spec, receiver({ separator: '.', digits: 5 }), breaches)).to[0]).toBe(
    'frame_left.00001.png',
  );
});

test('a conversion takes names, format, depth and alpha from the receiver', () => {
  const { source, declaration } = bell();
  const float = shippedReceivers['float-compositing']!;
  const spec = startingSpec(source, declaration);
  const plan = () => makePlan('museum', source, declaration, spec);
  const breaches = breachesOf(heldPlan(plan(), '/results'), float);
  expect(rulesOf(breaches)).toEqual(['formats', 'samples', 'alpha', 'transfers']);
  expect(specMend(breaches[0]!, float)).toBe('Write OpenEXR');
  const next = conformSpec(spec, float, breaches, 'bell_turn');
  expect(next.write).toMatchObject({ format: 'exr', sample: 'f16', alpha: 'premultiplied', transfer: 'linear' });
  const made = makePlan('museum', source, declaration, next);
  expect(made.problems).toEqual([]);
  expect(breachesOf(heldPlan(made, '/results'), float)).toEqual([]);
  const named = conformSpec(spec, plate, breachesOf(heldPlan(plan(), '/results'), plate), 'bell_turn');
  expect(named.names).toMatchObject({ stem: 'bellturn', template: '{stem}.{frame:4}.{ext}', first: 0 });
  const small = { ...plate, maxWidth: 2, maxHeight: 3, multipleOf: 4 };
  expect(specMend({ rule: 'size', name: '', sentence: '' }, small)).toBe('Make pictures small enough');
  const sized = conformSpec(
    spec,
    small,
    [
      { rule: 'size', name: '', sentence: '' },
      { rule: 'multipleOf', name: '', sentence: '' },
    ],
    'bell',
  );
  expect(sized.picture).toMatchObject({ resize: { to: { by: 'limit', width: 2, height: 3 } }, pad: { multiple: 4 } });
});

describe('the strict reader', () => {
  test.each<[string, string[], Partial<ReceiverInput>, string]>([
    [
      'not padded',
      numbered(1, 12, (frame) => `pan.${frame}.png`),
      { byName: true },
      'It loads 12 frames, in the wrong order: 1, 10, 11, ...',
    ],
    ['padded', numbered(1, 12, (frame) => `pan.${four(frame)}.png`), {}, 'It loads 12 frames.'],
    ['a gap', ['p.01.png', 'p.02.png', 'p.04.png'], { unbroken: true }, 'It loads 2 frames and leaves out 1.'],
    ['from 1', ['p.01.png', 'p.02.png'], { first: 0 }, 'It loads nothing.'],
    [
      'drafts among them',
      ['p.1.png', 'p.2.png', 'draft.1.png'],
      { alone: true },
      'It reads several sequences as one and plays them mixed.',
    ],
    ['capital letters', ['P.1.png'], { letters: 'lower' }, 'It loads nothing.'],
    ['an underscore', ['a_b.1.png', 'ab.1.png'], { characters: 'plain' }, 'It loads 1 frame and leaves out 1.'],
    ['other files', ['p.1.png', 'notes.txt'], {}, 'It loads 1 frame and leaves out 1.'],
    ['nothing', [], {}, 'It loads nothing.'],
  ])('%s', (_, names, rules, sentence) => expect(strictRead(names, receiver(rules)).sentence).toBe(sentence));

  test('looks at headers where they are there', () => {
    const seen = new Map([
      ['p.1.png', { format: 'png', sample: 'u16' as const, width: 10, height: 11, hasAlpha: true }],
    ]);
    const why = (rules: Partial<ReceiverInput>) => strictRead(['p.1.png'], receiver(rules), seen).leftOut[0]?.why;
    expect(why({ samples: ['u8'] })).toBe('the samples are u16');
    expect(why({ alpha: ['none'] })).toBe('there is alpha');
    expect(why({ multipleOf: 2 })).toBe('the sides are not multiples of 2');
    expect(why({ formats: ['exr'] })).toBe('the format is png');
    expect(why({ maxHeight: 11 })).toBeUndefined();
  });
});
