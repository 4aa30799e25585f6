import type { Overview } from '@shale/contract';
import { chipsOf, isInForce, isNarrowed, readList, writeList } from './filters.ts';

test('a list is read back from its address', () => {
  const wanted = {
    filter: { root: 'm', folder: 'plates/a b', kind: 'clip' as const, look: true, hours: 24, text: 'pan & co' },
    sort: 'bytes' as const,
    descending: true,
  };
  expect(readList(writeList(wanted), 'first')).toEqual(wanted);
  expect(readList(new URLSearchParams(), 'first')).toEqual({
    filter: { root: 'first' },
    sort: 'folder',
    descending: false,
  });
});

test('what does not fit in an address is left out, the rest holds', () => {
  const { filter, sort } = readList(
    new URLSearchParams('kind=cloud&rate=fast&hours=-1&code=A B&sort=luck&text=pan'),
    'r',
  );
  expect({ filter, sort }).toEqual({ filter: { root: 'r', text: 'pan' }, sort: 'folder' });
});

test('chips say what they would leave; those that leave nothing go, but for the one in force', () => {
  const overview: Overview = {
    total: 3,
    bytes: 0,
    groups: [],
    facets: { all: 9, look: 2, undeclared: 0, kinds: { sequence: 7, clip: 2 }, codes: {}, rates: {} },
  };
  const words = (inForce: Parameters<typeof chipsOf>[1]) =>
    chipsOf(overview, inForce).map((chip) => `${chip.words} ${chip.count}`);
  expect(words({})).toEqual(['All 9', 'Need attention 2', 'Sequences 7', 'Clips 2']);
  expect(words({ rate: 'none' })).toContain('Rate not declared 0');
  const [all, look] = chipsOf(overview, {});
  expect([
    isInForce(all!, { root: 'm', text: 'x' }),
    isInForce(look!, { look: true }),
    isInForce(all!, { look: true }),
  ]).toEqual([true, true, false]);
  expect([isNarrowed({ root: 'm', folder: 'a' }), isNarrowed({ root: 'm', text: 'x' })]).toEqual([false, true]);
});
