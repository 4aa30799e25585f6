import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { crc32, deflateSync } from 'node:zlib';
import { Codec, CodecContext, Dictionary, Frame, Packet } from 'node-av';
import { AV_PIX_FMT_RGB24, AV_PIX_FMT_RGBA } from 'node-av/constants';
import sharp from 'sharp';
import { check, fillFrame } from './video/libav.ts';
import { probeStill, readStill } from './formats/index.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-animation-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const [width, height] = [6, 4];
/** Flat pictures, so that no palette is too small. */
const colours = [
  [200, 10, 20],
  [10, 200, 30],
  [0, 40, 255],
  [128, 128, 128],
] as const;
const flat = (colour: readonly number[]) =>
  sharp({ create: { width, height, channels: 3, background: { r: colour[0]!, g: colour[1]!, b: colour[2]! } } })
    .png()
    .toBuffer();

test.each([
  ['gif', 40, { num: 25, den: 1 }],
  ['webp', 40, { num: 25, den: 1 }],
] as const)('%s: pictures are counted, timed and read one by one', async (format, delay, rate) => {
  const path = join(folder, `a.${format}`);
  const joined = sharp(await Promise.all(colours.map(flat)), { join: { animated: true } });
  const coded =
    format === 'gif'
      ? joined.gif({ delay: [delay, delay, delay, delay] })
      : joined.webp({ lossless: true, delay: [delay, delay, delay, delay] });
  await writeFile(path, await coded.toBuffer());
  expect(await probeStill(path)).toMatchObject({ format, width, height, pictures: 4, rate });
  for (const [picture, colour] of colours.entries()) {
    const image = await readStill(path, { picture });
    expect([image.width, image.height]).toEqual([width, height]);
    expect([...image.data.slice(0, 3)]).toEqual([...colour]);
  }
  await expect(readStill(path, { picture: 9 })).rejects.toMatchObject({
    name: 'ShaleError',
    fact: expect.stringContaining(`a.${format}`) as string,
  });
});

test('GIF with uneven delays has no rate, and says them', async () => {
  const path = join(folder, 'uneven.gif');
  const joined = sharp(await Promise.all(colours.map(flat)), { join: { animated: true } });
  await writeFile(path, await joined.gif({ delay: [100, 50, 50, 200] }).toBuffer());
  const facts = await probeStill(path);
  expect([facts.pictures, facts.rate]).toEqual([4, undefined]);
  expect(facts.more).toContainEqual(['Delays', '5 to 20 hundredths']);
});

/** An APNG (PNG, third edition, 11.3.6) of 16-bit RGBA; its second picture covers a corner alone and is laid over the first. */
function apng(): Buffer {
  const chunk = (type: string, data: Buffer) => {
    const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
    const [length, sum] = [Buffer.alloc(4), Buffer.alloc(4)];
    length.writeUInt32BE(data.length);
    sum.writeUInt32BE(crc32(body));
    return Buffer.concat([length, body, sum]);
  };
  const long = (...values: number[]) =>
    Buffer.concat(
      values.map((value) => Buffer.from([value >>> 24, (value >> 16) & 255, (value >> 8) & 255, value & 255])),
    );
  const short = (...values: number[]) => Buffer.concat(values.map((value) => Buffer.from([value >> 8, value & 255])));
  const rows = (w: number, h: number, pixel: number[]) =>
    deflateSync(
      Buffer.concat(
        Array.from({ length: h }, () =>
          Buffer.concat([Buffer.from([0]), ...Array.from({ length: w }, () => short(...pixel))]),
        ),
      ),
    );
  const control = (order: number, w: number, h: number) =>
    chunk('fcTL', Buffer.concat([long(order, w, h, 0, 0), short(1001, 24_000), Buffer.from([0, 0])]));
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]),
    chunk('IHDR', Buffer.concat([long(width, height), Buffer.from([16, 6, 0, 0, 0])])),
    chunk('acTL', long(2, 0)),
    control(0, width, height),
    chunk('IDAT', rows(width, height, [1000, 2000, 3000, 65_535])),
    control(1, 2, 1),
    chunk('fdAT', Buffer.concat([long(2), rows(2, 1, [7, 8, 9, 500])])),
    chunk('IEND', Buffer.alloc(0)),
  ]);
}

