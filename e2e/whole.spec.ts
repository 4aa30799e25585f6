import { execFile } from 'node:child_process';
import { mkdtempSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { expect, test, type Page } from '@playwright/test';
import { House } from './house.ts';

// Whole ways through the page, where parts that each worked did not work together.

const run = promisify(execFile);
const house = new House();
test.beforeAll(async () => {
  await house.start();
  await house.rested();
});
test.afterAll(() => house.leave());

const rows = (page: Page) => page.getByRole('row');
const sentence = (page: Page) => page.getByTestId('sentence');
const press = (page: Page, part: RegExp) => sentence(page).getByRole('button', { name: part }).click();
const choose = async (page: Page, label: string, option: string | RegExp) => {
  // By key: on a busy machine the release of a press may come late enough to take the entry under it.
  await page.getByRole('combobox', { name: label }).last().press('Enter');
  await page.getByRole('option', { name: option, exact: typeof option === 'string' }).click();
  // A menu that is fading away would take the next press.
  await expect(page.locator('.MuiMenu-root')).toHaveCount(0);
};

test('every folder that is pressed shows as many rows as its heading counts', async ({ page }) => {
  await page.goto(house.url);
  await expect(rows(page).first()).toBeVisible();
  const folders = page.getByRole('complementary', { name: 'Roots' }).getByRole('button', { name: /\d$/ });
  const names = (await folders.allTextContents()).filter((name) => !/0$/.test(name) || /[1-9]\d*0$/.test(name));
  expect(names.length).toBeGreaterThan(5);
  // From the root into each, and straight from one to the next.
  for (const name of [...names, ...names.flatMap((one) => [names[0]!, one])]) {
    await folders.filter({ hasText: name }).first().click();
    const heading = page.getByRole('heading', { level: 1 });
    const count = Number(/(\d+)$/.exec(name)![1]);
    await expect(heading).toHaveText(new RegExp(`^${count} source`));
    await expect.poll(() => rows(page).count()).toBeGreaterThanOrEqual(Math.min(count, 7));
  }
});

test('one checked box, and a row that was chosen before, are what the buttons act on', async ({ page }) => {
  await page.goto(house.url);
  const inspect = page.getByRole('button', { name: 'Inspect', exact: true });
  const convert = page.getByRole('button', { name: /^Convert/ });
  await expect(rows(page).first()).toBeVisible();
  await expect(inspect).toBeDisabled();
  const bell = rows(page).filter({ hasText: 'bell_turn_#.png' });
  await page.getByRole('button', { name: /^turntables/ }).click();
  await page.getByRole('checkbox', { name: 'Select bell_turn_#.png' }).check();
  await expect(inspect).toBeEnabled();
  await expect(convert).toBeEnabled();
  await expect(convert).toHaveText('Convert 1 sequence');
  const ticket = page.getByRole('checkbox', { name: /^Select ticket_loop/ });
  await ticket.check();
  await expect(convert).toHaveText('Convert 2 sequences');
  await ticket.uncheck();
  await expect(convert).toHaveText('Convert 1 sequence');
  // A row that was pressed and a box that is checked are one selection.
  await page.keyboard.press('Escape');
  await page.getByRole('checkbox', { name: 'Select bell_turn_#.png' }).uncheck();
  await bell.click();
  await ticket.check();
  await expect(convert).toHaveText('Convert 2 sequences');
  await expect(page.getByRole('checkbox', { name: 'Select bell_turn_#.png' })).toBeChecked();
  await ticket.uncheck();
  await inspect.click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('bell_turn_#.png');
  await page.goBack();
  await expect(bell).toHaveAttribute('aria-selected', 'true');
  await expect(inspect).toBeEnabled();
  await convert.click();
  await expect(sentence(page)).toContainText('bell_turn_#.png');
});

test('a format that was tried takes no alpha and no depth away', async ({ page }) => {
  const source = await house.source('bell_turn');
  await page.goto(`${house.url}/convert/${source}`);
  await press(page, /^Format/);
  await choose(page, 'Depth', '16-bit');
  await expect(sentence(page)).toContainText('write PNG, 16-bit, named');
  await choose(page, 'Format', 'JPEG');
  await expect(sentence(page)).toContainText('write JPEG, 8-bit with no alpha');
  await choose(page, 'Format', 'PNG');
  await expect(sentence(page)).toContainText('write PNG, 16-bit, named');
  // No line begins with a mark.
  const lines = await sentence(page).evaluate((paragraph) => {
    const range = document.createRange();
    const starts: string[] = [];
    const walker = document.createTreeWalker(paragraph, NodeFilter.SHOW_TEXT);
    let bottom = -Infinity;
    for (let node = walker.nextNode(); node; node = walker.nextNode())
      for (let at = 0; at < node.textContent!.length; at += 1) {
        range.setStart(node, at);
        range.setEnd(node, at + 1);
        const box = range.getBoundingClientRect();
        if (box.width > 0 && box.top > bottom) starts.push(node.textContent![at]!);
        if (box.width > 0) bottom = Math.max(bottom, box.bottom - 4);
      }
    return starts;
  });
  expect(lines.length).toBeGreaterThan(1);
  expect(lines.filter((mark) => /[;,.]/.test(mark))).toEqual([]);
});

test('names that exist are told before Run, with what would be replaced', async ({ page }) => {
  const source = await house.source('ticket_loop');
  const { body } = await house.send('POST', '/jobs', {
    source,
    spec: {
      version: 1,
      write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
      names: { stem: 'there' },
    },
  });
  const total = body.total as number;
  await expect.poll(async () => (await house.get<{ state: string }>(`/jobs/${body.id as string}`)).state).toBe('done');
  await page.goto(`${house.url}/convert/${source}`);
  await press(page, /^Names/);
  await page.getByLabel('Stem').fill('there');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('alert')).toContainText(`${total} of ${total} names exist already in there`);
  const button = page.getByRole('button', { name: /^Run/ });
  await expect(button).toBeDisabled();
  await expect(page.getByText(/^Losses, measured on/)).toBeVisible();
  // One press mends it: a folder beside it that is not there yet.
  await page.getByRole('button', { name: 'Use there_2' }).click();
  await expect(sentence(page)).toContainText('into results/there_2');
  await expect(page.getByRole('alert')).toHaveCount(0);
  await expect(button).toBeEnabled();
  await press(page, /^Folder/);
  await page.getByLabel('Folder').last().fill('there');
  await page.getByText('Replace the file').click();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('alert')).toHaveCount(0);
  await expect(page.getByText(`${total} files with these names are there and will be replaced.`)).toBeVisible();
  await expect(button).toBeEnabled();
});

