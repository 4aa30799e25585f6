/** @jest-environment ./web/testing/page.mjs */
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { parseSpec, standingOrderSchema } from '@shale/core';
import type { Decision, StandingView } from '@shale/contract';
import { rateTyped } from '../../../standing/orderWords.ts';
import { Answers, arrive, forget, never, Refusal, show } from '../../../testing/answers.tsx';
import { StandingPage } from './StandingPage.tsx';

afterEach(forget);
const path = '/jobs/standing/:standing?';

const spec = parseSpec({ version: 1, write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' } });
const view = (more: Partial<StandingView> = {}): StandingView => ({
  id: 'o1',
  edition: 3,
  order: standingOrderSchema.parse({
    ...{ version: 1, name: 'Lines', root: 'museum', folder: 'lines', outputs: [spec] },
    fits: { kinds: ['sequence'], name: 'line_*.exr', rate: '24', gaps: 'take' },
  }),
  sentence: 'Take each source as declared; write PNG.',
  paused: false,
  problem: null,
  counts: { begins: 3, waits: 1, left: 2, there: 1 },
  looked: null,
  batch: 'b1',
  created: '2026-05-01T10:00:00.000Z',
  ...more,
});
const decision = (id: number, more: Partial<Decision> = {}): Decision => ({
  ...{
    id,
    kind: 'begins',
    source: { id: 's1', folder: 'lines/line_01', name: 'a.####.exr' },
    words: 'begins: 20 files',
  },
  ...{ batch: 'b1', at: '2026-05-01T10:00:00.000Z' },
  ...more,
});
const gives = { listRoots: [], listFolders: [], listSpecs: [] };

test('it waits, says that there is none, and what is wrong, each in words', async () => {
  new Answers({ ...gives, listStanding: never });
  show(<StandingPage />, '/jobs/standing', path);
  expect(screen.getByRole('status').textContent).toContain('Reading the standing orders');
  forget();
  new Answers({ ...gives, listStanding: [] });
  show(<StandingPage />, '/jobs/standing', path);
  await screen.findByText('No standing order');
  await userEvent.click(screen.getByRole('button', { name: 'Set a standing order' }));
  const form = within(await screen.findByRole('dialog'));
  expect(form.getByText(/Nothing is set up to be made/)).toBeTruthy();
  expect(form.getByRole<HTMLButtonElement>('button', { name: 'Set it' }).disabled).toBe(true);
  forget();
  new Answers({ ...gives, listStanding: new Refusal({ code: 'x', fact: 'It is away.', wayOut: 'Wait.' }) });
  show(<StandingPage />, '/jobs/standing', path);
  expect((await screen.findByRole('alert')).textContent).toContain('It is away.Wait.');
});

test('an order tells what it watches and decided; it is paused, and ended only when asked twice', async () => {
  const log = [
    decision(3, { kind: 'ended', source: null, words: 'ended: 20 files written' }),
    decision(2),
    decision(1, { kind: 'left', words: 'left: its rate is not declared', batch: null }),
  ];
  const answers = new Answers({
    ...gives,
    ...{
      listStanding: [view()],
      standingLog: log,
      pauseStanding: view({ paused: true }),
      removeStanding: { removed: true },
    },
  });
  show(<StandingPage />, '/jobs/standing/o1', path);
  expect(
    await screen.findByText('Watches museum/lines for sequences, named line_*.exr, at 24 fps, with gaps too.'),
  ).toBeTruthy();
  expect(screen.getByText('4 sources made, 1 source waited for, 2 sources left')).toBeTruthy();
  const lines = await screen.findAllByTestId('decision');
  expect(lines.map((line) => line.textContent)).toEqual([
    expect.stringContaining('ended: 20 files written'),
    expect.stringContaining('lines/line_01/a.####.exrbegins: 20 files'),
    expect.stringContaining('left: its rate is not declared'),
  ]);
  expect(within(lines[0]!).getByRole('link', { name: 'Receipt' }).getAttribute('href')).toBe('/receipts/batch/b1');
  await userEvent.click(screen.getByRole('button', { name: 'Pause' }));
  expect(answers.of('pauseStanding')).toMatchObject([{ params: { standing: 'o1' }, body: { paused: true } }]);
  await userEvent.click(screen.getByRole('button', { name: 'End this order' }));
  expect(answers.of('removeStanding')).toHaveLength(0);
  answers.give({ listStanding: [] });
  await userEvent.click(screen.getByRole('button', { name: 'End it' }));
  expect(answers.of('removeStanding')).toMatchObject([{ params: { standing: 'o1' } }]);
  await arrive('/jobs/standing');
});

test('a change is tried as one of this order, and sent with the edition that was seen', async () => {
  const problem = { code: 'standing-changed', fact: 'It was changed elsewhere.', wayOut: 'Look again.' };
  const answers = new Answers({
    ...{ ...gives, listStanding: [view()], standingLog: [], changeStanding: new Refusal(problem) },
    tryStanding: {
      sentence: 'x',
      decisions: [{ ...decision(1), files: 20 }],
      counts: { begins: 1, waits: 0, left: 0, there: 0 },
    },
  });
  show(<StandingPage />, '/jobs/standing/o1', path);
  await userEvent.click(await screen.findByRole('button', { name: 'Edit or test' }));
  const form = within(await screen.findByRole('dialog'));
  const rate = form.getByLabelText('Rate');
  await userEvent.clear(rate);
  await userEvent.type(rate, '23.976');
  await userEvent.click(form.getByRole('button', { name: 'Test without running' }));
  expect(await form.findByText('Now: 1 source would be made')).toBeTruthy();
  expect(answers.of('tryStanding')).toMatchObject([
    { body: { changes: 'o1', order: { fits: { rate: '24000/1001' } } } },
  ]);
  await userEvent.click(form.getByRole('button', { name: 'Change it' }));
  expect(answers.of('changeStanding')).toMatchObject([{ params: { standing: 'o1' }, body: { edition: 3 } }]);
  expect((await form.findByRole('alert')).textContent).toContain('It was changed elsewhere.');
});

test('a rate is read as people say it', () => {
  expect(['24', '23.976', ' 30000/1001 ', '', 'fast', '24/0'].map(rateTyped)).toEqual([
    '24',
    '24000/1001',
    '30000/1001',
    null,
    undefined,
    undefined,
  ]);
});
