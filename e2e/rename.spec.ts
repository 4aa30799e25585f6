import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { expect, test, type Page } from '@playwright/test';
import sharp from 'sharp';
import type { Rename, RenameView } from '@shale/contract';
import { coverageCount, type FrameRange } from '@shale/core';
import { House } from './house.ts';

const project = fileURLToPath(new URL('..', import.meta.url));
const demo = process.env.SHALE_DEMO ?? join(project, '.shale', 'demo', 'tram_museum');
const house = new House();
const bench = join(house.data, 'bench');
const old = new Date('2026-03-01T12:00:00Z');

/** Frames made by another library, in a folder of the workbench. */
async function put(folder: string, names: string[]): Promise<void> {
  mkdirSync(join(bench, folder), { recursive: true });
  const image = (shade: number) =>
    sharp({ create: { width: 32, height: 18, channels: 4, background: { r: shade % 256, g: 90, b: 60, alpha: 1 } } });
  for (const [at, name] of names.entries())
    await image(at * 7)
      .png()
      .toFile(join(bench, folder, name));
  settle(folder);
}

/** Files that were written long ago: nobody still writes into them. */
function settle(folder: string): void {
  execFileSync('find', [join(bench, folder), '-type', 'f', '-exec', 'touch', '-d', old.toISOString(), '{}', '+']);
}

const names = (folder: string) => readdirSync(join(bench, folder)).sort();
const sums = (folder: string) =>
  new Map(
    names(folder).map((name) => [
      createHash('sha256')
        .update(readFileSync(join(bench, folder, name)))
        .digest('hex'),
      name,
    ]),
  );
const numbered = (first: number, last: number, name: (frame: number) => string) =>
  Array.from({ length: last - first + 1 }, (_, at) => name(first + at));

test.beforeAll(async () => {
  mkdirSync(bench, { recursive: true });
  cpSync(join(demo, 'turntables', 'bell_turn'), join(bench, 'bell_turn'), { recursive: true });
  settle('bell_turn');
  await put('loop', [
    ...numbered(1, 12, (frame) => `loop.${String(frame).padStart(4, '0')}.png`),
    ...numbered(1, 4, (frame) => `draft_loop.${String(frame).padStart(4, '0')}.png`),
  ]);
  await put(
    'cams/a',
    numbered(1, 3, (frame) => `cam_a_${frame}.png`),
  );
  await put(
    'cams/b',
    numbered(7, 9, (frame) => `cam_b_${frame}.png`),
  );
  await put(
    'shift',
    numbered(1, 20, (frame) => `shift.${String(frame).padStart(2, '0')}.png`),
  );
  writeFileSync(
    join(house.data, 'shale.config.json'),
    JSON.stringify({ roots: [{ id: 'bench', name: 'Workbench', path: bench, writable: true }] }),
  );
  await house.start();
});
test.afterAll(() => house.leave());

async function open(page: Page, name: string): Promise<void> {
  await house.source(name);
  await page.goto(`${house.url}/intake?root=bench`);
  await page.getByRole('row').filter({ hasText: name }).first().click();
}
const table = (page: Page) => page.getByRole('table', { name: 'Names before and after' });
const choose = async (page: Page, field: string, option: string | RegExp) => {
  await page.getByRole('combobox', { name: field, exact: true }).click();
  await page.getByRole('option', { name: option }).click();
};

test('a finding opens Rename with its mend, the receiver mends the rest, and the history brings all of it back', async ({
  page,
}) => {
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(error.message));
  const before = sums('bell_turn');
  await open(page, 'bell_turn_#.png');
  const row = page.getByRole('row').filter({ hasText: 'bell_turn_#.png' });
  await row.getByRole('button', { name: /missing/ }).click();
  await page
    .getByTestId('finding')
    .filter({ hasText: 'different widths' })
    .getByRole('button', { name: 'Fix by renaming' })
    .click();
  await expect(page).toHaveURL(/rename/);
  await expect(page.getByTestId('rename-sentence')).toHaveText('Rename 9 files: numbers padded to one width.');
  await expect(table(page)).toContainText('bell_turn_1.png→bell_turn_01.png');
  await expect(table(page).locator('ins').first()).toHaveText('01');

  await choose(page, 'Receiver', '3D viewport plate');
  await expect(page.getByTestId('breach')).toHaveCount(5);
  await expect(page.getByTestId('breach').first()).toContainText('"bell_turn" holds "_".');
  await page.getByRole('button', { name: 'Use letters and digits' }).click();
  await expect(page.getByTestId('breach')).toHaveCount(4);
  await page.getByRole('button', { name: 'Fix all 4' }).click();
  await expect(page.getByText('Follows all of its 14 rules')).toBeVisible();
  await expect(page.getByTestId('loads')).toContainText('It loads 59 frames.');
  await page.getByRole('button', { name: 'Rename 59 files' }).click();
  await expect(page.getByTestId('outcome')).toContainText('Done: 59 files.');
  expect(names('bell_turn')).toEqual(numbered(0, 58, (frame) => `bellturn.${String(frame).padStart(4, '0')}.png`));
  await expect(table(page)).toContainText('bellturn.0000.png');

  // The tool that reads next, as a stand-in that looks at names and headers.
  await page.goto(`${house.url}/specs/receivers/viewport-plate`);
  await expect(page.getByTestId('strictly')).toHaveText('It loads 59 frames.');

  await page.goto(`${house.url}/rename/history`);
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(page.getByTestId('rename').filter({ hasText: 'Undone' })).toBeVisible();
  expect(sums('bell_turn')).toEqual(before);
  expect(errors).toEqual([]);
});

