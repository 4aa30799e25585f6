import { avGetPixFmtName, Frame, type AVPixelFormat } from 'node-av';
import { ShaleError } from '@shale/core';
import { ClipReader } from './clipReader.ts';
import { Chain } from './graph.ts';
import { tightRows } from './libav.ts';

/**
 * Pictures of a clip from one to another (not included) made small: so many columns, every row as it is stored, grey in 8 bits, without
 * their colour being worked. null stands for one that cannot be read.
 */
export async function* smallFrames(
  path: string,
  start: number,
  end: number,
  columns: number,
): AsyncGenerator<{ rows: number; data: Float32Array } | null> {
  const reader = await ClipReader.open(path, { threads: 1 });
  const out = new Frame();
  out.alloc();
  let chain: { of: string; chain: Chain } | undefined;
  try {
    for (let at = start; at < end; at += 1) {
      let small: { rows: number; data: Float32Array } | null = null;
      try {
        small = await reader.frameAt(at, async (frame) => {
          const { width, height } = frame;
          const of = `width=${width}:height=${height}:pix_fmt=${avGetPixFmtName(frame.format as AVPixelFormat)}:time_base=1/25:pixel_aspect=1/1`;
          if (chain?.of !== of) {
            chain?.chain.free();
            chain = {
              of,
              chain: await Chain.make(of, [
                ['scale', `w=${columns}:h=ih:flags=area`],
                ['format', 'pix_fmts=gray'],
              ]),
            };
          }
          await chain.chain.put(frame);
          if (!(await chain.chain.take(out))) return null;
          const rows = tightRows(out.data![0]!, out.linesize[0]!, columns, height);
          out.unref();
          return { rows: height, data: Float32Array.from(rows) };
        });
      } catch (error) {
        if (!(error instanceof ShaleError)) throw error;
      }
      yield small;
    }
  } finally {
    out.free();
    chain?.chain.free();
    await reader.close();
  }
}
