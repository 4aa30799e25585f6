import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deflateSync, crc32 } from 'node:zlib';
import { uprightBy, type Image } from '@shale/core';
import { probeStill, readStill, usualSettings, writeStill } from './index.ts';
import { readTga } from './formats/tgaFile.ts';

// What is whole and not read is told from what is damaged; what files ask for beside their samples is told.
let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-unread-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const picture: Image = {
  ...{ width: 3, height: 2, channels: 3, sample: 'u8' },
  data: Uint8Array.from({ length: 18 }, (_, at) => (at * 31) & 255),
};

async function put(name: string, bytes: Buffer): Promise<string> {
  const path = join(folder, name);
  await writeFile(path, bytes);
  return path;
}

/** A TIFF of one strip with the fields that a test names (TIFF 6.0, section 2). */
function tiffOf(fields: Record<number, number | number[]>, strip: Buffer): Buffer {
  const all: Record<number, number | number[]> = { 259: 1, 262: 2, 273: 8, 279: strip.length, ...fields };
  const tags = Object.keys(all)
    .map(Number)
    .sort((a, b) => a - b);
  const list = Buffer.alloc(2 + tags.length * 12 + 4);
  const behind: Buffer[] = [];
  let next = 8 + strip.length + list.length;
  list.writeUInt16LE(tags.length);
  tags.forEach((tag, at) => {
    const values = [all[tag]!].flat();
    const bytes = Buffer.alloc(Math.max(4, values.length * 2));
    values.forEach((value, place) => bytes.writeUInt16LE(value, place * 2));
    list.writeUInt16LE(tag, 2 + at * 12);
    list.writeUInt16LE(3, 4 + at * 12);
    list.writeUInt32LE(values.length, 6 + at * 12);
    if (values.length <= 2) bytes.copy(list, 10 + at * 12, 0, 4);
    else {
      list.writeUInt32LE(next, 10 + at * 12);
      behind.push(bytes);
      next += bytes.length;
    }
  });
  const head = Buffer.from('II*\0\0\0\0\0', 'latin1');
  head.writeUInt32LE(8 + strip.length, 4);
  return Buffer.concat([head, strip, list, ...behind]);
}

const sized = { 256: 2, 257: 1, 278: 1 };

test('floats of 64 bits are read as 32, whole numbers of 32 as shares, and both are told', async () => {
  const doubles = Buffer.alloc(16);
  [0.25, -1.5].forEach((value, at) => doubles.writeDoubleLE(value, at * 8));
  const deep = await put('deep.tif', tiffOf({ ...sized, 258: 64, 262: 1, 277: 1, 339: 3 }, doubles));
  expect([...(await readStill(deep)).data]).toEqual([0.25, -1.5]);
  expect((await probeStill(deep)).more).toContainEqual(['Stored as', '64-bit floats, read as 32-bit']);
  const whole = Buffer.alloc(8);
  [0xffff_ffff, 0x8000_0000].forEach((value, at) => whole.writeUInt32LE(value, at * 4));
  const wide = await put('wide.tif', tiffOf({ ...sized, 258: 32, 262: 1, 277: 1, 339: 1 }, whole));
  expect([...(await readStill(wide)).data]).toEqual([1, 0.5]);
});

test('channels beyond colours and alpha are left out, and told', async () => {
  const strip = Buffer.from([10, 20, 30, 40, 50, 60, 70, 80, 90, 100]);
  const five = { ...sized, 258: [8, 8, 8, 8, 8], 277: 5, 338: [2, 0] };
  const path = await put('five.tif', tiffOf(five, strip));
  expect(await readStill(path)).toMatchObject({ channels: 4, data: Uint8Array.from([10, 20, 30, 40, 60, 70, 80, 90]) });
  expect((await probeStill(path)).more).toContainEqual(['Left out', '1 channel beyond colours and alpha']);
});

test.each([
  ['signed samples', tiffOf({ ...sized, 258: 16, 262: 1, 277: 1, 339: 2 }, Buffer.alloc(4)), 'tif'],
  ['a deep picture', Buffer.from([...tgaHead(1, 2, 2), 12, 0]), 'tga'],
])('%s: not read, and not called damaged', async (_what, bytes, ending) => {
  const path = await put(`other.${ending}`, bytes);
  await expect(probeStill(path)).rejects.toMatchObject({
    code: 'format-not-read',
    fact: expect.stringContaining(`other.${ending} is not read: `),
    wayOut: expect.stringContaining('PNG'),
  });
});

function tgaHead(type: number, width: number, height: number): number[] {
  return [0, type === 1 ? 1 : 0, type, 0, 0, 0, 0, 24, 0, 0, 0, 0, width, 0, height, 0];
}

