import { avGetPixFmtName, Frame, type AVPixelFormat } from 'node-av';
import { ShaleError, type Image, type SampleFormat } from '@shale/core';
import { smallOf } from '../pixels/small.ts';
import { ClipReader } from './clipReader.ts';
import { Chain } from './graph.ts';
import { tightRows } from './libav.ts';

/** The samples of pixel formats whose first plane is light alone. */
const lightPlanes: readonly (readonly [RegExp, SampleFormat])[] = [
  [/^(yuvj?a?4\d\dp|nv12|nv16|nv24|gray)$/, 'u8'],
  [/^(yuva?4\d\dp|gray)10le$/, 'u10'],
  [/^(yuva?4\d\dp|gray)12le$/, 'u12'],
];

/** The light of a frame as it is stored; undefined where other samples lie between. */
function lightOf(frame: Frame): Image | undefined {
  const { width, height } = frame;
  const name = avGetPixFmtName(frame.format as AVPixelFormat) ?? '';
  const sample = lightPlanes.find(([names]) => names.test(name))?.[1];
  const stride = frame.linesize[0]!;
  if (!sample || stride < 0) return undefined;
  const bytes = sample === 'u8' ? 1 : 2;
  const rows = tightRows(frame.data![0]!, stride, width * bytes, height);
  const data = bytes === 1 ? rows : new Uint16Array(rows.buffer, rows.byteOffset, width * height);
  return { width, height, channels: 1, sample, data };
}

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
          const light = lightOf(frame);
          if (light) return smallOf(light, columns);
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
