import { namingSpecSchema, parseSpec, shippedReceivers } from '@shale/core';
import { fileName, readHanded } from './files.ts';
import { freeNameIn, handed, itemsOf } from './shelves.ts';

const spec = parseSpec({ version: 1, write: { format: 'exr', sample: 'f16', alpha: 'none', transfer: 'linear' } });
const saved = '2026-11-25T00:00:00Z';
const items = itemsOf(
  Object.entries(shippedReceivers).map(([id, receiver]) => ({
    id,
    shipped: true,
    changed: id === 'archive',
    receiver,
  })),
  [{ id: 3, name: 'To float', version: 2, spec, saved }],
  [
    {
      id: 4,
      name: 'Small',
      version: 1,
      spec: namingSpecSchema.parse({ version: 1, rules: [{ kind: 'case', to: 'lower' }] }),
      saved,
    },
  ],
);
const file = (text: string, name = 'a.json') => new File([text], name, { type: 'application/json' });

test.each(['receivers', 'specs', 'names'] as const)(
  '%s that are handed out are taken in again as they were',
  async (kind) => {
    const out = handed(items.filter((item) => item.kind === kind));
    expect(await readHanded(file(JSON.stringify(out)))).toEqual(out);
  },
);

test.each([
  ['', 'it is not JSON'],
  ['[1]', 'the field "shale" does not fit'],
  ['{"shale":"specs","version":1,"specs":[]}', 'the field "specs" does not fit'],
  ['{"shale":"receivers","version":2,"receivers":[]}', 'the field "version" does not fit'],
  [
    '{"shale":"names","version":1,"names":[{"name":"x","spec":{"version":1,"rules":[{"kind":"number","step":-1}]}}]}',
    'the field "names.0.spec.rules.0.step" does not fit',
  ],
])('%j is refused', async (text, fact) => {
  expect(await readHanded(file(text))).toMatchObject({ code: 'bad-file', fact: expect.stringContaining(fact) });
});

test('a file of any size but a sensible one is not read', async () => {
  expect(await readHanded(file(' '.repeat(3 << 20)))).toMatchObject({ fact: expect.stringContaining('too large') });
});

test('everything that is kept is told by rows, and a copy finds a free name', () => {
  expect(items.map(({ note }) => note)).toEqual([
    'built in',
    'built in',
    'built in',
    'built in',
    'built in',
    'built in',
    'built in',
    'built in, changed',
    'version 2',
    'version 1',
  ]);
  expect(items.find(({ kind }) => kind === 'specs')!.rows).toContainEqual(['Format', 'OpenEXR']);
  expect(items.find(({ kind }) => kind === 'names')!.rows).toEqual([
    ['Files', 'Rename'],
    ['Rule 1', 'small letters'],
  ]);
  expect(freeNameIn('Archive', items, 'receivers')).toBe('Archive 2');
  expect(freeNameIn('Archive', items, 'specs')).toBe('Archive');
  expect(fileName('3D viewport plate!')).toBe('3d-viewport-plate.json');
  expect(fileName('¿')).toBe('shale.json');
});