test('stills at markers: their receipt reads them by their own names', async ({ page }) => {
  const source = await house.source('yard_cam_a');
  const { version } = await house.get<{ version: number }>(`/sources/${source}/markers`);
  const first = (await house.get<{ coverage: { first: number }[] }>(`/sources/${source}`)).coverage[0]!.first;
  const marker = (frame: number, name: string) => ({ frame: first + frame, name });
  const markers = [marker(2, 'bell'), marker(5, 'door'), marker(9, 'wire')];
  expect((await house.send('PUT', `/sources/${source}/markers`, { version, markers })).status).toBe(200);
  const { body } = await house.send('POST', '/jobs', {
    source,
    spec: {
      version: 1,
      frames: 'markers',
      write: { format: 'png', sample: 'u8', alpha: 'none', transfer: 'srgb' },
      names: { template: '{marker}.{ext}' },
      into: { root: 'results', folder: 'marked' },
    },
  });
  const id = body.id as string;
  await expect.poll(async () => (await house.get<{ state: string }>(`/jobs/${id}`)).state).toBe('done');
  expect(readdirSync(join(house.data, 'results', 'marked')).sort()).toEqual(['bell.png', 'door.png', 'wire.png']);
  await page.goto(`${house.url}/receipts/${id}`);
  const receipt = page.getByTestId('receipt');
  await expect(receipt).toContainText('marked/bell.png and 2 more');
  await expect(receipt.getByRole('alert')).toHaveCount(0);
  await expect(receipt.getByTestId('stage').first()).toHaveAttribute('data-state', 'ready');
  const made = await house.get<{ made: { id: string; coverage: { first: number }[] } }>(`/receipts/${id}/made`);
  const facts = await house.get<{ name: string }>(
    `/sources/${made.made.id}/frames/${made.made.coverage[0]!.first + 1}/facts`,
  );
  expect(facts.name).toBe('door.png');
});

