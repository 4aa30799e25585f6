import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import { House } from './house.ts';

// Small moving pictures through the page: from the press that begins one to the file that another decoder reads.

const house = new House();
test.beforeAll(() => house.start());
test.afterAll(() => house.leave());

test('a loop of 60 fps becomes a GIF that players keep, in the size and rate that were said', async ({ page }) => {
  test.setTimeout(180_000);
  const loop = await house.source('ticket_loop');
  await page.goto(`${house.url}/convert/${loop}`);
  await page.getByRole('button', { name: 'Small moving picture' }).click();
  const sentence = page.getByTestId('sentence');
  await expect(sentence).toContainText('resized within 360 x 360');
  await expect(sentence).toContainText('write GIF, 8-bit at 60 fps, 256 colours, dithered');
  await expect(page.getByText('Players slow a GIF of 60 fps down')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Run/ })).toBeDisabled();
  await page.getByRole('button', { name: 'Make it 30 fps' }).click();
  await expect(sentence).toContainText('brought to 30 fps');
  await expect(page.getByText('A pixel is clear or not: soft edges are cut at 128 of 255')).toBeVisible();

  // Every setting is behind the part of the sentence that says the rate.
  await sentence.getByText('30 fps, 256 colours, dithered').click();
  await page.getByLabel('Colours, 2 to 256').fill('64');
  await page.getByLabel('Colours, 2 to 256').press('Enter');
  await page.keyboard.press('Escape');
  await expect(sentence).toContainText('64 colours');
  await page.getByRole('button', { name: /^Run 24 frames/ }).click();
  await page
    .getByTestId('job')
    .filter({ hasText: 'ticket_loop' })
    .getByRole('link', { name: 'Receipt', exact: true })
    .click({ timeout: 90_000 });
  await expect(page.getByText('All 24 pictures were decoded again and counted')).toBeVisible();

  const file = join(house.data, 'results', 'ticket_loop.gif');
  const { pages, width, pageHeight, delay, hasAlpha } = await sharp(file, { pages: -1 }).metadata();
  expect({ pages, width, pageHeight, hasAlpha }).toEqual({ pages: 24, width: 360, pageHeight: 203, hasAlpha: true });
  expect(delay!.reduce((sum, one) => sum + one, 0)).toBe(800);
  // 64 colours take a palette of six bits (GIF89a, 18).
  const head = readFileSync(file).subarray(0, 13);
  expect(head[10]! & 7).toBe(5);
});
