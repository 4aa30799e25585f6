import { mkdir, mkdtemp, readdir, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { Shale } from './testing/shale.ts';

let folder: string;
const shale = new Shale();
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-links-'));
  await mkdir(join(folder, 'store'));
  await mkdir(join(folder, 'shots'));
  const picture = sharp({ create: { width: 5, height: 3, channels: 3, background: '#8a4' } });
  await picture.png().toFile(join(folder, 'store', '0815.png'));
  await symlink('../store/0815.png', join(folder, 'shots', 'plate.png'));
  const write = { format: 'tiff', sample: 'u8', alpha: 'none', transfer: 'srgb' };
  await writeFile(join(folder, 'spec.json'), JSON.stringify({ version: 1, write }));
});
afterAll(async () => {
  await shale.close();
  await rm(folder, { recursive: true, force: true });
});

test('a link that is named on the command line is followed, and its result has its name', async () => {
  const out = join(folder, 'out');
  const spec = join(folder, 'spec.json');
  const { code, err } = await shale.run('convert', join(folder, 'shots', 'plate.png'), '--spec', spec, '--out', out);
  expect([code, err]).toEqual([0, '']);
  expect(await readdir(out)).toEqual(['plate.tif']);
});
