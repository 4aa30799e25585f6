import { utimes } from 'node:fs/promises';
import { join } from 'node:path';
import { writeStill } from '@shale/media';
import { randomFrom } from '../random.ts';
import { drawSvg, lay, pixelText, type Layer } from '../raster.ts';
import { plainSettings } from '../settings.ts';
import { prepareView, yardView } from './yard.ts';

const shots = [
  { camera: 'a', first: 1001, count: 120 },
  { camera: 'b', first: 1121, count: 80 },
  { camera: 'c', first: 1201, count: 60 },
  { camera: 'd', first: 1261, count: 40 },
] as const;

/** Codes kept within 0..255 by looking them up, `strongest` codes of noise either way. */
const strongest = 16;
const kept = Uint8Array.from({ length: 256 + 2 * strongest }, (_, at) => Math.min(255, Math.max(0, at - strongest)));

/** The picture without its alpha, under a camera's noise: the same pattern shifted from frame to frame. */
function filmed({ data, width, height }: Layer, noise: Int8Array, frame: number): Uint8Array {
  const rgb = new Uint8Array(width * height * 3);
  let at = (frame * 7919) % noise.length;
  for (let from = 0, to = 0; to < rgb.length; from += 4, to += 3) {
    const grain = noise[at]! + strongest;
    at = at + 1 === noise.length ? 0 : at + 1;
    rgb[to] = kept[data[from]! + grain]!;
    rgb[to + 1] = kept[data[from + 1]! + grain]!;
    rgb[to + 2] = kept[data[from + 2]! + grain]!;
  }
  return rgb;
}

/** yard_cam_a to yard_cam_d: JPEG, no rate said anywhere, four shots numbered on from one another. */
export async function drawYardCams(folderOf: (shot: string) => string): Promise<void> {
  const random = randomFrom(404);
  const noise = Int8Array.from({ length: 65_537 }, () => Math.round((random() + random() - 1) * 9));
  for (const { camera, first, count } of shots) {
    const frameOf = await prepareView(yardView(camera), false, 0.75);
    const label = await drawSvg(220, 30, pixelText(`YARD CAM ${camera}`, 0, 0, 5, '#f4f2ec'));
    for (let frame = 0; frame < count; frame += 1) {
      const picture = frameOf(frame);
      lay(picture, label, 28, 24);
      const image = {
        width: picture.width,
        height: picture.height,
        channels: 3 as const,
        sample: 'u8' as const,
        data: filmed(picture, noise, frame),
      };
      const name = `yard_cam_${camera}.${(first + frame).toString().padStart(4, '0')}.jpg`;
      const path = join(folderOf(`yard_cam_${camera}`), name);
      await writeStill(path, 'jpeg', image, { ...plainSettings, quality: 78 });
      // Four frames that an older render left among the others.
      if (camera === 'b' && frame >= 50 && frame < 54) {
        const older = new Date(Date.now() - 9 * 86_400_000);
        await utimes(path, older, older);
      }
    }
  }
}
