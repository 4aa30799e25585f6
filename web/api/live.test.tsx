/** @jest-environment ./web/testing/page.mjs */
import { jest } from '@jest/globals';
import { act, renderHook, waitFor } from '@testing-library/react';
import type { ReactNode } from 'react';
import { Provider } from 'react-redux';
import type { Root, ServerEvent } from '@shale/contract';
import { store } from '../state/store.ts';
import { noticeRead } from '../state/view.ts';
import { Answers, forget } from '../testing/answers.tsx';
import { job, rename } from '../testing/samples.ts';
import { useJobsQuery, useReceiptsQuery, useRenamesQuery, useRootsQuery } from './api.ts';
import { useLive } from './live.ts';

/** The browser's event stream, told by hand: this page of tests has none. */
class Stream {
  static all: Stream[] = [];
  onopen: () => void = () => undefined;
  onerror: () => void = () => undefined;
  onmessage: (event: { data: string }) => void = () => undefined;
  closed = false;
  constructor(readonly url: string) {
    Stream.all.push(this);
  }
  close(): void {
    this.closed = true;
  }
  static get last(): Stream {
    return this.all.at(-1)!;
  }
}
Object.assign(globalThis, { EventSource: Stream });
const tell = (event: ServerEvent | object) => act(() => Stream.last.onmessage({ data: JSON.stringify(event) }));

const root: Root = {
  ...{ id: 'museum', name: 'Museum', path: '/m', writable: false, added: false, sources: 1, files: 4, bytes: 10 },
  ...{ scanned: null, scanning: false, progress: null, notes: [], problem: null },
};
const wrapper = ({ children }: { children: ReactNode }) => <Provider store={store}>{children}</Provider>;
/** A page that looks at everything that events change. */
function begin() {
  const answers = new Answers({ listJobs: [job()], listRoots: [root], listRenames: [], listReceipts: [] });
  const page = renderHook(
    () => ({
      live: useLive(),
      jobs: useJobsQuery().data,
      roots: useRootsQuery().data,
      renames: useRenamesQuery().data,
      receipts: useReceiptsQuery().data,
    }),
    { wrapper },
  );
  return { answers, page };
}
type Begun = ReturnType<typeof begin>;
const settled = ({ page }: Begun) =>
  waitFor(() => Object.values(page.result.current).forEach((value) => expect(value).toBeDefined()));
const counts = ({ answers }: Begun) =>
  Object.fromEntries(
    (['listJobs', 'listRoots', 'listRenames', 'listReceipts', 'health'] as const).map((name) => [
      name,
      answers.of(name).length,
    ]),
  );

let begun: Begun;
beforeEach(async () => {
  Stream.all = [];
  begun = begin();
  await settled(begun);
});
afterEach(() => {
  begun.page.unmount();
  forget();
  while (store.getState().view.notices.length > 0) store.dispatch(noticeRead());
  jest.useRealTimers();
});

test('a job that goes on is shown at once, without asking; at its end lists are asked for anew', async () => {
  const before = counts(begun);
  tell({ type: 'job', job: job({ written: 3 }) });
  await waitFor(() => expect(begun.page.result.current.jobs).toMatchObject([{ written: 3 }]));
  tell({ type: 'job', job: job({ id: 'j2' }) });
  await waitFor(() => expect(begun.page.result.current.jobs!.map(({ id }) => id)).toEqual(['j2', 'j1']));
  expect(counts(begun)).toEqual(before);
  begun.answers.give({ listJobs: [job({ state: 'done', written: 4 })] });
  tell({ type: 'job', job: job({ state: 'done', written: 4 }) });
  await waitFor(() => expect(counts(begun)).toMatchObject({ listJobs: 2, listReceipts: 2 }));
  expect(counts(begun).listRoots).toBe(before.listRoots);
});

test('a rename and a scan the same way', async () => {
  tell({ type: 'rename', rename: rename({ state: 'running', settled: 1 }) });
  await waitFor(() => expect(begun.page.result.current.renames).toMatchObject([{ id: 'r1', settled: 1 }]));
  expect(counts(begun).listRenames).toBe(1);
  tell({ type: 'rename', rename: rename() });
  await waitFor(() => expect(counts(begun).listRenames).toBe(2));
  tell({ type: 'root', root: { ...root, scanning: true, files: 9 } });
  await waitFor(() => expect(begun.page.result.current.roots).toMatchObject([{ scanning: true, files: 9 }]));
  expect(counts(begun).listRoots).toBe(1);
  tell({ type: 'root', root });
  await waitFor(() => expect(counts(begun).listRoots).toBe(2));
});

test('what has come to rest is told once for each source, a doubt where it is not whole', () => {
  const settledSource = { type: 'settled', root: 'museum', source: 'pan', name: 'pan', sentence: 'It is whole.' };
  tell({ ...settledSource, whole: true });
  tell({ ...settledSource, whole: false, sentence: 'Two are missing.' });
  expect(store.getState().view.notices).toEqual([
    { about: 'pan', kind: 'source', sentence: 'Two are missing.', severity: 'doubt' },
  ]);
});

test('what it stands on has changed: all is asked for anew', async () => {
  tell({ type: 'condition', problems: [] });
  await waitFor(() => expect(counts(begun)).toMatchObject({ listJobs: 2, listRoots: 2, listRenames: 2 }));
});

test('an event that this page does not know makes it outdated, and nothing else goes wrong', async () => {
  tell({ type: 'weather', sky: 'clear' });
  expect(begun.page.result.current.live.outdated).toBe(true);
  tell({ type: 'job', job: job({ written: 2 }) });
  await waitFor(() => expect(begun.page.result.current.jobs).toMatchObject([{ written: 2 }]));
});

test('a lost connection is said, tried again each second, and all is asked for anew once it is back', async () => {
  jest.useFakeTimers();
  expect(Stream.last.url).toBe('/api/events');
  act(() => Stream.last.onopen());
  const before = counts(begun);
  act(() => Stream.last.onerror());
  expect(begun.page.result.current.live.connected).toBe(false);
  expect(Stream.all.map(({ closed }) => closed)).toEqual([true]);
  act(() => void jest.advanceTimersByTime(1000));
  act(() => Stream.last.onerror());
  act(() => void jest.advanceTimersByTime(1000));
  expect(Stream.all).toHaveLength(3);
  jest.useRealTimers();
  act(() => Stream.last.onopen());
  expect(begun.page.result.current.live.connected).toBe(true);
  await waitFor(() => expect(counts(begun).listJobs).toBe(before.listJobs! + 1));
  begun.page.unmount();
  expect(Stream.last.closed).toBe(true);
});
