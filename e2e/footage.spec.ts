import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import sharp from 'sharp';
import { House } from './house.ts';

const house = new House();
test.beforeAll(() => house.start());
test.afterAll(() => house.leave());

const demo = process.env.SHALE_DEMO ?? join(import.meta.dirname, '..', '.shale', 'demo', 'tram_museum');
const results = () => join(house.data, 'results');
const sentence = (page: Page) => page.getByTestId('sentence');

interface Job {
  id: string;
  state: string;
  problem: { fact: string } | null;
}

async function finished(id: string): Promise<void> {
  await expect
    .poll(async () => (await house.get<Job>(`/jobs/${id}`)).state, { timeout: 120_000 })
    .toMatch(/done|stopped/);
  const { state, problem } = await house.get<Job>(`/jobs/${id}`);
  expect([state, problem]).toEqual(['done', null]);
}

async function run(source: string, spec: object): Promise<string> {
  const { status, body } = await house.send('POST', '/jobs', { source, spec: { version: 1, ...spec } });
  expect([status, body.fact]).toEqual([201, undefined]);
  await finished(body.id as string);
  return body.id as string;
}

/** Opens the receipt of a source's job once it is done. */
const receiptOf = (page: Page, name: string): Promise<void> =>
  page
    .getByTestId('job')
    .filter({ hasText: name })
    .getByRole('link', { name: 'Receipt', exact: true })
    .click({ timeout: 90_000 });

/** Plays a video in the browser to its end, over a ground of one colour. */
async function played(page: Page, file: string, type: string) {
  const data = `data:${type};base64,${readFileSync(file).toString('base64')}`;
  await page.goto('about:blank');
  await page.setContent(
    '<body style="margin:0;background:rgb(200,30,90)"><video muted style="display:block"></video></body>',
  );
  return page.evaluate(async (source) => {
    const video = document.querySelector('video')!;
    let shown = 0;
    const count = () => {
      shown += 1;
      video.requestVideoFrameCallback(count);
    };
    video.requestVideoFrameCallback(count);
    const ended = new Promise<boolean>((resolve, reject) => {
      video.onended = () => resolve(true);
      video.onerror = () => reject(new Error(video.error?.message ?? 'the video does not play'));
    });
    video.src = source;
    await video.play();
    await ended;
    const { totalVideoFrames, droppedVideoFrames } = video.getVideoPlaybackQuality();
    return {
      duration: video.duration,
      size: [video.videoWidth, video.videoHeight],
      frames: totalVideoFrames,
      dropped: droppedVideoFrames,
      shown,
    };
  }, data);
}

test('frames out of a clip: in and out said on the page, sound beside, the folder named by the rate; another decoder shows the same', async ({
  page,
}) => {
  const plate = await house.source('platform_plate');
  await page.goto(`${house.url}/convert/${plate}`);
  await expect(page.getByTestId('stage')).toHaveAttribute('data-state', 'ready');
  await sentence(page).getByRole('button', { name: 'Frames: 0-249' }).click();
  await page.getByRole('textbox', { name: 'Frames', exact: true }).fill('100-111');
  await page.keyboard.press('Escape');
  await sentence(page)
    .getByRole('button', { name: /What is heard/ })
    .click();
  await page.getByRole('checkbox', { name: /as WAV next to the frames/ }).check();
  await page.keyboard.press('Escape');
  await sentence(page)
    .getByRole('button', { name: /^Folder/ })
    .click();
  await page.getByRole('textbox', { name: 'Folder' }).fill('{stem}_{rate}fps');
  await page.keyboard.press('Escape');
  await expect(sentence(page)).toContainText('its sound beside them as WAV');
  await expect(sentence(page)).toContainText('results/platform_plate_25fps');
  await page.getByRole('button', { name: 'Run 12 frames' }).click();
  await receiptOf(page, 'platform_plate');
  await expect(page.getByTestId('receipt')).toContainText('12 frames written');
  await expect(page.getByTestId('receipt')).toContainText('platform_plate.wav');
  const folder = join(results(), 'platform_plate_25fps');
  expect(readdirSync(folder).length).toBe(13);
  // 12 frames at 25 a second of one channel at 48,000 Hz and 24 bits: AAC decodes to floats.
  expect(readFileSync(join(folder, 'platform_plate.wav')).length).toBeGreaterThan(69_120);
  expect(readFileSync(join(folder, 'platform_plate.wav')).length).toBeLessThan(69_500);

  const clip = `data:video/mp4;base64,${readFileSync(join(demo, 'plates', 'platform_plate.mp4')).toString('base64')}`;
  await page.goto('about:blank');
  await page.setContent('<video muted></video><canvas></canvas>');
  const theirs = await page.evaluate(async (source) => {
    const video = document.querySelector('video')!;
    video.src = source;
    await new Promise((resolve) => (video.onloadeddata = resolve));
    const seeked = new Promise((resolve) => (video.onseeked = resolve));
    // The middle of picture 107.
    video.currentTime = 107.5 / 25;
    await seeked;
    const canvas = document.querySelector('canvas')!;
    [canvas.width, canvas.height] = [video.videoWidth, video.videoHeight];
    const context = canvas.getContext('2d')!;
    context.drawImage(video, 0, 0);
    return [...context.getImageData(0, 400, canvas.width, 1).data];
  }, clip);
  // Edges of colour differ by how 4:2:0 is made whole; the picture does not, and its neighbours differ more.
  const differences = await Promise.all(
    ['0106', '0107', '0108'].map(async (number) => {
      const row = await sharp(join(folder, `platform_plate.${number}.png`))
        .extract({ left: 0, top: 400, width: 1280, height: 1 })
        .raw()
        .toBuffer();
      let sum = 0;
      for (let x = 0; x < 1280; x += 1)
        for (let c = 0; c < 3; c += 1) sum += Math.abs(row[x * 3 + c]! - theirs[x * 4 + c]!);
      return sum / (1280 * 3);
    }),
  );
  console.log(`means against the browser: ${differences.map((one) => one.toFixed(2)).join(', ')}`);
  expect(differences[1]).toBeLessThan(2);
  expect(Math.min(...differences)).toBe(differences[1]);
});

