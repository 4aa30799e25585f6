import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import sharp from 'sharp';
import { ClipReader } from '@shale/media';
import { House } from './house.ts';

const house = new House();
test.beforeAll(() => house.start());
test.afterAll(() => house.leave());

const demo = process.env.SHALE_DEMO ?? join(import.meta.dirname, '..', '.shale', 'demo', 'tram_museum');
const results = (folder: string) => join(house.data, 'results', folder);
const sentence = (page: Page) => page.getByTestId('sentence');

async function declared(name: string, word: object): Promise<string> {
  const id = await house.source(name);
  expect((await house.send('PUT', `/sources/${id}/word`, word)).status).toBe(200);
  return id;
}
const opaque = { alpha: 'none', transfer: 'srgb', rate: { num: 24, den: 1 } };

/** Runs what the page says and waits for the job. */
async function run(page: Page): Promise<void> {
  await page.getByRole('button', { name: /^Run \d/ }).click();
  await expect(page).toHaveURL(/jobs/);
  await expect
    .poll(async () => (await house.get<{ state: string }[]>('/jobs'))[0]!.state, { timeout: 120_000 })
    .toBe('done');
}

/** How far a written picture is from a frame of the source, in codes. */
async function distance(made: string, source: string): Promise<number> {
  const [a, b] = await Promise.all([made, source].map((path) => sharp(path).removeAlpha().raw().toBuffer()));
  let sum = 0;
  for (let at = 0; at < a!.length; at += 97) sum += Math.abs(a![at]! - b![at]!);
  return sum / (a!.length / 97);
}

test('a shot is retimed in the chart and the table, and the frames written are those of the mapping', async ({
  page,
}) => {
  test.setTimeout(150_000);
  const id = await declared('yard_cam_d', opaque);
  await page.goto(`${house.url}/convert/${id}`);
  await page.getByRole('button', { name: 'What stays as it is' }).click();
  await sentence(page).getByRole('button', { name: 'Time: at its own speed' }).click();
  const time = page.getByRole('dialog', { name: 'Time' });
  await time.getByLabel('Frames are').click();
  await page.getByRole('option', { name: 'retimed by a curve' }).click();
  await expect(time.getByTestId('time-gives')).toHaveText('Gives 40 frames at 24 fps, 1.67 s.');
  // Twice as fast.
  await time.getByLabel('Result frame of key 2').fill('20');
  await expect(time.getByText('195%')).toBeVisible();
  await expect(time.getByTestId('time-gives')).toContainText('Gives 21 frames');
  await time.getByRole('button', { name: 'Freeze for 12' }).click();
  await expect(time.getByTestId('time-gives')).toContainText('Gives 33 frames');
  // The last key is dragged to the right, and another frame is refused in words.
  const chart = time.getByRole('img', { name: /^Retime curve with 3 keys/ });
  const box = (await chart.boundingBox())!;
  const pixels = (to: number) => box.x + 52 + (to * (box.width - 100)) / Math.max(34, Math.ceil(32 * 1.08));
  const y = box.y + 26;
  await page.mouse.move(pixels(32), y);
  await page.mouse.down();
  await page.mouse.move(pixels(30), y + 10, { steps: 4 });
  await page.mouse.move(pixels(26), y + 2, { steps: 4 });
  await page.mouse.up();
  const dragged = time.getByLabel('Result frame of key 3');
  await expect(dragged).not.toHaveValue('32');
  expect(Number(await dragged.inputValue())).toBeLessThan(30);
  await time.getByLabel('Source frame of key 2').fill('9999');
  await expect(time.getByRole('alert').first()).toContainText(
    'Key 2 uses frame 9999, but the source has only 1261 to 1300.',
  );
  await time.getByLabel('Source frame of key 2').fill('1300');
  await time.getByLabel('Source frame of key 3').fill('1300');
  await dragged.fill('25');
  await expect(time.getByTestId('time-gives')).toContainText('Gives 26 frames');
  await page.keyboard.press('Escape');
  await expect(sentence(page)).toContainText('retimed by 3 keys');
  await run(page);
  const folder = results('yard_cam_d');
  expect(readdirSync(folder).length).toBe(26);
  // Result 10 is half of the way: 1261 + 10 * 39 / 20, rounded up.
  const source = (frame: number) => join(demo, 'yard_cams', 'yard_cam_d', `yard_cam_d.${frame}.jpg`);
  const made = (place: number) => join(folder, `yard_cam_d.${1261 + place}.png`);
  const [right, beside] = [await distance(made(10), source(1281)), await distance(made(10), source(1279))];
  expect(right).toBeLessThan(1.5);
  expect(beside).toBeGreaterThan(right);
  expect(await distance(made(25), source(1300))).toBeLessThan(1.5);
});

