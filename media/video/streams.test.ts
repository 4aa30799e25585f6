import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { probeClip } from './clip.ts';
import { ClipReader } from './clipReader.ts';
import { joinTestClips, numberIn, writeTestClip } from './testClips.ts';

// Files with several streams of pictures: those that fit the main one are its layers, others are told of.
let folder: string;
const at = (name: string) => join(folder, name);
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-streams-'));
  const usual = { count: 30, options: { g: '10', crf: '14' } };
  await writeTestClip(at('left.mp4'), usual);
  await writeTestClip(at('right.mp4'), { ...usual, from: 100, options: { g: '7', bf: '0', crf: '14' } });
  await writeTestClip(at('small.mp4'), { ...usual, width: 96, height: 48, from: 200 });
  await writeTestClip(at('short.mp4'), { ...usual, count: 12, from: 300 });
  await joinTestClips(at('two.mkv'), [at('left.mp4'), at('right.mp4')]);
  await joinTestClips(at('four.mov'), [at('left.mp4'), at('small.mp4'), at('right.mp4'), at('short.mp4')], 'mov');
});
afterAll(() => rm(folder, { recursive: true, force: true }));

async function numbers(name: string, layer: string | null, places: number[]): Promise<number[]> {
  const reader = await ClipReader.open(at(name), { layer });
  try {
    const found = [];
    for (const place of places) found.push(numberIn(await reader.picture(place)));
    return found;
  } finally {
    await reader.close();
  }
}

test('a second stream of the same size and number is a layer, read by its own keys', async () => {
  const { facts } = await probeClip(at('two.mkv'));
  expect(facts.layers).toEqual(['picture stream 2']);
  const places = [0, 29, 11, 12, 5, 20];
  expect(await numbers('two.mkv', null, places)).toEqual(places);
  expect(await numbers('two.mkv', 'picture stream 2', places)).toEqual(places.map((place) => place + 100));
});

test('streams of another size or length are no layers, and it is said that they are there', async () => {
  const { facts } = await probeClip(at('four.mov'));
  expect(facts).toMatchObject({ width: 192, height: 96, frames: 30, layers: ['picture stream 3'] });
  expect(facts.more).toEqual(
    expect.arrayContaining([
      ['Not taken', 'picture stream 2: 30 pictures of 96 x 48'],
      ['Not taken', 'picture stream 4: 12 pictures of 192 x 96'],
    ]),
  );
  expect(await numbers('four.mov', 'picture stream 3', [0, 29])).toEqual([100, 129]);
});

test('a clip of one stream has no layers, and a stream that is not there is refused by name', async () => {
  expect((await probeClip(at('left.mp4'))).facts.layers).toBeUndefined();
  await expect(ClipReader.open(at('two.mkv'), { layer: 'picture stream 3' })).rejects.toMatchObject({
    code: 'format-not-read',
    fact: expect.stringContaining('picture stream 3') as string,
  });
});
