import { copyFile, readFile, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { writeStill } from '@shale/media';
import { defs, tram } from '../art.ts';
import { drawSvg, pixelText, type Layer } from '../raster.ts';
import { plainSettings } from '../settings.ts';
import { mix, writeWav } from '../wave.ts';

const picture = (number: number, width = 320, height = 180): Promise<Layer> =>
  drawSvg(
    width,
    height,
    `${defs}<rect width="100%" height="100%" fill="#3d4a50"/><rect y="${height * 0.76}" width="100%" height="60" fill="#2c2a28"/>
     <g transform="translate(${10 + number * 3} ${height * 0.3}) scale(.62)">${tram('#b5472e', '#8f3421', number % 7 === 0)}</g>
     ${pixelText(`LOST ${number}`, 12, 12, 3, '#f6dfa8')}`,
  );

/** lost_property: every kind of trouble that a folder can hold, small. */
export async function drawLostProperty(folder: string): Promise<void> {
  const at = (name: string) => join(folder, name);
  const put = async (
    name: string,
    number: number,
    options: { width?: number; height?: number; deep?: boolean } = {},
  ) => {
    const layer = await picture(number, options.width, options.height);
    const image = options.deep
      ? {
          ...layer,
          channels: 4 as const,
          sample: 'u16' as const,
          data: Uint16Array.from(layer.data, (code) => code * 257),
        }
      : { ...layer, channels: 4 as const, sample: 'u8' as const };
    await writeStill(at(name), 'png', image, plainSettings);
  };
  for (let frame = 1; frame <= 40; frame += 1) {
    if (frame === 13 || frame === 14) continue;
    await put(`lost.${frame}.png`, frame, frame === 22 ? { width: 360, height: 200 } : { deep: frame === 25 });
  }
  // Doubled under another padding.
  await put('lost.0006.png', 6);
  await put('lost.0007.png', 7);
  // Empty, cut short, frozen, from an older render.
  await writeFile(at('lost.18.png'), '');
  const whole = await readFile(at('lost.31.png'));
  await writeFile(at('lost.31.png'), whole.subarray(0, Math.floor(whole.length * 0.6)));
  for (const frame of [34, 35, 36]) await copyFile(at('lost.33.png'), at(`lost.${frame}.png`));
  const older = new Date('2026-10-02T08:00:00Z');
  for (const frame of [27, 28]) await utimes(at(`lost.${frame}.png`), older, older);
  // Two versions of one shot, drafts, a name in composed letters, a hex name, one number alone.
  for (const version of ['v01', 'v02'])
    for (let frame = 1; frame <= 5; frame += 1)
      await put(`found_${version}_${frame.toString().padStart(3, '0')}.png`, frame);
  for (let frame = 1; frame <= 3; frame += 1) await put(`draft_found_${frame.toString().padStart(3, '0')}.png`, frame);
  for (let frame = 1; frame <= 4; frame += 1) await put(`Übergabe (${frame}).png`, frame);
  await put('a3f9c01b.png', 9);
  await put('umbrella_12.png', 12);
  // What is no footage at all.
  await writeFile(at('notes.txt'), 'Left on line 4: one umbrella, one glove, half a render.\n');
  await writeFile(at('lost.41.png.part'), whole.subarray(0, 900));
  await writeFile(at('.hidden_marker'), '');
  await writeFile(at('Thumbs.db'), Buffer.alloc(64));
  await writeWav(at('whistle.wav'), mix(1.2, [{ at: 0, pitch: 880, level: 0.6 }]));
}