test('APNG: 16-bit pictures laid over each other, the rate exact', async () => {
  const path = join(folder, 'a.png');
  await writeFile(path, apng());
  expect(await probeStill(path)).toMatchObject({ pictures: 2, rate: { num: 24_000, den: 1001 }, sample: 'u16' });
  const first = await readStill(path);
  expect([...first.data.slice(0, 4)]).toEqual([1000, 2000, 3000, 65_535]);
  const second = await readStill(path, { picture: 1 });
  expect([...second.data.slice(0, 12)]).toEqual([7, 8, 9, 500, 7, 8, 9, 500, 1000, 2000, 3000, 65_535]);
});

/** An animated JPEG XL, lossless, of pictures shown for so many hundredths of a second each. */
async function jxlOf(pictures: readonly Buffer[], hundredths: readonly number[], alpha: boolean): Promise<Buffer> {
  const context = new CodecContext();
  const packet = new Packet();
  const encoder = Codec.findEncoderByName('libjxl_anim' as never)!;
  const format = alpha ? AV_PIX_FMT_RGBA : AV_PIX_FMT_RGB24;
  const pieces: Buffer[] = [];
  packet.alloc();
  context.allocContext3(encoder);
  Object.assign(context, { width, height, pixelFormat: format, timeBase: { num: 1, den: 100 } });
  check(await context.open2(encoder, Dictionary.fromObject({ distance: '0', threads: '1' })), 'opening the encoder');
  const drain = async () => {
    while ((await context.receivePacket(packet)) >= 0) {
      pieces.push(Buffer.from(packet.data!));
      packet.unref();
    }
  };
  let at = 0;
  for (const [picture, bytes] of pictures.entries()) {
    const frame = new Frame();
    fillFrame(frame, { width, height, format, bytes });
    frame.pts = BigInt(at);
    frame.duration = BigInt(hundredths[picture]!);
    at += hundredths[picture]!;
    check(await context.sendFrame(frame), 'encoding');
    frame.free();
    await drain();
  }
  check(await context.sendFrame(null), 'encoding');
  await drain();
  packet.free();
  context.freeContext();
  return Buffer.concat(pieces);
}

test.each([3, 4] as const)(
  'an animated JPEG XL of %d channels: counted, timed, every picture bit for bit',
  async (channels) => {
    const path = join(folder, `a${channels}.jxl`);
    const pictures = colours.map((_, picture) =>
      Buffer.from(Uint8Array.from({ length: width * height * channels }, (_, at) => (at * 37 + picture * 91) & 255)),
    );
    await writeFile(path, await jxlOf(pictures, [8, 8, 8, 8], channels === 4));
    const facts = await probeStill(path);
    expect(facts).toMatchObject({
      format: 'jxl',
      width,
      height,
      pictures: 4,
      rate: { num: 25, den: 2 },
      hasAlpha: channels === 4,
    });
    for (const picture of [2, 0, 3, 1]) {
      const { data } = await readStill(path, { picture });
      expect(Buffer.from(data)).toEqual(pictures[picture]);
    }
    await expect(readStill(path, { picture: 4 })).rejects.toMatchObject({ code: 'damaged-file' });
  },
);

test('an animated JPEG XL with uneven delays has no rate, and says them; one that is cut is no animation', async () => {
  const path = join(folder, 'uneven.jxl');
  const pictures = colours.map((_, picture) => Buffer.alloc(width * height * 3, picture * 50));
  const bytes = await jxlOf(pictures, [10, 5, 20, 5], false);
  await writeFile(path, bytes);
  const facts = await probeStill(path);
  expect([facts.pictures, facts.rate]).toEqual([4, undefined]);
  expect(facts.more).toContainEqual(['Delays', '50 to 200 ms']);
  await writeFile(path, bytes.subarray(0, bytes.length - 12));
  const cut = await probeStill(path).catch((error: { code: string }) => error.code);
  if (typeof cut === 'object') expect(cut.pictures).toBeLessThan(4);
  else expect(cut).toBe('damaged-file');
});
