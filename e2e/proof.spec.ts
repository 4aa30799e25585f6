import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import sharp from 'sharp';
import { House } from './house.ts';

const house = new House();
test.beforeAll(() => house.start());
test.afterAll(() => house.leave());

const demo = process.env.SHALE_DEMO ?? join(import.meta.dirname, '..', '.shale', 'demo', 'tram_museum');
const stage = (page: Page) => page.getByTestId('stage');
const ready = (page: Page) => expect(stage(page)).toHaveAttribute('data-state', 'ready');

test('a proof: frames really made, held against their source; another frame tried; an old one told as such', async ({
  page,
}) => {
  const bell = await house.source('bell_turn');
  await house.send('PUT', `/sources/${bell}/word`, { rate: { num: 24, den: 1 }, alpha: 'straight' });
  await page.goto(`${house.url}/convert/${bell}`);
  await ready(page);
  // One first, which says most; then three.
  await page.getByRole('button', { name: 'Try 1 frame' }).click();
  await expect(page.getByText('Proof: 1 frame really made')).toBeVisible();
  await page.getByRole('button', { name: 'Try 3 frames' }).click();
  await expect(page.getByText('Proof: 3 frames really made')).toBeVisible();
  await expect(stage(page)).toHaveAttribute('data-second-state', 'ready');
  await expect(page.getByTestId('comparison')).toContainText('Nothing differs by more than rounding');
  // The pixel under the pointer against another decoder.
  const box = (await stage(page).boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.45, box.y + box.height * 0.45);
  for (const which of ['Source', 'Proof'])
    await expect(page.getByTestId('readout')).toContainText(new RegExp(`${which} RGBA \\d+ \\d+ \\d+ \\d+`));
  const words = await page.getByTestId('readout').innerText();
  const [, x, y] = /x (\d+) y (\d+)/.exec(words)!.map(Number);
  const stored = await sharp(join(demo, 'turntables', 'bell_turn', 'bell_turn_1.png'))
    .toColourspace('rgb16')
    .extract({ left: x!, top: y!, width: 1, height: 1 })
    .raw({ depth: 'ushort' })
    .toBuffer();
  const codes = [0, 2, 4, 6].map((at) => stored.readUInt16LE(at));
  expect(words).toContain(`Source RGBA ${codes.join(' ')}`);
  expect(words).toContain(`Proof RGBA ${codes.map((code) => Math.round(code / 257)).join(' ')}`);
  await page.getByRole('button', { name: 'The exact result' }).click();
  await expect(page.getByTestId('comparison')).toContainText('Nothing differs by more than rounding');
  // A frame that was not tried.
  await page.getByRole('slider', { name: 'Frame' }).focus();
  await page.keyboard.press('ArrowRight');
  await expect(stage(page)).toContainText('No proof of this frame yet');
  await page.getByRole('button', { name: 'Try frame 2' }).click();
  await expect(page.getByText('Proof: 4 frames really made')).toBeVisible();
  await expect(stage(page)).toHaveAttribute('data-second-state', 'ready');
  // Nothing was written where results go.
  expect(
    (await house.send('POST', '/jobs', { source: bell, spec: { version: 1, write: { format: 'nonsense' } } })).status,
  ).toBe(400);
  await page
    .getByTestId('sentence')
    .getByRole('button', { name: /PNG, 8-bit/ })
    .click();
  await page.getByRole('listbox').or(page.getByRole('combobox')).first().waitFor();
  await page.keyboard.press('Escape');
});

test('results of a job are looked at beside what they were made of', async ({ page }) => {
  const ticket = await house.source('ticket_loop');
  const spec = await house.get<{ write: object }>(`/sources/${ticket}/spec`);
  const write = { ...spec.write, format: 'jpeg', sample: 'u8', alpha: 'none', transfer: 'srgb', quality: 60 };
  const { body } = await house.send('POST', '/jobs', {
    source: ticket,
    spec: { ...spec, write, frames: '0-9', names: { stem: 'seen', first: 501 } },
  });
  await page.goto(`${house.url}/jobs`);
  await expect(page.getByTestId('job').first()).toHaveAttribute('data-state', 'done');
  await page.goto(`${house.url}/receipts/${body.id as string}`);
  await ready(page);
  await expect(stage(page)).toHaveAttribute('data-frame', '501');
  await page.getByRole('button', { name: 'Result and source' }).click();
  await expect(stage(page)).toHaveAttribute('data-second-frame', '0');
  await expect(stage(page)).toHaveAttribute('data-second-state', 'ready');
  await page.getByRole('slider', { name: 'Frame' }).focus();
  await page.keyboard.press('ArrowRight');
  await expect(stage(page)).toHaveAttribute('data-second-frame', '1');
  await expect(page.getByTestId('comparison')).toContainText('dB');
});
