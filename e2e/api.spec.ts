import { execFile } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import { freePort } from '@shale/server/store/mariadb.ts';
import { programs } from '../tools/programs.mjs';
import { House } from './house.ts';

const run = promisify(execFile);
const own = mkdtempSync(join(tmpdir(), 'shale-own-'));
const house = new House();

const write = { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' };
const spec = (more: object = {}) => ({ version: 1, write, names: { stem: 'r' }, ...more });

async function putFrames(folder: string, count: number): Promise<void> {
  mkdirSync(folder, { recursive: true });
  for (let frame = 1; frame <= count; frame += 1) {
    await sharp({
      create: { width: 32, height: 24, channels: 4, background: { r: frame * 20, g: 80, b: 160, alpha: 0.5 } },
    })
      .png()
      .toFile(join(folder, `own_${frame}.png`));
  }
}

test.beforeAll(async () => {
  await putFrames(join(own, 'shots'), 4);
  mkdirSync(join(own, 'empty'));
  writeFileSync(
    join(house.data, 'shale.config.json'),
    JSON.stringify({
      roots: [
        { id: 'own', name: 'Our shots', path: join(own, 'shots') },
        { id: 'empty', name: 'Empty', path: join(own, 'empty') },
        { id: 'gone', name: 'Not mounted', path: join(own, 'nowhere') },
      ],
    }),
  );
  await house.start();
});
test.afterAll(() => house.leave());

test('roots of the operator: one with footage, an empty one, one that is not there', async ({ page }) => {
  await house.source('own_');
  const roots =
    await house.get<{ id: string; sources: number; problem: { code: string; fact: string } | null }[]>('/roots');
  expect(roots.find(({ id }) => id === 'own')).toMatchObject({ sources: 1, problem: null });
  expect(roots.find(({ id }) => id === 'gone')!.problem).toMatchObject({ code: 'folder-not-found' });
  await page.goto(house.url);
  await page.getByRole('button', { name: /^Not mounted/ }).click();
  await expect(page.getByRole('alert')).toContainText('There is no folder');
  await page.getByRole('button', { name: /^Empty/ }).click();
  await expect(page.getByRole('heading', { name: 'No footage here' })).toBeVisible();
});

test('every refusal is a problem with a code, the fact and the way out', async () => {
  const source = await house.source('own_');
  const cases: [string, 'POST' | 'PUT', string, unknown, number, string][] = [
    ['rate 0', 'PUT', `/sources/${source}/word`, { rate: { num: 0, den: 1 } }, 400, 'bad-request'],
    ['unknown fact', 'PUT', `/sources/${source}/word`, { colour: 'red' }, 400, 'bad-request'],
    ['no spec', 'POST', '/plans', { source, spec: null }, 400, 'bad-spec'],
    ['a later spec', 'POST', '/plans', { source, spec: { version: 9 } }, 400, 'spec-too-new'],
    ['a wrong field', 'POST', '/jobs', { source, spec: spec({ missing: 'guess' }) }, 400, 'bad-spec'],
    ['an unknown source', 'POST', '/plans', { source: 'nope', spec: spec() }, 404, 'source-not-found'],
    ['an unknown root', 'POST', '/plans', { source, spec: spec({ into: { root: 'attic' } }) }, 404, 'root-not-found'],
    [
      'a root that is only read',
      'POST',
      '/jobs',
      { source, spec: spec({ into: { root: 'own' } }) },
      403,
      'root-read-only',
    ],
    [
      'a way out of the root',
      'POST',
      '/jobs',
      { source, spec: spec({ into: { folder: '../../up' } }) },
      403,
      'outside-root',
    ],
    ['an absolute folder', 'POST', '/jobs', { source, spec: spec({ into: { folder: '/etc' } }) }, 403, 'outside-root'],
    ['a range outside', 'POST', '/jobs', { source, spec: spec({ frames: '90-99' }) }, 400, 'no-frames'],
    ['an unknown job', 'POST', '/jobs/none/continue', {}, 404, 'job-not-found'],
    ['an unknown route', 'POST', '/nothing', {}, 404, 'no-such-route'],
  ];
  for (const [what, method, path, body, status, code] of cases) {
    const answer = await house.send(method, path, body);
    expect({ what, status: answer.status, code: answer.body.code }).toEqual({ what, status, code });
    expect(answer.body.fact).toEqual(expect.stringMatching(/\.$/));
    expect(answer.body.wayOut).toEqual(expect.any(String));
  }
  const broken = await fetch(`${house.url}/api/plans`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: '{',
  });
  expect([broken.status, broken.headers.get('content-type')]).toEqual([400, 'application/problem+json; charset=utf-8']);
  const foreign = await fetch(`${house.url}/api/roots`, { headers: { origin: 'http://elsewhere.example' } });
  expect(foreign.status).toBe(403);
});

