import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { House } from './house.ts';

// Every page by every hand: with a reader, by keyboard, zoomed, in either scheme; with the demo footage in it and a job done.

const house = new House();
let source: string;
let sound: string;
let clip: string;
let job: string;

test.beforeAll(async () => {
  test.setTimeout(240_000);
  await house.start();
  source = await house.source('bell_turn');
  sound = await house.source('announcement');
  clip = await house.source('platform_plate');
  const spec = {
    version: 1,
    write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
    into: { root: 'results', folder: 'hands' },
  };
  const { body } = await house.send('POST', '/jobs', { source, spec });
  expect(body).toHaveProperty('id');
  job = body.id as string;
  await expect
    .poll(async () => (await house.send('GET', `/jobs/${job}`)).body.state, { timeout: 120_000 })
    .toBe('done');
});
test.afterAll(() => house.leave());

/** Pages with something in them, by what they are called here. */
const pages = (): Record<string, string> => ({
  intake: '/intake',
  inspect: `/inspect/${source}`,
  sound: `/inspect/${sound}`,
  heard: `/inspect/${clip}?beside=sound`,
  convert: `/convert/${source}`,
  small: `/convert/small/${source}`,
  history: '/rename/history',
  jobs: '/jobs',
  standing: '/jobs/standing',
  server: '/server',
  receipt: `/receipts/${job}`,
  specs: '/specs',
  reckoner: '/reckoner',
  nowhere: '/nowhere',
});
const names = Object.keys(pages());

/** Opens a page and waits until nothing on it is still being read. */
async function open(page: Page, name: string): Promise<void> {
  await page.goto(`${house.url}${pages()[name]!}`);
  await expect(page.getByRole('main')).not.toBeEmpty();
  await expect(page.getByRole('progressbar', { name: /^(Reading|Loading|Working|Measuring)/ })).toHaveCount(0);
  await page.waitForTimeout(600);
}

/** What a page breaks of WCAG 2.2 AA: rule, and where. */
async function broken(page: Page): Promise<string[]> {
  const { violations } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'])
    .analyze();
  return violations.flatMap(({ id, nodes }) =>
    nodes.map(({ target, failureSummary }) => `${id}: ${target.join(' ')}: ${failureSummary?.split('\n')[1]?.trim()}`),
  );
}

/** Things that lie over a page, and how a keyboard brings them up. */
const over: Record<string, (page: Page) => Promise<void>> = {
  'the keys': async (page) => {
    await page.keyboard.press('?');
    await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible();
  },
  'the search': async (page) => {
    await page.keyboard.press('Control+k');
    await expect(page.getByRole('combobox', { name: 'Source, page or action' })).toBeFocused();
    await page.keyboard.type('bell');
    await expect(page.getByRole('dialog', { name: 'Find' }).getByText('bell_turn_#.png')).toBeVisible();
  },
  'a declaration': async (page) => {
    await chooseBell(page);
    await page.keyboard.press('d');
    await expect(page.getByRole('dialog', { name: /^Declare/ })).toBeVisible();
  },
  'new names': async (page) => {
    await chooseBell(page);
    await page.keyboard.press('r');
    await expect(page.getByTestId('outcome').or(page.getByText('Nothing changes yet.')).first()).toBeVisible();
  },
};

/** Chooses a source in the list by keys alone. */
async function chooseBell(page: Page): Promise<void> {
  const list = page.getByRole('grid', { name: 'Sources' });
  await list.focus();
  await page.keyboard.press('Home');
  for (let keys = 0; keys < 40; keys += 1) {
    const at = page.getByRole('row', { selected: true });
    if ((await at.count()) > 0 && (await at.first().innerText()).includes('bell_turn_#.png')) return;
    await page.keyboard.press('ArrowDown');
    await page.waitForTimeout(60);
  }
  throw new Error('the list has no bell_turn');
}