describe('TGA', () => {
  const own = (head: number[], bits: number, descriptor: number, ...data: number[]) =>
    readTga(Buffer.from([...head, bits, descriptor, ...data]));

  test('rows and pixels from either end', () => {
    const dots = [1, 2, 3, 4];
    const grey = tgaHead(3, 2, 2);
    expect([...own(grey, 8, 0x20, ...dots).data]).toEqual([1, 2, 3, 4]);
    expect([...own(grey, 8, 0, ...dots).data]).toEqual([3, 4, 1, 2]);
    expect([...own(grey, 8, 0x30, ...dots).data]).toEqual([2, 1, 4, 3]);
  });

  test('five bits a colour, a palette, run lengths over the ends of rows', () => {
    // 0 11111 00000 10000: red full, blue 16 of 31.
    expect([...own(tgaHead(2, 1, 1), 16, 0, 0x10, 0x7c).data]).toEqual([255, 0, 132]);
    const palette = [0, 1, 1, 0, 0, 2, 0, 24, 0, 0, 0, 0, 2, 0, 1, 0];
    expect([...own(palette, 8, 0x20, 1, 2, 3, 4, 5, 6, 1, 0).data]).toEqual([6, 5, 4, 3, 2, 1]);
    expect([...own(tgaHead(11, 2, 2), 8, 0x20, 0x82, 7, 0x00, 9).data]).toEqual([7, 7, 7, 9]);
  });

  test.each([
    ['more than the picture', [0x84, 7], /more than its picture/],
    ['less', [0x81, 7], /ends within its picture/],
    ['a packet that is cut off', [0x03, 7, 7], /ends within its picture/],
  ])('run lengths that hold %s are refused', (_what, data, words) => {
    expect(() => own(tgaHead(11, 2, 2), 8, 0x20, ...data)).toThrow(words);
  });

  test('a colour outside the palette is refused', () => {
    const palette = [0, 1, 1, 0, 0, 1, 0, 24, 0, 0, 0, 0, 1, 0, 1, 0];
    expect(() => own(palette, 8, 0x20, 1, 2, 3, 5)).toThrow('a colour that its palette does not have');
  });
});

describe('how a picture asks to be shown', () => {
  test.each([1, 2, 3, 4, 5, 6, 7, 8])(
    'orientation %d is told, and its turn and flip bring it upright',
    async (number) => {
      // Places of a 3 x 2 picture as they are stored, by what the field says of row 0 and column 0 (TIFF 6.0).
      const upright = [
        ['a', 'b', 'c'],
        ['d', 'e', 'f'],
      ];
      const across = (rows: string[][]) => rows.map((row) => [...row].reverse());
      const down = (rows: string[][]) => [...rows].reverse();
      const swapped = (rows: string[][]) => rows[0]!.map((_, x) => rows.map((row) => row[x]!));
      const stored = {
        ...{ 1: upright, 2: across(upright), 3: across(down(upright)), 4: down(upright), 5: swapped(upright) },
        ...{ 6: down(swapped(upright)), 7: across(down(swapped(upright))), 8: across(swapped(upright)) },
      }[number]!;
      const quarter = (rows: string[][]) => across(swapped(rows));
      const { turn, flip } = uprightBy(number === 1 ? undefined : number);
      let shown = stored;
      for (let quarters = turn / 90; quarters > 0; quarters -= 1) shown = quarter(shown);
      if (flip === 'across') shown = across(shown);
      if (flip === 'down') shown = down(shown);
      expect(shown).toEqual(upright);
      const strip = Buffer.alloc(6);
      const path = await put(`way${number}.tif`, tiffOf({ ...sized, 258: [8, 8, 8], 274: number, 277: 3 }, strip));
      expect((await probeStill(path)).orientation).toBe(number === 1 ? undefined : number);
    },
  );

  test('in a JPEG by its EXIF', async () => {
    const path = join(folder, 'plain.jpg');
    await writeStill(path, 'jpeg', picture, usualSettings);
    expect((await probeStill(path)).orientation).toBeUndefined();
    const exif = Buffer.from('Exif\0\0MM\0*\0\0\0\x08\0\x01\x01\x12\0\x03\0\0\0\x01\0\x08\0\0\0\0\0\0', 'latin1');
    const segment = Buffer.concat([Buffer.from([0xff, 0xe1, 0, exif.length + 2]), exif]);
    const bytes = await readFile(path);
    const turned = await put('turned.jpg', Buffer.concat([bytes.subarray(0, 2), segment, bytes.subarray(2)]));
    expect(await probeStill(turned)).toMatchObject({
      orientation: 8,
      more: expect.arrayContaining([['Asks to be shown', 'turned 270° clockwise']]),
    });
  });
});

test('a gamma of 1/2.2 alone is a power and not sRGB; limited range in a still is not read', async () => {
  const chunk = (name: string, data: Buffer) => {
    const body = Buffer.concat([Buffer.from(name, 'latin1'), data]);
    const [length, sum] = [Buffer.alloc(4), Buffer.alloc(4)];
    length.writeUInt32BE(data.length);
    sum.writeUInt32BE(crc32(body));
    return Buffer.concat([length, body, sum]);
  };
  const png = (...more: Buffer[]) =>
    Buffer.concat([
      Buffer.from('89504e470d0a1a0a', 'hex'),
      chunk('IHDR', Buffer.from([0, 0, 0, 1, 0, 0, 0, 1, 8, 0, 0, 0, 0])),
      ...more,
      chunk('IDAT', deflateSync(Buffer.from([0, 128]))),
      chunk('IEND', Buffer.alloc(0)),
    ]);
  const gamma = chunk('gAMA', Buffer.from([0, 0, 0xb1, 0x8f]));
  expect((await probeStill(await put('power.png', png(gamma)))).transfer).toBe('gamma-2.2');
  expect((await probeStill(await put('srgb.png', png(gamma, chunk('sRGB', Buffer.from([0])))))).transfer).toBe('srgb');
  const limited = await put('limited.png', png(chunk('cICP', Buffer.from([1, 13, 0, 0]))));
  await expect(probeStill(limited)).rejects.toMatchObject({ code: 'format-not-read' });
});
