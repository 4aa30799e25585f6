import { execFileSync } from 'node:child_process';
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  renameSync,
  rmSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import { House } from './house.ts';

// What the server outlives: its database, its disk, its workers; and what it refuses of two who ask at once.

const own = mkdtempSync(join(tmpdir(), 'shale-holds-'));
const house = new House();
const count = 24;
let mounted = false;
const journals = join(house.data, 'journal');

const folder = (name: string) => join(own, 'shots', name);

test.beforeAll(async () => {
  const noise = Buffer.from(
    Uint8Array.from({ length: 500 * 400 * 3 }, (_, at) => (Math.imul(at + 1, 2_654_435_761) >>> 13) & 255),
  );
  const before = new Date(Date.now() - 3_600_000);
  for (const name of ['one', 'two', 'free']) {
    mkdirSync(folder(name), { recursive: true });
    const file = (frame: number) => join(folder(name), `${name}_${frame}.png`);
    await sharp(noise, { raw: { width: 500, height: 400, channels: 3 } })
      .png()
      .toFile(file(1));
    for (let frame = 2; frame <= count; frame += 1) copyFileSync(file(1), file(frame));
    for (let frame = 1; frame <= count; frame += 1) utimesSync(file(frame), before, before);
  }
  mkdirSync(journals, { recursive: true });
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=32m', 'tmpfs', journals], { stdio: 'ignore' });
    mounted = true;
  } catch {
    // Not root, or a container without the right to mount.
  }
  const roots = [{ id: 'shots', name: 'Shots', path: join(own, 'shots'), writable: true }];
  writeFileSync(join(house.data, 'shale.config.json'), JSON.stringify({ roots }));
  await house.start();
});
test.afterAll(async () => {
  await house.stop();
  if (mounted) execFileSync('umount', [journals]);
  await house.leave();
  rmSync(own, { recursive: true, force: true });
});

/** A conversion that takes a while: the smallest files that deflate makes. */
const spec = (stem: string, more: object = {}) => ({
  version: 1,
  write: { format: 'png', sample: 'u8', alpha: 'none', transfer: 'srgb', effort: 9, ...more },
  picture: { resize: { to: { by: 'percent', percent: 200 } } },
  names: { stem },
});

interface Health {
  ready: boolean;
  problems: { code: string; fact: string }[];
}
const health = () => house.get<Health>('/health');
const codes = async () => (await health()).problems.map(({ code }) => code).join();
const jobOf = (id: string) =>
  house.get<{ state: string; written: number; problem: { code: string; fact: string } | null }>(`/jobs/${id}`);
const names = (into: string) =>
  existsSync(join(house.data, 'results', into)) ? readdirSync(join(house.data, 'results', into)) : [];

// The second looks at what the first has made.
test.describe.serial('a job that loses its workers', () => {
  test('a worker that dies with two spans in work, then Stop: the server goes on', async () => {
    const source = await house.source('one');
    const started = await house.send('POST', '/jobs', { source, spec: spec('crash') });
    expect(started.status).toBe(201);
    const id = started.body.id as string;
    await expect.poll(async () => (await jobOf(id)).written).toBeGreaterThan(0);
    for (const pid of house.workers()) process.kill(pid, 'SIGKILL');
    const stopped = await house.send('POST', `/jobs/${id}/stop`);
    expect(stopped.status).toBe(200);
    expect(house.lives).toBe(true);
    await house.send('POST', `/jobs/${id}/continue`);
    await expect.poll(async () => (await jobOf(id)).state, { timeout: 120_000 }).toBe('done');
    expect(names('crash')).toHaveLength(count);
    expect(await health()).toMatchObject({ ready: true, problems: [] });
  });

  test('an operator sees what it stands on; a receipt gives its reports', async ({ page }) => {
    await page.goto(`${house.url}/jobs`);
    await page.getByRole('link', { name: 'Server status' }).click();
    await expect(page.getByText(/database: answers in \d+ ms/)).toBeVisible();
    await expect(page.getByText(/Jobs and checks/)).toBeVisible();
    await page.goto(`${house.url}/receipts`);
    await page.getByRole('button', { name: 'Reports' }).click();
    const [file] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('menuitem', { name: 'Report for a client, HTML' }).click(),
    ]);
    const report = readFileSync(await file.path(), 'utf8');
    expect(report).toContain('<img alt="Contact sheet" src="data:image/png;base64,');
    expect(report).toContain(`${count} of ${count} planned`);
  });
});

