import { readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import { House } from './house.ts';

// Small moving pictures through the page: from the press that begins one to the file that another decoder reads.

const demo = process.env.SHALE_DEMO ?? join(import.meta.dirname, '..', '.shale', 'demo', 'tram_museum');
const house = new House();
test.beforeAll(() => house.start());
test.afterAll(() => house.leave());

test('a loop of 60 fps becomes a GIF that players keep, in the size and rate that were said', async ({ page }) => {
  test.setTimeout(360_000);
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
    .click({ timeout: 150_000 });
  await expect(page.getByText('All 24 pictures were decoded again and counted')).toBeVisible();

  const file = join(house.data, 'results', 'ticket_loop.gif');
  const { pages, width, pageHeight, delay, hasAlpha } = await sharp(file, { pages: -1 }).metadata();
  expect({ pages, width, pageHeight, hasAlpha }).toEqual({ pages: 24, width: 360, pageHeight: 203, hasAlpha: true });
  expect(delay!.reduce((sum, one) => sum + one, 0)).toBe(800);
  // 64 colours take a palette of six bits (GIF89a, 18).
  const head = readFileSync(file).subarray(0, 13);
  expect(head[10]! & 7).toBe(5);
});

test('within a limit of bytes: tries are shown, one is taken, and just that file is kept', async ({ page }) => {
  test.setTimeout(360_000);
  page.setDefaultTimeout(20_000);
  const loop = await house.source('ticket_loop');
  writeFileSync(join(house.data, 'results', 'ticket_loop.gif'), 'what was there before');
  await page.goto(`${house.url}/intake?root=museum&folder=turntables/ticket_loop_60fps`);
  await page.getByRole('row').getByText('ticket_loop.####.png', { exact: true }).first().click();
  await page.getByRole('link', { name: 'Make small' }).click();
  await expect(page).toHaveURL(new RegExp(`/convert/small/${loop}`));
  const sentence = page.getByTestId('sentence');
  await expect(sentence).toContainText('Write GIF, 8-bit of 360 x 203 at 60 fps with 256 colours, dithered');
  await expect(page.getByText('Players slow a GIF of 60 fps down')).toBeVisible();
  await page.getByRole('button', { name: 'Make it 30 fps' }).click();

  // It is made by itself, and plays.
  await expect(page.getByTestId('bytes')).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole('img', { name: /^Try 1, dark/ })).toBeVisible();
  // Less motion was asked for: it stands still until it is told to play.
  const moves = page.locator('[data-testid=shown] img');
  const drawn = () =>
    page.locator('[data-testid=shown] canvas').evaluateAll((all) =>
      all.map((canvas) => {
        const { width, height } = canvas as HTMLCanvasElement;
        const { data } = (canvas as HTMLCanvasElement).getContext('2d')!.getImageData(0, 0, width, height);
        return data.some((value) => value > 0);
      }),
    );
  await expect.poll(drawn).toEqual([true, true, true, true]);
  await expect(moves).toHaveCount(0);
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect(moves).toHaveCount(4);
  await page.getByRole('button', { name: 'Hold still' }).click();
  await expect(moves).toHaveCount(0);
  await expect(page.getByRole('img', { name: /^Bytes of each of 24 pictures/ })).toBeVisible();
  await sentence.getByRole('button', { name: /^Bytes, at most/ }).click();
  await page.getByRole('textbox', { name: 'Bytes, at most' }).fill('little');
  await expect(page.getByText('"little" is not a number of bytes.')).toBeVisible();
  await page.getByRole('textbox', { name: 'Bytes, at most' }).fill('30 KB');
  await page.keyboard.press('Escape');
  await expect(sentence).toContainText('at most 30,000 bytes; may give up size down to 20 %, colours down to 32');
  await expect(page.getByText(/\d+ % after \d encodes/)).toBeVisible({ timeout: 150_000 });
  // A file of its name is there already: it is kept unless one says otherwise.
  await expect(page.getByText('1 of 1 names exist already')).toBeVisible();
  await page.getByRole('button', { name: 'Replace it' }).click();
  await expect(page.getByRole('button', { name: 'Keep this one' })).toBeEnabled({ timeout: 150_000 });
  const tries = page.getByTestId('try');
  expect(await tries.count()).toBeGreaterThan(1);
  expect(await tries.count()).toBeLessThanOrEqual(8);
  await expect(page.getByRole('img', { name: /^Bytes and likeness of/ })).toBeVisible();

  // Any two are held beside each other; one that is too large cannot be kept.
  await page.getByRole('checkbox', { name: 'Try 1 next to the chosen one' }).check();
  await expect(page.getByRole('img', { name: 'Try 1, 1, true delays' })).toBeVisible();
  await page.getByRole('button', { name: 'Choose try 1' }).click();
  await expect(page.getByRole('button', { name: 'Keep this one' })).toBeDisabled();
  const last = await tries.count();
  await page.getByRole('button', { name: `Choose try ${last}` }).click();
  const bytes = Number(
    (
      await tries
        .nth(last - 1)
        .getByRole('cell')
        .nth(3)
        .innerText()
    ).replaceAll(',', ''),
  );
  expect(bytes).toBeLessThanOrEqual(30_000);
  // Its receiver knows a limit of its own, and the upload desk reads the file for itself.
  await sentence.getByRole('button', { name: /^Receiver/ }).click();
  await page.getByRole('combobox', { name: 'Receiver' }).click();
  await page.getByRole('option', { name: 'Small sign' }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Hand to the upload desk' }).click();
  await expect(page.getByTestId('handed')).toContainText(/The upload desk refused it\. It has \d+ x \d+ pixels/);
  await page.getByRole('button', { name: 'Make pictures small enough' }).click();
  await expect(sentence).toContainText('of 112 x 63');
  await expect(page.getByRole('button', { name: 'Keep this one' })).toBeEnabled({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Hand to the upload desk' }).click();
  await expect(page.getByText('The upload desk accepted it.')).toBeVisible();
  await page.getByRole('button', { name: 'Keep this one' }).click();
  await page
    .getByTestId('job')
    .filter({ hasText: 'ticket_loop' })
    .first()
    .getByRole('link', { name: 'Receipt', exact: true })
    .click({ timeout: 150_000 });
  await expect(page.getByText('All 24 pictures were decoded again and counted')).toBeVisible();
});

test('a Lottie animation plays in the format’s own open player, and its frames there are what went in', async ({
  page,
}) => {
  test.setTimeout(360_000);
  page.setDefaultTimeout(20_000);
  const loop = await house.source('ticket_loop');
  await page.goto(`${house.url}/convert/small/${loop}`);
  const sentence = page.getByTestId('sentence');
  await sentence.getByRole('button', { name: /^Format and depth/ }).click();
  await page.getByLabel('Lottie').click();
  await page.keyboard.press('Escape');
  await sentence.getByRole('button', { name: /^How the video is written/ }).click();
  await page.getByRole('combobox', { name: 'Samples' }).click();
  await page.getByRole('option', { name: 'kept, lossless' }).click();
  await page.keyboard.press('Escape');
  await expect(sentence).toContainText('at 60 fps lossless');
  await expect(page.getByRole('button', { name: 'Keep this one' })).toBeEnabled({ timeout: 60_000 });
  // On the page it plays in the same player, and stands where it is told to.
  await expect(page.getByRole('img', { name: 'Try 1, dark' }).locator('svg image').first()).toBeAttached();
  await page.getByRole('slider', { name: 'Frame' }).press('End');
  await expect(page.getByText('frame 47')).toBeVisible();
  await page.getByRole('button', { name: 'Keep this one' }).click();
  await page
    .getByTestId('job')
    .filter({ hasText: 'ticket_loop' })
    .first()
    .getByRole('link', { name: 'Receipt', exact: true })
    .click({ timeout: 150_000 });
  await expect(page.getByText(/match to the sample|every sample/i).first()).toBeVisible();

  const data = JSON.parse(readFileSync(join(house.data, 'results', 'ticket_loop.json'), 'utf8')) as object;
  const player = createRequire(import.meta.url).resolve('lottie-web/build/player/lottie_canvas.min.js', {
    paths: [join(import.meta.dirname, '..')],
  });
  await page.goto('about:blank');
  await page.addScriptTag({ path: player });
  for (const at of [0, 17, 47]) {
    const shown = await page.evaluate(
      async ([animation, frame]) => {
        const box = document.createElement('div');
        box.style.cssText = 'width:360px;height:203px';
        document.body.replaceChildren(box);
        const { lottie } = globalThis as unknown as { lottie: { loadAnimation(of: object): never } };
        const made = lottie.loadAnimation({
          ...{ container: box, renderer: 'canvas', loop: false, autoplay: false },
          animationData: structuredClone(animation),
          rendererSettings: { dpr: 1, clearCanvas: true },
        }) as { addEventListener(name: string, then: () => void): void; goToAndStop(at: number, isFrame: true): void };
        await new Promise<void>((done) => made.addEventListener('loaded_images', done));
        made.goToAndStop(frame, true);
        const canvas = box.querySelector('canvas')!;
        return [...canvas.getContext('2d')!.getImageData(0, 0, 360, 203).data];
      },
      [data, at] as const,
    );
    const source = join(demo, 'turntables', 'ticket_loop_60fps', `ticket_loop.${String(at).padStart(4, '0')}.png`);
    const wanted = await sharp(source)
      .resize(360, 203, { kernel: 'lanczos3', fit: 'fill' })
      .ensureAlpha()
      .raw()
      .toBuffer();
    expect(shown.length).toBe(wanted.length);
    // Over black, as a page would show it; another library's filter and rounding lie between.
    let most = 0;
    let sum = 0;
    for (let pixel = 0; pixel < wanted.length; pixel += 4)
      for (let channel = 0; channel < 3; channel += 1) {
        const apart = Math.abs(
          (shown[pixel + channel]! * shown[pixel + 3]!) / 255 - (wanted[pixel + channel]! * wanted[pixel + 3]!) / 255,
        );
        most = Math.max(most, apart);
        sum += apart;
      }
    expect(sum / (wanted.length * 0.75)).toBeLessThan(0.6);
    expect(most).toBeLessThan(40);
  }
});
