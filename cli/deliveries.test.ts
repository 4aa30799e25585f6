import { copyFile, mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Receipt, SpecInput } from '@shale/core';
import { outside, shale } from './testing/outside.ts';

// The whole path: files that other libraries made go in by the command line, and other libraries read what comes out.

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-deliveries-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const [width, height] = [53, 31];
const count = 2;

/** Sources by their name: what makes them, and how far their decoders may be from one another. */
const sources = {
  'png-8': { ext: 'png', with: 'oiio', channels: 4, most: 0 },
  'png-16': { ext: 'png', with: 'oiio', channels: 3, bits: 16, most: 0 },
  jpeg: { ext: 'jpg', with: 'oiio', channels: 3, most: 1 },
  webp: { ext: 'webp', with: 'pil', channels: 4, most: 0, options: { lossless: true, exact: true } },
  'dpx-8': { ext: 'dpx', with: 'oiio', channels: 3, most: 0 },
  jxl: { ext: 'jxl', with: 'av', codec: 'libjxl', channels: 3, most: 0 },
} as const;

/** Converts a source and gives what the command line said with the files that came. */
async function deliver(
  pattern: string,
  name: string,
  write: Partial<SpecInput['write']> & Pick<SpecInput['write'], 'format'>,
  more: Partial<SpecInput> = {},
) {
  const spec = join(folder, `${name}.json`);
  const out = join(folder, name);
  await writeFile(
    spec,
    JSON.stringify({ version: 1, write: { sample: 'u8', transfer: 'srgb', alpha: 'none', ...write }, ...more }),
  );
  const declared = ['--rate', '24', '--alpha', 'straight', '--transfer', 'srgb'];
  const said = await shale('convert', pattern, '--spec', spec, '--out', out, '--json', ...declared);
  const names = (await readdir(out).catch(() => [])).sort();
  return { ...said, names, files: names.map((file) => join(out, file)) };
}

describe.each(Object.entries(sources))('from %s', (name, { ext, most, ...made }) => {
  const pattern = () => join(folder, 'in', `${name}.#.${ext}`);
  const file = (at: number) => join(folder, 'in', `${name}.${at}.${ext}`);
  beforeAll(async () => {
    await mkdir(join(folder, 'in'), { recursive: true });
    outside([{ do: 'make', path: join(folder, 'in', `${name}.%d.${ext}`), width, height, count, ...made }]);
  });

  test('8-bit TGA, deflated and LZW TIFF arrive', async () => {
    const alpha = made.channels === 4 ? 'straight' : 'none';
    const bits = 'bits' in made ? made.bits : 8;
    // A JPEG's pixels are what its decoder makes of them; all others are known from what was made.
    const wanted = (at: number) =>
      most > 0 ? { than: file(at) } : { bits, made: { width, height, channels: made.channels, at } };
    const deliveries = await Promise.all(
      (
        [
          { format: 'tga' },
          { format: 'tiff', tiffCompression: 'deflate' },
          { format: 'tiff', tiffCompression: 'lzw' },
        ] as const
      ).map((write, at) => deliver(pattern(), `${name} ${at}`, { ...write, alpha })),
    );
    for (const { code, err, files, out } of deliveries) {
      expect({ code, err }).toEqual({ code: 0, err: '' });
      expect(JSON.parse(out)).toMatchObject({ written: count, check: { identical: count }, failed: [] });
      expect(files).toHaveLength(count);
      for (const one of outside(files.map((path, at) => ({ do: 'apart', path, ...wanted(at) })))) {
        expect(one.shape).toEqual([height, width, made.channels]);
        expect(one.most).toBeGreaterThanOrEqual(0);
        expect(one.most).toBeLessThanOrEqual(most);
      }
    }
  });
});

/** Where a field of a TIFF's only directory stands; each is 12 bytes (TIFF 6.0, section 2). */
function fieldAt(bytes: Buffer, tag: number): number {
  const directory = bytes.readUInt32LE(4);
  for (let field = 0; field < bytes.readUInt16LE(directory); field += 1) {
    const at = directory + 2 + field * 12;
    if (bytes.readUInt16LE(at) === tag) return at;
  }
  throw new Error(`no field ${tag}`);
}

