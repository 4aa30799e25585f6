import { avGetPixFmtName, Frame, type AVPixelFormat } from 'node-av';
import { ShaleError } from '@shale/core';
import { ClipReader } from './clipReader.ts';
import { Chain } from './graph.ts';

/** How much of a picture has to change for a new scene, in percent, by the library's own score. */
const threshold = 10;

/**
 * The first picture of each scene of a clip, the first picture of all among them. Every picture is decoded, and looked at small.
 * @throws ShaleError naming the file
 */
export async function scenesOf(path: string, signal?: AbortSignal): Promise<number[]> {
  const reader = await ClipReader.open(path, { threads: 2 });
  const out = new Frame();
  out.alloc();
  let chain: Chain | undefined;
  const scenes = [0];
  try {
    for (let at = 0; at < reader.count; at += 1) {
      if (signal?.aborted) return scenes;
      try {
        await reader.frameAt(at, async (frame) => {
          chain ??= await Chain.make(
            `width=${frame.width}:height=${frame.height}:pix_fmt=${avGetPixFmtName(frame.format as AVPixelFormat)}:time_base=1/25:pixel_aspect=1/1`,
            [
              ['scale', 'w=160:h=-2:flags=area'],
              ['format', 'pix_fmts=yuv420p'],
              ['scdet', `threshold=${threshold}`],
            ],
          );
          frame.pts = BigInt(at);
          await chain.put(frame);
        });
      } catch (error) {
        // A picture that is damaged begins no scene.
        if (!(error instanceof ShaleError)) throw error;
        continue;
      }
      while (await chain!.take(out)) {
        const shown = Number(out.pts);
        if (out.getMetadata().get('lavfi.scd.time') !== null && shown > 0) scenes.push(shown);
        out.unref();
      }
    }
    return scenes;
  } finally {
    out.free();
    chain?.free();
    await reader.close();
  }
}
