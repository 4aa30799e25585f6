import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import sharp from 'sharp';
import { House } from './house.ts';

const house = new House();
test.beforeAll(() => house.start());
test.afterAll(() => house.leave());

/** Errors of the page's own; a picture that cannot be made (an empty frame) is told by the server as 422. */
function watch(page: Page): string[] {
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(error.message));
  page.on(
    'console',
    (message) => message.type() === 'error' && !message.text().includes('422') && errors.push(message.text()),
  );
  return errors;
}

const press = async (page: Page, part: RegExp) => {
  const button = page.getByTestId('sentence').getByRole('button', { name: part });
  await expect(page.getByTestId('sentence')).toBeVisible();
  if (!(await button.isVisible())) await page.getByRole('button', { name: 'What stays as it is' }).click();
  await button.click();
};

test('a folder of 16-bit frames becomes a checked, downloaded 8-bit sequence', async ({ page }) => {
  const errors = watch(page);
  await house.source('bell_turn');
  await page.goto(house.url);
  const row = page.getByRole('row').filter({ hasText: 'bell_turn_#.png' });
  await page.getByRole('button', { name: /^turntables/ }).click();
  await expect(page.getByRole('heading', { level: 1 })).toHaveText(/^3 sources/);
  await expect(row).toContainText('1-36, 38-60');
  await expect(row).toContainText('Frame 37 missing');
  await expect(row).toContainText('not declared');
  await expect(row.getByRole('img', { name: '59 frames from 1 to 60, 1 missing' })).toBeVisible();

  // By keyboard alone: into the list, to the row, open it.
  await page.getByRole('grid', { name: 'Sources' }).focus();
  await page.keyboard.press('Home');
  await expect(row).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('Enter');

  await expect(page).toHaveURL(/inspect/);
  const stage = page.getByTestId('stage');
  await expect(stage).toHaveAttribute('data-state', 'ready');
  await expect(page.getByRole('button', { name: 'Declare a rate to play' })).toBeDisabled();
  await page.getByRole('combobox', { name: 'Rate' }).click();
  await page.getByRole('option', { name: '24 fps', exact: true }).click();
  await page.getByRole('button', { name: 'Confirm alpha' }).click();
  await expect(page.getByText('set by you')).toHaveCount(2);

  await page.getByRole('button', { name: 'Play (Space)' }).click();
  await expect(page.getByTestId('playback')).toContainText(/of 24 fps/);
  await expect.poll(async () => Number(await stage.getAttribute('data-frame'))).toBeGreaterThan(4);
  await page.getByRole('button', { name: 'Pause (Space)' }).click();
  const strip = page.getByRole('slider', { name: 'Frame' });
  await strip.focus();
  await page.keyboard.press('Home');
  await expect(stage).toHaveAttribute('data-frame', '1');
  await page.getByRole('button', { name: 'Go to frame 37' }).click();
  await expect(stage).toHaveAttribute('data-state', 'missing');
  await expect(stage).toContainText('Frame 37 is missing');
  await page.keyboard.press('ArrowRight');
  await expect(stage).toHaveAttribute('data-state', 'ready');
  await page.getByRole('button', { name: 'Alpha', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Alpha', exact: true })).toHaveAttribute('aria-pressed', 'true');
  for (const ground of ['black', 'white', 'grey', 'checker'])
    await page.getByRole('button', { name: `Background ${ground}` }).click();
  await page.getByRole('button', { name: 'Colour', exact: true }).click();

  await page.getByRole('main').getByRole('button', { name: 'Convert' }).click();
  await press(page, /^First number/);
  await page.getByLabel('First number').last().fill('1001');
  await page.keyboard.press('Escape');
  await press(page, /^Names/);
  await page.getByLabel('Stem').fill('bell');
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('sentence')).toContainText(', the picture as it is, at its own speed;');
  await page.getByRole('button', { name: 'Only what changes' }).click();
  await expect(page.getByTestId('sentence')).toHaveText(
    'Take bell_turn_#.png frames 1-60 as 24 fps, straight alpha, sRGB; if a frame is missing leave it out; write PNG, 8-bit, named bell.####.png from 1001, into results/bell.',
  );
  await expect(page.getByText('16 bits become 8: 256 of 65,536 levels')).toBeVisible();
  await expect(page.getByText(/Losses, measured on 4 of 59 frames/)).toBeVisible();
  const plan = page.getByRole('table', { name: 'Plan' });
  await page.getByRole('slider', { name: 'Frame' }).focus();
  await page.keyboard.press('Home');
  await expect(plan).toContainText('bell_turn_1.png→bell.1001.png');
  for (const key of ['PageDown', 'PageDown', 'PageDown', 'PageDown']) await page.keyboard.press(key);
  for (let back = 0; back < 4; back += 1) await page.keyboard.press('ArrowLeft');
  await expect(plan).toContainText('left out');

  await page.getByRole('button', { name: 'Run 59 frames' }).click();
  await expect(page).toHaveURL(/jobs/);
  const job = page.getByTestId('job').first();
  await expect(job.getByRole('progressbar')).toBeVisible();
  await expect(job).toHaveAttribute('data-state', 'done', { timeout: 120_000 });
  await expect(job).toContainText('59/59 written');
  await job.getByRole('link', { name: 'Receipt' }).click();
  const receipt = page.getByTestId('receipt');
  await expect(receipt).toContainText('59 frames written');
  await expect(receipt).toContainText('Each of the 59 files was read back from disk and decoded');
  await expect(receipt).toContainText('16 bits become 8: 256 of 65,536 levels');
  await expect(receipt).toContainText('24 fps, set by you');

  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Download all' }).click(),
  ]);
  const folder = mkdtempSync(join(tmpdir(), 'shale-zip-'));
  await download.saveAs(join(folder, 'bell.zip'));
  execFileSync('python3', ['-m', 'zipfile', '-e', join(folder, 'bell.zip'), folder]);
  const names = readdirSync(join(folder, 'bell')).sort();
  expect(names).toHaveLength(60);
  expect(names[0]).toBe('bell.1001.png');
  expect(names).not.toContain('bell.1037.png');
  const manifest = readFileSync(join(folder, 'bell', 'manifest.sha256'), 'utf8')
    .trim()
    .split('\n');
  for (const line of manifest) {
    const [sum, name] = line.split('  ') as [string, string];
    expect(
      createHash('sha256')
        .update(readFileSync(join(folder, 'bell', name)))
        .digest('hex'),
    ).toBe(sum);
  }
  // One frame, worked out by another way: read in 16 bits by another decoder, rounded by integers.
  const demo = process.env.SHALE_DEMO ?? join(import.meta.dirname, '..', '.shale', 'demo', 'tram_museum');
  const source = await sharp(join(demo, 'turntables', 'bell_turn', 'bell_turn_24.png'))
    .toColourspace('rgb16')
    .raw({ depth: 'ushort' })
    .toBuffer();
  const wide = new Uint16Array(source.buffer, source.byteOffset, source.length / 2);
  const result = await sharp(join(folder, 'bell', 'bell.1024.png'))
    .raw()
    .toBuffer();
  const wrong = result.findIndex((code, at) => code !== Math.floor((wide[at]! + 128) / 257));
  expect(wrong).toBe(-1);
  expect(errors).toEqual([]);
});