test('the stack is ordered, switched off, kept and taken again, and wrong rules say why', async ({ page }) => {
  await open(page, 'shift.##.png');
  await page.getByRole('button', { name: 'Rename', exact: true }).click();
  const add = async (kind: RegExp) => {
    await page.getByRole('button', { name: 'Add a rule' }).click();
    await page.getByRole('menuitem', { name: kind }).click();
  };
  await add(/^Find and replace/);
  await expect(page.getByRole('alert')).toContainText('has nothing to find');
  await page.getByLabel('Find', { exact: true }).fill('tram');
  await expect(page.getByRole('alert')).toContainText('Rule 1 looks for "tram"');
  await expect(page.getByRole('button', { name: /^Rename \d+ file/ })).toBeDisabled();
  await page.getByLabel('Find', { exact: true }).fill('shift');
  await page.getByLabel('Becomes').fill('PAN');
  await add(/^Letters small/);
  await expect(table(page)).toContainText('shift.01.png→pan.01.png');
  // By keyboard: the second rule before the first.
  const handle = page.getByRole('button', { name: 'Move: Letters' });
  await handle.focus();
  const told = page.locator('[id^=DndLiveRegion]');
  await page.keyboard.press('Space');
  await expect(told).toContainText(/Picked up|was moved over/);
  await page.keyboard.press('ArrowUp');
  await expect(told).toContainText(/item (\S+) was moved over droppable area (?!\1)/);
  await page.keyboard.press('Space');
  await expect(page.getByTestId('rule').first()).toHaveAttribute('data-kind', 'case');
  await expect(table(page)).toContainText('shift.01.png→PAN.01.png');
  await page.getByLabel('Find and replace in force').click();
  await expect(table(page)).toContainText('as it is');
  await page.getByLabel('Find and replace in force').click();

  await page.getByRole('button', { name: 'Save this' }).click();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Pans');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await page.getByRole('button', { name: 'Take out: Find and replace' }).click();
  await page.getByRole('button', { name: 'Take out: Letters' }).click();
  await expect(page.getByText('None yet: every file keeps its name.')).toBeVisible();
  await choose(page, 'Take one', 'Pans, version 1');
  await expect(table(page)).toContainText('shift.01.png→PAN.01.png');

  await add(/^Form of the name/);
  const form = page.getByTestId('rule').filter({ hasText: 'Form' }).getByRole('textbox', { name: 'Name' });
  await form.fill('{stem}.{frme}.{ext}');
  await expect(page.getByRole('alert')).toContainText('asks for {frme}');
  await form.fill('{stem}.{ext}');
  await expect(page.getByRole('alert')).toContainText('20 files would get the same name as another file');
  await expect(page.getByRole('button', { name: 'In the way 20' })).toHaveAttribute('aria-pressed', 'true');
});

