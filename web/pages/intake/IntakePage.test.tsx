/** @jest-environment ./web/testing/page.mjs */
import { act, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { ListedSource, Overview, Root } from '@shale/contract';
import { api } from '../../api/api.ts';
import { store } from '../../state/store.ts';
import { Answers, arrive, forget, show, type Asked } from '../../testing/answers.tsx';
import { listed } from '../../testing/samples.ts';
import { IntakePage } from './IntakePage.tsx';

afterEach(forget);
const root: Root = {
  ...{
    id: 'museum',
    name: 'Tram museum',
    path: '/m',
    writable: false,
    added: false,
    sources: 12,
    files: 48,
    bytes: 10,
  },
  ...{ scanned: '2026-05-01T10:00:00.000Z', scanning: false, progress: null, notes: [], problem: null },
};
const sources: ListedSource[] = Array.from({ length: 12 }, (_, at) => ({
  ...listed([1, 2, 4]),
  id: `s${at}`,
  name: `pan_${at}.####.png`,
}));
const counted = (total: number): Overview => ({
  total,
  bytes: 100,
  facets: { all: 12, look: 12, undeclared: 12, kinds: { sequence: 12 }, codes: {}, rates: {} },
  groups: [{ folder: 'yard', count: total }],
});
function begin(more: ConstructorParameters<typeof Answers>[0] = {}, at = '/intake'): Answers {
  const answers = new Answers({
    listRoots: [root],
    listFolders: [{ root: 'museum', folder: 'yard', count: 12 }],
    sourcesOverview: counted(12),
    listSources: ({ query }: Asked) => sources.slice(Number(query.offset ?? 0), Number(query.offset ?? 0) + 60),
    getSource: ({ params }: Asked) => sources.find(({ id }) => id === params.source),
    sourceIds: sources.map(({ id }) => id),
    ...more,
  });
  show(<IntakePage />, at);
  return answers;
}
const list = () => screen.findByRole('grid', { name: 'Sources' });
const chosen = () => store.getState().view.source;
/** What a running scan tells of its root, over and over. */
const tellRoot = (change: Partial<Root>) =>
  act(() => void store.dispatch(api.util.updateQueryData('roots', undefined, () => [{ ...root, ...change }])));

test('sources are listed with what is found of them', async () => {
  begin();
  const rows = within(await list());
  const first = await rows.findByRole('row', { name: /pan_0/ });
  expect(first.textContent).toContain('1-2, 4');
  expect(first.textContent).toContain('Frame 3 missing');
  expect(screen.getByRole('heading', { level: 1 }).textContent).toMatch(/^12 sources/);
});

test('the keyboard keeps its place while a scan tells of its root', async () => {
  begin();
  const table = await list();
  await within(table).findByRole('row', { name: /pan_0/ });
  table.focus();
  const goes = async (key: string, to: string) => {
    await userEvent.keyboard(key);
    await waitFor(() => expect(chosen()).toBe(to));
  };
  await goes('{Home}', 's0');
  await goes('{ArrowDown}', 's1');
  tellRoot({ scanning: true, files: 49 });
  await goes('{ArrowDown}', 's2');
  tellRoot({ scanning: true, files: 50 });
  await goes('{PageDown}', 's10');
  await goes('{End}', 's11');
  await goes('{ArrowUp}', 's10');
});

test('rows are marked one by one, in a range, and all; Escape lets them go', async () => {
  begin();
  const table = await list();
  await within(table).findByRole('row', { name: /pan_0/ });
  table.focus();
  const marked = (words: RegExp) => waitFor(() => expect(screen.getByText(words)).toBeTruthy());
  await userEvent.keyboard('{Home}');
  await waitFor(() => expect(chosen()).toBe('s0'));
  await userEvent.keyboard(' ');
  await marked(/1 selected/);
  await userEvent.keyboard('{Control>}a{/Control}');
  await marked(/12 selected/);
  await userEvent.keyboard('{Escape}');
  await waitFor(() => expect(screen.queryByText(/selected/)).toBeNull());
});

test('a chosen row is opened by Enter', async () => {
  begin();
  const table = await list();
  await within(table).findByRole('row', { name: /pan_0/ });
  table.focus();
  await userEvent.keyboard('{Home}');
  await waitFor(() => expect(chosen()).toBe('s0'));
  await userEvent.keyboard('{Enter}');
  await arrive('/inspect/s0');
});

test('what narrows the list stands in the address and is asked of the server; nothing left offers the way back', async () => {
  const answers = begin({ sourcesOverview: ({ query }: Asked) => counted(query.text ? 0 : 12) }, '/intake?text=zzz');
  expect(await screen.findByRole('button', { name: /Show all|Without/ })).toBeTruthy();
  expect(answers.of('sourcesOverview').at(-1)!.query).toMatchObject({ text: 'zzz', root: 'museum' });
});
