import {
  closeSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  renameSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { execFileSync } from 'node:child_process';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { jest } from '@jest/globals';
import { diskAddon } from './disk/addon.ts';
import { folderIdentity, holdFile, holdFolder, isThere } from './beneath.ts';

let root: string;
let outside: string;
beforeEach(() => {
  const top = mkdtempSync(join(tmpdir(), 'shale-beneath-'));
  [root, outside] = [join(top, 'root'), join(top, 'outside')];
  for (const folder of [root, outside, join(root, 'shot')]) mkdirSync(folder);
  writeFileSync(join(root, 'shot', 'a.png'), 'inside');
  writeFileSync(join(outside, 'a.png'), 'secret');
});
afterEach(() => rmSync(join(root, '..'), { recursive: true, force: true }));

const read = (file: string): string => {
  const one = holdFile(root, file);
  try {
    return readFileSync(one.path, 'utf8');
  } finally {
    one.close();
  }
};

/** What the system answers that has no call for it: -ENOSYS. */
const unknownCall = -38;

describe.each(['by the system’s own call', 'where the system has none'])('%s', (how) => {
  beforeEach(() => {
    if (how === 'where the system has none') jest.spyOn(diskAddon, 'openBeneath').mockReturnValue(unknownCall);
  });
  afterEach(() => jest.restoreAllMocks());

  test('what lies below is opened, through links that stay inside too, however they are written', () => {
    expect(read('shot/a.png')).toBe('inside');
    symlinkSync('shot', join(root, 'relative'));
    symlinkSync(join(root, 'shot'), join(root, 'absolute'));
    expect([read('relative/a.png'), read('absolute/a.png')]).toEqual(['inside', 'inside']);
  });

  test.each([
    ['a step up', () => '../outside/a.png'],
    ['a folder that is a link out', () => (symlinkSync('../outside', join(root, 'out')), 'out/a.png')],
    ['a folder that is a whole path out', () => (symlinkSync(outside, join(root, 'out')), 'out/a.png')],
    [
      'a file that is a link out',
      () => (symlinkSync('../../outside/a.png', join(root, 'shot', 'b.png')), 'shot/b.png'),
    ],
    [
      'the way through the system’s own links',
      () => (symlinkSync('/proc/self/cwd', join(root, 'out')), 'out/package.json'),
    ],
  ])('%s leads nowhere', (_, make) => {
    expect(() => read(make())).toThrow(expect.objectContaining({ code: 'outside-root' }));
  });

  test('a name that becomes a link after it was opened changes nothing for whoever holds it', () => {
    const held = holdFolder(root, 'shot');
    renameSync(join(root, 'shot'), join(root, 'moved'));
    symlinkSync('../outside', join(root, 'shot'));
    expect(readFileSync(join(held.path, 'a.png'), 'utf8')).toBe('inside');
    expect(isThere(root, 'shot', folderIdentity(held))).toBe(false);
    expect(isThere(root, 'moved', folderIdentity(held))).toBe(true);
    held.close();
  });

  test('a folder and a pipe are no files, and are told at once', () => {
    expect(() => read('shot')).toThrow('is not a file');
    execFileSync('mkfifo', [join(root, 'pipe.png')]);
    expect(() => read('pipe.png')).toThrow('is not a file');
    expect(() => read('nothing.png')).toThrow(expect.objectContaining({ code: 'ENOENT' }));
  });
});

test('no descriptor is left open by what was refused', () => {
  const next = () => {
    const fd = diskAddon.openBeneath(root, '.', 0);
    closeSync(fd);
    return fd;
  };
  const before = next();
  for (let at = 0; at < 50; at += 1) expect(() => read('shot')).toThrow();
  for (let at = 0; at < 50; at += 1) expect(() => read('../x')).toThrow();
  expect(next()).toBe(before);
});
