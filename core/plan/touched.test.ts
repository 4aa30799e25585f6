import { describeFolder } from '../numbering/describe.ts';
import { declare } from '../spec/declaration.ts';
import { parseSpec } from '../spec/parse.ts';
import type { SpecInput } from '../spec/schema.ts';
import { makePlan } from './make.ts';
import type { Plan } from './plan.ts';
import { foldersRead, folderWritten, writeSameNames } from './touched.ts';

const facts = {
  width: 8,
  height: 8,
  format: 'png',
  sample: 'u8' as const,
  channels: ['R', 'G', 'B'],
  hasAlpha: false,
  transfer: 'srgb',
  more: [],
};
function source(folder: string, stem: string) {
  const names = [1, 2, 3].map((frame) => `${stem}.${frame}.png`);
  const zeros = names.map(() => 0);
  return { ...describeFolder(folder, { names, bytes: zeros, modified: zeros }).sequences[0]!.source, facts };
}
const given = (folder: string, stem: string) => {
  const one = source(folder, stem);
  return { root: 'shots', source: one, declaration: declare(one) };
};
const named = (folder: string, stem: string) => ({ root: 'shots', folder, name: `${stem}.#.png` });
function plan(more: Partial<SpecInput> = {}, beside: Parameters<typeof makePlan>[4] = {}): Plan {
  const one = source('a', 'a');
  const write = { format: 'png' as const, sample: 'u8' as const, alpha: 'none' as const, transfer: 'srgb' as const };
  return makePlan(
    'shots',
    one,
    declare(one),
    parseSpec({ version: 1, write, names: { stem: 'out' }, ...more }),
    beside,
  );
}

test('a plan reads its source, what it is laid over, the shots that follow and its sound', () => {
  const made = plan(
    {
      write: { format: 'h264', sample: 'u8', alpha: 'none', transfer: 'srgb' },
      picture: { over: { source: named('under', 'u') } },
      then: [{ source: named('b', 'b') }, { source: named('c', 'c') }],
      sound: { from: { root: 'sounds', folder: 'bells', name: 'bell.wav' } },
    },
    {
      under: given('under', 'u'),
      shots: [given('b', 'b'), given('c', 'c')],
      sound: { root: 'sounds', source: { ...source('bells', 'x'), kind: 'sound', name: 'bell.wav' } },
    },
  );
  expect(foldersRead(made)).toEqual([
    { root: 'shots', folder: 'a' },
    { root: 'shots', folder: 'under' },
    { root: 'shots', folder: 'b' },
    { root: 'shots', folder: 'c' },
    { root: 'sounds', folder: 'bells' },
  ]);
  expect(folderWritten(made)).toEqual({ root: 'results', folder: '' });
});

test('plans write the same names by their pattern, their video, or one name of many', () => {
  expect(writeSameNames(plan(), plan())).toBe(true);
  expect(writeSameNames(plan(), plan({ into: { folder: 'elsewhere' } }))).toBe(false);
  expect(writeSameNames(plan(), plan({ names: { stem: 'other' }, into: { folder: 'out' } }))).toBe(false);
  const film = plan({
    write: { format: 'ffv1', sample: 'u8', alpha: 'none', transfer: 'srgb' },
    into: { folder: 'out' },
  });
  expect(writeSameNames(film, plan())).toBe(false);
  expect(writeSameNames(film, film)).toBe(true);
  const marked = (...names: string[]): Plan => {
    const made = plan();
    const { root, folder, stem } = made.into;
    const own = Object.fromEntries(names.map((name, at) => [String(at), name]));
    return { ...made, into: { kind: 'stills' as const, root, folder, stem, names: own } };
  };
  expect(writeSameNames(marked('bell.png', 'door.png'), marked('door.png'))).toBe(true);
  expect(writeSameNames(marked('bell.png'), marked('door.png'))).toBe(false);
  // One of the names that a pattern gives, either way about.
  const [numbered, other] = [plan(), marked('door.png', 'out.0007.png')];
  expect([writeSameNames(numbered, other), writeSameNames(other, numbered)]).toEqual([true, true]);
  expect(writeSameNames(numbered, marked('out.door.png', 'out.7.tif'))).toBe(false);
});