test('shots are put after one another, trimmed, handed out as an edit list and brought back', async ({ page }) => {
  test.setTimeout(150_000);
  const ids = [];
  for (const name of ['yard_cam_a', 'yard_cam_b', 'yard_cam_c']) ids.push(await declared(name, opaque));
  await page.goto(`${house.url}/convert/${ids[0]}`);
  await sentence(page)
    .getByRole('button', { name: /^Source:/ })
    .click();
  const source = page.getByRole('dialog', { name: 'Source' });
  for (const name of ['yard_cam_b', 'yard_cam_c']) {
    await source.getByLabel('Add a source at the end').fill(name);
    await page.getByRole('option').filter({ hasText: name }).click();
  }
  await source.getByLabel('Taken of shot 1').fill('1001-1010');
  await source.getByLabel('Taken of shot 2').fill('5-9');
  await expect(page.getByText('No frame of yard_cam_b.####.jpg, shot 2, is in 5-9.')).toBeVisible();
  await source.getByLabel('Taken of shot 2').fill('1130-1134');
  await source.getByLabel('Taken of shot 3').fill('1201-1203');
  await expect(source.getByRole('img', { name: '3 shots, 18 frames' })).toBeVisible();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    source.getByRole('button', { name: 'Export as EDL' }).click(),
  ]);
  const edl = readFileSync(await download.path(), 'utf8');
  expect(edl.match(/^\d{3} /gm)).toHaveLength(3);
  expect(edl).toContain('00:00:00:09 00:00:00:14 00:00:00:10 00:00:00:15');
  // The order of the shots that follow is changed by keyboard.
  await source.getByRole('button', { name: 'Move: yard_cam_c.####.jpg' }).focus();
  for (const key of ['Space', 'ArrowUp', 'Space']) {
    await page.keyboard.press(key);
    await page.waitForTimeout(250);
  }
  await expect(source.getByLabel('Taken of shot 2')).toHaveValue('1201-1203');
  // What was handed out brings the order back; an unknown reel is said.
  const file = join(house.data, 'yard.edl');
  writeFileSync(file, `${edl}004  gone     V     C        00:00:00:00 00:00:01:00 00:00:00:18 00:00:01:18\n`);
  await source.locator('input[type=file]').setInputFiles(file);
  await expect(source.getByLabel('Taken of shot 2')).toHaveValue('1130-1134');
  await expect(source.getByText('event 004: no source is called gone.')).toBeVisible();
  await page.keyboard.press('Escape');
  await sentence(page)
    .getByRole('button', { name: /^Format and depth/ })
    .click();
  await page.getByRole('combobox', { name: 'Format' }).click();
  await page.getByRole('option', { name: 'FFV1' }).click();
  await page.keyboard.press('Escape');
  await run(page);
  const reader = await ClipReader.open(join(house.data, 'results', 'yard_cam_a.mkv'));
  expect(reader.count).toBe(18);
  await reader.close();
});

