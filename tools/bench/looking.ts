import { join } from 'node:path';
import {
  comparePictures,
  packView,
  scopesOf,
  showPacked,
  viewOf,
  type Image,
  type Looking,
  type Taken,
} from '@shale/core';
import { codePreview, makePreview, readStill } from '@shale/media';

const width = 960;
const rounds = 5;

const straight: Taken = { alpha: 'straight', transfer: 'srgb', primaries: 'bt709', matte: null };
const light: Taken = { ...straight, alpha: 'premultiplied', transfer: 'linear' };
const looking: Looking = { channel: 'colour', exposure: 1, gamma: 1, warns: true };

/** The median milliseconds of some work, after two turns without the clock. */
async function time(work: () => unknown): Promise<number> {
  const times: number[] = [];
  for (let round = -2; round < rounds; round += 1) {
    const start = performance.now();
    await work();
    if (round >= 0) times.push(performance.now() - start);
  }
  return times.sort((a, b) => a - b)[rounds >> 1]!;
}

/** 8 bits of a picture as they lie, for a bare loop that converts nothing. */
const eightBits = ({ width, height, data }: Image): Image => ({
  width,
  height,
  channels: 4,
  sample: 'u8',
  data: Uint8Array.from({ length: width * height * 4 }, (_, at) => data[at]! >> 8),
});

/** What the stage asks of a frame, on one core, against the bare library calls: decoding, and making smaller and coding what needs no converting. */
export async function lookingBench(demo: string): Promise<void> {
  console.log(`Looking at a frame, ${width} pixels across, on one core; bare is decode, make smaller, code as WebP`);
  for (const [name, path, taken] of [
    ['PNG 16-bit, 1280 x 720', join(demo, 'turntables', 'bell_turn', 'bell_turn_1.png'), straight],
    ['OpenEXR half, 1920 x 1080', join(demo, 'plates', 'depot_pan', 'depot_pan.1001.exr'), light],
  ] as const) {
    const image = await readStill(path);
    const plain = eightBits(image);
    const decode = await time(() => readStill(path));
    const code = await time(() => codePreview(plain, width, 'quick'));
    const preview = await time(() => makePreview(image, taken, width, 'quick'));
    const view = await time(() => viewOf(image, taken, width));
    const bytes = packView(viewOf(image, taken, width), 'half');
    const ours = decode + preview;
    console.log(`  ${name}`);
    console.log(
      `    preview ${ours.toFixed(0)} ms, bare ${(decode + code).toFixed(0)} ms, ratio ${((decode + code) / ours).toFixed(2)}`,
    );
    console.log(
      `    in light ${(decode + view).toFixed(0)} ms, of it decoding ${decode.toFixed(0)}; shown with exposure and warnings ${(await time(() => showPacked(bytes, looking))).toFixed(0)} ms`,
    );
    const compared = { image, taken };
    console.log(
      `    levels ${(await time(() => scopesOf(image))).toFixed(0)} ms, comparison with itself ${(await time(() => comparePictures(compared, compared))).toFixed(0)} ms`,
    );
  }
  console.log('');
}
