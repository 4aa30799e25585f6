import { copyFileSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import sharp from 'sharp';
import { numberToHalf } from '@shale/core';
import { writeExr } from '@shale/media';
import { House } from './house.ts';

const footage = mkdtempSync(join(tmpdir(), 'shale-eyes-'));
const house = new House();
const file = (folder: string, name: string) => join(footage, folder, name);

/** A frame that says its own number: red is ten times it, green 80, blue 40. */
const told = (frame: number, green = 80) =>
  sharp({ create: { width: 64, height: 36, channels: 3, background: { r: frame * 10, g: green, b: 40 } } }).png();

test.beforeAll(async () => {
  for (const folder of ['walk', 'again', 'odd', 'values']) mkdirSync(join(footage, folder));
  for (let frame = 1; frame <= 24; frame += 1) {
    if (frame !== 7) await told(frame).toFile(file('walk', `walk.${String(frame).padStart(4, '0')}.png`));
    // The second render begins at 101, and is a little greener from its 11th frame on.
    await told(frame, frame > 10 ? 83 : 80).toFile(file('again', `again.${100 + frame}.png`));
  }
  writeFileSync(file('walk', 'walk.0012.png'), 'no picture');
  const value = (x: number) => [NaN, Infinity, -0.5, 3, 0.25, 1, 0, 0.5][x % 8]!;
  for (let frame = 1; frame <= 2; frame += 1) {
    const data = Uint16Array.from({ length: 64 * 32 * 4 }, (_, at) =>
      numberToHalf(at % 4 === 3 ? 1 : value(Math.floor(at / 4) % 64)),
    );
    await writeExr(
      file('values', `values.${frame}.exr`),
      { width: 64, height: 32, channels: 4, sample: 'f16', data },
      { compression: 'ZIP' },
    );
  }
  const side = 16_384;
  const rows = Buffer.alloc(side * side);
  for (let y = 0; y < side; y += 1) rows.fill((y >> 6) & 255, y * side, (y + 1) * side);
  await sharp(rows, { raw: { width: side, height: side, channels: 1 }, limitInputPixels: false })
    .toColourspace('b-w')
    .png({ compressionLevel: 1 })
    .toFile(file('odd', 'huge.png'));
  await sharp({ create: { width: 4000, height: 1, channels: 3, background: '#336699' } })
    .png()
    .toFile(file('odd', 'thin.png'));
  writeFileSync(
    join(house.data, 'shale.config.json'),
    JSON.stringify({
      roots: [{ id: 'footage', name: 'Footage', path: footage, writable: false }],
    }),
  );
  await house.start();
});
test.afterAll(async () => {
  await house.leave();
  rmSync(footage, { recursive: true, force: true });
});

const stage = (page: Page) => page.getByTestId('stage');
const ready = (page: Page) => expect(stage(page)).toHaveAttribute('data-state', 'ready');

async function inspect(page: Page, name: string): Promise<string> {
  const id = await house.source(name);
  await page.goto(`${house.url}/inspect/${id}`);
  await ready(page);
  return id;
}

/** What the canvas of the stage really shows at a place, as red, green and blue. */
const drawnAt = (page: Page, x: number, y: number): Promise<number[]> =>
  page.evaluate(
    ([across, down]) => {
      const canvas = document.querySelector<HTMLCanvasElement>('[data-testid=stage] canvas')!;
      const context = canvas.getContext('2d')!;
      return [
        ...context.getImageData(Math.floor(across! * canvas.width), Math.floor(down! * canvas.height), 1, 1).data,
      ].slice(0, 3);
    },
    [x, y],
  );
const shows = (page: Page, colour: readonly number[], off = 2, x = 0.5, y = 0.5) =>
  expect
    .poll(async () => (await drawnAt(page, x, y)).every((value, at) => Math.abs(value - colour[at]!) <= off), {
      message: `the stage shows ${colour.join(' ')}`,
    })
    .toBe(true);

test('channels, alpha and luminance; exposure and gamma; the values are those of the standards', async ({ page }) => {
  await inspect(page, 'walk');
  await page.keyboard.press('ArrowRight');
  await shows(page, [20, 80, 40], 3);
  const show = page.getByRole('group', { name: 'Show' });
  await show.getByRole('button', { name: 'R', exact: true }).click();
  await shows(page, [20, 20, 20], 1);
  await show.getByRole('button', { name: 'B', exact: true }).click();
  await shows(page, [40, 40, 40], 1);
  await show.getByRole('button', { name: 'Alpha' }).click();
  await shows(page, [255, 255, 255], 0);
  await show.getByRole('button', { name: 'Luminance' }).click();
  // Y of linear BT.709, shown in sRGB, worked out here.
  const linear = (code: number) => (code / 255 <= 0.04045 ? code / 255 / 12.92 : ((code / 255 + 0.055) / 1.055) ** 2.4);
  const srgb = (light: number) =>
    Math.round(255 * (light <= 0.0031308 ? light * 12.92 : 1.055 * light ** (1 / 2.4) - 0.055));
  const luminance = srgb(0.2126 * linear(20) + 0.7152 * linear(80) + 0.0722 * linear(40));
  await shows(page, [luminance, luminance, luminance], 1);
  await show.getByRole('button', { name: 'Colour' }).click();
  await page.getByRole('slider', { name: 'Exposure' }).focus();
  for (let press = 0; press < 4; press += 1) await page.keyboard.press('ArrowRight');
  await shows(
    page,
    [20, 80, 40].map((code) => srgb(2 * linear(code))),
    1,
  );
  await page.getByRole('button', { name: 'As it is' }).click();
  await page.getByRole('slider', { name: 'Gamma' }).focus();
  await page.keyboard.press('End');
  await shows(
    page,
    [20, 80, 40].map((code) => Math.round(255 * (code / 255) ** 0.25)),
    1,
  );
  await page.getByRole('button', { name: 'As it is' }).click();
  await shows(page, [20, 80, 40], 3);
});

test('float values, NaN and infinity: read as they are, warned of, measured', async ({ page }) => {
  await inspect(page, 'values');
  await page.getByRole('button', { name: 'Warnings' }).click();
  await expect(page.getByTestId('warning-key')).toContainText('not a number');
  // Zoomed to the pixel, the first pixel of the picture is filled with the warning's colour.
  await page.keyboard.press('1');
  for (let press = 0; press < 4; press += 1) await page.keyboard.press('+');
  const box = (await stage(page).boundingBox())!;
  await page.mouse.move(box.x + box.width / 2 + 4, box.y + box.height / 2 + 4);
  // The middle of the stage is pixel 32, 16: the first of eight, which is NaN.
  await expect(page.getByTestId('readout')).toContainText('x 32 y 16');
  await expect(page.getByTestId('readout')).toContainText('RGBA NaN NaN NaN 1');
  await shows(page, [214, 150, 30], 1, 0.508, 0.512);
  await page.mouse.move(box.x + box.width / 2 + 4 + 48, box.y + box.height / 2 + 4);
  await expect(page.getByTestId('readout')).toContainText('RGBA 3 3 3 1');
  await page.getByRole('button', { name: 'Levels' }).click();
  // 64 x 32 pixels, one in eight of each kind, three channels.
  await expect(page.getByTestId('clip-counts')).toContainText('768 samples not a number');
  await expect(page.getByTestId('clip-counts')).toContainText('768 samples infinite');
  await expect(page.getByTestId('clip-counts')).toContainText('768 samples below 0');
  await expect(page.getByTestId('clip-counts')).toContainText('R 256, G 256, B 256');
  await expect(page.getByText('values.1.exr', { exact: true })).toBeVisible();
  await page.keyboard.press('0');
  await page.getByRole('button', { name: 'Waveform' }).click();
  await expect(page.getByRole('img', { name: 'Waveform of green' })).toBeVisible();
  // A box is drawn with Shift held, and measured alone.
  await page.keyboard.down('Shift');
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 40, box.y + box.height / 2 + 40, { steps: 4 });
  await page.mouse.up();
  await page.keyboard.up('Shift');
  await expect(page.getByText(/^Levels, \d+ x \d+ from 32, 16$/)).toBeVisible();
  await expect(page.getByTestId('region')).toBeVisible();
  await page.getByRole('button', { name: 'Measure the whole frame' }).click();
  await expect(page.getByText('Levels, frame 1')).toBeVisible();
});

