import { mkdir, mkdtemp, readFile, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { declare, likenessOf, limitOf, makePlan, parseSpec, type Image, type Source } from '@shale/core';
import { carryOut, scanFolders, spansPerProcess, WorkerPool } from '@shale/engine';
import { ClipReader, openMoving, usualSettings, writeStill, type VideoSettings } from '@shale/media';
import { seconds } from './measuring.ts';

const [width, height] = [240, 136];
const count = 24;

type Pixel = (
  x: number,
  y: number,
  frame: number,
) => readonly [red: number, green: number, blue: number, alpha: number];

/** A number that looks like chance, by where and when. */
const grain = (x: number, y: number, frame: number): number => {
  const mixed = Math.imul(x * 374_761_393 + y * 668_265_263 + frame * 2_147_483_647, 1_274_126_177);
  return ((mixed ^ (mixed >>> 16)) >>> 0) / 2 ** 32;
};
const disc = (x: number, y: number, frame: number): number =>
  Math.hypot(x - 120 - 60 * Math.cos(frame / 3.82), y - 68 - 30 * Math.sin(frame / 3.82));

/** Loops of every kind, drawn. */
const loops: Record<string, Pixel> = {
  flat: (x, y, frame) => (disc(x, y, frame) < 26 ? [200, 60, 40, 255] : [230, 220, 190, 255]),
  'flat, clear ground': (x, y, frame) => (disc(x, y, frame) < 26 ? [31, 107, 94, 255] : [0, 0, 0, 0]),
  'soft edge': (x, y, frame) => [200, 120, 40, Math.max(0, Math.min(255, (34 - disc(x, y, frame)) * 16))],
  gradient: (x, y, frame) => [(x + frame * 10) % 256, (y * 1.8) % 256, 128, 255],
  'gradient, slow': (x, y, frame) => [128 + 90 * Math.sin((x + frame * 2) / 60), 128 + 90 * Math.cos(y / 40), 150, 255],
  noise: (x, y, frame) => [grain(x, y, frame) * 255, grain(y, x, frame) * 255, grain(x, frame, y) * 255, 255],
  'grain over a picture': (x, y, frame) => {
    const light = 110 + 60 * Math.sin(x / 30) + 40 * Math.cos(y / 21) + 30 * grain(x, y, frame);
    return [light, light * 0.9, light * 0.75, 255];
  },
  text: (x, y, frame) =>
    (Math.floor((x + frame * 5) / 3) * 7 + Math.floor(y / 5) * 13) % 5 < 2 ? [30, 30, 30, 255] : [250, 248, 240, 255],
  'text on a clear ground': (x, y, frame) =>
    (Math.floor((x + frame * 10) / 4) * 5 + Math.floor(y / 6) * 11) % 7 < 2 ? [20, 60, 120, 255] : [0, 0, 0, 0],
  photographic: (x, y, frame) => {
    const shade = Math.sin((x + frame) / 17) * Math.cos((y - frame) / 13) + Math.sin(x / 5.3 + y / 7.7) * 0.35;
    return [120 + 90 * shade, 100 + 70 * Math.sin(shade * 2 + y / 60), 90 + 60 * Math.cos(shade + x / 80), 255];
  },
};

const drawn = (of: Pixel, frame: number): Image => {
  const data = new Uint8Array(width * height * 4);
  for (let y = 0, at = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1, at += 4)
      data.set(
        of(x, y, frame).map((value) => Math.round(Math.max(0, Math.min(255, value)))),
        at,
      );
  return { width, height, channels: 4, sample: 'u8', data };
};

/** Bytes of a file, and its mean SSIM to what went in. */
async function judged(path: string, pictures: readonly Image[]): Promise<{ bytes: number; ssim: number }> {
  const reader = await ClipReader.open(path, { threads: 1 });
  try {
    let sum = 0;
    for (let at = 0; at < pictures.length; at += 4)
      sum += likenessOf(pictures[at]!, await reader.picture(Math.min(at, reader.count - 1)));
    return { bytes: (await stat(path)).size, ssim: sum / Math.ceil(pictures.length / 4) };
  } finally {
    await reader.close();
  }
}

/** `npm run bench -- small`: GIF beside a library's own start, and what a search within half of the bytes needs, over ten drawn loops. */
export async function smallBench(): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'shale-small-'));
  const pool = new WorkerPool(2, { together: spansPerProcess });
  console.log('\nSmall moving pictures: 24 pictures of 240 x 136; GIF by Shale and by libvips (its defaults)');
  try {
    for (const [name, of] of Object.entries(loops)) await one(folder, pool, name, of);
  } finally {
    await pool.close();
    await rm(folder, { recursive: true, force: true });
  }
}