test('a link in the results folder does not lead out', async () => {
  const source = await house.source('own_');
  mkdirSync(join(house.data, 'results'), { recursive: true });
  symlinkSync(own, join(house.data, 'results', 'sly'));
  const answer = await house.send('POST', '/jobs', { source, spec: spec({ into: { folder: 'sly/inside' } }) });
  expect(answer).toMatchObject({ status: 403, body: { code: 'outside-root' } });
  expect(readdirSync(own).sort()).toEqual(['empty', 'shots']);
});

test('the page is guarded: a strict policy, its styles by nonce, the API described', async () => {
  const page = await fetch(house.url);
  const policy = page.headers.get('content-security-policy')!;
  expect(policy).toContain("script-src 'self'");
  expect(policy).not.toContain('unsafe');
  const nonce = /'nonce-([^']+)'/.exec(policy)![1]!;
  expect(await page.text()).toContain(`content="${nonce}"`);
  const { openapi, paths } = await house.get<{ openapi: string; paths: Record<string, object> }>('/openapi.json');
  expect(openapi).toBe('3.1.0');
  expect(Object.keys(paths)).toContain('/api/sources/{source}/frames/{frame}/preview');
  expect(await (await fetch(`${house.url}/api`)).text()).toContain('startJob');
});

test('previews: of a size, kept, refused for what is not there', async () => {
  const source = await house.source('own_');
  const picture = await fetch(`${house.url}/api/sources/${source}/frames/2/preview?width=16&format=png`);
  expect(await sharp(Buffer.from(await picture.arrayBuffer())).metadata()).toMatchObject({
    width: 16,
    height: 12,
    hasAlpha: true,
  });
  expect((await fetch(`${house.url}/api/sources/${source}/frames/9/preview`)).status).toBe(404);
  expect((await fetch(`${house.url}/api/sources/${source}/frames/2/preview?width=9`)).status).toBe(400);
});

const shale = (...args: string[]) =>
  run(process.execPath, ['tools/shale.mjs', ...args], { cwd: join(import.meta.dirname, '..') }).then(
    ({ stdout, stderr }) => ({ code: 0, stdout, stderr }),
    (error: { code: number; stdout: string; stderr: string }) => error,
  );

