import { chmodSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { namingSpecSchema, type NamingSpecInput } from '@shale/core';
import { sourcesOf } from '@shale/core/naming/testing.ts';
import { dayOf } from './day.ts';
import { planDigest, planOnDisk, workOf } from './plan.ts';

let path: string;
const names = ['p.1.png', 'p.2.png', 'p.3.png'];
beforeEach(() => {
  path = mkdtempSync(join(tmpdir(), 'shale-plan-'));
  mkdirSync(join(path, 'a'));
  for (const name of names) writeFileSync(join(path, 'a', name), name);
});
afterEach(() => rmSync(path, { recursive: true, force: true }));

const plan = (spec: Partial<NamingSpecInput>, bytes = 3) => {
  const root = { id: 'r', path };
  return planOnDisk(sourcesOf('a', names, { bytes }), namingSpecSchema.parse({ version: 1, ...spec }), root, root);
};
const codes = async (spec: Partial<NamingSpecInput>, bytes?: number) =>
  (await plan(spec, bytes)).problems.map(({ code }) => code);

test('what lies in the folder is in the way, and one plan has one digest', async () => {
  const up = { rules: [{ kind: 'number' as const, first: 2 }] };
  expect(await codes(up)).toEqual([]);
  const first = planDigest(await plan(up));
  expect(planDigest(await plan(up))).toBe(first);
  expect(planDigest(await plan({ rules: [{ kind: 'number', first: 3 }] }))).not.toBe(first);
  expect(planDigest(await plan({ ...up, mode: 'move' }))).not.toBe(first);
  writeFileSync(join(path, 'a', 'p.4.png'), 'there');
  expect(await codes(up)).toEqual(['taken']);
});

test('only rows that change are work', async () => {
  const made = await plan({
    rules: [
      { kind: 'number', first: 1, digits: 1 },
      { kind: 'replace', find: 'p', with: 'q' },
    ],
  });
  const work = workOf(made, 'id', { id: 'r', path }, { id: 'r', path }, 'words');
  expect(work.rows.from).toEqual(names.map((name) => `a/${name}`));
  expect(work.rows.to).toEqual(['a/q.1.png', 'a/q.2.png', 'a/q.3.png']);
});

test('a file where a folder is needed, and copies that no disk has room for', async () => {
  expect(await codes({ mode: 'copy', into: { folder: 'a/p.1.png' } })).toEqual(['folder-blocked']);
  expect(await codes({ mode: 'copy', into: { folder: 'b' } })).toEqual([]);
  expect(await codes({ mode: 'copy', into: { folder: 'b' } }, Number.MAX_SAFE_INTEGER)).toEqual(['disk-full']);
  expect(await codes({ mode: 'link', into: { folder: 'b' } }, Number.MAX_SAFE_INTEGER)).toEqual([]);
});

// The account of a container may write everywhere: then there is nothing to refuse.
(process.getuid?.() === 0 ? test.skip : test)('no right to write', async () => {
  chmodSync(join(path, 'a'), 0o555);
  expect(await codes({ rules: [{ kind: 'case', to: 'upper' }] })).toEqual(['not-writable']);
  chmodSync(join(path, 'a'), 0o755);
});

test('a day is that of the machine', () => {
  const noon = new Date(2026, 0, 5, 12).getTime();
  expect(dayOf(noon)).toBe('2026-01-05');
});
