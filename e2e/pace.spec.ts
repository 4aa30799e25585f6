import { linkSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import sharp from 'sharp';
import { numberToHalf } from '@shale/core';
import { writeExr } from '@shale/media';
import { House } from './house.ts';

// How quickly the stage answers: measured in the page by its own clock and printed by `npm run bench -- pace`, kept in
// docs/speed.md. Nothing here is late or early enough to fail, only what is shown is asserted; the tests do it with less.

// A trace takes a picture of the page many times a second.
test.use({ trace: 'off' });

const measures = process.env.SHALE_PACE === '1';
const footage = mkdtempSync(join(tmpdir(), 'shale-pace-'));
const house = new House();
const frames = measures ? 240 : 96;
const distinct = measures ? 24 : 8;
const scrubs = measures ? 20 : 5;

/** A drawn picture that moves: gradients, edges and some grain, so that neither codec has it easy. */
function drawn(width: number, height: number, frame: number): Uint8Array {
  const data = new Uint8Array(width * height * 3);
  for (let y = 0, at = 0; y < height; y += 1) {
    for (let x = 0; x < width; x += 1, at += 3) {
      const grain = ((x * 7919 + y * 104_729 + frame * 31) >> 3) & 7;
      const bar = ((x + frame * 8) >> 7) & 1 ? 40 : 0;
      data[at] = Math.min(255, (x * 200) / width + grain + bar);
      data[at + 1] = Math.min(255, (y * 200) / height + grain);
      data[at + 2] = 90 + grain + bar;
    }
  }
  return data;
}

/** 96 frames of 4096 x 2160 half floats by ZIP, a few pictures, each the file of several frames; a sixth of each has grain, as renders do. */
async function drawLarge(folder: string): Promise<void> {
  mkdirSync(folder);
  const [width, height] = [4096, 2160];
  for (let frame = 1; frame <= 12; frame += 1) {
    const data = new Uint16Array(width * height * 4);
    for (let y = 0, at = 0; y < height; y += 1) {
      const isGrainy = y > height / 3 && y < height / 2;
      for (let x = 0; x < width; x += 1, at += 4) {
        const grain = isGrainy ? (((x * 7919 + y * 104_729 + frame * 31) >> 3) & 63) / 1600 : 0;
        data[at] = numberToHalf((2 * x) / width + grain);
        data[at + 1] = numberToHalf(y / height + grain);
        data[at + 2] = numberToHalf(0.3 + 0.2 * Math.sin(x / 90 + frame) + grain);
        data[at + 3] = 0x3c00;
      }
    }
    const image = { width, height, channels: 4, sample: 'f16', data } as const;
    await writeExr(join(folder, `tram.${frame}.exr`), image, { compression: 'ZIP' });
  }
  for (let frame = 13; frame <= 96; frame += 1)
    linkSync(join(folder, `tram.${1 + ((frame - 1) % 12)}.exr`), join(folder, `tram.${frame}.exr`));
}

test.beforeAll(async () => {
  test.setTimeout(240_000);
  for (const folder of ['hd', 'light']) mkdirSync(join(footage, folder));
  const name = (frame: number) => join(footage, 'hd', `pan.${String(frame).padStart(4, '0')}.png`);
  // A few pictures, each the file of several frames.
  const one = async (frame: number) =>
    sharp(drawn(1920, 1080, frame), { raw: { width: 1920, height: 1080, channels: 3 } })
      .png({ compressionLevel: 1 })
      .toFile(name(frame));
  for (let frame = 1; frame <= distinct; frame += 4) await Promise.all([0, 1, 2, 3].map((more) => one(frame + more)));
  for (let frame = distinct + 1; frame <= frames; frame += 1) linkSync(name(1 + ((frame - 1) % distinct)), name(frame));
  for (let frame = 1; frame <= 81; frame += 20) {
    const [width, height] = [2048, 1080];
    const colours = drawn(width, height, frame);
    const data = new Uint16Array(width * height * 4);
    for (let pixel = 0; pixel < width * height; pixel += 1) {
      for (let channel = 0; channel < 3; channel += 1)
        data[pixel * 4 + channel] = numberToHalf((colours[pixel * 3 + channel]! / 255) ** 2.2 * 2);
      data[pixel * 4 + 3] = numberToHalf(1);
    }
    await writeExr(
      join(footage, 'light', `glow.${frame}.exr`),
      { width, height, channels: 4, sample: 'f16', data },
      { compression: 'ZIP' },
    );
  }
  if (measures) await drawLarge(join(footage, 'large'));
  writeFileSync(
    join(house.data, 'shale.config.json'),
    JSON.stringify({ roots: [{ id: 'footage', name: 'Footage', path: footage, writable: false }] }),
  );
  await house.start();
});
test.afterAll(async () => {
  await house.leave();
  rmSync(footage, { recursive: true, force: true });
});

/** Milliseconds from a key or a click until the stage has drawn the frame that was asked for, by the page's own clock. */
async function untilShown(page: Page, frame: number, act: () => Promise<void>): Promise<number> {
  await page.evaluate((wanted) => {
    const isShown = () => {
      const stage = document.querySelector<HTMLElement>('[data-testid=stage]');
      return stage?.dataset.frame === String(wanted) && stage.dataset.state === 'ready';
    };
    const times = window as unknown as { began?: number; took?: Promise<number> };
    times.began = undefined;
    const begin = ({ timeStamp }: Event) => (times.began ??= timeStamp);
    for (const kind of ['pointerdown', 'keydown']) window.addEventListener(kind, begin, { capture: true, once: true });
    times.took = new Promise((resolve) => {
      const look = () => {
        if (times.began !== undefined && isShown()) resolve(performance.now() - times.began);
        else requestAnimationFrame(look);
      };
      requestAnimationFrame(look);
    });
  }, frame);
  await act();
  return page.evaluate(() => (window as unknown as { took: Promise<number> }).took);
}

const sorted = (times: readonly number[]): number[] => [...times].sort((a, b) => a - b);
const at = (times: readonly number[], share: number): number =>
  sorted(times)[Math.min(times.length - 1, Math.floor(share * times.length))]!;
const say = (what: string, times: readonly number[]) =>
  measures &&
  console.log(
    `  pace: ${what}: median ${at(times, 0.5).toFixed(0)} ms, 95th percentile ${at(times, 0.95).toFixed(0)} ms (${times.length})`,
  );

/** Presses the strip where a frame is. */
async function press(page: Page, share: number): Promise<void> {
  const strip = (await page.getByRole('slider', { name: 'Frame' }).boundingBox())!;
  await page.mouse.click(strip.x + strip.width * share, strip.y + strip.height / 2);
}

test('the first picture of a 1080p PNG and of a 2K half-float EXR', async ({ page }) => {
  const [png, exr] = [await house.source('pan'), await house.source('glow')];
  for (const [what, id, count, few] of [
    ['1080p PNG', png, frames, measures ? 5 : 2],
    ['2K half-float EXR', exr, 81, measures ? 4 : 2],
  ] as const) {
    await page.goto(`${house.url}/inspect/${id}`);
    await expect(page.getByTestId('stage')).toHaveAttribute('data-state', 'ready');
    // Frames beside the first are fetched ahead: let them come, so that nothing else is at work.
    await page.waitForTimeout(1500);
    const times: number[] = [];
    for (let turn = 1; turn <= few; turn += 1) {
      // Far apart: what is fetched beside a frame is of no use to the next one.
      const frame = 1 + 20 * turn;
      times.push(await untilShown(page, frame, () => press(page, (frame - 0.5) / count)));
      await page.waitForTimeout(500);
    }
    say(`first picture of a ${what}, no preview yet`, times);
  }
});

/** Has the server make every preview, two at a time. */
const warm = (page: Page, source: string) =>
  page.evaluate(
    async ([id, last]) => {
      const half = async (first: number) => {
        for (let frame = first; frame <= last; frame += 2)
          await fetch(`/api/sources/${id}/frames/${frame}/preview?width=960`);
      };
      await Promise.all([half(1), half(2)]);
    },
    [source, frames] as const,
  );

test('scrubbing over what is cached', async ({ page }) => {
  await page.goto(`${house.url}/inspect/${await house.source('pan')}`);
  const stage = page.getByTestId('stage');
  await expect(stage).toHaveAttribute('data-state', 'ready');
  await warm(page, await house.source('pan'));
  const times: number[] = [];
  for (let turn = 0; turn < scrubs; turn += 1) {
    const frame = 1 + ((turn * 67) % frames);
    times.push(await untilShown(page, frame, () => press(page, (frame - 0.5) / frames)));
  }
  say('scrub to a frame on the server’s disk', times);
  const again: number[] = [];
  for (let turn = 0; turn < scrubs; turn += 1) {
    const frame = 1 + ((turn * 67) % frames);
    again.push(await untilShown(page, frame, () => press(page, (frame - 0.5) / frames)));
  }
  say('scrub to a frame in the page’s memory', again);
});

test('1080p plays at 24 fps over all its frames, and says what it drops', async ({ page }) => {
  const id = await house.source('pan');
  await house.send('PUT', `/sources/${id}/word`, { rate: { num: 24, den: 1 } });
  await page.goto(`${house.url}/inspect/${id}`);
  const stage = page.getByTestId('stage');
  await expect(stage).toHaveAttribute('data-state', 'ready');
  await warm(page, id);
  await page.keyboard.press('Space');
  await expect(page.getByTestId('playback')).toContainText('of 24 fps');
  // Once around where it is measured; a slow machine is asked for other frames only, however long they take.
  const seen = new Set<string>();
  const began = Date.now();
  const enough = () => (measures ? Date.now() - began > 11_000 : seen.size > 8);
  await expect
    .poll(
      async () => {
        seen.add((await stage.getAttribute('data-frame'))!);
        return enough();
      },
      { intervals: [150], timeout: 60_000 },
    )
    .toBe(true);
  // Where frames are dropped, it leads to what would not drop any.
  await expect(page.getByTestId('playback')).toHaveText(/^\d+\.\d of 24 fps, (0 dropped|\d+ droppedlighter versions)$/);
  const words = await page.getByTestId('playback').innerText();
  if (measures) console.log(`  pace: 1080p PNG at 24 fps over 240 frames and more: ${words}`);
  if (measures) expect(seen.size).toBeGreaterThan(40);
  await page.keyboard.press('Space');
  await expect(page.getByTestId('playback')).toHaveCount(0);
});

test('4K half floats play: the first pass, and once they are cached', async ({ page }) => {
  test.skip(!measures, 'for measuring alone');
  const id = await house.source('tram');
  await house.send('PUT', `/sources/${id}/word`, {
    rate: { num: 24, den: 1 },
    alpha: 'premultiplied',
    transfer: 'linear',
  });
  await page.goto(`${house.url}/inspect/${id}`);
  await expect(page.getByTestId('stage')).toHaveAttribute('data-state', 'ready');
  const began = Date.now();
  await page.evaluate(
    ([source]) => {
      const half = async (first: number) => {
        for (let frame = first; frame <= 96; frame += 2)
          await fetch(`/api/sources/${source}/frames/${frame}/preview?width=960`);
      };
      return Promise.all([half(1), half(2)]);
    },
    [id] as const,
  );
  console.log(`  pace: 4K half floats, previews made: ${((96 * 1000) / (Date.now() - began)).toFixed(1)} a second`);
  for (const pass of ['cached', 'cached, again']) {
    await page.keyboard.press('Space');
    await expect(page.getByTestId('playback')).toContainText('of 24 fps');
    await page.waitForTimeout(8000);
    console.log(`  pace: 4K half floats, ${pass}: ${await page.getByTestId('playback').innerText()}`);
    await page.keyboard.press('Space');
  }
});