test('a full data disk stops the job in words; with room it goes on, and its list of files is whole', async ({
  page,
}) => {
  test.skip(!mounted, 'no right to mount a small disk here');
  const source = await house.source('one');
  const started = await house.send('POST', '/jobs', { source, spec: spec('room') });
  const id = started.body.id as string;
  await page.goto(`${house.url}/jobs`);
  await expect.poll(async () => (await jobOf(id)).written).toBeGreaterThan(0);
  // As a disk does: full from one moment to the next, not one byte left for the next line.
  const size = Number(execFileSync('df', ['--output=used', '-k', journals], { encoding: 'utf8' }).split('\n')[1]);
  execFileSync('mount', ['-o', `remount,size=${size}k`, journals]);
  writeFileSync(join(journals, 'filler'), '');
  try {
    writeFileSync(join(journals, 'filler'), Buffer.alloc(1 << 20));
  } catch {
    // It is full then.
  }
  await expect.poll(async () => (await jobOf(id)).state).toBe('stopped');
  expect(house.lives).toBe(true);
  expect(await jobOf(id)).toMatchObject({ problem: { code: 'disk-full' } });
  await expect(page.getByTestId('job').first().getByRole('alert')).toContainText('Shale’s own data is full');
  expect(await codes()).toBe('disk-full');
  await expect(page.getByRole('banner').or(page.getByRole('alert')).filter({ hasText: 'KiB left' })).toBeVisible();
  rmSync(join(journals, 'filler'));
  execFileSync('mount', ['-o', 'remount,size=64m', journals]);
  await expect.poll(codes).toBe('');
  await page.getByTestId('job').first().getByRole('button', { name: 'Continue' }).click();
  await expect.poll(async () => (await jobOf(id)).state, { timeout: 120_000 }).toBe('done');
  const manifest = await (await fetch(`${house.url}/api/receipts/${id}/manifest`)).text();
  expect(manifest.trim().split('\n')).toHaveLength(count);
});

test('a database that dies is told of and started again; what runs goes on and settles', async ({ page }) => {
  const source = await house.source('one');
  await page.goto(`${house.url}/jobs`);
  const { body } = await house.send('POST', '/jobs', { source, spec: spec('database') });
  const id = body.id as string;
  await expect.poll(async () => (await jobOf(id)).written).toBeGreaterThan(0);
  // Its folder out of the way: it stays away until that is mended.
  const data = join(house.data, 'db', 'data');
  renameSync(data, `${data}.away`);
  process.kill(
    Number(
      readFileSync(join(house.data, 'db', 'pid'), 'utf8').trim() ||
        readFileSync(join(`${data}.away`, '..', 'pid'), 'utf8'),
    ),
    'SIGKILL',
  );
  await expect.poll(codes).toBe('database-away');
  const answer = await fetch(`${house.url}/api/health`);
  expect(answer.status).toBe(503);
  await expect(page.getByRole('alert').filter({ hasText: 'database does not answer' }).first()).toBeVisible();
  // No statement and no address in what a person is told.
  const refused = await house.send('GET', '/roots');
  expect(refused).toMatchObject({ status: 503, body: { code: 'database-away' } });
  expect(JSON.stringify(refused.body)).not.toMatch(/select|ECONN|127\.0\.0\.1/i);
  // A file that arrives meanwhile is what ended the server before.
  copyFileSync(join(folder('free'), 'free_1.png'), join(folder('free'), `free_${count + 1}.png`));
  await expect
    .poll(() => names('database').filter((name) => name.endsWith('.png')).length, { timeout: 120_000 })
    .toBe(count);
  await new Promise((done) => setTimeout(done, 2500));
  expect(house.lives).toBe(true);
  renameSync(`${data}.away`, data);
  await expect.poll(codes, { timeout: 60_000 }).toBe('');
  await expect.poll(async () => (await jobOf(id)).state).toBe('done');
  expect((await fetch(`${house.url}/api/receipts/${id}`)).status).toBe(200);
  await expect(page.getByRole('alert')).toHaveCount(0);
  await expect(page.getByTestId('job').first()).toHaveAttribute('data-state', 'done');
  // What came while it was away is found.
  await expect
    .poll(
      async () =>
        (await house.get<{ name: string; files: number }[]>('/sources')).find(({ name }) => name.startsWith('free'))
          ?.files,
    )
    .toBe(count + 1);
  // What was kept is there after a start, too.
  await house.stop();
  await house.start();
  expect(await jobOf(id)).toMatchObject({ state: 'done', written: count });
});