describe('TIFF that cannot be decoded', () => {
  beforeAll(() => mkdir(join(folder, 'tiff'), { recursive: true }));
  const make = async (name: string, compression: string) => {
    const path = join(folder, 'tiff', `${name}.0001.tif`);
    outside([{ do: 'make', with: 'pil', path, width, height, channels: 3, options: { compression } }]);
    return path;
  };

  test('zstd is read', async () => {
    const path = await make('zstd', 'zstd');
    const { code, files } = await deliver(path, 'from zstd', { format: 'png' });
    expect(code).toBe(0);
    expect(outside([{ do: 'apart', path: files[0]!, made: { width, height, channels: 3, at: 0 } }])).toMatchObject([
      { most: 0 },
    ]);
  });

  test('channels in tiles of their own are read', async () => {
    const path = join(folder, 'tiff', 'planes.0001.tif');
    const attributes = { compression: 'lzw', planarconfig: 'separate', tile: 16 };
    outside([{ do: 'make', with: 'oiio', path, width, height, channels: 3, attributes }]);
    const { code, files } = await deliver(path, 'from planes', { format: 'png' });
    expect(code).toBe(0);
    expect(outside([{ do: 'apart', path: files[0]!, made: { width, height, channels: 3, at: 0 } }])).toMatchObject([
      { most: 0 },
    ]);
  });

  test('LZMA is refused by name before anything is written', async () => {
    const path = await make('lzma', 'lzma');
    const { code, err, names } = await deliver(path, 'from lzma', { format: 'png' });
    expect({ code, names }).toEqual({ code: 2, names: [] });
    expect(err).toContain('lzma.0001.tif is TIFF compressed with lzma, which this version cannot read.');
    expect(err).toContain('format-not-read');
  });

  // What no library at hand writes: the compression's number in a file that is whole otherwise (a field is 12 bytes; TIFF 6.0, section 2).
  test('others are refused by name', async () => {
    const known = { 'JPEG 2000': 34_712, LERC: 34_887, PNG: 34_933, 'JPEG XR': 22_610, 'JPEG XL': 50_002 };
    await Promise.all(
      Object.entries(known).map(async ([words, number]) => {
        const name = words.toLowerCase().replace(/[^a-z]/g, '');
        const path = await make(name, 'raw');
        const bytes = await readFile(path);
        bytes.writeUInt16LE(number, fieldAt(bytes, 259) + 8);
        await writeFile(path, bytes);
        const { code, err, names } = await deliver(path, `from ${name}`, { format: 'png' });
        expect({ code, names }).toEqual({ code: 2, names: [] });
        expect(err).toContain(`${name}.0001.tif is TIFF compressed with ${words}, which this version cannot read`);
      }),
    );
  });

  test('damaged deflate is refused, the whole frames beside it are written', async () => {
    const whole = await make('torn', 'tiff_deflate');
    for (const number of [2, 3, 4]) await copyFile(whole, whole.replace('0001', `000${number}`));
    // In the middle of the strip, near its end, and in its checksum, on which nothing of the picture depends.
    const bytes = await readFile(whole);
    const [strip, length] = [273, 279].map((tag) => {
      const at = fieldAt(bytes, tag);
      return bytes.readUInt16LE(at + 2) === 3 ? bytes.readUInt16LE(at + 8) : bytes.readUInt32LE(at + 8);
    }) as [number, number];
    for (const [number, place] of [
      [2, Math.floor(length / 2)],
      [3, length - 8],
      [4, length - 1],
    ] as const) {
      const torn = Buffer.from(bytes);
      torn[strip + place]! ^= 0x10;
      await writeFile(whole.replace('0001', `000${number}`), torn);
    }
    const { code, names, out } = await deliver(whole.replace('0001', '####'), 'from torn', { format: 'png' });
    expect(code).toBe(1);
    expect(names).toEqual(['torn.0001.png']);
    const { failed } = JSON.parse(out) as Receipt;
    expect(failed.map(({ code: why, sourceFrame }) => [sourceFrame, why])).toEqual(
      [2, 3, 4].map((one) => [one, 'damaged-file']),
    );
    expect(failed[0]!.fact).toContain('torn.0002.tif');
  });

  test('damaged LZW is refused where its codes show it', async () => {
    const path = await make('lzw', 'tiff_lzw');
    const bytes = await readFile(path);
    // All ones are codes that no table has yet.
    bytes.fill(0xff, 200, 260);
    await writeFile(path, bytes);
    const { code, names, err, out } = await deliver(path, 'from lzw', { format: 'png' });
    expect(code).toBeGreaterThan(0);
    expect(names).toEqual([]);
    expect(err + out).toContain('damaged-file');
  });
});

test.each([10, 12])('FFV1 of %d bits holds exactly what went in, every picture', async (bits) => {
  await mkdir(join(folder, 'film'), { recursive: true });
  const path = join(folder, 'film', 'f.%04d.png');
  outside([{ do: 'make', with: 'oiio', path, width: 160, height: 90, channels: 3, bits: 16, count: 60 }]);
  const { code, files, out } = await deliver(
    join(folder, 'film', 'f.####.png'),
    `ffv1 ${bits}`,
    { format: 'ffv1', sample: `u${bits}` as 'u10' },
    { readBack: false },
  );
  expect({ code, out: code === 0 ? '' : out }).toEqual({ code: 0, out: '' });
  expect(outside([{ do: 'clip apart', path: files[0]!, bits, width: 160, height: 90 }])).toEqual([
    { count: 60, wrong: [] },
  ]);
});