test('a video with alpha out of frames: said on the page, run, and played to its end with the page behind it', async ({
  page,
}) => {
  const loop = await house.source('ticket_loop');
  await page.goto(`${house.url}/convert/${loop}`);
  await sentence(page)
    .getByRole('button', { name: /PNG, 8-bit/ })
    .click();
  await page.getByRole('combobox', { name: 'Format' }).press('Enter');
  await page.getByRole('option', { name: 'VP9' }).click();
  await page.keyboard.press('Escape');
  await expect(sentence(page)).toContainText('write VP9, 8-bit at 60 fps, quality 24, 4:2:0 with straight alpha');
  await sentence(page)
    .getByRole('button', { name: /How the video is written/ })
    .click();
  await page.getByRole('textbox', { name: /Quality/ }).fill('30');
  await page.getByRole('combobox', { name: 'Speed' }).click();
  await page.getByRole('option', { name: '6', exact: true }).click();
  await page.keyboard.press('Escape');
  await expect(sentence(page)).toContainText('quality 30');
  // Measured for real: on a busy machine that takes its time.
  await expect(page.getByText(/one video of 48 frames, about/)).toBeVisible({ timeout: 90_000 });
  await page.getByRole('button', { name: 'Run 48 frames' }).click();
  await receiptOf(page, 'ticket_loop');
  await expect(page.getByTestId('receipt')).toContainText('Video of 48 frames written');
  await expect(page.getByTestId('receipt')).toContainText('All 48 pictures were decoded again and counted');
  await expect(page.getByTestId('receipt')).toContainText(/Estimated size/);
  await expect(page.getByTestId('stage')).toHaveAttribute('data-state', 'ready');

  const told = await played(page, join(results(), 'ticket_loop.webm'), 'video/webm');
  expect(told).toMatchObject({ size: [960, 540] });
  expect(told.frames).toBe(48);
  expect(Math.abs(told.duration - 48 / 60)).toBeLessThan(0.03);
  const shot = await sharp(await page.screenshot())
    .extract({ left: 2, top: 2, width: 1, height: 1 })
    .raw()
    .toBuffer();
  expect([...shot.subarray(0, 3)]).toEqual([200, 30, 90]);
});

test('H.264 with a sound under it plays to its end; missing frames are held as the plan says', async ({ page }) => {
  const bell = await house.source('bell_turn');
  const wav = (await house.get<{ root: string; folder: string; name: string; kind: string }[]>('/sources')).find(
    ({ kind }) => kind === 'sound',
  )!;
  // Frame 37 is missing.
  await house.send('PUT', `/sources/${bell}/word`, { rate: { num: 12, den: 1 }, alpha: 'straight' });
  await run(bell, {
    frames: '25-48',
    missing: 'hold',
    write: { format: 'h264', sample: 'u8', alpha: 'none', transfer: 'srgb' },
    video: { speed: 8, timecode: '01:00:00:00', oddSize: 'pad' },
    sound: { from: { root: wav.root, folder: wav.folder, name: wav.name } },
    names: { stem: 'bell' },
  });
  const told = await played(page, join(results(), 'bell.mp4'), 'video/mp4');
  expect(told.frames).toBe(24);
  expect(Math.abs(told.duration - 24 / 12)).toBeLessThan(0.06);
});

test('a clip is stepped, weighed and taken apart at its scenes; what forbids a video is said', async ({ page }) => {
  const night = await house.source('night_run');
  await page.goto(`${house.url}/inspect/${night}`);
  await expect(page.getByTestId('stage')).toHaveAttribute('data-state', 'ready');
  await page.getByRole('slider', { name: 'Frame' }).focus();
  await page.keyboard.press('End');
  await expect(page.getByTestId('stage')).toContainText('frame 59');
  await expect(page.getByTestId('stage')).toHaveAttribute('data-state', 'ready');
  await page
    .getByRole('button', { name: 'Weight' })
    .or(page.getByRole('radio', { name: 'Weight' }))
    .first()
    .click();
  await expect(page.getByTestId('weight')).toContainText('30 fps');
  const { body } = await house.send('POST', `/sources/${night}/scenes`, {});
  expect((body.frames as number[])[0]).toBe(0);

  const bell = await house.source('bell_turn');
  await house.send('PUT', `/sources/${bell}/word`, {});
  const planned = await house.send('POST', '/plans', {
    source: bell,
    spec: { version: 1, write: { format: 'h264', sample: 'u8', alpha: 'none', transfer: 'srgb' } },
  });
  const problems = planned.body.problems as { code: string; fact: string; wayOut: string }[];
  expect(problems.map(({ code }) => code)).toContain('rate-not-declared');
});
