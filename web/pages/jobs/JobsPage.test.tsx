/** @jest-environment ./web/testing/page.mjs */
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import type { Job } from '@shale/contract';
import { Answers, arrive, forget, never, Refusal, show } from '../../testing/answers.tsx';
import { batch, job } from '../../testing/samples.ts';
import { JobCard } from './JobCard.tsx';
import { JobsPage } from './JobsPage.tsx';

afterEach(forget);
const problem = { code: 'disk-full', fact: 'The disk is full.', wayOut: 'Free some space.' };
const card = async () => within(await screen.findByTestId('job'));

test('it waits, says that there is none, and what is wrong, each in words', async () => {
  new Answers({ listJobs: never });
  show(<JobsPage />);
  expect(screen.getByRole('status').textContent).toContain('Reading the jobs');
  forget();
  new Answers({ listJobs: [] });
  show(<JobsPage />);
  await screen.findByText('No job has run yet');
  await userEvent.click(screen.getByRole('link', { name: 'Go to Intake' }));
  await arrive('/intake');
  forget();
  new Answers({ listJobs: new Refusal(problem) });
  show(<JobsPage />);
  expect((await screen.findByRole('alert')).textContent).toContain('The disk is full.Free some space.');
});

test('one at work tells how far it is and how long it takes, and is stopped by its number', async () => {
  const answers = new Answers({ listJobs: [job()], stopJob: job({ state: 'stopped' }) });
  show(<JobsPage />);
  const one = await card();
  expect(one.getByRole('progressbar').getAttribute('aria-valuenow')).toBe('1');
  expect(one.getByText('1/4 written, 2.0 KiB')).toBeTruthy();
  expect(one.getByText(/2\.0 frames\/s, .*left/)).toBeTruthy();
  expect(one.queryByRole('link', { name: 'Receipt' })).toBeNull();
  answers.give({ listJobs: [job({ state: 'stopped' })] });
  await userEvent.click(one.getByRole('button', { name: 'Stop' }));
  expect(answers.of('stopJob')).toMatchObject([{ params: { job: 'j1' } }]);
  expect(await screen.findByRole('button', { name: 'Continue' })).toBeTruthy();
  expect(await screen.findByText('1 job, none at work')).toBeTruthy();
});

test('what failed is counted, and tried again; a refusal is told on its card', async () => {
  const done = job({
    state: 'incomplete',
    written: 3,
    failed: 1,
    failedFrames: [{ first: 1003, last: 1003, step: 1 }],
  });
  const answers = new Answers({ listJobs: [done], continueJob: new Refusal(problem) });
  show(<JobsPage />);
  const one = await card();
  expect(one.getByText('Incomplete: 1 frame failed')).toBeTruthy();
  expect(one.getByRole('progressbar').getAttribute('aria-valuenow')).toBe('4');
  await userEvent.click(one.getByRole('button', { name: 'Retry failed' }));
  expect((await one.findByRole('alert')).textContent).toContain('The disk is full.');
  expect(answers.of('continueJob')).toHaveLength(1);
  expect(one.getByRole('link', { name: 'Receipt' }).getAttribute('href')).toBe('/receipts/j1');
});

test('a video counts its pictures, says when it is read back, and starts again where it was stopped', async () => {
  const video = job({ total: 1, written: 0, video: { done: 48, of: 48 }, rate: null });
  new Answers({ listJobs: [video] });
  show(<JobsPage />);
  const one = await card();
  expect(one.getByText(/48\/48 encoded/)).toBeTruthy();
  expect(one.getByText('reading it back')).toBeTruthy();
  forget();
  new Answers({ listJobs: [{ ...video, state: 'stopped', video: { done: 0, of: 480 } }] });
  show(<JobsPage />);
  expect(await screen.findByRole('button', { name: 'Begin again' })).toBeTruthy();
});

test('a video of which whole pieces stay goes on after them', async () => {
  const video = job({ total: 1, written: 0, rate: null });
  new Answers({ listJobs: [{ ...video, state: 'stopped', video: { done: 240, of: 480 } }] });
  show(<JobsPage />);
  expect(await screen.findByRole('button', { name: 'Continue' })).toBeTruthy();
  expect(screen.getByText('these stay, and the job continues after them')).toBeTruthy();
});

test('one that stopped by itself says why; what waits is told as waiting', async () => {
  const waiting = job({ id: 'j2', state: 'queued', written: 0, rate: null });
  new Answers({ listJobs: [waiting, job({ state: 'stopped', problem })] });
  show(<JobsPage />);
  const [first, second] = await screen.findAllByTestId('job');
  expect(within(first!).getByText('Waiting')).toBeTruthy();
  expect(within(second!).getByText('Stopped by an error')).toBeTruthy();
  expect(within(second!).getByRole('alert').textContent).toContain('Free some space.');
  expect(screen.getByText('1 job at work')).toBeTruthy();
});

test('a job whose sources changed may go on with them as they are; one can be cancelled, and has a log', async () => {
  const answers = new Answers({
    listJobs: [job({ state: 'stopped', sourceChanged: true, problem: { ...problem, code: 'source-changed' } })],
    continueJob: job({ state: 'queued' }),
    cancelJob: job({ state: 'cancelled' }),
    jobLog: [
      { at: '2026-05-01T10:00:00.000Z', level: 'info', text: 'begins' },
      { at: '2026-05-01T10:00:01.000Z', level: 'error', text: 'pan.1003.png: it is another file.' },
    ],
  });
  show(<JobsPage />);
  const one = await card();
  await userEvent.click(one.getByRole('button', { name: 'Log' }));
  expect((await one.findByRole('list', { name: 'What happened' })).textContent).toContain('it is another file');
  await userEvent.click(one.getByRole('button', { name: 'Use changed files as they are' }));
  expect(answers.of('continueJob')).toMatchObject([{ params: { job: 'j1' }, body: { changed: 'take' } }]);
  await userEvent.click(one.getByRole('button', { name: 'Cancel' }));
  expect(answers.of('cancelJob')).toHaveLength(1);
});

