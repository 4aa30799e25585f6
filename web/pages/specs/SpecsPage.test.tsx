/** @jest-environment ./web/testing/page.mjs */
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { namingSpecSchema, shippedReceivers, type Receiver } from '@shale/core';
import type { ListedReceiver, SavedSpec, SavedStack } from '@shale/contract';
import { store } from '../../state/store.ts';
import { sourceChosen } from '../../state/view.ts';
import { Answers, arrive, forget, Refusal, show } from '../../testing/answers.tsx';
import { listed, spec } from '../../testing/samples.ts';
import { SpecsPage } from './SpecsPage.tsx';

afterEach(forget);
const saved = '2026-05-01T10:00:00.000Z';
const receivers: ListedReceiver[] = Object.entries(shippedReceivers).map(([id, receiver]) => ({
  ...{ id, receiver, shipped: true, changed: false },
}));
const print: SavedSpec = { id: 7, name: 'For print', version: 3, spec, saved };
const naming = namingSpecSchema.parse({
  version: 1,
  rules: [{ kind: 'template', template: 'pan.{frame:4}.{ext}' }],
});
const plain: SavedStack = { id: 9, name: 'Plain names', version: 1, spec: naming, saved };

function begin(more: ConstructorParameters<typeof Answers>[0] = {}, at = '/specs'): Answers {
  const answers = new Answers({ listReceivers: receivers, listSpecs: [print], listStacks: [plain], ...more });
  show(<SpecsPage />, at, '/specs/:kind?/:id?');
  return answers;
}
const list = async () => within(await screen.findByRole('navigation', { name: 'Lists' }));

test('all three kinds are listed; the first is shown with its rules', async () => {
  begin();
  const shelf = await list();
  expect(await shelf.findByText('For print')).toBeTruthy();
  expect(await shelf.findByText('Plain names')).toBeTruthy();
  const first = receivers[0]!.receiver;
  expect(screen.getByRole('heading', { level: 1 }).textContent).toBe(first.name);
  const rules = within(screen.getByRole('list', { name: `Rules of ${first.name}` })).getAllByRole('listitem');
  expect(rules.length).toBeGreaterThan(5);
  // Shipped and unchanged: there is nothing to take away.
  expect(screen.queryByRole('button', { name: 'Reset to built-in' })).toBeNull();
  expect(screen.queryByRole('button', { name: 'Remove' })).toBeNull();
  expect(screen.getByText(/Choose a source on Intake/)).toBeTruthy();
});

test('an address of something that is gone shows nothing else in its place', async () => {
  begin({}, '/specs/specs/8');
  expect(await screen.findByText('It no longer exists')).toBeTruthy();
});

test('a copy has a name of its own and is opened; removed, the list is opened', async () => {
  const answers = begin({}, '/specs/specs/7');
  await screen.findByRole('button', { name: 'Copy' });
  const copied: SavedSpec = { ...print, id: 8, name: 'For print 2', version: 1 };
  answers.give({ saveSpec: copied, listSpecs: [print, copied], deleteSpec: { removed: true } });
  await userEvent.click(await screen.findByRole('button', { name: 'Copy' }));
  expect(answers.of('saveSpec')).toMatchObject([{ body: { name: 'For print 2' } }]);
  expect(await screen.findByRole('heading', { level: 1, name: 'For print 2' })).toBeTruthy();
  await arrive('/specs/specs/8');
  answers.give({ listSpecs: [print] });
  await userEvent.click(screen.getByRole('button', { name: 'Remove' }));
  expect(answers.of('deleteSpec')).toMatchObject([{ params: { spec: '8' } }]);
  await arrive('/specs');
});

test('a changed built-in receiver is reset, one of your own removed', async () => {
  const changed = { ...receivers[0]!, changed: true };
  const own = { ...receivers[1]!, id: 'own', shipped: false };
  const answers = begin({ listReceivers: [changed, own], deleteReceiver: { removed: true } });
  expect(await (await list()).findByText('built in, changed')).toBeTruthy();
  answers.give({ listReceivers: [receivers[0], own] });
  await userEvent.click(screen.getByRole('button', { name: 'Reset to built-in' }));
  expect(answers.of('deleteReceiver')).toMatchObject([{ params: { receiver: changed.id } }]);
  expect(await (await list()).findByText('built in')).toBeTruthy();
});

test('naming rules go to Rename as they are', async () => {
  begin({}, '/specs/names/9');
  await userEvent.click(await screen.findByRole('button', { name: 'Use in Rename' }));
  await arrive('/rename');
  expect(store.getState().naming.spec).toEqual(naming);
});

describe('a file', () => {
  const give = async (content: unknown) =>
    userEvent.upload(
      await screen.findByLabelText('File of receivers, specs or naming rules'),
      new File([typeof content === 'string' ? content : JSON.stringify(content)], 'some.json'),
    );

  test('is taken in, and what it held is opened', async () => {
    const answers = begin();
    const own: Receiver = { ...receivers[0]!.receiver, name: 'Mine' };
    const added = { id: 'own', receiver: own, shipped: false, changed: false };
    await list();
    answers.give({ addReceivers: [added], listReceivers: [...receivers, added] });
    await give({ shale: 'receivers', version: 1, receivers: [own] });
    expect((await screen.findByRole('heading', { level: 1, name: 'Mine' })).textContent).toBe('Mine');
    await arrive('/specs/receivers/own');
    expect(answers.of('addReceivers')).toHaveLength(1);
  });

  test.each([
    ['no JSON', 'nonsense', 'some.json: it is not JSON.'],
    ['something else', { shale: 'weather' }, 'some.json: the field "shale" does not fit'],
    ['half of it', { shale: 'specs', version: 1, specs: [{ name: 'x' }] }, 'the field "specs.0.spec'],
  ])('of %s is refused in words, and nothing is sent', async (_what, content, words) => {
    const answers = begin();
    await list();
    const before = answers.asked.length;
    await give(content);
    expect((await screen.findByRole('alert')).textContent).toContain(words);
    expect(answers.asked.slice(before).filter(({ name }) => name.startsWith('add'))).toEqual([]);
    await userEvent.click(screen.getByRole('button', { name: 'Close' }));
    expect(screen.queryByRole('alert')).toBeNull();
  });

  test('that the server refuses is told in its words', async () => {
    const answers = begin();
    await list();
    answers.give({ addSpecs: new Refusal({ code: 'bad-spec', fact: 'It has no such codec.', wayOut: 'Choose one.' }) });
    await give({ shale: 'specs', version: 1, specs: [{ name: 'x', spec }] });
    expect((await screen.findByRole('alert')).textContent).toContain('It has no such codec.');
  });
});

test('the folder of the source that was looked at last is opened strictly, files left out by their reason', async () => {
  store.dispatch(sourceChosen('pan'));
  begin({
    getSource: listed([1, 2, 3]),
    received: {
      plays: ['pan.0001.png', 'pan.0002.png'],
      leftOut: [
        { name: 'a.txt', why: 'no picture' },
        { name: 'b.txt', why: 'no picture' },
        { name: 'pan.3.png', why: 'another width' },
      ],
      sentence: 'It loads 2 of 5 files.',
    },
  });
  expect((await screen.findByTestId('strictly')).textContent).toBe('It loads 2 of 5 files.');
  expect(screen.getByText('pan.0001.png to pan.0002.png')).toBeTruthy();
  expect(screen.getByText('Leaves 2 files out: no picture.')).toBeTruthy();
  expect(screen.getByText('Leaves 1 file out: another width.')).toBeTruthy();
});
