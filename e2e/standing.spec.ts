import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { feed } from '@shale/demo/feed.ts';
import { House } from './house.ts';

const own = mkdtempSync(join(tmpdir(), 'shale-standing-'));
// Files that have not changed for three seconds count as whole here.
const house = new House({ SHALE_QUIET: '3' });
test.describe.configure({ mode: 'serial', timeout: 300_000 });

/** Pictures that another library wrote: the renders that are fed. */
const draw = `
import sys, numpy
from PIL import Image
folder, first, count = sys.argv[1], int(sys.argv[2]), int(sys.argv[3])
for frame in range(first, first + count):
    at = numpy.arange(48 * 32 * 3, dtype=numpy.uint32).reshape(32, 48, 3)
    Image.fromarray(((at * 2654435761 + frame * 977) >> 13 & 255).astype(numpy.uint8)).save(f'{folder}/bell.{frame:04d}.png')
`;
/** Whether results hold the pixels of their sources, as another library reads both. */
const same = `
import sys, numpy
from PIL import Image
a, b = sys.argv[1:3]
import os
names = sorted(os.listdir(a))
print(len(names), all(numpy.array_equal(numpy.asarray(Image.open(f'{a}/{n}')), numpy.asarray(Image.open(f'{b}/{n[:-4]}.tif'))) for n in names))
`;
const python = (...args: string[]) => execFileSync('/usr/bin/python3', ['-c', ...args], { encoding: 'utf8' }).trim();
const renders = (name: string) => join(own, 'renders', name);
const come = (name: string) => join(own, 'in', name);
const decisions = (page: Page) => page.getByRole('list', { name: 'Decisions' }).getByTestId('decision');

test.beforeAll(async () => {
  mkdirSync(join(own, 'in'));
  for (const [name, first] of [
    ['a', 1],
    ['b', 101],
    ['c', 1],
  ] as const) {
    mkdirSync(renders(name), { recursive: true });
    python(draw, renders(name), String(first), '5');
  }
  writeFileSync(
    join(house.data, 'shale.config.json'),
    JSON.stringify({ roots: [{ id: 'own', name: 'Renders', path: join(own, 'in') }] }),
  );
  await house.start();
  await house.send('POST', '/specs', {
    name: 'Frames for the archive',
    spec: {
      version: 1,
      write: { format: 'tiff', sample: 'u8', alpha: 'none', transfer: 'srgb' },
      into: { root: 'results', folder: 'kept/{folder}' },
    },
  });
});
test.afterAll(async () => {
  await house.leave();
  rmSync(own, { recursive: true, force: true });
});

test('a render that dies half way is waited for, made once it is whole, and all of it is told', async ({ page }) => {
  await page.goto(`${house.url}/jobs`);
  await page.getByRole('link', { name: 'Standing orders' }).click();
  await expect(page.getByRole('heading', { name: 'No standing order' })).toBeVisible();
  await page.getByRole('button', { name: 'Set a standing order' }).click();
  const form = page.getByRole('dialog');
  await expect(form.getByRole('button', { name: 'Set it' })).toBeDisabled();
  await form.getByLabel('Name', { exact: true }).fill('Renders of the night');
  await form.getByLabel('Root').click();
  await page.getByRole('option', { name: 'Renders' }).click();
  await form.getByLabel('Add a saved spec').locator('..').click();
  await page.getByRole('option', { name: /Frames for the archive/ }).click();
  await expect(form.getByRole('group', { name: 'What is made' })).toContainText('write TIFF, 8-bit');
  await form.getByRole('button', { name: 'Test without running' }).click();
  await expect(form.getByRole('status', { name: 'What it would do now' })).toContainText('No matching source yet');
  await form.getByRole('button', { name: 'Set it' }).click();
  await expect(page).toHaveURL(/jobs\/standing\/\w+/);
  await expect(decisions(page)).toHaveText([/set/]);

  const options = { from: renders('a'), into: come('a'), each: 300, shuffle: 2, seed: 3 };
  expect(await feed({ ...options, dieAfter: 3 })).toBe('died');
  await expect(decisions(page).filter({ hasText: 'waits: it is still being written' })).toHaveCount(1);
  // It comes to rest half way, with a file cut short and frames that are not there: it is waited with, and says for what.
  await expect(decisions(page).first()).toContainText(/waits: (frames? .* missing|.*cut short)/);
  expect(await feed(options)).toBe('whole');
  await expect(decisions(page).filter({ hasText: 'ended: 5 files written' })).toHaveCount(1);
  await expect(decisions(page).filter({ hasText: 'begins: 5 files' })).toContainText('a/bell.####.png');
  expect(python(same, renders('a'), join(house.data, 'results', 'kept', 'a'))).toBe('5 True');
  await decisions(page).getByRole('link', { name: 'Receipt' }).click();
  await expect(page).toHaveURL(/receipts\/batch/);
  await expect(page.getByText('5 of 5').first()).toBeVisible();
});

test('what comes while the server is dead is made once it lives; a paused order begins nothing', async ({ page }) => {
  await house.kill();
  expect(await feed({ from: renders('b'), into: come('b'), each: 20, shuffle: 0, seed: 1 })).toBe('whole');
  await house.start();
  await page.goto(`${house.url}/jobs/standing`);
  await expect(decisions(page).filter({ hasText: 'ended: 5 files written' })).toHaveCount(2);
  // What was made before is not made again.
  await expect(decisions(page).filter({ hasText: 'begins' })).toHaveCount(2);
  expect(python(same, renders('b'), join(house.data, 'results', 'kept', 'b'))).toBe('5 True');
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(decisions(page).first()).toContainText('paused');
  expect(await feed({ from: renders('c'), into: come('c'), each: 20, shuffle: 0, seed: 1 })).toBe('whole');
  await page.waitForTimeout(6000);
  expect(readdirSync(join(house.data, 'results', 'kept'))).toEqual(['a', 'b']);
  await page.getByRole('button', { name: 'Edit or test' }).click();
  await page.getByRole('button', { name: 'Test without running' }).click();
  const trial = page.getByRole('status', { name: 'What it would do now' });
  await expect(trial).toContainText('begins: 5 files');
  await expect(trial).toContainText('exists: all of it is made already');
  await page.getByRole('button', { name: 'Cancel' }).click();
  await page.getByRole('button', { name: 'Resume' }).click();
  await expect(decisions(page).filter({ hasText: 'ended: 5 files written' })).toHaveCount(3);
  await page.getByRole('button', { name: 'End this order' }).click();
  await page.getByRole('button', { name: 'End it' }).click();
  await expect(page.getByRole('heading', { name: 'No standing order' })).toBeVisible();
  expect(readdirSync(join(house.data, 'results', 'kept'))).toEqual(['a', 'b', 'c']);
});