test('the command line: scan, convert, and its exit codes', async () => {
  const shots = join(own, 'shots');
  // Rendered a while ago: what was written just now would be called so.
  const before = new Date(Date.now() - 3_600_000);
  for (const name of readdirSync(shots)) utimesSync(join(shots, name), before, before);
  const scanned = await shale('scan', own, '--json');
  expect(JSON.parse(scanned.stdout)).toMatchObject({
    root: own,
    sequences: [
      { folder: 'shots', pattern: 'own_#.png', frames: '1-4', count: 4, missing: '', padding: 1, findings: [] },
    ],
    clips: [],
    stills: [],
    sounds: [],
    other: [],
  });
  const path = join(own, 'spec.json');
  writeFileSync(path, JSON.stringify(spec()));
  const out = join(own, 'cli-out');
  expect(await shale('convert', join(shots, 'own_%d.png'), '--spec', path, '--out', out, '--dry')).toMatchObject({
    code: 0,
    stdout: expect.stringContaining('own_1.png -> r.0001.png'),
  });
  expect(() => readdirSync(out)).toThrow();
  expect((await shale('convert', join(shots, 'own_#.png'), '--spec', path, '--out', out)).code).toBe(0);
  expect(readdirSync(out)).toHaveLength(4);
  const bad = join(own, 'bad.json');
  writeFileSync(bad, '{"version":1}');
  const one = join(shots, 'own_#.png');
  const refused: [string[], string][] = [
    [['convert', one, '--spec', path, '--out', out], 'output-exists'],
    [['convert', join(shots, 'own_###.png'), '--spec', path, '--out', out], 'source-not-found'],
    [['convert', one, '--spec', path, '--out', out, '--rate', '0'], '"0" is not a frame rate'],
    [['scan', join(own, 'nowhere')], 'folder-not-found'],
    [['convert', one, '--spec', bad, '--out', out], 'bad-spec'],
  ];
  const answers = await Promise.all(refused.map(([args]) => shale(...args)));
  for (const [at, [, words]] of refused.entries())
    expect(answers[at]).toMatchObject({ code: 2, stderr: expect.stringContaining(words) });
  writeFileSync(path, JSON.stringify(spec({ frames: '1-2' })));
  writeFileSync(join(shots, 'own_2.png'), (await sharp(join(shots, 'own_1.png')).png().toBuffer()).subarray(0, 60));
  expect(await shale('convert', join(shots, 'own_#.png'), '--spec', path, '--out', join(own, 'cli-2'))).toMatchObject({
    code: 1,
    stdout: expect.stringContaining('own_2.png is cut short'),
  });
});

test('a second server on the same data is refused, and the first goes on', async () => {
  const second = run(process.execPath, [(await programs()).server], {
    cwd: join(import.meta.dirname, '..'),
    env: { ...process.env, SHALE_DATA: house.data, SHALE_PORT: String(await freePort()) },
  });
  await expect(second).rejects.toMatchObject({ code: 1, stderr: expect.stringContaining('works on') });
  const samePort = run(process.execPath, [(await programs()).server], {
    cwd: join(import.meta.dirname, '..'),
    env: { ...process.env, SHALE_DATA: mkdtempSync(join(tmpdir(), 'shale-other-')), SHALE_PORT: String(house.port) },
  });
  await expect(samePort).rejects.toMatchObject({
    code: 1,
    stderr: expect.stringContaining('is taken by another program'),
  });
  expect((await house.get<unknown[]>('/roots')).length).toBe(6);
});

test('a job stops when asked, runs beside another, and goes on where it was', async () => {
  const source = await house.source('yard_cam_a');
  const rgb = { format: 'png', sample: 'u8', alpha: 'none', transfer: 'srgb' };
  const start = (stem: string) =>
    house.send('POST', '/jobs', { source, spec: { version: 1, write: rgb, names: { stem } } });
  const first = (await start('stopped')).body.id as string;
  const second = (await start('after')).body.id as string;
  expect((await start('stopped')).body.code).toBe('output-claimed');
  const job = (id: string) => house.get<{ state: string; written: number }>(`/jobs/${id}`);
  await expect.poll(async () => (await job(first)).written).toBeGreaterThan(2);
  expect((await job(second)).state).toBe('running');
  expect((await house.send('POST', `/jobs/${second}/stop`, {})).body.state).toBe('stopped');
  const stopped = await house.send('POST', `/jobs/${first}/stop`, {});
  expect(stopped.body.state).toBe('stopped');
  expect(stopped.body.written).toBeLessThan(120);
  const folder = join(house.data, 'results', 'stopped');
  // A process that is ended in the middle may have named a file, and not said so: that one is made again, and is the same.
  const unsaid = readdirSync(folder).length - (stopped.body.written as number);
  expect(unsaid, JSON.stringify(stopped.body)).toBeGreaterThanOrEqual(0);
  expect(unsaid, JSON.stringify(stopped.body)).toBeLessThanOrEqual(2);
  expect((await house.send('POST', `/jobs/${first}/continue`, {})).status).toBe(200);
  await expect.poll(async () => (await job(first)).state, { timeout: 120_000 }).toBe('done');
  expect(readdirSync(folder)).toHaveLength(120);
  expect((await house.send('POST', `/jobs/${first}/continue`, {})).body.code).toBe('not-stopped');
});