test('two sources: aligned by an offset, wiped, side by side, blinking, their difference multiplied, told in numbers', async ({
  page,
}) => {
  const [walk, again] = [await inspect(page, 'walk'), await house.source('again')];
  await page.getByRole('button', { name: 'Against', exact: true }).click();
  await page.getByLabel('Another source').fill('again');
  await page.getByRole('option').filter({ hasText: 'again' }).first().click();
  // No number is in both: first goes with first.
  await expect(page.getByLabel('Offset, frames')).toHaveValue('100');
  await expect(stage(page)).toHaveAttribute('data-second-frame', '101');
  await expect(page.getByTestId('comparison')).toContainText('Every sample matches');
  await page.getByRole('slider', { name: 'Frame' }).focus();
  for (let press = 0; press < 10; press += 1) await page.keyboard.press('ArrowRight');
  await expect(stage(page)).toHaveAttribute('data-second-frame', '111');
  await expect(page.getByTestId('comparison')).toContainText('100 % differ by more than rounding');
  await expect(page.getByTestId('comparison')).toContainText('3 steps (0.0118)');
  // One of three channels is off by 3 of 255 everywhere.
  const psnr = -10 * Math.log10((3 / 255) ** 2 / 3);
  await expect(page.getByTestId('comparison')).toContainText(`${psnr.toFixed(2)} dB`);
  await page.getByRole('button', { name: 'Difference' }).click();
  // The gain is 8.
  await shows(page, [0, 24, 0], 1);
  await page.getByRole('slider', { name: 'Gain' }).focus();
  await page.keyboard.press('ArrowRight');
  await shows(page, [0, 48, 0], 1);
  await page.getByRole('button', { name: 'Side by side' }).click();
  await expect(stage(page)).toHaveAttribute('data-second-state', 'ready');
  await shows(page, [110, 80, 40], 3, 0.25);
  await shows(page, [110, 83, 40], 3, 0.75);
  await page.getByRole('button', { name: 'Wipe' }).click();
  const box = (await stage(page).boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.4, box.y + box.height * 0.5);
  await expect(page.getByTestId('readout')).toContainText('RGB 110 80 40');
  await expect(page.getByTestId('readout')).toContainText('RGB 110 83 40');
  await expect(page.getByTestId('readout')).toContainText('off by 3.00 steps at most');
  await page.getByRole('slider', { name: 'Wipe' }).focus();
  await page.keyboard.press('Home');
  await shows(page, [110, 83, 40], 3, 0.4);
  await page.getByRole('button', { name: 'Blink' }).click();
  await shows(page, [110, 80, 40], 3);
  await shows(page, [110, 83, 40], 3);
  // A frame that has no partner says so; the numbers wait.
  await page.getByLabel('Offset, frames').fill('500');
  await expect(page.getByText('Frame 11 matches frame 511, which is missing.')).toBeVisible();
  await page.getByRole('button', { name: 'Stop comparing' }).click();
  await expect(page.getByLabel('Another source')).toHaveValue('');
  expect(
    (await house.get<{ comparison: object }>(`/comparison?a=${walk}&frameA=1&b=${again}&frameB=101`)).comparison,
  ).toMatchObject({ changed: 0, psnr: null });
});

