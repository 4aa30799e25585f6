import { spawnSync } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import sharp from 'sharp';
import { House } from './house.ts';

const house = new House();
test.beforeAll(() => house.start());
test.afterAll(() => house.leave());

const demo = process.env.SHALE_DEMO ?? join(import.meta.dirname, '..', '.shale', 'demo', 'tram_museum');
const works = (page: Page) => page.getByRole('region', { name: 'Picture operations' });
const step = (page: Page, name: RegExp) => works(page).getByRole('listitem').getByRole('button', { name }).click();
const sentence = (page: Page) => page.getByTestId('sentence');

async function open(page: Page, name: string): Promise<void> {
  await page.goto(`${house.url}/convert/${await house.source(name)}`);
  await expect(sentence(page)).not.toContainText('the picture');
  await page.getByRole('button', { name: 'What stays as it is' }).click();
  await expect(sentence(page)).toContainText('the picture as it is');
  await sentence(page)
    .getByRole('button', { name: /^Picture operations/ })
    .click();
}

/** Runs what is on the page and waits until the newest job is done. */
async function run(page: Page, frames: number): Promise<void> {
  await page.getByRole('button', { name: `Run ${frames} frames` }).click();
  await expect(page.getByTestId('job').first()).toHaveAttribute('data-state', 'done', { timeout: 120_000 });
  await expect(page.getByTestId('job').first()).toContainText(`${frames}/${frames} written`);
}

test('a crop is drawn, fitted and typed; a size is said; what comes out is that', async ({ page }) => {
  await open(page, 'ticket_loop');
  await sentence(page)
    .getByRole('button', { name: /^Frames/ })
    .click();
  await page.getByLabel('Frames').last().fill('0-7');
  await page.keyboard.press('Escape');
  await step(page, /^Crop/);
  await expect(page.getByTestId('stage')).toHaveAttribute('data-state', 'ready');
  const place = (await page.getByTestId('crop').boundingBox())!;
  await page.mouse.move(place.x + place.width * 0.25, place.y + place.height * 0.25);
  await page.mouse.down();
  await page.mouse.move(place.x + place.width * 0.75, place.y + place.height * 0.5, { steps: 5 });
  await page.mouse.up();
  await expect(sentence(page)).toContainText(/cropped to \d+ x \d+/);
  const width = Number(await works(page).getByLabel('Width').inputValue());
  expect(Math.abs(width - (await sizeOf('ticket_loop')).width / 2)).toBeLessThan(12);

  await works(page).getByRole('button', { name: 'Fit to content' }).click();
  // All that is not clear, over the eight frames, by another library.
  const box = contentOf(join(demo, 'turntables', 'ticket_loop_60fps'), 8);
  await expect(works(page).getByLabel('Width')).toHaveValue(String(box.width), { timeout: 30_000 });
  await expect(works(page).getByLabel('From the left')).toHaveValue(String(box.left));
  await works(page).getByLabel('From the left').fill('99999');
  await expect(page.getByRole('alert')).toContainText('The crop reaches to');
  await expect(page.getByRole('button', { name: 'Run 8 frames' })).toBeDisabled();
  await works(page).getByLabel('From the left').fill(String(box.left));

  await step(page, /^Size/);
  await works(page).getByRole('combobox', { name: 'Size' }).click();
  await page.getByRole('option', { name: 'percent' }).click();
  await expect(sentence(page)).toContainText('resized 50 %');
  await page.getByRole('group', { name: 'Look at' }).getByRole('button', { name: 'Result' }).click();
  await expect(page.getByTestId('result')).toHaveAttribute('data-state', 'ready');
  await run(page, 8);
  const results = join(house.data, 'results', 'ticket_loop');
  const names = readdirSync(results).filter((name) => name.endsWith('.png'));
  expect(names).toHaveLength(8);
  expect(await sharp(join(results, names[0]!)).metadata()).toMatchObject({
    width: Math.floor(box.width / 2 + 0.5),
    height: Math.floor(box.height / 2 + 0.5),
  });
});

/** The first frame's size. */
async function sizeOf(name: string): Promise<{ width: number; height: number }> {
  const sources = await house.get<{ name: string; facts: { width: number; height: number } }[]>('/sources');
  return sources.find((one) => one.name.startsWith(name))!.facts;
}

/** The box around all alpha of a folder's first frames, by another library. */
function contentOf(folder: string, count: number): { left: number; width: number; height: number } {
  const names = readdirSync(folder)
    .filter((name) => name.startsWith('ticket_loop'))
    .sort()
    .slice(0, count);
  const script = `
import json, sys, numpy as np, OpenImageIO as oiio
seen = None
for path in sys.argv[1:]:
    alpha = oiio.ImageInput.open(path).read_image(0, 0, 3, 4, "uint8")[:, :, 0] > 0
    seen = alpha if seen is None else seen | alpha
rows, columns = np.where(seen.any(1))[0], np.where(seen.any(0))[0]
print(json.dumps({"left": int(columns[0]), "width": int(columns[-1] - columns[0] + 1), "height": int(rows[-1] - rows[0] + 1)}))`;
  const { stdout, stderr } = spawnSync('/usr/bin/python3', ['-c', script, ...names.map((name) => join(folder, name))], {
    encoding: 'utf8',
  });
  if (stdout === '') throw new Error(stderr);
  return JSON.parse(stdout) as { left: number; width: number; height: number };
}

test('laid over another sequence, looked at, and written as it was shown', async ({ page }) => {
  await house.source('yard_cam_a');
  await open(page, 'bell_turn');
  await step(page, /^Laid over/);
  await works(page).getByLabel('Or over a still or sequence').fill('yard_cam_a');
  await page.getByRole('option', { name: /yard_cam_a/ }).click();
  await expect(sentence(page)).toContainText('over yard_cam_a.####.jpg');
  const shorter = page.getByRole('alert').filter({ hasText: 'are needed' });
  await works(page).getByRole('combobox', { name: 'When it ends' }).click();
  await page.getByRole('option', { name: 'loop' }).click();
  await expect(shorter).toBeHidden();
  await page.getByRole('group', { name: 'Look at' }).getByRole('button', { name: 'Result' }).click();
  await expect(page.getByTestId('result')).toHaveAttribute('data-state', 'ready');
  await page.getByRole('group', { name: 'Look at' }).getByRole('button', { name: 'Losses' }).click();
  await expect(page.getByTestId('result')).toHaveAttribute('data-view', 'losses');
  await expect(page.getByText('alpha lost')).toBeVisible();

  await sentence(page)
    .getByRole('button', { name: /^Frames/ })
    .click();
  await page.getByLabel('Frames').last().fill('1-4');
  await page.keyboard.press('Escape');
  await run(page, 4);
  const results = join(house.data, 'results', 'bell_turn');
  const [first] = readdirSync(results)
    .filter((name) => name.endsWith('.png'))
    .sort();
  const made = await sharp(join(results, first!)).raw().toBuffer({ resolveWithObject: true });
  // A corner, where the bell is clear, is the yard; nothing of it is clear any more.
  expect(made.info.channels).toBe(3);
  expect([...made.data.subarray(0, 3)].some((code) => code > 0)).toBe(true);
});