test('a spec that the page exports is taken by the command line, and imported again as itself', async ({ page }) => {
  const files = mkdtempSync(join(tmpdir(), 'shale-handed-'));
  const write = { format: 'jpeg', sample: 'u8', alpha: 'none', transfer: 'srgb' };
  for (const name of ['Web stills', 'Web large'])
    await house.send('POST', '/specs', { name, spec: { version: 1, write, names: { stem: name.split(' ')[1] } } });
  await page.goto(`${house.url}/specs`);
  await page.getByRole('link', { name: /^Web stills/ }).click();
  const save = async (button: string, path: string) => {
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: button, exact: true }).click(),
    ]);
    await download.saveAs(path);
  };
  const [one, all] = [join(files, 'one.json'), join(files, 'all.json')];
  await save('Export', one);
  await save('Export all', all);
  const demo = process.env.SHALE_DEMO ?? '.shale/demo/tram_museum';
  const { folder } = await house.get<{ folder: string }>(`/sources/${await house.source('yard_cam_a')}`);
  const pattern = join(
    demo,
    folder,
    (await house.get<{ name: string }>(`/sources/${await house.source('yard_cam_a')}`)).name,
  );
  const convert = (...more: string[]) =>
    run(process.execPath, ['tools/shale.mjs', 'convert', pattern, '--out', join(files, 'out'), '--dry', ...more]).then(
      ({ stdout }) => ({ code: 0, text: stdout }),
      (error: { code: number; stderr: string }) => ({ code: error.code, text: error.stderr }),
    );
  expect(await convert('--spec', one)).toMatchObject({ code: 0, text: expect.stringContaining('stills.') });
  expect(await convert('--spec', all)).toMatchObject({ code: 2, text: expect.stringContaining('--named') });
  expect(await convert('--spec', all, '--named', 'Web large')).toMatchObject({
    code: 0,
    text: expect.stringContaining('large.'),
  });

  // Another tab saved the name meanwhile: this one's list does not know, and nothing that is kept changes.
  const file = page.getByLabel('File of receivers, specs or naming rules');
  await house.send('POST', '/specs', {
    name: 'Web stills 2',
    spec: { version: 1, write: { ...write, format: 'png' } },
  });
  await file.setInputFiles(one);
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Web stills 3');
  await file.setInputFiles(one);
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Web stills 4');
  const specs = await house.get<{ name: string; version: number; spec: { write: { format: string } } }[]>('/specs');
  expect(specs.map(({ name, version, spec }) => [name, version, spec.write.format])).toEqual([
    ['Web large', 1, 'jpeg'],
    ['Web stills', 1, 'jpeg'],
    ['Web stills 2', 1, 'png'],
    ['Web stills 3', 1, 'jpeg'],
    ['Web stills 4', 1, 'jpeg'],
  ]);
  writeFileSync(one, readFileSync(one, 'utf8').replace('"jpeg"', '"parchment"'));
  await file.setInputFiles(one);
  await expect(page.getByRole('alert')).toContainText('write.format');
});

test('a receiver chosen for names stays with the names, one chosen for a source with the source', async ({ page }) => {
  const [bell, ticket] = [await house.source('bell_turn'), await house.source('ticket_loop')];
  await page.goto(house.url);
  await page.getByRole('button', { name: /^turntables/ }).click();
  await rows(page).filter({ hasText: 'bell_turn_#.png' }).click();
  await page.getByRole('button', { name: 'Rename', exact: true }).click();
  await choose(page, 'Receiver', '3D viewport plate');
  for (const id of [bell, ticket]) {
    await page.goto(`${house.url}/convert/${id}`);
    await expect(sentence(page)).toContainText('write PNG');
    await expect(sentence(page)).not.toContainText('viewport');
  }
  await page.getByRole('tab', { name: 'Receiver' }).click();
  await choose(page, 'Receiver', 'Archive');
  await expect(sentence(page)).toContainText('for Archive');
  await page.reload();
  await expect(sentence(page)).toContainText('for Archive');
  await page.goto(`${house.url}/convert/${bell}`);
  await expect(sentence(page)).toContainText('write PNG');
  await expect(sentence(page)).not.toContainText('Archive');
  await page.goto(`${house.url}/rename`);
  await expect(page.getByRole('combobox', { name: 'Receiver' })).toHaveText('3D viewport plate');
});