test('a missing and a damaged frame show as themselves; a hundred quick clicks end at the right one', async ({
  page,
}) => {
  await inspect(page, 'walk');
  const strip = (await page.getByRole('slider', { name: 'Frame' }).boundingBox())!;
  const press = (frame: number) => page.mouse.click(strip.x + (strip.width * (frame - 0.5)) / 24, strip.y + 20);
  await press(6);
  await shows(page, [60, 80, 40], 3);
  await press(7);
  await expect(stage(page)).toHaveAttribute('data-state', 'missing');
  await expect(stage(page)).toContainText('Frame 7 is missing');
  await press(12);
  await expect(stage(page)).toHaveAttribute('data-state', 'failed');
  await expect(stage(page)).toContainText('walk.0012.png is not a picture');
  for (let click = 0; click < 100; click += 1) await press(1 + ((click * 7) % 24));
  await press(19);
  await expect(stage(page)).toHaveAttribute('data-frame', '19');
  await ready(page);
  await shows(page, [190, 80, 40], 3);
});

test('a picture of 16,384 x 16,384 and one a pixel high are shown, read and measured', async ({ page }) => {
  await inspect(page, 'huge');
  const box = (await stage(page).boundingBox())!;
  await page.keyboard.press('1');
  await page.mouse.move(box.x + box.width / 2 + 2, box.y + box.height / 2 + 2);
  await expect(page.getByTestId('readout')).toContainText('x 8194 y 8194', { timeout: 60_000 });
  await expect(page.getByTestId('readout')).toContainText('Y 128', { timeout: 60_000 });
  await inspect(page, 'thin');
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.keyboard.press('1');
  for (let press = 0; press < 5; press += 1) await page.keyboard.press('+');
  await expect(page.getByTestId('readout')).toContainText('RGB 51 102 153');
});

