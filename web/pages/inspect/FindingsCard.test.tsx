/** @jest-environment ./web/testing/page.mjs */
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { FrameCheck } from '@shale/contract';
import { Answers, forget, Refusal, show } from '../../testing/answers.tsx';
import { listed } from '../../testing/samples.ts';
import { FindingsCard } from './FindingsCard.tsx';

afterEach(forget);
const check = (more: Partial<FrameCheck> = {}): FrameCheck => ({
  source: 'pan',
  name: 'pan.####.png',
  done: 0,
  total: 1200,
  damaged: 0,
  running: true,
  problem: null,
  ...more,
});
const card = (checked?: number) => (
  <FindingsCard source={listed([1, 2, 3, 4], checked ? { checked } : {})} onGo={() => undefined} />
);

test('it says that only headers were read, and starts a check of every frame', async () => {
  const answers = new Answers({ getCheck: null, startChecks: { started: 1 } });
  show(card());
  await screen.findByText('Only headers have been read so far.');
  answers.give({ getCheck: check({ done: 480, damaged: 2 }) });
  await userEvent.click(screen.getByRole('button', { name: 'Check every frame' }));
  await screen.findByText('480 of 1,200 decoded, 2 damaged');
  expect(screen.getByRole('progressbar').getAttribute('aria-valuenow')).toBe('40');
  expect(answers.of('startChecks')).toMatchObject([{ body: { sources: ['pan'] } }]);
});

test('one that runs is stopped', async () => {
  const answers = new Answers({ getCheck: check({ total: 0 }), stopCheck: null });
  show(card());
  const stop = await screen.findByRole('button', { name: 'Stop check' });
  answers.give({ getCheck: null });
  await userEvent.click(stop);
  await screen.findByRole('button', { name: 'Check every frame' });
  expect(answers.of('stopCheck')).toHaveLength(1);
});

test('it tells how much is decoded, and why it could not be', async () => {
  new Answers({ getCheck: null });
  show(card(4));
  await screen.findByText('All 4 frames were decoded.');
  expect(screen.getByRole('button', { name: 'Check every frame again' })).toBeTruthy();
  forget();
  new Answers({ getCheck: null });
  show(card(3));
  await screen.findByText('3 of 4 frames decoded; the others are new or have changed.');
  forget();
  const problem = { code: 'worker-crashed', fact: 'A process ended.', wayOut: 'Start it again.' };
  new Answers({ getCheck: null, startChecks: new Refusal(problem) });
  show(card());
  await userEvent.click(await screen.findByRole('button', { name: 'Check every frame' }));
  expect((await screen.findByRole('alert')).textContent).toContain('A process ended.');
});
