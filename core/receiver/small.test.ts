import type { Source } from '../numbering/source.ts';
import { makePlan } from '../plan/make.ts';
import { declare } from '../spec/declaration.ts';
import { parseSpec } from '../spec/parse.ts';
import { parseRate } from '../timing/rate.ts';
import { breachesOf } from './breaches.ts';
import { conformSpec, specMend } from './conform.ts';
import { heldPlan, heldSource } from './held.ts';
import { receiverSentences } from './sentences.ts';
import { shippedReceivers } from './shipped.ts';

const source: Source = {
  ...{ kind: 'sequence', folder: 'shots', name: 'bell.####.png', irregular: [], doubled: [], findings: [] },
  ...{ pattern: { prefix: 'bell.', padding: 4, suffix: '.png' }, coverage: [{ first: 1, last: 96, step: 1 }] },
  ...{ files: 96, bytes: 96_000_000, modified: 0, weights: [1] },
  facts: {
    ...{ width: 960, height: 540, format: 'png', sample: 'u8', channels: ['R', 'G', 'B', 'A'], hasAlpha: true },
    ...{ transfer: 'srgb', primaries: 'bt709', more: [] },
  },
};
const declared = declare(source, { rate: parseRate('24'), alpha: 'straight', transfer: 'srgb' });
const planOf = (video: object, format = 'gif') =>
  makePlan(
    'museum',
    source,
    declared,
    parseSpec({ version: 1, write: { format, sample: 'u8', alpha: 'straight', transfer: 'srgb' }, video }),
  );
const sticker = shippedReceivers.sticker!;
const told = (video: object, format?: string) =>
  breachesOf(heldPlan(planOf(video, format), '/mnt'), sticker).map(({ sentence }) => sentence);

test('a receiver of small moving pictures knows bytes, seconds, size and how often they play', () => {
  expect(receiverSentences(sticker).map(({ sentence }) => sentence)).toEqual(
    expect.arrayContaining([
      'It plays for at most 3.00 s.',
      'A small moving picture plays for ever.',
      'A file has at most 512,000 bytes.',
    ]),
  );
  expect(told({ plays: 2 })).toEqual([
    'It has 960 x 540 pixels.',
    'It plays for 4.00 s.',
    'It plays 2 times.',
    'It may have any number of bytes.',
  ]);
  expect(told({ limit: 600_000 })).toContain('It may have 600,000 bytes.');
  expect(told({ limit: 512_000 }).filter((one) => one.includes('bytes'))).toEqual([]);
  // What is no small moving picture has no limit that it could be held to.
  expect(told({}, 'png').filter((one) => one.includes('bytes'))).toEqual([]);
});

test('its limit becomes that of the search; only the length has no mend', () => {
  const plan = planOf({ plays: 2, given: 0.5 });
  const breaches = breachesOf(heldPlan(plan, '/mnt'), sticker);
  expect(breaches.map((one) => specMend(one, sticker))).toEqual([
    'Make pictures small enough',
    undefined,
    'Play it for ever',
    'Keep it within 512,000 bytes',
  ]);
  const next = conformSpec(plan.spec, sticker, breaches, 'bell');
  expect(next.video).toMatchObject({ limit: 512_000, plays: null, given: null });
  const left = breachesOf(heldPlan(makePlan('museum', source, declared, next), '/mnt'), sticker);
  expect(left.map(({ rule }) => rule)).toEqual(['seconds']);
});

test('a file that is there is held by its own bytes', () => {
  const held = heldSource({ ...source, files: 96 }, declared, '/mnt');
  expect(breachesOf(held, sticker).find(({ rule }) => rule === 'fileBytes')?.sentence).toBe(
    'A file has 1,000,000 bytes.',
  );
});