test('a job outlives a reload and a killed server, and gives the same bytes', async ({ page }) => {
  const id = await house.source('depot_pan');
  await page.goto(`${house.url}/convert/${id}`);
  await expect(page.getByTestId('sentence')).toContainText(
    'premultiplied, linear; write PNG, 8-bit with straight alpha, sRGB',
  );
  await press(page, /^Frames/);
  await page.getByLabel('Frames').last().fill('1001-1040');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Run 40 frames' }).click();
  const job = page.getByTestId('job').first();
  const written = async () => Number(/(\d+)\/40/.exec((await job.textContent()) ?? '')?.[1] ?? 0);
  await expect.poll(written, { timeout: 60_000 }).toBeGreaterThan(3);
  await page.reload();
  await expect(job).toHaveAttribute('data-state', 'running');
  await expect.poll(written).toBeGreaterThan(6);

  await house.kill();
  await expect(page.getByText('no connection')).toBeVisible();
  await house.start();
  await expect(page.getByText('no connection')).toBeHidden();
  await expect(job).toHaveAttribute('data-state', 'done', { timeout: 120_000 });
  await expect(job).toContainText('40/40 written');

  const results = join(house.data, 'results', 'depot_pan');
  const names = readdirSync(results).sort();
  expect(names).toHaveLength(40);
  const fresh = mkdtempSync(join(tmpdir(), 'shale-again-'));
  const spec = join(fresh, 'spec.json');
  const { writeFileSync } = await import('node:fs');
  writeFileSync(
    spec,
    JSON.stringify({
      version: 1,
      frames: '1001-1040',
      write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
    }),
  );
  const demo = process.env.SHALE_DEMO ?? join(import.meta.dirname, '..', '.shale', 'demo', 'tram_museum');
  const printed = execFileSync(
    process.execPath,
    [
      'tools/shale.mjs',
      'convert',
      join(demo, 'plates', 'depot_pan', 'depot_pan.####.exr'),
      '--spec',
      spec,
      '--out',
      join(fresh, 'out'),
      '--json',
    ],
    {
      cwd: join(import.meta.dirname, '..'),
      encoding: 'utf8',
    },
  );
  expect(JSON.parse(printed)).toMatchObject({ written: 40, failed: [], check: { identical: 40 } });
  for (const name of names)
    expect(readFileSync(join(results, name)).equals(readFileSync(join(fresh, 'out', name)))).toBe(true);
});