test('a source that changes while it plays is shown as it is now', async ({ page }) => {
  const id = await house.source('again');
  await house.send('PUT', `/sources/${id}/word`, { rate: { num: 12, den: 1 } });
  await inspect(page, 'again');
  await page.keyboard.press('Space');
  await expect(page.getByTestId('playback')).toContainText('of 12 fps');
  for (let frame = 1; frame <= 24; frame += 1) {
    const made = file('again', `new.part`);
    await told(frame, 200).toFile(made);
    copyFileSync(made, file('again', `again.${100 + frame}.png`));
  }
  rmSync(file('again', 'new.part'));
  await shows(page, [0, 200, 40], 255);
  await expect.poll(async () => (await drawnAt(page, 0.5, 0.5))[1], { timeout: 60_000 }).toBeGreaterThan(190);
  await expect(page.getByTestId('playback')).toContainText('of 12 fps');
});

test('a lost connection is told, and mended by itself', async ({ page }) => {
  await inspect(page, 'walk');
  await house.kill();
  await page.getByRole('slider', { name: 'Frame' }).focus();
  await page.keyboard.press('End');
  await expect(stage(page)).toHaveAttribute('data-state', 'lost');
  await expect(stage(page)).toContainText('No answer from the server; it is asked again');
  await house.start();
  await expect(stage(page)).toHaveAttribute('data-state', 'ready', { timeout: 60_000 });
  await shows(page, [240, 80, 40], 3);
});