test('numbers that move up into each other, a file in the way, and undo where something was touched', async ({
  page,
}) => {
  const first = readFileSync(join(bench, 'shift', 'shift.01.png'));
  await open(page, 'shift.##.png');
  await page.evaluate(() => sessionStorage.removeItem('shale-naming'));
  await page.reload();
  await page.getByRole('row').filter({ hasText: 'shift.##.png' }).first().click();
  await page.getByRole('button', { name: 'Rename', exact: true }).click();
  await page.getByRole('button', { name: 'Add a rule' }).click();
  await page.getByRole('menuitem', { name: /^Numbers/ }).click();
  await page.getByLabel('From').fill('2');
  await expect(page.getByTestId('outcome')).toContainText('19 names take names that other files give up');
  // Another program puts a file in the way between the plan and the run.
  writeFileSync(join(bench, 'shift', 'shift.21.png'), 'a stranger');
  await page.getByRole('button', { name: 'Rename 20 files' }).click();
  await expect(
    page.getByRole('alert').filter({ hasText: 'would get the name of an existing file' }).first(),
  ).toBeVisible();
  expect(names('shift')).toHaveLength(21);
  rmSync(join(bench, 'shift', 'shift.21.png'));
  await page.getByLabel('From').fill('3');
  await page.getByLabel('From').fill('2');
  await expect(page.getByRole('alert')).toHaveCount(0);
  await page.getByRole('button', { name: 'Rename 20 files' }).click();
  await expect(page.getByTestId('outcome')).toContainText('Done: 20 files.');
  expect(readFileSync(join(bench, 'shift', 'shift.02.png'))).toEqual(first);
  expect(names('shift')).not.toContain('shift.01.png');

  writeFileSync(join(bench, 'shift', 'shift.05.png'), 'rendered anew');
  await page.goto(`${house.url}/rename/history`);
  await page.getByTestId('rename').first().getByRole('button', { name: /^Undo/ }).click();
  await expect(page.getByRole('alert')).toContainText(
    'One file was changed, moved or removed since: shift/shift.05.png',
  );
  await page.getByRole('button', { name: 'Undo what is possible' }).click();
  await expect(page.getByTestId('rename').filter({ hasText: 'Undone' }).first()).toBeVisible();
  // The name went back; what was rendered anew is still that. An earlier rename stands as undone there, too.
  await expect.poll(() => readFileSync(join(bench, 'shift', 'shift.04.png'), 'utf8')).toBe('rendered anew');
  expect(readFileSync(join(bench, 'shift', 'shift.01.png'))).toEqual(first);
});

test('two folders joined in an order by drag and drop, copied into one; strays move out of the way', async ({
  page,
}) => {
  await house.source('cam_b');
  await page.goto(`${house.url}/intake?root=bench&folder=cams`);
  await page.getByRole('row').nth(1).waitFor();
  await page.getByRole('grid', { name: 'Sources' }).focus();
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Rename 2' }).click();
  await page.getByLabel('Join end to end under one numbering').click();
  await page.getByRole('button', { name: 'Copy', exact: true }).click();
  await page.getByLabel('Folder').fill('joined');
  const sources = page.getByTestId('naming-source');
  await expect(sources.first()).toContainText('cam_a_#.png');
  await page.getByRole('button', { name: 'Move: cam_b_#.png' }).scrollIntoViewIfNeeded();
  const from = (await page.getByRole('button', { name: 'Move: cam_b_#.png' }).boundingBox())!;
  const to = (await page.getByRole('button', { name: 'Move: cam_a_#.png' }).boundingBox())!;
  await page.mouse.move(from.x + 8, from.y + 8);
  await page.mouse.down();
  await page.mouse.move(to.x + 8, to.y + 20, { steps: 8 });
  await page.mouse.move(to.x + 8, to.y - 6, { steps: 4 });
  await page.mouse.up();
  await expect(sources.first()).toContainText('cam_b_#.png');
  await expect(sources.nth(1)).toContainText('cam_b_##.png 10-12');
  await page.getByRole('button', { name: 'Copy 6 files' }).click();
  await expect(page.getByTestId('outcome')).toContainText('Done: 6 files.');
  expect(names('joined')).toEqual([
    'cam_b_07.png',
    'cam_b_08.png',
    'cam_b_09.png',
    'cam_b_10.png',
    'cam_b_11.png',
    'cam_b_12.png',
  ]);
  expect(statSync(join(bench, 'joined', 'cam_b_10.png')).mtimeMs).toBe(old.getTime());
  expect(names('cams/a')).toHaveLength(3);

  await page.goto(`${house.url}/intake?root=bench`);
  await page
    .getByRole('row')
    .filter({ hasText: /^.*\bloop\.####\.png/ })
    .filter({ hasNotText: 'draft_loop' })
    .getByRole('button', { name: /draft/ })
    .click();
  await page.getByRole('button', { name: 'Fix by renaming' }).click();
  await expect(page.getByTestId('rename-sentence')).toHaveText('Move 4 files into bench/loop/strays.');
  await page.getByRole('button', { name: 'Move 4 files' }).click();
  await expect(page.getByTestId('outcome')).toContainText('Done: 4 files.');
  expect(names('loop')).toEqual([
    ...numbered(1, 12, (frame) => `loop.${String(frame).padStart(4, '0')}.png`),
    'strays',
  ]);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByTestId('outcome')).toContainText('Names restored');
  expect(existsSync(join(bench, 'loop', 'strays'))).toBe(false);
});

test('receivers are changed, copied, compared, handed out and taken in again', async ({ page }) => {
  await page.goto(`${house.url}/specs/receivers/archive`);
  await expect(page.getByRole('heading', { name: 'Archive' })).toBeVisible();
  await page.getByRole('button', { name: 'Copy', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Archive 2' })).toBeVisible();
  await page.getByRole('button', { name: 'Change' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Tram store');
  await page.getByLabel('Digits, exactly').fill('6');
  await page.getByLabel('Rates').fill('24, fast');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('alert')).toContainText('"fast" is not a frame rate');
  await page.getByLabel('Rates').fill('24, 23.976');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('list', { name: 'Rules of Tram store' })).toContainText(
    'The number has exactly 6 digits.',
  );
  await expect(page.getByRole('list', { name: 'Rules of Tram store' })).toContainText(
    'It plays at 24 fps or 23.976 fps.',
  );
  await choose(page, 'Compare with', 'Archive');
  await expect(page.locator('tr[data-differs]')).toHaveCount(3);

  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Export', exact: true }).click(),
  ]);
  const file = join(house.data, 'tram-store.json');
  await download.saveAs(file);
  expect(JSON.parse(readFileSync(file, 'utf8'))).toMatchObject({
    shale: 'receivers',
    receivers: [{ name: 'Tram store', digits: 6 }],
  });
  await page.getByRole('button', { name: 'Remove' }).click();
  await expect(page.getByRole('link', { name: /Tram store/ })).toHaveCount(0);
  const input = page.getByLabel('File of receivers, specs or naming rules');
  await input.setInputFiles({
    name: 'broken.json',
    mimeType: 'application/json',
    buffer: Buffer.from('{"shale":"receivers","version":1,"receivers":[{"version":1,"name":"x","digits":-1}]}'),
  });
  await expect(page.getByRole('alert')).toContainText('broken.json: the field "receivers.0.digits" does not fit');
  await input.setInputFiles(file);
  await expect(page.getByRole('heading', { name: 'Tram store' })).toBeVisible();

  // A shipped one that was changed is as it came by one press.
  await page.goto(`${house.url}/specs/receivers/editing`);
  await page.getByRole('button', { name: 'Change' }).click();
  await page.getByLabel('Sides are multiples of').fill('16');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('Width and height are multiples of 16.')).toBeVisible();
  await page.getByRole('button', { name: 'Reset to built-in' }).click();
  await expect(page.getByText('Width and height are multiples of 2.')).toBeVisible();

  // The same receiver holds a conversion, and mends its spec.
  await page.goto(`${house.url}/intake`);
  const bell = await house.source('bell_turn');
  await page.goto(`${house.url}/convert/${bell}`);
  await page.getByRole('tab', { name: 'Receiver' }).click();
  await choose(page, 'Receiver', 'Float compositing');
  await expect(page.getByTestId('sentence')).toContainText('for Float compositing.');
  await page.getByRole('button', { name: /^Fix all/ }).click();
  await expect(page.getByTestId('sentence')).toContainText(
    'write OpenEXR, half float with premultiplied alpha, linear',
  );
});

