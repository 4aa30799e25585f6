/** @jest-environment ./web/testing/page.mjs */
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { batchOf } from '@shale/core';
import { Answers, arrive, type Asked, forget, Refusal, show } from '../../testing/answers.tsx';
import { batch, listed, receipt } from '../../testing/samples.ts';
import { keptSpec } from '../../state/keptSpec.ts';
import { store } from '../../state/store.ts';
import type { ReceiptEntry } from '@shale/contract';
import { ReceiptsPage } from './ReceiptsPage.tsx';

afterEach(forget);
const gone = new Refusal({ code: 'file-gone', fact: 'The results are gone.', wayOut: 'Run it again.' });
const path = '/receipts/:job';

const byJob =
  (receipts: ReceiptEntry[]) =>
  ({ params }: Asked) =>
    receipts.find(({ job }) => job === params.job);

async function shown(...receipts: ReceiptEntry[]) {
  new Answers({ listReceipts: receipts, getReceipt: byJob(receipts), madeBy: gone });
  show(<ReceiptsPage />, `/receipts/${receipts[0]!.job}`, path);
  return within(await screen.findByTestId('receipt'));
}

test('none yet leads to Intake', async () => {
  new Answers({ listReceipts: [] });
  show(<ReceiptsPage />);
  expect(await screen.findByText('No receipt yet')).toBeTruthy();
});

test.each<[string, Partial<ReceiptEntry>, string]>([
  ['exact', {}, 'Each of the 4 files was read back from disk and decoded: every sample matches.'],
  ['lossy', { check: { readBack: 4, identical: 1, most: 3 } }, '3 files differ by at most 3 steps'],
  ['not read back', { spec: { ...receipt().spec, readBack: false } }, 'The files were not read back.'],
])('how the check went: %s', async (_what, more, words) => {
  expect((await shown(receipt(more))).getByText(new RegExp(words))).toBeTruthy();
});

test('a video tells what came and how far off the thought before was', async () => {
  const video = {
    ...{ format: 'H.264 in MP4', width: 64, height: 32, frames: 48, rate: { num: 24, den: 1 } },
    ...{ sound: false, psnr: 41.26, bits: 8 },
  } as unknown as NonNullable<ReceiptEntry['video']>;
  const estimate = { bytes: 1500, seconds: 10 };
  const one = receipt({ video, written: 1, bytes: 1000, estimate, check: { readBack: 1, identical: 0, most: 4 } });
  const page = await shown(one);
  expect(page.getByText('Video of 48 frames written')).toBeTruthy();
  expect(page.getByText(/All 48 pictures were decoded again and counted; some of them/)).toBeTruthy();
  expect(page.getByText('48 at 24 fps, 2.00 s')).toBeTruthy();
  expect(page.getByText('41.3 dB, at most 4 codes off')).toBeTruthy();
  expect(page.getByText(/50% too much/)).toBeTruthy();
  expect(page.getByText(/accurate to 1 %/)).toBeTruthy();
});

test('what failed and what was set aside is told by name and reason; results that are gone are told where they would be', async () => {
  const failed = [1, 2].map((frame) => ({
    ...{ code: 'damaged-file', fact: `Frame ${frame} is damaged.`, wayOut: 'Make it again, or ask for it again.' },
    ...{ frame, sourceFrame: frame, name: `pan.000${frame}.png` },
  }));
  const setAside = [{ code: 'missing-frames', sentence: 'Frame 3 is missing.', reason: 'never drawn' }];
  const page = await shown(receipt({ failed, setAside, written: 2 }));
  expect(page.getByText('2 frames failed')).toBeTruthy();
  expect(page.getByText(/Frame 2 is damaged. Make it again, or ask for it again./)).toBeTruthy();
  expect(page.getByText('“never drawn”')).toBeTruthy();
  expect((await page.findByRole('alert')).textContent).toContain('The results are gone.');
  expect(page.getByRole('link', { name: 'Download all' }).getAttribute('href')).toBe('/api/receipts/j1/archive');
});

test('of several the one of the address is shown, and the list says which', async () => {
  const others = [receipt({ job: 'j2', into: { root: 'results', folder: 'depot', pattern: 'x.png' } }), receipt()];
  await shown(...others);
  const list = within(screen.getByRole('navigation', { name: 'Receipts' }));
  const current = list.getAllByRole('link').filter((link) => link.getAttribute('aria-current'));
  expect(current.map((link) => link.textContent)).toEqual([expect.stringContaining('depot')]);
});

test('an address that names no receipt says so, and shows no other', async () => {
  const none = new Refusal({
    code: 'receipt-not-found',
    fact: 'This job has no receipt.',
    wayOut: 'Choose another.',
  });
  new Answers({ listReceipts: [receipt()], getReceipt: none });
  show(<ReceiptsPage />, '/receipts/zzz', path);
  expect((await screen.findByRole('alert')).textContent).toContain('This job has no receipt.');
  expect(screen.queryByTestId('receipt')).toBeNull();
});

test('a batch has one receipt: all that was written, how it was checked, each part by its own', async () => {
  const done = batch({ state: 'done', states: { done: 24 }, files: { written: 24, failed: 0, total: 24 } });
  const { into, source, sentence, started, finished, losses } = receipt();
  const part = {
    ...{ job: 'j1', source, output: 0, into, sentence, planned: 24, written: 24, kept: 20, failed: 0, bytes: 2048 },
    ...{ check: { readBack: 24, identical: 24, most: 0 }, losses, started, finished },
  };
  const wanted = { batch: batchOf(receipt().spec), sources: ['pan'] };
  const gives = { listReceipts: [], listBatches: [done], batchReceipt: { batch: done, parts: [part] } };
  new Answers({ ...gives, batchWanted: wanted });
  show(<ReceiptsPage />, '/receipts/batch/b1', '/receipts/batch/:batch');
  const page = within(await screen.findByTestId('batch-receipt'));
  expect(page.getByRole('heading', { level: 1 }).textContent).toBe('24 files written of 12 sources');
  expect(page.getByText('Each of the 24 files was read back: every sample matches.')).toBeTruthy();
  expect(page.getByText('24 of 24, 20 stayed')).toBeTruthy();
  expect(page.getByRole('link', { name: 'Receipt' }).getAttribute('href')).toBe('/receipts/j1');
  expect(page.getByRole('link', { name: 'Download all' }).getAttribute('href')).toBe('/api/batches/b1/archive');
  expect(page.getByRole('link', { name: 'Do it again' }).getAttribute('href')).toBe('/convert/many/of-b1');
  // For others it is kept in mind until sources are selected.
  await userEvent.click(page.getByRole('button', { name: 'Do the same for others' }));
  await arrive('/intake');
  const { meant } = store.getState().view;
  expect(meant?.outputs).toEqual(wanted.batch.outputs);
  expect(meant?.words).toMatch(/^Take each source as declared; write PNG/);
});

test('what a job was asked is opened again for the same source', async () => {
  const one = receipt({ spec: { ...receipt().spec, frames: '1-2' } });
  const source = listed([1, 2, 3]);
  new Answers({ listReceipts: [one], getReceipt: one, madeBy: { made: source, source, runs: [] } });
  show(<ReceiptsPage />, '/receipts/j1', path);
  await userEvent.click(await screen.findByRole('button', { name: 'Do it again' }));
  await arrive('/convert/pan');
  expect(keptSpec('pan')?.frames).toBe('1-2');
});
