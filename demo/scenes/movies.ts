import { join } from 'node:path';
import { AV_PIX_FMT_YUV420P, AV_PIX_FMT_YUVA444P10LE } from 'node-av/constants';
import { writeMovie } from '../movie.ts';
import { mix } from '../wave.ts';
import { prepareView, yardView } from './yard.ts';

/** platform_plate: H.264 in MP4, 25 fps, 250 frames, with sound. */
export async function drawPlatformPlate(folder: string): Promise<void> {
  const frameOf = await prepareView(yardView('platform'));
  const sound = mix(10, [
    { at: 1, pitch: 520, level: 0.8 },
    { at: 1.6, pitch: 520, level: 0.7 },
    { at: 6.2, pitch: 520, level: 0.5 },
  ]);
  await writeMovie(
    {
      path: join(folder, 'platform_plate.mp4'),
      width: 1280,
      height: 720,
      rate: 25,
      encoder: 'libx264',
      format: AV_PIX_FMT_YUV420P,
      options: { crf: 20, preset: 'veryfast' },
      sound,
    },
    250,
    frameOf,
  );
}

/** night_run: ProRes 4444 with alpha in MOV, 30 fps, 60 frames. */
export async function drawNightRun(folder: string): Promise<void> {
  const frameOf = await prepareView(yardView('night'), true);
  await writeMovie(
    {
      path: join(folder, 'night_run.mov'),
      width: 1280,
      height: 720,
      rate: 30,
      encoder: 'prores_ks',
      format: AV_PIX_FMT_YUVA444P10LE,
      options: { profile: '4444', qscale: 9, vendor: 'apl0' },
    },
    60,
    frameOf,
  );
}
