import { execFileSync } from 'node:child_process';
import {
  appendFileSync,
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import sharp from 'sharp';
import { feed } from '@shale/demo/feed.ts';
import { House } from './house.ts';

const own = mkdtempSync(join(tmpdir(), 'shale-intake-'));
// Files that have not changed for four seconds count as whole here.
const house = new House({ SHALE_QUIET: '4' });
const older = new Date(Date.now() - 3_600_000);

const picture = (seed: number, size = 48): Promise<Buffer> =>
  sharp(
    Buffer.from(
      Uint8Array.from({ length: size * size * 3 }, (_, at) => (Math.imul(at + seed * 977, 2_654_435_761) >>> 13) & 255),
    ),
    { raw: { width: size, height: size, channels: 3 } },
  )
    .png()
    .toBuffer();

/** Frames of noise, written a while ago: nobody takes them for being written. */
async function putFrames(folder: string, stem: string, frames: number[]): Promise<void> {
  mkdirSync(folder, { recursive: true });
  for (const frame of frames) {
    const path = join(folder, `${stem}.${String(frame).padStart(4, '0')}.png`);
    writeFileSync(path, await picture(frame));
    utimesSync(path, older, older);
  }
}

test.beforeAll(async () => {
  await putFrames(join(own, 'shots', 'cut_a'), 'cut_a', [1, 2, 3, 5, 6]);
  await putFrames(join(own, 'shots', 'cut_b'), 'cut_b', [1, 2, 3, 4]);
  await putFrames(join(own, 'other'), 'pan', [1, 2, 3]);
  symlinkSync(join(own), join(own, 'other', 'circle'));
  writeFileSync(
    Buffer.concat([Buffer.from(`${join(own, 'other')}/caf`), Buffer.from([0xe9]), Buffer.from('.png')]),
    'x',
  );
  writeFileSync(
    join(house.data, 'shale.config.json'),
    JSON.stringify({ roots: [{ id: 'own', name: 'Shots of ours', path: own }] }),
  );
  await house.start();
  await house.source('pan');
});
test.afterAll(async () => {
  await house.leave();
  rmSync(own, { recursive: true, force: true });
});

const row = (page: Page, name: string) => page.getByRole('row').filter({ hasText: name });

test('folders, filters and an order narrow the list, and the address keeps them', async ({ page }) => {
  await page.goto(house.url);
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('3 sources, 1 needs attention');
  await expect(page.getByText('shots/cut_a', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: /^Need attention/ }).click();
  await expect(page.getByRole('row')).toHaveCount(1);
  await expect(page).toHaveURL(/look=true/);
  await page.reload();
  await expect(page.getByRole('row')).toHaveCount(1);
  await page.getByRole('button', { name: /^All/ }).click();
  await page.getByRole('textbox', { name: 'Name or folder' }).fill('CUT_');
  await expect(page.getByRole('row')).toHaveCount(2);
  await page.getByRole('combobox', { name: 'Any finding' }).click();
  await page.getByRole('option', { name: 'Missing frames 1' }).click();
  await expect(page.getByRole('row')).toHaveCount(1);
  await page.getByRole('button', { name: 'Clear filters' }).click();
  await expect(page.getByRole('row')).toHaveCount(3);
  await page.getByRole('combobox', { name: 'Order' }).click();
  await page.getByRole('option', { name: 'most frames first' }).click();
  await expect(page.getByRole('row').first()).toContainText('cut_a');
  await page.getByRole('textbox', { name: 'Name or folder' }).fill('nowhere');
  await expect(page.getByRole('heading', { name: 'No matches' })).toBeVisible();
  await page.getByRole('button', { name: 'Show all 3' }).click();
  await expect(page.getByRole('row')).toHaveCount(3);
});

test('what could not be read is said, and the rest is there', async ({ page }) => {
  await page.goto(house.url);
  const note = page.getByRole('note');
  await expect(note).toContainText('not UTF-8');
  await note.getByRole('button').click();
  await expect(note).toContainText('A link in other is not followed: circle.');
});

test('many are declared at once by keyboard, a rule holds for what comes later, and a word goes before it', async ({
  page,
}) => {
  await page.goto(`${house.url}/intake?root=own&folder=shots`);
  await page.getByRole('grid', { name: 'Sources' }).focus();
  await page.keyboard.press('Home');
  await page.keyboard.press('Control+a');
  await expect(page.getByText('2 selected')).toBeVisible();
  await page.getByRole('button', { name: 'Declare 2' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('combobox', { name: 'Rate' }).click();
  await page.getByRole('option', { name: '12 fps', exact: true }).click();
  await dialog.getByRole('button', { name: 'Declare', exact: true }).click();
  await expect(row(page, 'cut_a')).toContainText('12 fps set by you');
  await expect(row(page, 'cut_b')).toContainText('12 fps set by you');

  await page.goto(`${house.url}/intake?root=own`);
  await page.getByRole('grid', { name: 'Sources' }).focus();
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Declare 3' }).click();
  await dialog.getByRole('combobox', { name: 'Rate' }).click();
  await page.getByRole('option', { name: '25 fps', exact: true }).click();
  await dialog.getByRole('radio', { name: /^A rule for everything in Shots of ours/ }).check();
  await dialog.getByRole('button', { name: 'Save the rule' }).click();
  await expect(row(page, 'pan')).toContainText('25 fps your rule');
  await expect(row(page, 'cut_a')).toContainText('12 fps set by you');

  // What comes later falls under the rule at once, without a scan by hand.
  await putFrames(join(own, 'late'), 'late', [1, 2]);
  await expect(row(page, 'late')).toContainText('25 fps your rule');
  await page.getByRole('grid', { name: 'Sources' }).focus();
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Declare 4' }).click();
  await dialog.getByRole('button', { name: 'Remove the rule for Shots of ours' }).click();
  await expect(dialog.getByText('Rules in')).toHaveCount(0);
  await dialog.getByRole('button', { name: 'Cancel' }).click();
  await expect(row(page, 'pan')).toContainText('not declared');
});

test('a finding opens at its frames, is set aside with a reason, and the receipt repeats it', async ({ page }) => {
  await page.goto(`${house.url}/intake?root=own&folder=shots`);
  await row(page, 'cut_a')
    .getByRole('button', { name: /Frame 4 missing/ })
    .click();
  const dialog = page.getByRole('dialog', { name: /^Findings of cut_a/ });
  await dialog.getByRole('button', { name: 'Set aside' }).click();
  await dialog.getByRole('textbox', { name: 'Reason' }).fill('Left out on purpose, says the edit.');
  await page.keyboard.press('Enter');
  await expect(dialog).toContainText('Set aside: “Left out on purpose, says the edit.”');
  await dialog.getByRole('button', { name: /Go to frame 4/ }).click();
  await expect(page).toHaveURL(/inspect/);
  await expect(page.getByTestId('stage')).toContainText('Frame 4 is missing');
  await page.goto(`${house.url}/intake?root=own&folder=shots`);
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('2 sources');
  await expect(row(page, 'cut_a')).toContainText('Frame 4 missing, set aside');

  const source = await house.source('cut_a');
  const write = { format: 'png', sample: 'u8', alpha: 'none', transfer: 'srgb' };
  const { body } = await house.send('POST', '/jobs', { source, spec: { version: 1, write, names: { stem: 'aside' } } });
  await expect.poll(async () => (await house.get<{ state: string }>(`/jobs/${body.id as string}`)).state).toBe('done');
  await page.goto(`${house.url}/receipts/${body.id as string}`);
  await expect(page.getByTestId('receipt')).toContainText('Left out on purpose, says the edit.');
});

test('what each rate means is told in seconds and drift, and chosen by a press', async ({ page }) => {
  await page.goto(`${house.url}/inspect/${await house.source('pan')}`);
  const rates = page.getByRole('group', { name: 'What each rate would mean' });
  await rates.getByRole('button', { name: /^30 fps/ }).click();
  await expect(page.getByText('30 fps').first()).toBeVisible();
  await page.getByRole('button', { name: 'What each rate would mean' }).click();
  await expect(rates.getByRole('button', { name: /^29.97 fps/ })).toContainText('1.8 frames/min from 30');
  await expect(rates.getByRole('button', { name: /^24 fps/ })).toContainText('0.13 s');
});

test('a folder is brought in whole, with its folders and times; the same again sends nothing; hostile names are refused', async ({
  page,
}) => {
  const drop = join(own, '..', `${own.split('/').pop()!}-drop`);
  await putFrames(join(drop, 'tram', 'day'), 'tram', [1, 2, 3]);
  await putFrames(join(drop, 'tram', 'night'), 'tram', [1, 2]);
  writeFileSync(join(drop, 'tram', 'empty.txt'), '');
  try {
    await page.goto(house.url);
    const bring = () => page.getByLabel('Folder to upload').setInputFiles(join(drop, 'tram'));
    await bring();
    const told = page.getByRole('status', { name: 'Uploading' });
    await expect(told).toContainText('6 files uploaded');
    const there = join(house.data, 'intake', 'tram');
    expect(readdirSync(join(there, 'day'))).toEqual(['tram.0001.png', 'tram.0002.png', 'tram.0003.png']);
    expect(
      readFileSync(join(there, 'night', 'tram.0002.png')).equals(
        readFileSync(join(drop, 'tram', 'night', 'tram.0002.png')),
      ),
    ).toBe(true);
    expect(Math.round(statSync(join(there, 'day', 'tram.0001.png')).mtimeMs / 1000)).toBe(
      Math.round(older.getTime() / 1000),
    );
    expect(statSync(join(there, 'empty.txt')).size).toBe(0);
    await expect(row(page, 'tram.####.png')).toHaveCount(2);
    await told.getByRole('button', { name: 'Close' }).click();
    await bring();
    await expect(told).toContainText('all of them were there already');
    expect(readdirSync(join(house.data, 'intake'))).toEqual(['tram']);
    expect(readdirSync(join(house.data, 'uploads'))).toEqual([]);
  } finally {
    rmSync(drop, { recursive: true, force: true });
  }
  const offer = (path: string) => house.send('POST', '/intake', { name: 'x', files: [{ path, size: 1, modified: 0 }] });
  for (const path of [
    '../up.png',
    '/etc/passwd',
    'a/../../b.png',
    'CON',
    'com1.png',
    'a\\b.png',
    'a/',
    `${'x'.repeat(300)}.png`,
  ]) {
    expect({ path, ...(await offer(path)) }).toMatchObject({ path, status: 400, body: { code: 'bad-name' } });
  }
  // An upload cannot say by itself where it goes.
  const meta = (arrival: string, index: string) =>
    `arrival ${Buffer.from(arrival).toString('base64')},index ${Buffer.from(index).toString('base64')}`;
  const upload = (arrival: string, index: string, length: number) =>
    fetch(`${house.url}/api/intake/upload`, {
      method: 'POST',
      headers: { 'tus-resumable': '1.0.0', 'upload-length': String(length), 'upload-metadata': meta(arrival, index) },
    });
  expect((await upload('nope', '0', 1)).status).toBe(404);
  const { body } = await house.send('POST', '/intake', {
    name: '../../etc',
    files: [{ path: 'a.png', size: 4, modified: 0 }],
  });
  expect(body.folder).toBe('etc');
  expect((await upload(body.id as string, '7', 4)).status).toBe(404);
  expect((await upload(body.id as string, '0', 5)).status).toBe(409);
  const huge = await house.send('POST', '/intake', {
    name: 'huge',
    files: [{ path: 'a.mov', size: 2 ** 50, modified: 0 }],
  });
  expect(huge).toMatchObject({ status: 507, body: { code: 'disk-full' } });
});

test('an upload goes on where a killed server left it, and is doubled nowhere', async () => {
  const bytes = Buffer.from(Uint8Array.from({ length: 3_000_000 }, (_, at) => (at * 31) & 255));
  const { body } = await house.send('POST', '/intake', {
    name: 'resumed',
    files: [{ path: 'long.bin', size: bytes.length, modified: 5000 }],
  });
  const tus = { 'tus-resumable': '1.0.0' };
  const metadata = `arrival ${Buffer.from(body.id as string).toString('base64')},index ${Buffer.from('0').toString('base64')}`;
  const made = await fetch(`${house.url}/api/intake/upload`, {
    method: 'POST',
    headers: { ...tus, 'upload-length': String(bytes.length), 'upload-metadata': metadata },
  });
  expect(made.status).toBe(201);
  const at = `${house.url}${made.headers.get('location')!}`;
  const send = (offset: number, to: number) =>
    fetch(at, {
      method: 'PATCH',
      headers: { ...tus, 'upload-offset': String(offset), 'content-type': 'application/offset+octet-stream' },
      body: bytes.subarray(offset, to),
    });
  expect((await send(0, 1_000_000)).status).toBe(204);
  await house.kill();
  await house.start();
  const offset = Number((await fetch(at, { method: 'HEAD', headers: tus })).headers.get('upload-offset'));
  expect(offset).toBe(1_000_000);
  expect(existsSync(join(house.data, 'intake', 'resumed', 'long.bin'))).toBe(false);
  expect((await send(offset, bytes.length)).status).toBe(204);
  expect(readFileSync(join(house.data, 'intake', 'resumed', 'long.bin')).equals(bytes)).toBe(true);
  expect(readdirSync(join(house.data, 'uploads'))).toEqual([]);
  // Announced again, it is there.
  const again = await house.send('POST', '/intake', {
    name: 'resumed',
    files: [{ path: 'long.bin', size: bytes.length, modified: 5000 }],
  });
  expect(again.body).toMatchObject({ folder: 'resumed', have: [0] });
});

test('a render that grows is shown growing, dies, comes back, and is told of when it is whole', async ({ page }) => {
  const from = join(own, 'shots', 'cut_b');
  const into = join(house.data, 'intake', 'feed');
  await page.goto(`${house.url}/intake?root=intake`);
  const options = { from, into, each: 400, shuffle: 2, seed: 3 };
  expect(await feed({ ...options, dieAfter: 2 })).toBe('died');
  await expect(row(page, 'cut_b')).toContainText('Still being written');
  // It comes to rest half way, with a file cut short in the middle of it.
  await expect(page.getByRole('status')).toContainText('is finished but incomplete', { timeout: 40_000 });
  await expect(row(page, 'cut_b').getByTitle(/cut short/)).toBeVisible();
  expect(await feed(options)).toBe('whole');
  await expect(row(page, 'cut_b')).toContainText('Still being written');
  await expect(
    page.getByText('cut_b.####.png is complete: 4 frames, nothing missing, every file complete.'),
  ).toBeVisible({
    timeout: 40_000,
  });
  await expect(row(page, 'cut_b')).toContainText('1-4');
});

test('an edited folder shows as changed by itself, and a rescan reads only what changed', async ({ page }) => {
  await page.goto(`${house.url}/intake?root=own&folder=shots/cut_b`);
  await expect(row(page, 'cut_b')).toContainText('4 frames');
  copyFileSync(join(own, 'shots', 'cut_b', 'cut_b.0001.png'), join(own, 'shots', 'cut_b', 'cut_b.0005.png'));
  appendFileSync(join(own, 'shots', 'cut_b', 'cut_b.0002.png'), 'x');
  await expect(row(page, 'cut_b')).toContainText('1 added, 1 changed just now');
  rmSync(join(own, 'shots', 'cut_b'), { recursive: true });
  await expect(page.getByRole('row')).toHaveCount(0);
});

test('a full disk during an upload is said in words, nothing half is left under its name, and it goes on with room', async ({
  page,
}) => {
  const data = mkdtempSync(join(tmpdir(), 'shale-full-'));
  let mounted = false;
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=140m', 'tmpfs', data], { stdio: 'ignore' });
    mounted = true;
  } catch {
    // Not root, or a container without the right to mount.
  }
  test.skip(!mounted, 'no right to mount a small disk here');
  const small = join(data, 'up');
  mkdirSync(small);
  const tight = new House();
  // Uploads and what is brought in lie on the small disk; the database does not.
  for (const name of ['intake', 'uploads']) {
    mkdirSync(join(small, name));
    symlinkSync(join(small, name), join(tight.data, name));
  }
  const film = join(own, 'film.bin');
  writeFileSync(film, Buffer.alloc(40 << 20, 7));
  try {
    await tight.start();
    await page.goto(tight.url);
    // The room goes after the announcement found it: announced with room, sent without.
    const { body } = await tight.send('POST', '/intake', {
      name: 'film',
      files: [{ path: 'film.bin', size: 40 << 20, modified: 0 }],
    });
    expect(body.have).toEqual([]);
    writeFileSync(join(small, 'ballast'), Buffer.alloc(110 << 20));
    const metadata = `arrival ${Buffer.from(body.id as string).toString('base64')},index ${Buffer.from('0').toString('base64')}`;
    const made = await fetch(`${tight.url}/api/intake/upload`, {
      method: 'POST',
      headers: { 'tus-resumable': '1.0.0', 'upload-length': String(40 << 20), 'upload-metadata': metadata },
    });
    const at = `${tight.url}${made.headers.get('location')!}`;
    const send = async (offset: number) =>
      fetch(at, {
        method: 'PATCH',
        headers: {
          'tus-resumable': '1.0.0',
          'upload-offset': String(offset),
          'content-type': 'application/offset+octet-stream',
        },
        body: readFileSync(film).subarray(offset),
      });
    const refused = await send(0);
    expect(refused.status).toBe(507);
    expect(await refused.json()).toMatchObject({
      code: 'disk-full',
      wayOut: expect.stringContaining('Free some space'),
    });
    expect(readdirSync(join(small, 'intake', 'film'))).toEqual([]);
    expect((await tight.get<{ ready: boolean }>('/health')).ready).toBe(true);
    rmSync(join(small, 'ballast'));
    const offset = Number(
      (await fetch(at, { method: 'HEAD', headers: { 'tus-resumable': '1.0.0' } })).headers.get('upload-offset'),
    );
    expect((await send(offset)).status).toBe(204);
    expect(readFileSync(join(small, 'intake', 'film', 'film.bin')).equals(readFileSync(film))).toBe(true);
  } finally {
    await tight.leave();
    execFileSync('umount', [data]);
    rmSync(data, { recursive: true, force: true });
  }
});