async function one(folder: string, pool: WorkerPool, name: string, of: Pixel): Promise<void> {
  const source = join(folder, name.replace(/\W+/g, '_'));
  await mkdir(source);
  const pictures = Array.from({ length: count }, (_, frame) => drawn(of, frame));
  for (const [frame, image] of pictures.entries())
    await writeStill(join(source, `f.${String(frame).padStart(4, '0')}.png`), 'png', image, {
      ...usualSettings,
      effort: 1,
    });
  let found: Source | undefined;
  for await (const { sources } of scanFolders(source, pool)) found ??= sources[0];
  const convert = async (format: 'gif' | 'webpanim', video: object, to: string) => {
    const spec = parseSpec({
      ...{ version: 1, write: { format, sample: 'u8', alpha: 'straight', transfer: 'srgb' } },
      ...{ video: { ...video, name: to }, into: { root: 'out', folder: '' } },
    });
    const declared = declare(found!, { rate: { num: 24, den: 1 }, alpha: 'straight', transfer: 'srgb' });
    const plan = makePlan(source, found!, declared, spec);
    let tries = 0;
    let failed = '';
    await carryOut({
      ...{ plan, places: { source, target: folder }, job: `small-${to}`, pool },
      onWritten: ({ video: made }) => void (tries = made!.tries.length),
      onFailed: ({ code }) => void (failed = code),
    }).catch((error: unknown) => void (failed = (error as { code?: string }).code ?? String(error)));
    return { tries, failed, limit: limitOf(plan.spec), plan };
  };
  const [own, theirs] = [join(folder, `${name}.gif`), join(folder, `${name} theirs.gif`)];
  await convert('gif', {}, `${name}.gif`);
  const all = Buffer.concat(pictures.map(({ data }) => data as Uint8Array));
  const raw = { raw: { width, height: height * count, channels: 4, pageHeight: height } } as never;
  const bare = await seconds(() =>
    sharp(all, raw)
      .gif({ loop: 0, delay: Array.from({ length: count }, () => 42) })
      .toFile(theirs),
  );
  const settings = {
    format: 'gif',
    video: parseSpec({ version: 1, write: { format: 'gif', sample: 'u8', alpha: 'straight', transfer: 'srgb' } }).video,
    width,
    height,
    sample: 'u8',
    hasAlpha: true,
    rate: { num: 24, den: 1 },
    transfer: 'srgb',
    primaries: 'bt709',
    pixelAspect: { num: 1, den: 1 },
  } as VideoSettings;
  const encode = await seconds(async () => {
    const writer = await openMoving(join(folder, `${name} bare.gif`), settings);
    for (const picture of pictures) await writer.add(picture);
    await writer.finish();
    await writer.close();
  });
  const [mine, other] = [await judged(own, pictures), await judged(theirs, pictures)];
  const searched: string[] = [];
  for (const format of ['gif', 'webpanim'] as const) {
    const ending = format === 'gif' ? 'gif' : 'webp';
    const free = `${name} free.${ending}`;
    await convert(format, {}, free);
    const limit = Math.round((await stat(join(folder, free))).size / 2);
    const { tries, failed } = await convert(format, { limit }, `${name} half.${ending}`);
    const bytes = failed === '' ? (await readFile(join(folder, `${name} half.${ending}`))).length : 0;
    searched.push(`${ending} ${failed === '' ? `${((100 * bytes) / limit).toFixed(1)} % in ${tries}` : failed}`);
  }
  const share = mine.bytes / other.bytes;
  console.log(
    `  ${name.padEnd(24)} bytes ${share.toFixed(2)} of theirs, SSIM ${mine.ssim.toFixed(4)} to ${other.ssim.toFixed(4)}, encoding ${(bare / encode).toFixed(2)} of their speed; half: ${searched.join(', ')}`,
  );
}
