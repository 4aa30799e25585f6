import { avGetPixFmtName, Frame, type AVPixelFormat } from 'node-av';
import type { ClipFacts } from '@shale/core';
import { Chain } from './graph.ts';

/** Fewer pictures than this tell nothing of a pattern. */
const enough = 20;

/**
 * Tells by the lines of pictures whether they are of one moment each, of two, or of film spread over fields: of five pictures two
 * mixed ones, again and again. Pictures without motion tell nothing.
 * @param give calls `use` with decoded frames in order
 */
export async function seenFields(
  give: (use: (frame: Frame) => Promise<void>) => Promise<void>,
): Promise<ClipFacts['seen']> {
  let chain: Chain | undefined;
  const out = new Frame();
  out.alloc();
  const kinds: SeenPicture[] = [];
  const drain = async () => {
    while (chain && (await chain.take(out))) {
      const said = out.getMetadata();
      kinds.push({
        fields: said.get('lavfi.idet.single.current_frame') ?? 'undetermined',
        repeats: said.get('lavfi.idet.repeated.current_frame') ?? 'neither',
      });
      out.unref();
    }
  };
  let at = 0;
  try {
    await give(async (frame) => {
      const pixels = avGetPixFmtName(frame.format as AVPixelFormat) ?? '';
      if (!/^yuvj?4[0-4][0-4]p/.test(pixels)) return;
      chain ??= await Chain.make(
        `width=${frame.width}:height=${frame.height}:pix_fmt=${pixels}:time_base=1/25:pixel_aspect=1/1`,
        [['idet']],
      );
      const pts = frame.pts;
      frame.pts = BigInt(at++);
      await chain.put(frame);
      frame.pts = pts;
      await drain();
    });
    if (chain) {
      await chain.put(null);
      await drain();
    }
  } finally {
    out.free();
    chain?.free();
  }
  return patternOf(kinds);
}

/** What the filter says of a picture: `progressive`, `tff`, `bff` or `undetermined`; whether a field repeats: `neither`, `top`, `bottom`. */
interface SeenPicture {
  fields: string;
  repeats: string;
}

/** What pictures in a row say. */
export function patternOf(seen: readonly SeenPicture[]): ClipFacts['seen'] {
  if (seen.length < enough) return undefined;
  // Of each five pictures in pulldown one repeats a field of the one before, and another its other field (SMPTE RP 197).
  const often = (field: string) =>
    [0, 1, 2, 3, 4].filter(
      (place) =>
        seen.filter(({ repeats }, at) => at % 5 === place && repeats === field).length >
        0.6 * Math.floor(seen.length / 5),
    );
  const [top, bottom] = [often('top'), often('bottom')];
  if (top.length === 1 && bottom.length === 1 && top[0] !== bottom[0]) return 'pulldown';
  const mixed = seen.filter(({ fields }) => fields === 'tff' || fields === 'bff').length;
  if (mixed > seen.length / 2) return 'interlaced';
  return seen.some(({ fields }) => fields === 'progressive') ? 'progressive' : undefined;
}