for (const name of names)
  test(`${name}, in both schemes: nothing that a reader or the standard stumbles over`, async ({ page }) => {
    await open(page, name);
    expect(await broken(page)).toEqual([]);
    await page.getByRole('button', { name: /^Colours/ }).click();
    await page.waitForTimeout(200);
    expect(await broken(page)).toEqual([]);
  });

for (const [what, bring] of Object.entries(over))
  test(`over a page: ${what}`, async ({ page }) => {
    await open(page, 'intake');
    await bring(page);
    await page.waitForTimeout(400);
    expect(await broken(page)).toEqual([]);
  });

test('a source is found, looked at, converted and its receipt read by keys alone', async ({ page }) => {
  await open(page, 'intake');
  let keys = 0;
  const press = async (key: string) => {
    keys += 1;
    await page.keyboard.press(key);
  };
  const find = async (text: string) => {
    await press('Control+k');
    await expect(page.getByRole('combobox', { name: 'Source, page or action' })).toBeFocused();
    await page.keyboard.type(text);
    keys += text.length;
    const first = page.getByRole('dialog', { name: 'Find' }).getByRole('option').first();
    await expect(first).toContainText(text, { ignoreCase: true });
  };
  await find('bell_t');
  await press('Enter');
  await expect(page).toHaveURL(/\/inspect\//);
  await find('Convert the');
  await press('Enter');
  await expect(page).toHaveURL(/\/convert/);
  expect(keys).toBeLessThan(25);
  // Past the navigation by the first key of a page.
  await page.goto(`${house.url}/intake`);
  await page.getByRole('main').waitFor();
  await page.keyboard.press('Tab');
  await expect(page.getByRole('link', { name: 'Skip to the page' })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('main')).toBeFocused();
});

test('a reader’s way: Intake, Convert, the job, its receipt, by names and keys alone', async ({ page }) => {
  await open(page, 'intake');
  await expect(page.getByRole('heading', { level: 1 })).toHaveText(/^\d+ sources/);
  await chooseBell(page);
  let keys = 0;
  const press = async (key: string) => {
    keys += 1;
    await page.keyboard.press(key);
  };
  await press('c');
  await expect(page.getByRole('heading', { level: 1, name: 'Convert bell_turn_#.png' })).toBeAttached();
  await expect(
    page
      .getByRole('tabpanel')
      .or(page.getByRole('table', { name: 'Plan' }))
      .first(),
  ).toBeVisible();
  await expect(page.getByRole('button', { name: 'Run 59 frames' })).toBeEnabled();
  await press('Control+Enter');
  await expect(page).toHaveURL(/\/jobs/);
  await expect(page.getByRole('main').getByText('59/59 written').first()).toBeVisible({ timeout: 120_000 });
  await press('Control+k');
  await expect(page.getByRole('combobox', { name: 'Source, page or action' })).toBeFocused();
  await page.keyboard.type('rec');
  keys += 3;
  await expect(page.getByRole('dialog', { name: 'Find' }).getByRole('option').first()).toContainText('Receipts');
  await press('Enter');
  await expect(page.getByRole('heading', { level: 1 })).toHaveText(/59 frames written/);
  await expect(page.getByRole('main')).toContainText('was read back from disk');
  expect(keys).toBeLessThan(10);
});

test('in colours that the system sets, what is chosen has an edge', async ({ page }) => {
  await page.emulateMedia({ forcedColors: 'active' });
  await open(page, 'intake');
  await chooseBell(page);
  await expect(page.getByRole('row', { selected: true })).toHaveCSS('outline-style', 'solid');
});

test('by touch: a source is tapped, played, scrubbed, and zoomed by two fingers', async ({ browser }) => {
  const context = await browser.newContext({ hasTouch: true, viewport: { width: 1180, height: 820 } });
  const page = await context.newPage();
  await page.goto(`${house.url}/intake`);
  await page.getByRole('row').filter({ hasText: 'first_light.####.exr' }).first().tap();
  await page.getByRole('button', { name: 'Inspect', exact: true }).first().tap();
  const stage = page.getByTestId('stage');
  await expect(stage).toHaveAttribute('data-state', 'ready');
  const strip = (await page.getByRole('slider', { name: 'Frame', exact: true }).boundingBox())!;
  await page.touchscreen.tap(strip.x + strip.width * 0.75, strip.y + strip.height / 2);
  const first = await stage.getAttribute('data-frame');
  await page.touchscreen.tap(strip.x + strip.width * 0.25, strip.y + strip.height / 2);
  await expect(stage).not.toHaveAttribute('data-frame', first!);
  await page.getByRole('button', { name: /^Play/ }).tap();
  await expect(page.getByTestId('playback')).toBeVisible();
  await page.getByRole('button', { name: /^Pause/ }).tap();
  // Apart by three, around the middle.
  const { x, y, width, height } = (await stage.boundingBox())!;
  const session = await context.newCDPSession(page);
  const fingers = (type: 'touchStart' | 'touchMove' | 'touchEnd', apart: number) =>
    session.send('Input.dispatchTouchEvent', {
      type,
      touchPoints:
        type === 'touchEnd'
          ? []
          : [-1, 1].map((side, id) => ({ id, x: x + width / 2 + (side * apart) / 2, y: y + height / 2 })),
    });
  await fingers('touchStart', 80);
  for (let apart = 100; apart <= 240; apart += 20) await fingers('touchMove', apart);
  await fingers('touchEnd', 0);
  await expect(page.getByText(/^\d{2,3} %$/)).toBeVisible();
  await fingers('touchStart', 240);
  for (let apart = 220; apart >= 40; apart -= 20) await fingers('touchMove', apart);
  await fingers('touchEnd', 0);
  await expect(page.getByText('whole', { exact: true })).toBeVisible();
  await context.close();
});

for (const [width, height] of [
  [640, 400],
  [1280, 800],
  [1920, 1080],
  [3840, 2160],
] as const)
  test(`at ${width} by ${height} no page scrolls sideways, and nothing jumps or fails on the way`, async ({ page }) => {
    const told: string[] = [];
    page.on('console', (message) => ['error', 'warning'].includes(message.type()) && told.push(message.text()));
    page.on('pageerror', (error) => told.push(String(error)));
    page.on(
      'requestfailed',
      (request) => request.failure()?.errorText !== 'net::ERR_ABORTED' && told.push(request.url()),
    );
    await page.setViewportSize({ width, height });
    await page.addInitScript(() => {
      const seen = window as unknown as { shift: number; shifted: string[] };
      seen.shift = 0;
      seen.shifted = [];
      new PerformanceObserver((list) => {
        for (const entry of list.getEntries() as (PerformanceEntry & {
          value: number;
          hadRecentInput: boolean;
          sources: { node: Node | null }[];
        })[])
          if (!entry.hadRecentInput) {
            seen.shift += entry.value;
            seen.shifted.push(...entry.sources.map(({ node }) => (node?.textContent ?? '').slice(0, 40)));
          }
      }).observe({ type: 'layout-shift', buffered: true });
    });
    for (const name of names) {
      await open(page, name);
      const found = await page.evaluate(() => ({
        sideways: document.documentElement.scrollWidth - window.innerWidth,
        stage: document.querySelector('[data-testid=stage]')?.getBoundingClientRect().height,
        shift: (window as unknown as { shift: number }).shift,
        shifted: (window as unknown as { shifted: string[] }).shifted,
      }));
      if (found.sideways > 0) told.push(`${name} is ${found.sideways} px too wide`);
      if (found.stage !== undefined && found.stage < 160) told.push(`${name} has a stage of ${found.stage} px`);
      if (found.shift > 0.01) told.push(`${name} shifts by ${found.shift.toFixed(3)}: ${found.shifted.join(' | ')}`);
    }
    expect(told).toEqual([]);
  });