test('of two jobs of the same names at once one is taken', async () => {
  const source = await house.source('one');
  const both = await Promise.all([1, 2].map(() => house.send('POST', '/jobs', { source, spec: spec('twice') })));
  expect(both.map(({ status }) => status).sort()).toEqual([201, 409]);
  expect(both.find(({ status }) => status === 409)!.body).toMatchObject({ code: 'output-claimed' });
  const id = both.find(({ status }) => status === 201)!.body.id as string;
  await house.send('POST', `/jobs/${id}/stop`);
});

test('the folder of a second shot, and of a sound, is not renamed under a job', async () => {
  const [source, two] = [await house.source('one'), await house.source('two')];
  const shot = { source: { root: 'shots', folder: 'two', name: 'two_#.png' } };
  const started = await house.send('POST', '/jobs', { source, spec: { ...spec('shots'), then: [shot] } });
  expect(started.status).toBe(201);
  const naming = { version: 1, rules: [{ kind: 'template', template: 'else.{frame:4}.{ext}' }] };
  const plan = await house.send('POST', '/renames/plan', { sources: [two], spec: naming });
  expect(plan.status).toBe(200);
  const renamed = await house.send('POST', '/renames', { sources: [two], spec: naming, digest: plan.body.digest });
  expect(renamed).toMatchObject({ status: 409, body: { code: 'folder-in-use' } });
  await house.send('POST', `/jobs/${started.body.id as string}/stop`);
});

test('rules that make names grow from one to the next are refused at once, and the server answers meanwhile', async () => {
  const two = await house.source('two');
  for (const where of ['stem', 'whole']) {
    const rules = Array.from({ length: 40 }, () => ({
      kind: 'replace',
      find: '.',
      with: 'xxxxxxxxxxxxxxxxxxxx',
      as: 'expression',
      where,
    }));
    const answer = await house.send('POST', '/renames/plan', { sources: [two], spec: { version: 1, rules } });
    expect(JSON.stringify(answer.body)).toContain('name-too-long');
  }
  expect((await health()).ready).toBe(true);
});

test('addresses that make no sense are refused as such', async () => {
  const source = await house.source('one');
  const cases: ['GET' | 'DELETE' | 'POST', string, unknown, number, string][] = [
    ['DELETE', '/specs/abc', undefined, 400, 'bad-request'],
    ['DELETE', '/stacks/1e5x', undefined, 400, 'bad-request'],
    ['GET', `/sources/${source}/frames/abc/facts`, undefined, 400, 'bad-request'],
    ['GET', '/sources/%E0%A4%A/spec', undefined, 400, 'bad-request'],
    ['GET', '/receipts/..%2f..%2fetc', undefined, 400, 'bad-request'],
    ['GET', '/jobs/nothing', undefined, 404, 'job-not-found'],
  ];
  for (const [method, path, body, status, code] of cases)
    expect([path, await house.send(method, path, body)]).toMatchObject([path, { status, body: { code } }]);
  const clip = await house.source('night_run');
  expect(await house.send('GET', `/sources/${clip}/frames/abc/facts`)).toMatchObject({ status: 400 });
  expect(await house.send('GET', `/sources/${clip}/frames/99999/facts`)).toMatchObject({
    status: 404,
    body: { code: 'frame-missing' },
  });
});

test('a second source that is not there is a problem of the plan, and of everything that is asked of it', async () => {
  const source = await house.source('one');
  const nowhere = { root: 'shots', folder: 'nowhere', name: 'none_#.png' };
  const picture = { over: { source: nowhere } };
  for (const [path, more] of [
    ['/plans', {}],
    ['/plans/measure', {}],
    ['/plans/look', { frame: 1 }],
    ['/plans/proof', { frames: [1] }],
    ['/jobs', {}],
  ] as const) {
    const answer = await house.send('POST', path, { source, spec: { ...spec('over'), picture }, ...more });
    expect([path, answer.status < 500, JSON.stringify(answer.body)]).toEqual([
      path,
      true,
      expect.stringContaining('none_#.png'),
    ]);
  }
});

test('a page that the server has outgrown says so, and is mended by a reload', async ({ page }) => {
  // A server of another version: the first stream speaks of what this page does not know.
  let first = true;
  await page.route('**/api/events', async (route) => {
    if (!first) return route.continue();
    first = false;
    await route.fulfill({ contentType: 'text/event-stream', body: 'data: {"type":"weather","sun":true}\n\n' });
  });
  await page.goto(`${house.url}/intake`);
  const told = page.getByRole('alert').filter({ hasText: 'Shale was updated since this page was opened' });
  await expect(told).toBeVisible();
  await told.getByRole('button', { name: 'Reload' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
  await expect(told).toHaveCount(0);
});
