import { avGetPixFmtName, Frame, type AVPixelFormat } from 'node-av';
import { ShaleError, type Image, type SampleFormat } from '@shale/core';
import { smallOf, type Small } from '../pixels/small.ts';
import { ClipReader } from './clipReader.ts';
import { Chain } from './graph.ts';
import { tightRows } from './libav.ts';

/** The samples of pixel formats whose first plane is light alone. */
const lightPlanes: readonly (readonly [RegExp, SampleFormat])[] = [
  [/^(yuvj?a?4\d\dp|nv12|nv16|nv24|gray)$/, 'u8'],
  [/^(yuva?4\d\dp|gray)10le$/, 'u10'],
  [/^(yuva?4\d\dp|gray)12le$/, 'u12'],
];

/** The light of a frame as it lies in memory, and samples from one row to the next; undefined where other samples lie between. */
function lightOf(frame: Frame): { light: Image; stride: number } | undefined {
  const { width, height } = frame;
  const name = avGetPixFmtName(frame.format as AVPixelFormat) ?? '';
  const sample = lightPlanes.find(([names]) => names.test(name))?.[1];
  const stride = frame.linesize[0]!;
  if (!sample || stride < 0) return undefined;
  const bytes = sample === 'u8' ? 1 : 2;
  const plane = frame.data![0]!;
  const data = bytes === 1 ? plane : new Uint16Array(plane.buffer, plane.byteOffset, plane.length / 2);
  return { light: { width, height, channels: 1, sample, data }, stride: stride / bytes };
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
): AsyncGenerator<Small | null> {
  // The decoder's own thread would wait longer for its turn than such pictures take.
  const reader = await ClipReader.open(path, { here: true });
  const scaled = new Scaled(columns);
  try {
    for (let at = start; at < end; at += 1) {
      let small: Small | null = null;
      try {
        small = await reader.frameAt(at, async (frame) => {
          const found = lightOf(frame);
          return found ? smallOf(found.light, columns, found.stride) : scaled.take(frame);
        });
      } catch (error) {
        if (!(error instanceof ShaleError)) throw error;
      }
      yield small;
    }
  } finally {
    scaled.free();
    await reader.close();
  }
}

/** Pictures whose light does not lie by itself, made small by the library. */
class Scaled {
  private readonly out = new Frame();
  private made: { of: string; chain: Chain } | undefined;

  constructor(private readonly columns: number) {
    this.out.alloc();
  }

  async take(frame: Frame): Promise<Small | null> {
    const { width, height } = frame;
    const of = `width=${width}:height=${height}:pix_fmt=${avGetPixFmtName(frame.format as AVPixelFormat)}:time_base=1/25:pixel_aspect=1/1`;
    if (this.made?.of !== of) {
      this.made?.chain.free();
      this.made = {
        of,
        chain: await Chain.make(of, [
          ['scale', `w=${this.columns}:h=ih:flags=area`],
          ['format', 'pix_fmts=gray'],
        ]),
      };
    }
    await this.made.chain.put(frame);
    if (!(await this.made.chain.take(this.out))) return null;
    const rows = tightRows(this.out.data![0]!, this.out.linesize[0]!, this.columns, height);
    this.out.unref();
    return { rows: height, data: Float32Array.from(rows) };
  }

  free(): void {
    this.out.free();
    this.made?.chain.free();
  }
}