test('frames that were written are made again by their numbers; what is no number is refused in words', async () => {
  const answers = new Answers({
    listJobs: [job({ state: 'done', written: 4 })],
    continueJob: job({ state: 'queued' }),
  });
  show(<JobsPage />);
  const one = await card();
  await userEvent.click(one.getByRole('button', { name: 'Redo some' }));
  const field = one.getByLabelText('Frames to make again');
  await userEvent.type(field, 'x');
  expect(one.getByText('Write numbers and ranges: 1001-1024,1030')).toBeTruthy();
  await userEvent.clear(field);
  await userEvent.type(field, '1002-1003{Enter}');
  expect(answers.of('continueJob')).toMatchObject([{ body: { again: [{ first: 1002, last: 1003, step: 1 }] } }]);
});

test('what waits is listed in its order; the time left is not told before it is known', async () => {
  const waiting = (id: string, place: number, more: object = {}) =>
    job({ id, state: 'queued', place, written: 0, rate: null, sourceName: `${id}.png`, ...more });
  new Answers({
    listJobs: [
      waiting('late', 1, { priority: 'last' }),
      waiting('b', 5),
      waiting('a', 2),
      job({ rate: null, secondsLeft: null }),
    ],
  });
  show(<JobsPage />);
  const list = await screen.findByRole('list', { name: 'Waiting jobs' });
  expect(
    within(list)
      .getAllByRole('listitem')
      .map((item) => /^[a-z]+/.exec(item.textContent)?.[0]),
  ).toEqual(['a', 'b', 'late']);
  expect(screen.getByText('time left unknown')).toBeTruthy();
});

test('a card is drawn again only where its job changed', async () => {
  let drawn = 0;
  const name = { get: () => `drawn ${(drawn += 1)}`, enumerable: true };
  const told = (more: Partial<Job> = {}) => Object.defineProperty(job(more), 'sourceName', name);
  const [one, other] = [told(), told({ written: 2 })];
  function Turn() {
    const [turn, setTurn] = useState(0);
    return (
      <>
        <button onClick={() => setTurn(turn + 1)}>turn</button>
        <JobCard job={turn < 2 ? one : other} />
      </>
    );
  }
  show(<Turn />);
  const before = drawn;
  expect(before).toBeGreaterThan(0);
  await userEvent.click(screen.getByRole('button', { name: 'turn' }));
  expect(drawn).toBe(before);
  await userEvent.click(screen.getByRole('button', { name: 'turn' }));
  expect(drawn).toBeGreaterThan(before);
});

test('a batch is one card among jobs, the newest first: how far all of it is, its jobs on demand', async () => {
  const older = job({ created: '2026-04-30T10:00:00.000Z' });
  const part = job({ id: 'p1', batch: 'b1', sourceName: 'loop.####.exr', state: 'done', written: 4 });
  const answers = new Answers({
    listJobs: [older],
    listBatches: [batch()],
    batchJobs: [part],
    stopBatch: batch({ state: 'stopped' }),
  });
  show(<JobsPage />);
  const one = within(await screen.findByTestId('batch'));
  expect(one.getByText(/12 sources, 2 outputs each to/)).toBeTruthy();
  expect(one.getByText('100/524 frames, 2.0 KiB')).toBeTruthy();
  expect(one.getByText('2 min left')).toBeTruthy();
  expect(screen.getByText('2 jobs at work')).toBeTruthy();
  const [first] = screen.getAllByRole('article');
  expect(first!.getAttribute('data-testid')).toBe('batch');
  await userEvent.click(one.getByRole('button', { name: 'Show 24 jobs' }));
  expect((await one.findByTestId('batch-job')).textContent).toContain('loop.####.exr');
  expect(answers.of('batchJobs')).toMatchObject([{ params: { batch: 'b1' }, query: { offset: '0', limit: '50' } }]);
  answers.give({ listBatches: [batch({ state: 'stopped', secondsLeft: null, states: { stopped: 20, done: 4 } })] });
  await userEvent.click(one.getByRole('button', { name: 'Stop all' }));
  expect(answers.of('stopBatch')).toMatchObject([{ params: { batch: 'b1' } }]);
  expect(await screen.findByRole('button', { name: 'Continue' })).toBeTruthy();
});

test('what went wrong in a batch is told on its card, and tried again', async () => {
  const { code, fact, wayOut } = problem;
  const ended = batch({
    ...{ state: 'incomplete', secondsLeft: null, states: { incomplete: 1, done: 23 } },
    files: { written: 273, failed: 1, total: 274 },
    refused: [{ source: 's1', name: 'bell.####.exr', output: 0, problem: { code, fact, wayOut } }],
  });
  const answers = new Answers({ listJobs: [], listBatches: [ended], continueBatch: new Refusal(problem) });
  show(<JobsPage />);
  const one = within(await screen.findByTestId('batch'));
  expect(one.getByText('Incomplete: 1 file failed')).toBeTruthy();
  expect(one.getByText(/bell\.####\.exr did not start/)).toBeTruthy();
  expect(one.getByRole('link', { name: 'Receipt' }).getAttribute('href')).toBe('/receipts/batch/b1');
  await userEvent.click(one.getByRole('button', { name: 'Retry failed' }));
  expect(answers.of('continueBatch')).toHaveLength(1);
});