test('killed while it copies: the next start leaves no copy and no half of one', async () => {
  mkdirSync(join(bench, 'heavy'));
  for (let frame = 1; frame <= 36; frame += 1)
    writeFileSync(join(bench, 'heavy', `heavy.${String(frame).padStart(4, '0')}.png`), Buffer.alloc(12 << 20, frame));
  settle('heavy');
  const heavy = await house.source('heavy');
  // A scan in the middle of the writing has found some of them.
  await expect
    .poll(async () => coverageCount((await house.get<{ coverage: FrameRange[] }>(`/sources/${heavy}`)).coverage))
    .toBe(36);
  const before = names('heavy');
  const bell = await house.source('bell_turn');
  const spec = { version: 1, mode: 'copy', into: { root: 'results', folder: 'kept/{stem}' } };
  const plan = (await house.send('POST', '/renames/plan', { sources: [heavy], spec })).body as unknown as RenameView;
  expect(plan.problems).toEqual([]);
  void house.send('POST', '/renames', { sources: [heavy], spec, digest: plan.digest }).catch(() => undefined);
  const target = join(house.data, 'results', 'kept', 'heavy');
  await expect.poll(() => (existsSync(target) ? readdirSync(target).length : 0), { intervals: [5] }).toBeGreaterThan(3);
  // Nobody else may work in a folder meanwhile: neither a job nor another rename.
  const job = {
    write: { format: 'png', sample: 'u8', alpha: 'none', transfer: 'srgb' },
    into: { folder: 'kept/heavy' },
  };
  const busy = { status: 409, body: { code: 'folder-in-use' } };
  expect(await house.send('POST', '/jobs', { source: bell, spec: { version: 1, ...job } })).toMatchObject(busy);
  await house.kill();
  expect(existsSync(target)).toBe(true);
  await house.start();
  expect(existsSync(join(house.data, 'results', 'kept'))).toBe(false);
  expect(names('heavy')).toEqual(before);
  const [entry] = await house.get<Rename[]>('/renames');
  expect(entry).toMatchObject({ state: 'back', problem: { fact: 'Shale stopped during the rename.' } });
  rmSync(join(bench, 'heavy'), { recursive: true });
});
