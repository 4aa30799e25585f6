import { copyFile, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { carryOut } from './carry-out.ts';
import { preflight } from './preflight.ts';
import type { WrittenSound } from './sound.ts';
import { lookWhatStands, namesStanding } from './standing.ts';
import { wanted, Yard } from './testing.ts';

const demo = process.env.SHALE_DEMO ?? fileURLToPath(new URL('../.shale/demo/tram_museum', import.meta.url));

let yard: Yard;
beforeAll(async () => {
  yard = await Yard.make();
});
afterAll(() => yard.leave());

test('where only what is new is made, the sound beside stills takes the place of what a job wrote, and of nothing else', async () => {
  await copyFile(join(demo, 'plates', 'platform_plate.mp4'), yard.at('in', 'p.mp4'));
  const plan = await yard.planOf({ ...wanted, frames: '50-74', sound: { beside: true } });
  const wave = yard.at('out', plan.sound!.as!);
  const others = async () => (await readdir(yard.at('out'))).filter((name) => name !== plan.sound!.as);
  const run = async (soundBefore?: string): Promise<WrittenSound> => {
    for (const name of await others()) await rm(yard.at('out', name));
    let sound: WrittenSound | undefined;
    await carryOut({
      ...{ plan, places: yard.places, job: 'test', pool: yard.pool },
      ...(soundBefore === undefined ? {} : { soundBefore }),
      onWritten: () => undefined,
      onFailed: () => undefined,
      onSound: (one) => (sound = one),
    });
    return sound!;
  };
  const sound = await run();
  const earlier = [{ plan, written: [], media: [], sound }];
  const standing = await lookWhatStands(plan, yard.places, earlier);
  expect(standing.sound).toEqual(sound);
  for (const name of await others()) await rm(yard.at('out', name));
  expect(await preflight(plan, yard.places, 'test')).toMatchObject([{ code: 'output-exists' }]);
  expect(await preflight(plan, yard.places, 'test', namesStanding(standing))).toEqual([]);
  expect(await run(sound.sha256)).toEqual(sound);
  await writeFile(wave, Buffer.concat([await readFile(wave), Buffer.from('x')]));
  expect((await lookWhatStands(plan, yard.places, earlier)).sound).toBeUndefined();
  await expect(run(sound.sha256)).rejects.toMatchObject({ code: 'output-exists' });
  expect((await readFile(wave)).subarray(-1).toString()).toBe('x');
});
