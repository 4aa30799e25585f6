import { mkdir, mkdtemp, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, sep } from 'node:path';
import fc from 'fast-check';
import { readRoots } from './config.ts';
import { insideRoot } from './paths.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-roots-'));
  await mkdir(join(folder, 'root', 'below'), { recursive: true });
  await mkdir(join(folder, 'elsewhere'));
  await symlink(join(folder, 'elsewhere'), join(folder, 'root', 'out'));
  await symlink(join(folder, 'root', 'below'), join(folder, 'root', 'in'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

describe('paths stay in their root', () => {
  test.each(['', 'below', 'below/new/deeper', 'in/new', 'with space', 'ünïcode', 'a..b', '...'])(
    '"%s" is inside',
    async (path) => expect(await insideRoot(join(folder, 'root'), path)).toBe(join(folder, 'root', path)),
  );

  test.each([
    '..',
    '../elsewhere',
    'below/../../elsewhere',
    '/etc',
    'out',
    'out/new',
    'a\\b',
    'a\0b',
    './x',
    'below/./x',
  ])('"%s" is not', async (path) =>
    expect(insideRoot(join(folder, 'root'), path)).rejects.toMatchObject({ code: 'outside-root' }),
  );

  test('nor does any made-up path leave', async () => {
    const step = fc.oneof(
      fc.constantFrom('..', '.', '', 'out', 'in', 'below', '%2e%2e', '～'),
      fc.string({ maxLength: 6 }),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(step, { maxLength: 6 }), async (steps) => {
        const inside = await insideRoot(join(folder, 'root'), steps.join('/')).catch((error: { code: string }) => {
          expect(error.code).toBe('outside-root');
          return join(folder, 'root');
        });
        expect(inside === join(folder, 'root') || inside.startsWith(join(folder, 'root') + sep)).toBe(true);
      }),
    );
  });
});

describe('shale.config.json', () => {
  const own = [{ id: 'museum', name: 'Tram museum', path: '/demo', writable: false }];
  const read = async (contents: string) => {
    const path = join(folder, 'shale.config.json');
    await writeFile(path, contents);
    return readRoots(path, own);
  };

  test('none is well', async () =>
    expect(await readRoots(join(folder, 'nothing.json'), own)).toEqual({ roots: own, keepDays: null, places: null }));

  test('its roots come first; a relative path is from the file', async () => {
    const { roots, keepDays } = await read(
      JSON.stringify({
        keepDays: 90,
        roots: [
          { id: 'shots', name: 'Shots', path: 'below', quiet: 180 },
          { id: 'out', name: 'Out', path: '/mnt/out', writable: true },
        ],
      }),
    );
    expect(keepDays).toBe(90);
    expect(roots.map(({ id, path, writable, quiet }) => [id, path, writable, quiet])).toEqual([
      ['shots', join(folder, 'below'), false, 180],
      ['out', '/mnt/out', true, undefined],
      ['museum', '/demo', false, undefined],
    ]);
  });

  test.each([
    ['{', 'it is not JSON'],
    ['{"roots": [{"id": "A B", "name": "x", "path": "/x"}]}', '"roots.0.id"'],
    ['{"roots": [], "more": 1}', 'does not fit'],
    ['{"roots": [{"id": "a", "name": "x", "path": "/x", "quiet": 0}]}', '"roots.0.quiet"'],
    ['{"roots": [{"id": "museum", "name": "x", "path": "/x"}]}', '"museum" is taken twice'],
  ])('%s is refused', async (contents, words) =>
    expect(read(contents)).rejects.toMatchObject({ code: 'bad-config', fact: expect.stringContaining(words) }),
  );
});
