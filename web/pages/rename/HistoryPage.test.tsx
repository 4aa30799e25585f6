/** @jest-environment ./web/testing/page.mjs */
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Answers, forget, Refusal, show } from '../../testing/answers.tsx';
import { rename } from '../../testing/samples.ts';
import { HistoryPage } from './HistoryPage.tsx';

afterEach(forget);

test('nothing yet, and what is wrong', async () => {
  new Answers({ listRenames: [] });
  show(<HistoryPage />);
  expect(await screen.findByText('Nothing renamed yet')).toBeTruthy();
  forget();
  new Answers({ listRenames: new Refusal({ code: 'database-failed', fact: 'It fails.', wayOut: 'Look.' }) });
  show(<HistoryPage />);
  expect((await screen.findByRole('alert')).textContent).toContain('It fails.');
});

test('each is told by its state, with a way back only where there is one', async () => {
  const problem = { code: 'rename-stuck', fact: 'Two names are held.', wayOut: 'Close the other program.' };
  const all = [
    rename({ id: 'e', state: 'stuck', problem }),
    rename({ id: 'd', state: 'running' }),
    rename({ id: 'c', state: 'done', undoes: 'b', sentence: 'Brought 4 names back.' }),
    rename({ id: 'b', state: 'undone' }),
    rename({ id: 'a', state: 'done' }),
  ];
  new Answers({ listRenames: all });
  show(<HistoryPage />);
  const rows = (await screen.findAllByTestId('rename')).map((row) => within(row));
  const words = ['Needs attention', 'Running', 'Names restored', 'Undone', 'Carried out'];
  words.forEach((word, at) => expect(rows[at]!.getByText(word)).toBeTruthy());
  expect(rows.map((row) => row.queryByRole('button')?.textContent ?? null)).toEqual([
    null,
    null,
    'Do it again',
    null,
    'Undo',
  ]);
  expect(rows[0]!.getByRole('alert').textContent).toContain('Two names are held.');
  expect(rows[4]!.getByText('pan.0001.png → yard.0001.png')).toBeTruthy();
});

test('what was touched since is told, and what can be is brought back on a second word', async () => {
  const touched = { code: 'touched-since', fact: 'One file was changed.', wayOut: 'Undo what is possible.' };
  const answers = new Answers({ listRenames: [rename()], undoRename: new Refusal(touched) });
  show(<HistoryPage />);
  await userEvent.click(await screen.findByRole('button', { name: 'Undo: Renamed 4 files.' }));
  expect(answers.of('undoRename')).toMatchObject([{ params: { rename: 'r1' }, body: { rest: false } }]);
  answers.give({
    undoRename: rename({ id: 'r2', undoes: 'r1' }),
    listRenames: [rename({ id: 'r2', undoes: 'r1' }), rename({ state: 'undone' })],
  });
  await userEvent.click(await screen.findByRole('button', { name: 'Undo what is possible' }));
  expect(answers.of('undoRename')[1]).toMatchObject({ body: { rest: true } });
  expect(await screen.findByText('Undone')).toBeTruthy();
});