test('back and forth, half speed, two rates side by side: each says what it reaches', async ({ page }) => {
  const id = await house.source('walk');
  await house.send('PUT', `/sources/${id}/word`, { rate: { num: 24, den: 1 } });
  await inspect(page, 'walk');
  await page.getByRole('button', { name: 'Back and forth' }).click();
  await page.getByRole('button', { name: 'Half speed' }).click();
  await page.getByTestId('stage-time').click();
  await page.keyboard.press('Space');
  await expect(page.getByTestId('playback')).toContainText(/of 24 fps at half speed/);
  // Going back: a frame is followed by a smaller one without having been at the first.
  const seen: number[] = [];
  await expect
    .poll(
      async () => {
        seen.push(Number(await stage(page).getAttribute('data-frame')));
        return seen.some((frame, at) => at > 0 && frame < seen[at - 1]! && seen[at - 1]! - frame < 6 && frame > 3);
      },
      { intervals: [60] },
    )
    .toBe(true);
  await page.keyboard.press('Space');
  await page.getByRole('button', { name: 'Half speed' }).click();
  await page.getByRole('button', { name: 'Back and forth' }).click();
  await page.getByRole('button', { name: 'Against', exact: true }).click();
  await page.getByRole('button', { name: 'Itself at another rate' }).click();
  await expect(page.getByLabel('Its rate')).toHaveValue('30');
  await page.getByTestId('stage-time').click();
  await page.keyboard.press('Home');
  await page.keyboard.press('Space');
  await expect(page.getByTestId('playback')).toContainText(/of 24 fps, \d+ dropped/);
  await expect(page.getByTestId('playback')).toContainText(/of 30 fps, \d+ dropped/);
  // The faster one is further on.
  await expect
    .poll(async () => {
      const [first, second] = await Promise.all([
        stage(page).getAttribute('data-frame'),
        stage(page).getAttribute('data-second-frame'),
      ]);
      return Number(second) - Number(first);
    })
    .toBeGreaterThan(1);
});

test('the picture is laid over a colour and over another sequence', async ({ page }) => {
  await inspect(page, 'ticket_loop');
  await page.getByRole('button', { name: 'Background other' }).click();
  await page.getByLabel('A colour', { exact: true }).fill('#204080');
  await shows(page, [32, 64, 128], 2, 0.03, 0.1);
  await page.getByLabel('A still or a sequence').fill('walk');
  await page
    .getByRole('option', { name: /walk\.####/ })
    .first()
    .click();
  await page.keyboard.press('Escape');
  await shows(page, [10, 80, 40], 3, 0.03, 0.1);
  // The sequence behind goes on with the picture.
  await page.getByRole('slider', { name: 'Frame' }).focus();
  await page.keyboard.press('ArrowRight');
  await shows(page, [20, 80, 40], 3, 0.03, 0.1);
  await page.getByRole('button', { name: 'Background checker' }).click();
});

test('what is asked wrongly is refused by name', async () => {
  const id = await house.source('thin');
  const ask = async (path: string) => {
    const answer = await fetch(`${house.url}/api${path}`);
    return { status: answer.status, ...((await answer.json()) as { code: string; fact: string }) };
  };
  expect(await ask(`/sources/${id}/frames/0/piece?left=4000&top=0&width=1&height=1`)).toMatchObject({
    status: 400,
    code: 'outside-picture',
  });
  expect(await ask(`/sources/${id}/frames/0/piece?left=0&top=0&width=5000&height=1`)).toMatchObject({
    status: 400,
    code: 'bad-request',
  });
  expect(await ask(`/sources/${id}/frames/0/scopes?left=1`)).toMatchObject({
    status: 400,
    fact: 'A box needs left, top, width and height.',
  });
  expect(await ask(`/comparison?a=${id}&frameA=0&b=proof-gone&frameB=0`)).toMatchObject({
    status: 404,
    code: 'source-not-found',
  });
  expect(await ask('/proofs/proof-gone/frames/1/exactness')).toMatchObject({ status: 404, code: 'proof-gone' });
  expect(await ask('/receipts/none/made')).toMatchObject({ status: 404 });
  const walk = await house.source('walk');
  expect(await ask(`/sources/${walk}/frames/7/scopes`)).toMatchObject({ status: 404, code: 'frame-missing' });
  expect(await ask(`/sources/${walk}/frames/12/scopes`)).toMatchObject({
    status: 422,
    fact: expect.stringContaining('walk.0012.png'),
  });
  expect((await house.send('POST', '/plans/proof', { source: walk, spec: { version: 1 }, frames: [] })).status).toBe(
    400,
  );
});
