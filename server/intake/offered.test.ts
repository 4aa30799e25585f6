import fc from 'fast-check';
import { checkOffered, folderName } from './offered.ts';

const offer = (...paths: string[]) => checkOffered(paths.map((path) => ({ path, size: 1, modified: 0 })));

test.each(['a.png', 'shots/pan.0001.exr', 'Übergabe (1).png', '.hidden', 'a/b/c d.tif', 'console.png', 'com.png'])(
  '"%s" is taken',
  (path) => expect(() => offer(path)).not.toThrow(),
);

test.each([
  '../a.png',
  'a/../../b.png',
  '/etc/passwd',
  'a//b.png',
  './a.png',
  'a\\b.png',
  'a\u0000.png',
  'CON',
  'nul.png',
  'shots/COM1.exr',
  'lpt9',
  'a.',
  'a /b.png',
  `${'ü'.repeat(200)}.png`,
  '.shale-x-1.part',
  '.hidden/a.png',
  'a/.git/b/c.png',
])('"%s" is not', (path) => expect(() => offer(path)).toThrow(expect.objectContaining({ code: 'bad-name' })));

test('no path is offered twice', () =>
  expect(() => offer('a.png', 'a.png')).toThrow(expect.objectContaining({ code: 'doubled-name' })));

test('what is a file is no folder of another', () => {
  expect(() => offer('a', 'a/b.png')).toThrow(expect.objectContaining({ code: 'doubled-name' }));
  expect(() => offer('x/a/b/c.png', 'x/a')).toThrow(expect.objectContaining({ code: 'doubled-name' }));
  expect(() => offer('a/b.png', 'a/c.png', 'ab')).not.toThrow();
});

test('whatever a drop is called, its folder is one plain step', () => {
  fc.assert(
    fc.property(fc.string({ maxLength: 120 }), (name) => {
      const folder = folderName(name);
      expect(folder).not.toBe('');
      expect(folder.length).toBeLessThanOrEqual(80);
      expect(() => offer(`${folder}/x.png`)).not.toThrow();
      expect(folder).not.toContain('/');
    }),
  );
  expect([folderName('../../etc'), folderName('CON'), folderName(''), folderName('  ')]).toEqual([
    'etc',
    'drop',
    'drop',
    'drop',
  ]);
});
