import { execFile, execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { expect, test, type Page } from '@playwright/test';
import { build, type Rolldown } from 'vite';
import { House } from './house.ts';

// Sound through the real page: looked at, played with pictures, moved under them, and what is written is what was heard.

const house = new House();
test.beforeAll(async () => {
  test.setTimeout(240_000);
  await house.start();
});
test.afterAll(() => house.leave());

test('what goes out is, sample for sample, what lies under the frames, around and around', async ({ page }) => {
  const made = await build({
    configFile: false,
    logLevel: 'warn',
    build: {
      write: false,
      lib: {
        entry: fileURLToPath(new URL('../web/testing/soundPage.ts', import.meta.url)),
        formats: ['iife'],
        name: 'held',
      },
    },
  });
  const [library] = made as Rolldown.RolldownOutput[];
  await page.addScriptTag({ content: library!.output[0].code });
  const held = await page.evaluate<{ compared: number; differ: number; rounds: number }>('held.holdSound()');
  expect(held).toMatchObject({ compared: 960_000, differ: 0 });
  expect(held.rounds).toBeGreaterThan(3);
});

test('a sound is drawn, zoomed to its samples, played and repeated', async ({ page }) => {
  await page.goto(`${house.url}/inspect/${await house.source('announcement')}`);
  const view = page.getByTestId('sound-view');
  await expect(view.getByTestId('waveform')).toHaveAttribute('data-drawn', 'true');
  await expect(page.getByText('192,000 samples')).toBeVisible();
  await expect(page.getByText(/LUFS/)).toBeVisible();
  await page.keyboard.press(' ');
  await expect(page.getByRole('button', { name: 'Pause (Space)' })).toBeVisible();
  await expect.poll(async () => Number(await view.getAttribute('aria-valuenow'))).toBeGreaterThan(24_000);
  await page.keyboard.press(' ');
  const { x, y, width } = (await view.boundingBox())!;
  for (let turn = 0; turn < 12; turn += 1) {
    await page.mouse.move(x + width / 2, y + 50);
    await page.mouse.wheel(0, -300);
  }
  await expect
    .poll(async () => Number(await view.getAttribute('data-to')) - Number(await view.getAttribute('data-from')))
    .toBeLessThan(2000);
  await expect(view.getByTestId('waveform')).toHaveAttribute('data-drawn', 'true');
  await page.keyboard.press('0');
  await page.mouse.move(x + 100, y + 50);
  await page.mouse.down();
  await page.mouse.move(x + 200, y + 50, { steps: 4 });
  await page.mouse.up();
  await expect(page.getByTestId('sound-stretch')).toContainText('repeated');
  await page.keyboard.press(' ');
  await page.waitForTimeout(1500);
  const at = Number(await view.getAttribute('aria-valuenow'));
  expect(at).toBeGreaterThanOrEqual(Math.floor((99 / width) * 192_000));
  expect(at).toBeLessThanOrEqual(Math.ceil((201 / width) * 192_000));
});

/** How the stage says that it plays. */
const playing = (page: Page) => page.getByTestId('playback');

test('a clip plays with its own sound, which has the time; a stretch of it is repeated', async ({ page }) => {
  await page.goto(`${house.url}/inspect/${await house.source('platform_plate')}?beside=sound`);
  await expect(page.getByTestId('sound-lane').getByTestId('waveform')).toHaveAttribute('data-drawn', 'true');
  await page.keyboard.press(' ');
  await expect(playing(page)).toContainText('with sound');
  // Two seconds by the wall are two seconds of pictures, to a few frames of this machine's own, once they come in time.
  const frame = async () => Number(await page.getByTestId('stage').getAttribute('data-frame'));
  await expect.poll(frame).toBeGreaterThan(5);
  const off = async () => {
    const [from, since] = [await frame(), Date.now()];
    await page.waitForTimeout(2000);
    return Math.abs(((await frame()) - from) / 25 - (Date.now() - since) / 1000);
  };
  await expect.poll(off, { timeout: 60_000 }).toBeLessThan(0.4);
  await page.keyboard.press(' ');
  await page.keyboard.press('Home');
  await page.keyboard.press(']');
  for (let step = 0; step < 10; step += 1) await page.keyboard.press('ArrowRight');
  await page.keyboard.press(']');
  await expect(page.getByTestId('range')).toContainText('0 to 10, repeated');
  await page.keyboard.press(' ');
  await page.waitForTimeout(1500);
  expect(await frame()).toBeLessThanOrEqual(10);
  await page.getByRole('button', { name: 'Sound is on' }).click();
  await expect(playing(page)).not.toContainText('with sound');
});

test('a sound is moved under frames by keys and by dragging, and what is written begins there', async ({ page }) => {
  const source = await house.source('platform_plate');
  const begins = async (id: string) =>
    (await house.get<{ sounds: { from: number } }>(`/sources/${id}/sound`)).sounds.from;
  await page.goto(`${house.url}/convert/${source}`);
  await page.getByRole('button', { name: 'Review video' }).click();
  const lane = page.getByTestId('sound-lane');
  await expect(lane.getByTestId('waveform')).toHaveAttribute('data-drawn', 'true');
  const said = page.getByTestId('sentence');
  await lane.focus();
  await page.keyboard.press('ArrowRight');
  await expect(said).toContainText('its own sound, 1 frame later');
  await page.keyboard.press('Shift+ArrowRight');
  await expect(said).toContainText('1 frame later, 1 sample later');
  await page.keyboard.press('Shift+ArrowLeft');
  const { x, y, width, height } = (await lane.boundingBox())!;
  await page.mouse.move(x + 300, y + height / 2);
  await page.mouse.down();
  await page.mouse.move(x + 300 + (width * 25) / 250, y + height / 2, { steps: 5 });
  await page.mouse.up();
  await expect(said).toContainText('its own sound, 26 frames later');
  await expect(said).not.toContainText('sample');
  await page.getByRole('button', { name: 'Run 250 frames' }).click();
  await expect(page).toHaveURL(/\/jobs/);
  const receipts = () => house.get<{ job: string }[]>('/receipts');
  await expect.poll(async () => (await receipts()).length, { timeout: 80_000 }).toBe(1);
  const [{ job }] = (await receipts()) as [{ job: string }];
  // AAC begins a few samples before and after what it codes.
  expect(Math.abs((await begins(`made-${job}`)) - (await begins(source)) - 26 * 1920)).toBeLessThan(300);
});

test('what cannot be heard is said: no sound in it, gone, a stretch turned round', async () => {
  const still = await house.source('bell_turn');
  expect(await house.send('GET', `/sources/${still}/sound`)).toMatchObject({ status: 422, body: { code: 'no-sound' } });
  const sound = await house.source('whistle');
  const wave = `/sources/${sound}/sound/wave?columns=10&from=10&to=`;
  expect(await house.send('GET', `${wave}5`)).toMatchObject({ status: 400, body: { code: 'bad-request' } });
  expect((await fetch(`${house.url}/api${wave}100`)).headers.get('content-length')).toBe(String(16 + 10 * 3 * 2));
  const samples = await fetch(`${house.url}/api/sources/${sound}/sound/samples?from=57590&count=100`);
  expect((await samples.arrayBuffer()).byteLength).toBe(10 * 4);
});

test('a sound is written from its page: brought to a loudness, as FLAC, read by another library', async ({ page }) => {
  await page.goto(`${house.url}/inspect/${await house.source('announcement')}`);
  const choose = async (label: string, option: string) => {
    await page.getByRole('combobox', { name: label }).click();
    await page.getByRole('option', { name: option, exact: true }).click();
  };
  await choose('Format', 'FLAC');
  await choose('Depth', '24 bits');
  await choose('Level', 'To a loudness');
  const plan = page.getByTestId('sound-plan');
  await expect(plan).toHaveText(
    'All of announcement.wav as FLAC, 24 bits, 48 kHz, -23 LUFS, true peak -1 dBTP at most, dithered.',
  );
  await page.getByRole('textbox', { name: 'Loudness, LUFS' }).fill('quiet');
  await expect(plan).toHaveText('Type -60 to -5 LUFS.');
  await expect(page.getByRole('button', { name: 'Write', exact: true })).toBeDisabled();
  await page.getByRole('textbox', { name: 'Loudness, LUFS' }).fill('-20');
  await page.getByRole('textbox', { name: 'Folder' }).fill('heard');
  await page.getByRole('button', { name: 'Write', exact: true }).click();
  await expect(page.getByTestId('sound-written')).toContainText('heard/announcement.flac');
  await expect(page.getByTestId('sound-written')).toContainText('-20.0 LUFS');
  const path = join(house.data, 'results', 'heard', 'announcement.flac');
  const script = `import av, sys
with av.open(sys.argv[1]) as c:
    s = c.streams.audio[0]
    print(s.codec_context.name, s.rate, s.channels, sum(f.samples for f in c.decode(s)))`;
  expect(execFileSync('/usr/bin/python3', ['-c', script, path], { encoding: 'utf8' }).trim()).toBe(
    'flac 48000 1 192000',
  );
  // The same name again, with another content.
  await choose('Depth', '16 bits');
  await page.getByRole('button', { name: 'Write', exact: true }).click();
  await expect(page.getByText(/exists already with other contents/)).toBeVisible();
});

test('a clip is written with another sound, moved as it is heard, its pictures as they are coded', async ({ page }) => {
  const clip = await house.source('platform_plate');
  await page.goto(`${house.url}/inspect/${clip}?beside=sound`);
  const picker = page.getByRole('combobox', { name: 'A sound, or a clip with sound' });
  await picker.fill('announcement');
  await page.getByRole('option', { name: /announcement\.wav/ }).click();
  const plan = page.getByTestId('replace-plan');
  await expect(plan).toContainText('as they are coded, with announcement.wav as AAC.');
  await page.getByRole('textbox', { name: 'Delay, frames' }).fill('50');
  await page.getByRole('textbox', { name: 'Delay, frames' }).press('Enter');
  await expect(plan).toContainText('2.000 s later');
  await page.getByRole('textbox', { name: 'Folder' }).fill('spoken');
  await page.getByRole('button', { name: 'Write the clip' }).click();
  await expect(page.getByTestId('sound-replaced')).toContainText('250 pictures, each the clip’s own');
  // The result is there as a source, and its sound begins two seconds later than the file's.
  const inFolder = async () =>
    (await house.get<{ id: string; folder: string }[]>('/sources')).find(({ folder }) => folder === 'spoken')?.id;
  await expect.poll(inFolder, { timeout: 20_000 }).toBeDefined();
  const begins = async (id: string) =>
    (await house.get<{ sounds: { from: number } }>(`/sources/${id}/sound`)).sounds.from;
  const [made, own] = [(await inFolder())!, await house.source('announcement')];
  expect(Math.abs((await begins(made)) - (await begins(own)) - 96_000)).toBeLessThan(400);
  // Another library sees the same pictures, and one track of the new sound.
  const script = `import av, hashlib, sys
for path in sys.argv[1:]:
    with av.open(path) as c:
        seen = hashlib.sha256(b''.join(f.to_ndarray(format='rgb24').tobytes() for f in c.decode(video=0))).hexdigest()
        print(seen, [s.codec_context.name for s in c.streams.audio])`;
  const demo = process.env.SHALE_DEMO ?? join(import.meta.dirname, '..', '.shale', 'demo', 'tram_museum');
  const files = [
    join(demo, 'plates', 'platform_plate.mp4'),
    join(house.data, 'results', 'spoken', 'platform_plate.mp4'),
  ];
  // Not waited for in place: a connection that rests meanwhile is seen to close.
  const { stdout } = await promisify(execFile)('/usr/bin/python3', ['-c', script, ...files]);
  const told = stdout.trim().split('\n');
  expect(told[1]).toBe(told[0]!.replace(/\[.*/, "['aac']"));
  // What is no clip has no sound to be replaced; a sequence is told so.
  const still = await house.source('bell_turn');
  const body = { sounds: [{ source: own }], swap: {}, into: { root: 'results', folder: 'x' }, stem: null };
  expect(await house.send('POST', `/sources/${still}/sound/replaced`, body)).toMatchObject({
    status: 422,
    body: { code: 'bad-sound' },
  });
});

test('a clip with two tracks: either is chosen, seen and heard', async ({ page }) => {
  const [clip, first, second] = [
    await house.source('platform_plate'),
    await house.source('announcement.wav'),
    await house.source('whistle'),
  ];
  const { status } = await house.send('POST', `/sources/${clip}/sound/replaced`, {
    sounds: [{ source: first }, { source: second }],
    ...{ swap: {}, into: { root: 'results', folder: 'tracks' }, stem: null },
  });
  expect(status).toBe(200);
  const id = async () =>
    (await house.get<{ id: string; folder: string }[]>('/sources')).find(({ folder }) => folder === 'tracks')?.id;
  await expect.poll(id, { timeout: 20_000 }).toBeDefined();
  await page.goto(`${house.url}/inspect/${await id()}?beside=sound`);
  const heard = page.getByText(/^from .* to /).first();
  await expect(heard).toBeVisible();
  const usual = await heard.textContent();
  await page.getByRole('combobox', { name: 'Stream' }).click();
  await page.getByRole('option', { name: 'Stream 2' }).click();
  await expect(heard).not.toHaveText(usual!);
  await expect(page.getByTestId('sound-lane').getByTestId('waveform')).toHaveAttribute('data-drawn', 'true');
  await page.getByRole('combobox', { name: 'Stream' }).click();
  await page.getByRole('option', { name: 'Stream 1' }).click();
  await expect(heard).toHaveText(usual!);
});

test('shots behind one another are played over the cut and scrubbed, the sound of the video under them', async ({
  page,
}) => {
  const all = await house.get<{ id: string; name: string; root: string; folder: string }[]>('/sources');
  const named = (begin: string) => all.find(({ name }) => name.startsWith(begin))!;
  const [a, b, c] = ['yard_cam_a', 'yard_cam_b', 'yard_cam_c'].map(named);
  for (const one of [a, b, c])
    await house.send('PUT', `/sources/${one!.id}/word`, {
      ...{ alpha: 'none', transfer: 'srgb', rate: { num: 24, den: 1 } },
    });
  await page.goto(`${house.url}/convert/${a!.id}`);
  await page.getByRole('button', { name: 'Review video' }).click();
  const sentence = page.getByTestId('sentence');
  await sentence.getByRole('button', { name: /^Source:/ }).click();
  const dialog = page.getByRole('dialog', { name: 'Source' });
  for (const { name } of [b!, c!]) {
    await dialog.getByLabel('Add a source at the end').fill(name);
    await page.getByRole('option').filter({ hasText: name }).click();
  }
  await dialog.getByLabel('Taken of shot 1').fill('1001-1010');
  await dialog.getByLabel('Taken of shot 3').fill('1201-1224');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'What stays as it is' }).click();
  await sentence.getByRole('button', { name: /^What is heard/ }).click();
  await page.getByRole('combobox', { name: 'A sound, or a clip with sound' }).fill('announcement');
  await page.getByRole('option', { name: /announcement\.wav/ }).click();
  await page.keyboard.press('Escape');

  // All shots, their cuts, and the sound below, before anything is made.
  const stage = page.getByTestId('stage');
  const strip = page.getByRole('slider', { name: 'Frame', exact: true });
  await expect(page.getByTestId('shot-names')).toHaveText(`${a!.name}${b!.name}${c!.name}`);
  await expect(page.getByTestId('sound-lane').getByTestId('waveform')).toHaveAttribute('data-drawn', 'true');
  await expect(strip).toHaveAttribute('aria-valuemax', String(10 + 80 + 24 - 1));
  await strip.focus();
  for (let step = 0; step < 10; step += 1) await page.keyboard.press('ArrowRight');
  await expect(stage).toContainText('result 10: yard_cam_b.####.jpg, frame 1121');
  await expect(stage).toHaveAttribute('data-state', 'ready');
  await page.keyboard.press('End');
  await expect(stage).toContainText('result 113: yard_cam_c.####.jpg, frame 1224');
  await page.keyboard.press('Home');
  await page.keyboard.press(' ');
  await expect(playing(page)).toContainText('with sound');
  await expect.poll(async () => Number(await stage.getAttribute('data-frame'))).toBeGreaterThan(14);
  await expect(stage).toContainText('yard_cam_b');
  await page.keyboard.press(' ');

  const lane = page.getByTestId('sound-lane');
  const begins = await lane.getAttribute('data-start');
  expect(begins).toBe('0');
  await page.getByRole('button', { name: 'Source', exact: true }).click();
  await expect(page.getByTestId('shot-names')).toHaveCount(0);
});
