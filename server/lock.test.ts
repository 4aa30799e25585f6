import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { takeData } from './lock.ts';

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'shale-lock-'));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));
const path = () => join(folder, 'server.pid');

test('a folder is taken, given free, and taken again; nothing is left beside the lock', () => {
  const giveFree = takeData(folder);
  expect(readFileSync(path(), 'utf8')).toBe(String(process.pid));
  expect(readdirSync(folder)).toEqual(['server.pid']);
  giveFree();
  expect(readdirSync(folder)).toEqual([]);
  takeData(folder)();
});

test('one that another server has is refused by its process, and stays its own', () => {
  writeFileSync(path(), '4711');
  expect(() => takeData(folder, () => true)).toThrow('A Shale of process 4711 works on');
  expect(readFileSync(path(), 'utf8')).toBe('4711');
  expect(readdirSync(folder)).toEqual(['server.pid']);
});

test.each(['4711', '', 'nonsense'])('a lock that a killed server left (%j) is taken over', (left) => {
  writeFileSync(path(), left);
  takeData(folder, () => false);
  expect(readFileSync(path(), 'utf8')).toBe(String(process.pid));
});

test('a killed server that had our own number, as in a container that is started anew, is taken over', () => {
  writeFileSync(path(), String(process.pid));
  takeData(folder, () => true);
  expect(readFileSync(path(), 'utf8')).toBe(String(process.pid));
  expect(readdirSync(folder)).toEqual(['server.pid']);
});
