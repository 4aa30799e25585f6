/** @jest-environment ./web/testing/page.mjs */
import { jest } from '@jest/globals';
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { ListedSource } from '@shale/contract';
import { store } from '../state/store.ts';
import { Answers, arrive, forget, Refusal, show } from '../testing/answers.tsx';
import { listed } from '../testing/samples.ts';
import { FindingList } from './FindingList.tsx';

afterEach(forget);
const source = listed([1001, 1002, 1004]);
const aside: ListedSource = {
  ...source,
  findings: source.findings.map((finding) => ({ ...finding, setAside: 'never drawn' })),
};

test('nothing found is said', () => {
  new Answers({});
  show(<FindingList source={listed([1, 2])} onGo={() => undefined} />);
  expect(screen.getByText('None')).toBeTruthy();
});

test('its frames are one press away', async () => {
  new Answers({});
  const went = jest.fn();
  show(<FindingList source={source} onGo={went} />);
  await userEvent.click(screen.getByRole('button', { name: 'Go to frame 1003' }));
  expect(went).toHaveBeenCalledWith(1003);
});

test('it is set aside with a reason, never without one, and taken up again', async () => {
  const answers = new Answers({ setAside: aside });
  show(<FindingList source={source} onGo={() => undefined} />);
  await userEvent.click(screen.getByRole('button', { name: 'Set aside' }));
  const reason = screen.getByLabelText('Reason');
  expect(document.activeElement).toBe(reason);
  await userEvent.keyboard('  {Enter}');
  expect(answers.of('setAside')).toEqual([]);
  await userEvent.keyboard('{Escape}');
  expect(screen.queryByLabelText('Reason')).toBeNull();
  await userEvent.click(screen.getByRole('button', { name: 'Set aside' }));
  await userEvent.keyboard(' never drawn {Enter}');
  expect(answers.of('setAside')).toMatchObject([
    { params: { source: 'pan', code: 'missing-frames' }, body: { reason: 'never drawn' } },
  ]);
  forget();
  const again = new Answers({ setAside: source });
  show(<FindingList source={aside} onGo={() => undefined} />);
  expect(screen.getByText(/Set aside: “never drawn”/)).toBeTruthy();
  await userEvent.click(screen.getByRole('button', { name: 'Reopen' }));
  expect(again.of('setAside')).toMatchObject([{ body: { reason: null } }]);
});

test('a refusal is told, and the reason stays', async () => {
  new Answers({ setAside: new Refusal({ code: 'finding-not-found', fact: 'It is gone.', wayOut: 'Look again.' }) });
  show(<FindingList source={source} onGo={() => undefined} />);
  await userEvent.click(screen.getByRole('button', { name: 'Set aside' }));
  await userEvent.keyboard('never drawn{Enter}');
  expect((await screen.findByRole('alert')).textContent).toContain('It is gone.');
  expect(screen.getByLabelText<HTMLInputElement>('Reason').value).toBe('never drawn');
});

test('what names mend opens Rename with its rules', async () => {
  const padded: ListedSource = {
    ...source,
    findings: [{ code: 'mixed-padding', severity: 'doubt', sentence: 'Two widths.', short: 'Two widths' }],
  };
  const spec = { version: 1, rules: [{ kind: 'template', template: 'pan.{frame:4}.{ext}' }] };
  const answers = new Answers({ mendingNames: { sources: ['pan'], spec } });
  show(<FindingList source={padded} onGo={() => undefined} />);
  await userEvent.click(screen.getByRole('button', { name: 'Fix by renaming' }));
  expect(answers.of('mendingNames')).toMatchObject([{ body: { source: 'pan', code: 'mixed-padding' } }]);
  await arrive('/rename');
  expect(store.getState().naming.sources).toEqual(['pan']);
});
