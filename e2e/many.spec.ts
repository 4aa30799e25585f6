import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { House } from './house.ts';

const house = new House();
test.beforeAll(() => house.start());
test.afterAll(() => house.leave());
// Each goes on where the one before ended.
test.describe.configure({ mode: 'serial', timeout: 600_000 });

const sentence = (page: Page) => page.getByTestId('sentence').first();
const rows = (page: Page) => page.getByRole('listbox', { name: 'Sources to convert' }).getByRole('option');
const row = (page: Page, line: string) => rows(page).filter({ hasText: line });
const results = (...path: string[]) => join(house.data, 'results', ...path);

/** Twelve lines, selected on Intake, opened on Convert. */
async function open(page: Page): Promise<void> {
  await house.source('first_light');
  await page.goto(`${house.url}/intake?root=museum&folder=lines`);
  await expect(page.getByRole('heading', { level: 1 })).toHaveText(/^12 sources/);
  await page.getByRole('grid', { name: 'Sources' }).focus();
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Convert 12 sequences' }).click();
  await expect(page).toHaveURL(/convert\/many/);
  await expect(rows(page)).toHaveCount(12);
}

test('twelve shots become frames and review videos by few presses, told and handed over as one', async ({ page }) => {
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(error.message));
  await open(page);
  await expect(sentence(page)).toHaveText(
    'Take 12 sequences as declared; write PNG, 8-bit with straight alpha, sRGB, named {stem}.####.png, into results/{folder}. Also write One after another',
  );
  await expect(page.getByTestId('sums')).toContainText('262 files');
  await page.getByRole('button', { name: 'Also write' }).click();
  await page.getByRole('menuitem', { name: /^Review video/ }).click();
  await expect(sentence(page)).toContainText('and H.264, 8-bit at quality 18, 4:2:0 with no alpha, BT.709');

  // What each needs stands in its row, with what mends it for all.
  await expect(row(page, 'line_03')).toContainText('Rate not declared');
  await expect(row(page, 'line_10')).toContainText('2 frames missing');
  await expect(row(page, 'line_04')).toContainText('24 + 1');
  await expect(page.getByTestId('sums')).toContainText('2 sources wait for a word');
  await expect(page.getByRole('button', { name: 'Run 10 of 12 sequences' })).toBeEnabled();
  await page.getByRole('button', { name: 'Waiting 2' }).click();
  await expect(rows(page)).toHaveCount(2);
  await page.getByRole('button', { name: 'All 12' }).click();
  await row(page, 'line_03').getByRole('button', { name: '24 fps for these 2' }).click();
  await row(page, 'line_10').getByRole('button', { name: 'Repeat the previous frame' }).click();
  await expect(row(page, 'line_10')).toContainText('different');
  await expect(row(page, 'line_10')).toContainText('24 + 1');
  await expect(page.getByTestId('sums')).toContainText('264 files and 12 videos, about');

  await page.getByRole('button', { name: 'Run 12 sequences' }).click();
  await expect(page).toHaveURL(/jobs/);
  const card = page.getByTestId('batch');
  await expect(card).toContainText('12 sources, 2 outputs each');
  await expect(card).toHaveAttribute('data-state', 'done', { timeout: 450_000 });
  expect(readdirSync(results('line_10')).filter((name) => name.endsWith('.png'))).toHaveLength(24);
  await card.getByRole('button', { name: 'Show 24 jobs' }).click();
  await expect(card.getByTestId('batch-job')).toHaveCount(24);
  await card.getByRole('link', { name: 'Receipt' }).click();

  const receipt = page.getByTestId('batch-receipt');
  await expect(receipt.getByRole('heading', { level: 1 })).toHaveText('276 files written of 12 sources');
  await expect(receipt).toContainText('Each was read back; 264 match to the sample');
  const loading = page.waitForEvent('download');
  await receipt.getByRole('link', { name: 'Download all' }).click();
  const download = await loading;
  expect(download.suggestedFilename()).toMatch(/^batch_\d{4}-\d\d-\d\d_\w{4}\.zip$/);
  const folder = mkdtempSync(join(tmpdir(), 'shale-many-'));
  const path = join(folder, 'all.zip');
  await download.saveAs(path);
  execFileSync('python3', [
    '-c',
    'import sys, zipfile; zipfile.ZipFile(sys.argv[1]).extractall(sys.argv[2])',
    path,
    folder,
  ]);
  const top = join(
    folder,
    readdirSync(folder).find((name) => name.startsWith('batch_') && !name.endsWith('.zip'))!,
  );
  execFileSync('sha256sum', ['--check', '--quiet', 'manifest.sha256'], { cwd: top });
  // Another library reads what came: every video whole, at its rate.
  const videos = `import av, sys, glob
for path in sorted(glob.glob(sys.argv[1] + '/line_*/*_review.mp4')):
    with av.open(path) as one:
        print(sum(1 for _ in one.decode(video=0)), one.streams.video[0].average_rate)`;
  const read = execFileSync('/usr/bin/python3', ['-c', videos, top], { encoding: 'utf8' }).trim().split('\n');
  expect(read).toEqual([20, 16, 24, 24, 20, 18, 24, 24, 26, 24, 22, 22].map((count) => `${count} 24`));
  rmSync(folder, { recursive: true });
  expect(errors).toEqual([]);
});