test('markers are set, named and brought; stills bear their names, and what collides is said before', async ({
  page,
  context,
}) => {
  test.setTimeout(150_000);
  const id = await declared('platform_plate', {});
  await page.goto(`${house.url}/inspect/${id}`);
  await page.getByRole('button', { name: 'Markers', exact: true }).click();
  await page.getByRole('button', { name: 'Mark frame 0' }).click();
  await page.getByLabel('Name').fill('Bell rings');
  await page.getByLabel('Note').click();
  await expect(page.getByRole('listitem').filter({ hasText: 'Bell rings' })).toBeVisible();
  // Another tab, which saw the markers as they were.
  const other = await context.newPage();
  await other.goto(`${house.url}/inspect/${id}`);
  await other.getByRole('button', { name: 'Markers', exact: true }).click();
  await expect(other.getByRole('listitem')).toHaveCount(1);
  const stale = await house.get<{ version: number; markers: object[] }>(`/sources/${id}/markers`);
  const list = join(house.data, 'markers.csv');
  writeFileSync(
    list,
    'tc,name,comment,color\n00:00:01:00,bell rings,again,yellow\n00:00:02:00,doors/open,,red\n00:00:99:00,no,,\n',
  );
  await page.locator('input[type=file]').setInputFiles(list);
  await expect(page.getByRole('listitem')).toHaveCount(3);
  await expect(page.getByText('row 4: "00:00:99:00" is not a timecode at 25 fps.')).toBeVisible();
  await expect(other.getByRole('listitem')).toHaveCount(3);
  const refused = await house.send('PUT', `/sources/${id}/markers`, { ...stale, markers: [] });
  expect([refused.status, refused.body.code]).toEqual([409, 'markers-changed']);
  const outside = await house.send('PUT', `/sources/${id}/markers`, {
    version: stale.version + 1,
    markers: [{ frame: 9999 }],
  });
  expect(outside.body.fact).toContain('the source has 0 to 249');
  const sheet = await fetch(`${house.url}/api/sources/${id}/sheet?at=markers&columns=3`);
  expect((await sharp(Buffer.from(await sheet.arrayBuffer())).metadata()).format).toBe('png');
  const pdf = await fetch(`${house.url}/api/sources/${id}/sheet?kind=pdf&count=6`);
  expect(
    Buffer.from(await pdf.arrayBuffer())
      .subarray(0, 5)
      .toString(),
  ).toBe('%PDF-');
  await page.getByRole('button', { name: 'Make stills at the markers' }).click();
  await expect(page.getByText('One name is the name of several markers')).toBeVisible();
  await sentence(page)
    .getByRole('button', { name: /^Frames: at 3 markers/ })
    .click();
  await page.getByLabel('Of the colours').click();
  await page.getByRole('option', { name: 'cinnabar' }).click();
  await page.getByRole('option', { name: 'verdigris' }).click();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  await expect(sentence(page)).toContainText('at 2 markers');
  await run(page);
  expect(readdirSync(results('platform_plate')).sort()).toEqual([
    'platform_plate_Bell_rings.png',
    'platform_plate_doors-open.png',
  ]);
});

test('a walk on twos is found, and comes out without its repeats', async ({ page }) => {
  test.setTimeout(120_000);
  const id = await declared('conductor_walk', { alpha: 'straight', transfer: 'srgb', rate: { num: 24, den: 1 } });
  await page.goto(`${house.url}/inspect/${id}`);
  await page.getByRole('button', { name: 'Cadence' }).click();
  await page.getByRole('button', { name: 'Find its cadence' }).click();
  await expect(page.getByTestId('cadence')).toHaveText('On twos', { timeout: 60_000 });
  await page.getByRole('button', { name: 'Convert without its 12 repeats' }).click();
  await expect(sentence(page)).toContainText('without repeated frames');
  await run(page);
  expect(readdirSync(results('conductor_walk')).length).toBe(12);
});

test('the reckoner tells a moment in every way, and refuses in words', async ({ page, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await page.goto(`${house.url}/reckoner`);
  await page.getByLabel('Rate', { exact: true }).fill('29.97');
  await page.getByLabel('Given as').click();
  await page.getByRole('option', { name: 'Timecode' }).click();
  await page.getByLabel('Moment', { exact: true }).fill('00:01:00;01');
  await expect(page.getByText('Drop-frame counting skips 00:01:00;01.')).toBeVisible();
  await page.getByLabel('Moment', { exact: true }).fill('00:01:00;02');
  await expect(page.getByTestId('answer Frame')).toHaveText('1800');
  await expect(page.getByTestId('answer Timecode')).toHaveText('00:01:00:00');
  await expect(page.getByTestId('answer Seconds')).toHaveText('60.06');
  await expect(page.getByTestId('answer Drift a minute')).toHaveText('1.798202');
  await page.getByRole('button', { name: 'Copy Seconds: 60.06' }).click();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe('60.06');
  await page.getByLabel('Played at').fill('0');
  await expect(page.getByText('"0" is not a frame rate.')).toBeVisible();
});
