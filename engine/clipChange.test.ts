import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { declare, makePlan, parseSpec, type Failure, type Source, type Written } from '@shale/core';
import { readStill } from '@shale/media';
import { writeTestClip } from '@shale/media/video/testClips.ts';
import { carryOut } from './carry-out.ts';
import { WorkerPool } from './pool.ts';
import { scanFolders } from './scan.ts';

let pool: WorkerPool;
let folder: string;
beforeAll(async () => {
  pool = new WorkerPool(2);
  folder = await mkdtemp(join(tmpdir(), 'shale-change-'));
  for (const name of ['in', 'out', 'parts']) await mkdir(join(folder, name));
  // Two streams one behind the other: the size changes, and times begin again.
  const parts = [];
  for (const [width, height] of [
    [192, 96],
    [96, 48],
  ] as const) {
    const path = join(folder, 'parts', `${width}.ts`);
    await writeTestClip(path, {
      count: 20,
      width,
      height,
      container: 'mpegts',
      options: { g: '10', bf: '2', crf: '18' },
    });
    parts.push(await readFile(path));
  }
  await writeFile(join(folder, 'in', 'change.ts'), Buffer.concat(parts));
});
afterAll(async () => {
  await pool.close();
  await rm(folder, { recursive: true, force: true });
});

async function sourceOf(): Promise<Source> {
  for await (const { sources } of scanFolders(join(folder, 'in'), pool)) if (sources[0]) return sources[0];
  throw new Error('nothing scanned');
}

async function convert(mixed: 'stop' | 'fit') {
  const source = await sourceOf();
  const spec = parseSpec({
    version: 1,
    mixed,
    write: { format: 'png', sample: 'u8', alpha: 'none', transfer: 'bt709' },
    names: { stem: mixed },
    into: { root: 'out', folder: '' },
  });
  const written: Written[] = [];
  const failed: Failure[] = [];
  await carryOut({
    plan: makePlan('in', source, declare(source), spec),
    places: { source: join(folder, 'in'), target: join(folder, 'out') },
    job: 'j',
    pool,
    onWritten: (one) => written.push(one),
    onFailed: (failure) => failed.push(failure),
  });
  return { source, written, failed };
}

test('a clip whose size changes in the middle: all pictures are counted, those of another size named, or fitted', async () => {
  const { source, written, failed } = await convert('stop');
  expect(source.facts).toMatchObject({ width: 192, height: 96, frames: 40, clip: { counted: 'pictures' } });
  expect([written.length, failed.length]).toEqual([20, 20]);
  expect(new Set(failed.map(({ code }) => code))).toEqual(new Set(['frame-differs']));
  expect(failed[0]!.wayOut).toContain('fit such pictures');
  const fitted = await convert('fit');
  expect([fitted.written.length, fitted.failed]).toEqual([40, []]);
  const image = await readStill(join(folder, 'out', 'fit.0030.png'));
  expect([image.width, image.height]).toEqual([192, 96]);
});