test('a second day makes what is new: by two presses from the receipt', async ({ page }) => {
  await page.goto(`${house.url}/receipts`);
  await page.getByRole('link', { name: 'Do it again' }).click();
  await expect(page.getByTestId('sums')).toContainText('Everything exists already');
  await expect(page.getByRole('button', { name: 'Nothing is new' })).toBeDisabled();
  await expect(row(page, 'line_07')).toContainText('complete');
  // One result is lost meanwhile.
  renameSync(results('line_07', 'conductor.1003.png'), results('lost.png'));
  await page.reload();
  await expect(row(page, 'line_07')).toContainText('1 new');
  await page.getByRole('button', { name: 'Run 12 sequences' }).click();
  await expect(page.getByTestId('batch').first()).toHaveAttribute('data-state', 'done', { timeout: 200_000 });
  await expect(page.getByTestId('batch').first()).toContainText('1 source to results/line_07');
  expect(existsSync(results('line_07', 'conductor.1003.png'))).toBe(true);
});

test('one source differs, visibly, and is set back; an address opens the same view', async ({ page }) => {
  await open(page);
  await row(page, 'line_05').click();
  await page.getByRole('tab', { name: 'This source' }).click();
  await page
    .getByTestId('sentence')
    .nth(1)
    .getByRole('button', { name: /^Frames/ })
    .click();
  await page.getByRole('textbox', { name: 'Frames' }).fill('1001-1004');
  await page.keyboard.press('Escape');
  await expect(row(page, 'line_05')).toContainText('different');
  await expect(page.getByRole('tab', { name: 'Plan, 4 files' })).toBeVisible();
  await page.getByRole('button', { name: 'Different 1' }).click();
  await expect(rows(page)).toHaveCount(1);
  await page.reload();
  await expect(rows(page)).toHaveCount(1);
  await expect(row(page, 'line_05')).toHaveAttribute('aria-selected', 'true');
  await page.getByRole('tab', { name: 'This source, with its own settings' }).click();
  await page.getByRole('button', { name: 'Use the common settings' }).click();
  await page.getByRole('button', { name: 'All 12' }).click();
  await expect(row(page, 'line_05')).not.toContainText('different');
  await expect(page.getByRole('button', { name: /^Different/ })).toHaveCount(0);
});

test('an address that names nothing says so', async ({ page }) => {
  await page.goto(`${house.url}/convert/many/nothing`);
  await expect(page.getByRole('main')).toContainText('The list of sources of this address is no longer kept.');
  await page.goto(`${house.url}/receipts/zzz`);
  await expect(page.getByRole('main')).toContainText('This job has no receipt.');
  await page.goto(`${house.url}/receipts/batch/zzz`);
  await expect(page.getByRole('main')).toContainText('There is no batch zzz.');
});

test('one of each is tried; a receiver is held against all of them, and mended for all', async ({ page }) => {
  await open(page);
  await page.getByRole('button', { name: 'Make all' }).click();
  await sentence(page).getByRole('button', { name: 'results/{folder}' }).click();
  await page.getByRole('dialog').getByLabel('Folder').fill('tried/{folder}');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Try one of each' }).click();
  await expect(page.getByText('12 tried, read back the same')).toBeVisible();
  expect(existsSync(results('tried'))).toBe(false);
  await page.getByRole('tab', { name: 'Receiver' }).click();
  await page.getByLabel('Receiver', { exact: true }).click();
  await page.getByRole('option', { name: 'Float compositing' }).click();
  await expect(row(page, 'line_01')).toContainText(/rules? of the receiver broken/);
  await expect(row(page, 'line_12')).toContainText(/rules? of the receiver broken/);
  await row(page, 'line_07').getByRole('button', { name: 'Mend for these 12' }).click();
  await expect(page.getByText(/rules? of the receiver broken/)).toHaveCount(0);
});

test('marked sources become one in an order by hand, in which the first is moved too', async ({ page }) => {
  await open(page);
  await page.getByRole('button', { name: 'One after another' }).click();
  const list = page.getByRole('dialog').getByRole('list', { name: 'Sources in their order' });
  await expect(list.getByRole('listitem')).toHaveCount(12);
  await list.getByRole('button', { name: /^Move: lines\/line_01/ }).focus();
  for (const key of ['Space', 'ArrowDown', 'Space']) {
    await page.keyboard.press(key);
    await page.waitForTimeout(300);
  }
  await expect(list.getByRole('listitem').first()).toContainText('line_02');
  await page.getByRole('button', { name: 'Join them' }).click();
  await expect(sentence(page)).toContainText(
    'Take crew_call.####.exr frames 1001-1016, then first_light.####.exr and 10 more',
  );
  await expect(page.getByRole('button', { name: 'Run 262 frames' })).toBeVisible();
  // On Convert the first is moved again: the page of the other opens, and all the rest is as it was.
  await sentence(page).getByRole('button', { name: 'first_light.####.exr and 10 more' }).click();
  const shots = page.getByRole('list', { name: 'Shots in their order' });
  await shots.getByRole('button', { name: 'Move: crew_call.####.exr' }).focus();
  for (const key of ['Space', 'ArrowDown', 'Space']) {
    await page.keyboard.press(key);
    await page.waitForTimeout(300);
  }
  await expect(sentence(page)).toContainText('Take first_light.####.exr');
  await expect(sentence(page)).toContainText('then crew_call.####.exr and 10 more');
  await expect(page.getByRole('button', { name: 'Run 262 frames' })).toBeVisible();
});