test('a name that exists, a wrong range and a wrong rate are refused in words', async ({ page }) => {
  const id = await house.source('bell_turn');
  await page.goto(`${house.url}/convert/${id}`);
  await press(page, /^Names/);
  await page.getByLabel('Stem').fill('bell');
  await page.keyboard.press('Escape');
  await press(page, /^First number/);
  await page.getByLabel('First number').last().fill('1001');
  await page.keyboard.press('Escape');
  const before = readFileSync(join(house.data, 'results', 'bell', 'bell.1001.png'));
  // Told before anything is pressed; and refused where it is asked for all the same.
  await expect(page.getByRole('alert')).toContainText('59 of 59 names exist already in bell: bell.1001.png');
  await expect(page.getByRole('button', { name: 'Run 59 frames' })).toBeDisabled();
  const write = { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' };
  const spec = { version: 1, write, names: { stem: 'bell', first: 1001 } };
  expect(await house.send('POST', '/jobs', { source: id, spec })).toMatchObject({
    status: 409,
    body: { code: 'output-exists' },
  });
  expect(readFileSync(join(house.data, 'results', 'bell', 'bell.1001.png')).equals(before)).toBe(true);

  await press(page, /^Frames/);
  await page.getByLabel('Frames').last().fill('60-1');
  await expect(page.getByText('"60-1" is not a frame range.')).toBeVisible();
  await page.keyboard.press('Escape');

  await page.goto(`${house.url}/inspect/${id}`);
  await page.getByRole('combobox', { name: 'Rate' }).click();
  await page.getByRole('option', { name: 'another rate' }).click();
  await page.getByLabel('Rate in frames per second').fill('0');
  await expect(page.getByText('"0" is not a frame rate.')).toBeVisible();
});

test('pages without anything to show say what to do first', async ({ page }) => {
  await page.goto(`${house.url}/inspect`);
  await expect(page.getByRole('heading', { name: 'Nothing to look at yet' })).toBeVisible();
  await page.goto(`${house.url}/convert`);
  await expect(page.getByRole('heading', { name: 'Nothing to convert yet' })).toBeVisible();
  await page.goto(`${house.url}/inspect/0123456789abcdef`);
  await expect(page.getByRole('alert')).toContainText('This source no longer exists.');
  await page.getByRole('button', { name: /^Colours: Daylight/ }).click();
  await expect(page.getByRole('button', { name: /^Colours: Basalt/ })).toBeVisible();
  await page.reload();
  await expect(page.getByRole('button', { name: /^Colours: Basalt/ })).toBeVisible();
});
