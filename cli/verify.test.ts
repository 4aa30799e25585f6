import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdir, mkdtemp, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { hashFiles } from '@shale/engine';
import { writeHashList } from '@shale/core';
import { Shale } from './testing/shale.ts';

let folder: string;
const shale = new Shale();
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-verify-'));
  for (const name of ['a.png', 'b c.png', 'ü.png']) await writeFile(join(folder, name), `bytes of ${name}`);
});
afterEach(() => rm(folder, { recursive: true, force: true }));
afterAll(() => shale.close());

const verify = async (...more: string[]) => {
  const { code, out } = await shale.run('verify', folder, '--json', ...more);
  return { code, found: out ? (JSON.parse(out) as Record<string, unknown>) : undefined };
};

test('a list that sha256sum wrote is kept, and what is gone, changed or new is told', async () => {
  execFileSync('sh', ['-c', 'sha256sum *.png > list.sha256'], { cwd: folder });
  expect(await verify()).toMatchObject({ code: 0, found: { whole: 3, missing: [], changed: [], unlisted: [] } });
  await rm(join(folder, 'a.png'));
  await writeFile(join(folder, 'b c.png'), 'other bytes');
  await writeFile(join(folder, 'new.png'), 'new');
  expect(await verify()).toMatchObject({
    code: 1,
    found: { whole: 1, missing: ['a.png'], changed: [{ path: 'b c.png' }], unlisted: ['new.png'] },
  });
});

test('a hash list of the ASC is kept; its digests are those of other programs', async () => {
  const files = ['a.png', 'b c.png', 'ü.png'].map((name) => ({
    name,
    sha256: createHash('sha256').update(`bytes of ${name}`).digest('hex'),
  }));
  const hashed = await hashFiles(folder, files);
  const sums = execFileSync('md5sum', ['a.png', 'b c.png', 'ü.png'], { cwd: folder, encoding: 'utf8' });
  expect(
    sums
      .trim()
      .split('\n')
      .map((line) => line.slice(0, 32)),
  ).toEqual(hashed.map(({ md5 }) => md5));
  await mkdir(join(folder, 'ascmhl'));
  const head = { created: '2026-05-02T10:00:00.000Z', host: 'yard', version: '1' };
  await writeFile(join(folder, 'ascmhl', '0001_x.mhl'), writeHashList(hashed, head));
  expect(await verify()).toMatchObject({ code: 0, found: { whole: 3 } });
  await writeFile(join(folder, 'a.png'), 'Bytes of a.png');
  expect(await verify()).toMatchObject({ code: 1, found: { changed: [{ path: 'a.png' }] } });
  await expect(hashFiles(folder, files)).rejects.toMatchObject({ code: 'result-changed', subject: 'a.png' });
});

test('a name that leads out of the folder is not read; a list that is none is refused', async () => {
  await symlink('/etc/passwd', join(folder, 'link.png'));
  await writeFile(join(folder, 'list.sha256'), `${'a'.repeat(64)}  ../../etc/passwd\n${'a'.repeat(64)}  link.png\n`);
  const { code, found } = await verify();
  expect(code).toBe(1);
  expect(found!.changed).toMatchObject([{ path: '../../etc/passwd' }, { path: 'link.png' }]);
  await writeFile(join(folder, 'list.sha256'), 'no sums at all\n');
  expect((await verify()).code).toBe(2);
  await rm(join(folder, 'list.sha256'));
  expect((await verify()).code).toBe(2);
});
