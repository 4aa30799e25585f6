import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { chromium, type Page } from '@playwright/test';
import { chromiumOptions } from '../e2e/chromium.ts';
import { House } from '../e2e/house.ts';
import { buildPage } from './steps.mjs';

// `npm run screenshots`: the main views at 1280 x 800, from the demo footage, into docs/screenshots.
const folder = fileURLToPath(new URL('../docs/screenshots', import.meta.url));
mkdirSync(folder, { recursive: true });

buildPage();
const house = new House();
await house.start();
const browser = await chromium.launch(chromiumOptions);

async function shoot(page: Page, name: string, path: string, ready: (page: Page) => Promise<unknown>): Promise<void> {
  await page.goto(`${house.url}${path}`);
  await ready(page);
  await page.waitForTimeout(600);
  await page.screenshot({ path: join(folder, `${name}.png`) });
  console.log(`${name}.png`);
}

const pictures = (page: Page) =>
  page.waitForFunction(
    () => [...document.querySelectorAll('img')].every((image) => image.complete && image.naturalWidth > 0),
    undefined,
    { timeout: 60_000 },
  );
const staged = (page: Page) => page.locator('[data-testid=stage][data-state=ready]').waitFor({ timeout: 60_000 });

try {
  const bell = await house.source('bell_turn');
  const depot = await house.source('depot_pan');
  await house.source('yard_cam_d');
  await house.send('PUT', `/sources/${bell}/word`, { rate: { num: 24, den: 1 }, alpha: 'straight' });
  const spec = (more: object) => ({
    version: 1,
    write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
    ...more,
  });
  const light = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: 'light' });
  const dark = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: 'dark' });
  await light.addInitScript((id) => sessionStorage.setItem('shale-source', id), bell);
  const scrolled = async (page: Page) => {
    await page.getByRole('button', { name: /^plates/ }).waitFor();
    // Rows ask for their pictures once they have stood for a moment.
    await page.waitForFunction(() => document.querySelectorAll('[role=row] img').length >= 5);
    await pictures(page);
  };
  await shoot(light, 'intake', '/intake', scrolled);
  await shoot(light, 'inspect', `/inspect/${bell}`, staged);
  await shoot(light, 'levels', `/inspect/${depot}`, async (page) => {
    await staged(page);
    await page.getByRole('button', { name: 'Warnings' }).click();
    await page.getByRole('button', { name: 'Levels' }).click();
    await page.getByTestId('clip-counts').getByText('above 1').waitFor();
    await staged(page);
    const stage = (await page.getByTestId('stage').boundingBox())!;
    await page.mouse.move(stage.x + stage.width * 0.5, stage.y + stage.height * 0.62);
    await page.getByTestId('readout').getByText(/RGBA/).waitFor();
  });
  const inForce = JSON.stringify(spec({ missing: 'leave-out', names: { stem: 'bell', first: 1001 } }));
  await light.evaluate(([id, text]) => sessionStorage.setItem(`shale-spec-${id}`, text), [bell, inForce] as const);
  await shoot(light, 'convert', `/convert/${bell}`, async (page) => {
    await staged(page);
    await page.getByText(/Losses, measured on/).waitFor();
    const strip = page.getByRole('slider', { name: 'Frame' });
    await strip.focus();
    for (const key of [
      'PageDown',
      'PageDown',
      'PageDown',
      'ArrowRight',
      'ArrowRight',
      'ArrowRight',
      'ArrowRight',
      'ArrowRight',
    ])
      await page.keyboard.press(key);
    await staged(page);
  });
  await shoot(light, 'proof', `/convert/${bell}`, async (page) => {
    await staged(page);
    await page.getByRole('button', { name: 'Try 1 frame' }).click();
    await page.getByRole('button', { name: 'Try 3 frames' }).click();
    await page.locator('[data-testid=stage][data-second-state=ready]').waitFor();
    await page.getByTestId('comparison').waitFor();
    const stage = (await page.getByTestId('stage').boundingBox())!;
    await page.mouse.move(stage.x + stage.width * 0.52, stage.y + stage.height * 0.5);
    await page
      .getByTestId('readout')
      .getByText(/Proof RGBA \d/)
      .waitFor();
  });
  const plate = await house.source('platform_plate');
  const marker = (frame: number, name: string, colour: string, more: object = {}) => ({ frame, name, colour, ...more });
  await house.send('PUT', `/sources/${plate}/markers`, {
    version: 0,
    markers: [
      marker(24, 'bell rings', 'ochre', { note: 'once' }),
      marker(90, 'doors open', 'cinnabar', { length: 48 }),
      marker(131, 'driver waves', 'plum', { note: 'second take' }),
      marker(206, 'lamp behind the tram', 'slate'),
    ],
  });
  await shoot(light, 'markers', `/inspect/${plate}`, async (page) => {
    await staged(page);
    await page.getByRole('button', { name: 'Markers', exact: true }).click();
    await page.getByRole('listitem').filter({ hasText: 'doors open' }).getByRole('button').first().click();
    await page.getByLabel('Note').waitFor();
    await staged(page);
  });
  const walk = await house.source('conductor_walk');
  await house.send('PUT', `/sources/${walk}/word`, { rate: { num: 24, den: 1 }, alpha: 'straight', transfer: 'srgb' });
  await shoot(light, 'cadence', `/inspect/${walk}`, async (page) => {
    await staged(page);
    await page.getByRole('button', { name: 'Cadence' }).click();
    await page.getByRole('button', { name: 'Find its cadence' }).click();
    await page.getByTestId('cadence').waitFor({ timeout: 60_000 });
  });
  const keys = [
    { from: 1001, to: 0 },
    { from: 1031, to: 40 },
    { from: 1031, to: 56 },
    { from: 1096, to: 92 },
  ];
  const retimed = spec({ time: { how: 'curve', curve: { keys, bend: 'smooth' }, between: 'blend' } });
  await light.evaluate(([id, text]) => sessionStorage.setItem(`shale-spec-${id}`, text), [
    depot,
    JSON.stringify(retimed),
  ] as const);
  await shoot(light, 'time', `/convert/${depot}`, async (page) => {
    await staged(page);
    await page.getByRole('button', { name: /^Time:/ }).click();
    await page.getByTestId('time-gives').waitFor();
  });
  await shoot(light, 'reckoner', '/reckoner', (page) => page.getByTestId('answer Frame').waitFor());
  const ticket = await house.source('ticket_loop');
  await light.evaluate(([id, text]) => sessionStorage.setItem(`shale-spec-${id}`, text), [
    ticket,
    JSON.stringify(
      spec({
        write: { format: 'gif', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
        picture: { resize: { to: { by: 'limit', width: 360, height: 360 } } },
        time: { how: 'rate', rate: { num: 24, den: 1 } },
        video: { limit: 32_000, edgeColour: 'outline' },
      }),
    ),
  ] as const);
  await shoot(light, 'small', `/convert/small/${ticket}`, async (page) => {
    await page.getByText(/ % after \d encodes/).waitFor({ timeout: 60_000 });
    await page.getByText('Searching').waitFor({ state: 'detached', timeout: 60_000 });
  });
  const naming = (sources: string[], rules: object[]) =>
    light.evaluate(
      (text) => sessionStorage.setItem('shale-naming', text),
      JSON.stringify({
        sources,
        spec: { version: 1, rules, mode: 'copy', into: { root: 'results', folder: 'plates/{stem}' } },
        receiver: 'viewport-plate',
      }),
    );
  await naming(
    [bell],
    [
      { kind: 'characters', keep: '', with: '' },
      { kind: 'number', first: 0, digits: 4, before: '.' },
    ],
  );
  await shoot(light, 'rename', '/rename', (page) => page.getByText('bellturn.0000.png').first().waitFor());
  await shoot(light, 'receivers', '/specs/receivers/viewport-plate', (page) => page.getByTestId('strictly').waitFor());
  const done = await house.send('POST', '/jobs', { source: bell, spec: JSON.parse(inForce) as object });
  await light.goto(`${house.url}/jobs`);
  await light.locator('[data-testid=job][data-state=done]').first().waitFor({ timeout: 120_000 });
  await house.send('POST', '/jobs', { source: depot, spec: spec({ names: { stem: 'depot' } }) });
  await shoot(light, 'many', '/intake?root=museum&folder=lines', async (page) => {
    await page.getByRole('grid', { name: 'Sources' }).focus();
    await page.keyboard.press('Control+a');
    await page.getByRole('button', { name: 'Convert 12 sequences' }).click();
    await page.getByRole('button', { name: 'Also write' }).click();
    await page.getByRole('menuitem', { name: /^Review video/ }).click();
    await page.getByRole('option').filter({ hasText: 'line_04' }).click();
    await page.getByTestId('sums').getByText(/about/).waitFor({ timeout: 120_000 });
    await staged(page);
  });
  await light.evaluate((id) => sessionStorage.removeItem(`shale-spec-${id}`), depot);
  await shoot(light, 'jobs', '/jobs', (page) => page.getByText(/[2-8]\d\/96 written/).waitFor({ timeout: 120_000 }));
  await shoot(light, 'server', '/server', (page) =>
    page.getByText(/[1-9]\d* files written/).waitFor({ timeout: 120_000 }),
  );
  await shoot(light, 'receipts', `/receipts/${done.body.id as string}`, (page) => staged(page));
  await light.locator('header').getByText('idle').waitFor({ timeout: 120_000 });
  await house.send('POST', '/standing-orders', {
    order: {
      ...{ version: 1, name: 'Lines of the day', root: 'museum', folder: 'lines', fits: { kinds: ['sequence'] } },
      outputs: [spec({ into: { root: 'results', folder: 'lines/{folder}' } })],
    },
  });
  await shoot(light, 'standing', '/jobs/standing', (page) =>
    page.getByText(/^ended: \d+ files written/).waitFor({ timeout: 120_000 }),
  );
  await shoot(dark, 'intake-basalt', '/intake', scrolled);
  await shoot(dark, 'convert-basalt', `/convert/${depot}`, async (page) => {
    await staged(page);
    await page.getByText(/Losses, measured on/).waitFor();
  });
} finally {
  await browser.close();
  await house.leave();
}
