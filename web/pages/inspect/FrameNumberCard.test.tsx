/** @jest-environment ./web/testing/page.mjs */
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { Answers, arrive, forget, Refusal, show } from '../../testing/answers.tsx';
import { listed } from '../../testing/samples.ts';
import { FrameNumberCard } from './FrameNumberCard.tsx';

afterEach(forget);
const cameras = listed([1, 2, 3], {
  name: 'cam2.####.png',
  pattern: { prefix: 'cam2.', padding: 4, suffix: '.png' },
});

test('every number of a name can be said to count the frames, for the folder', async () => {
  const answers = new Answers({ listRules: [], putRule: [] });
  show(<FrameNumberCard source={cameras} />);
  const choices = await screen.findAllByRole('radio');
  expect(choices.map((one) => (one as HTMLInputElement).checked)).toEqual([true, false, false, false]);
  await userEvent.click(choices[1]!);
  await waitFor(() =>
    expect(answers.of('putRule')).toMatchObject([{ body: { folder: 'yard', word: { frameNumber: 1 } } }]),
  );
  // Other numbers make other sources: the list of the folder shows them.
  await arrive('/intake?root=museum&folder=yard');
});

test('what was said is shown, wherever it was said, and undone without what else the rule says', async () => {
  const rate = { num: 24, den: 1 };
  const answers = new Answers({ listRules: [{ folder: 'yard', word: { rate, frameNumber: -1 } }], putRule: [] });
  show(<FrameNumberCard source={cameras} />);
  await waitFor(() => expect(screen.getAllByRole<HTMLInputElement>('radio')[2]!.checked).toBe(true));
  await userEvent.click(screen.getAllByRole('radio')[0]!);
  await waitFor(() => expect(answers.of('putRule')).toMatchObject([{ body: { folder: 'yard', word: { rate } } }]));
  expect(answers.of('putRule')[0]!.body).not.toHaveProperty('word.frameNumber');
  forget();
  new Answers({ listRules: [{ folder: '', word: { frameNumber: 0 } }] });
  show(<FrameNumberCard source={cameras} />);
  await screen.findByText(/now set for the whole root/);
  expect(screen.getAllByRole<HTMLInputElement>('radio')[3]!.checked).toBe(true);
});

test('one number leaves nothing to choose; a refusal is told', async () => {
  new Answers({ listRules: [] });
  const { container } = show(<FrameNumberCard source={listed([1, 2, 3])} />);
  expect(container.querySelector('[role=radiogroup]')).toBeNull();
  forget();
  new Answers({
    listRules: [],
    putRule: new Refusal({ code: 'disk-full', fact: 'The disk is full.', wayOut: 'Free some space.' }),
  });
  show(<FrameNumberCard source={cameras} />);
  await userEvent.click((await screen.findAllByRole('radio'))[3]!);
  expect((await screen.findByRole('alert')).textContent).toContain('The disk is full.');
});
