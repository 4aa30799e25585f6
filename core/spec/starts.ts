import { writesAlpha } from '../pixels/recipe.ts';
import { isVideoFormat, type Format } from '../formats/index.ts';
import { resizeSchema, type Picture } from '../pixels/picture.ts';
import { withFormat } from './parse.ts';
import type { Spec } from './schema.ts';

/** What people mostly want, to begin with and to change: a record each. */
export interface StartingPoint {
  words: string;
  /** What it is, in a few words. */
  note: string;
  /**
   * The spec of it for what another spec takes: frames, place and names stay as they are, unless one of many files has to be told
   * from the others.
   */
  of: (spec: Spec) => Spec;
}

/** A spec for another format, with what that needs of its own. */
function into(spec: Spec, format: Format, write: Partial<Spec['write']>): Spec {
  const next = withFormat(spec, format);
  return { ...next, write: { ...next.write, ...write } };
}

const sized = (picture: Picture, percent: number): Picture => ({
  ...picture,
  resize: resizeSchema.parse({ to: { by: 'percent', percent } }),
});

/** A video's name that says what it is, where the spec names it as usual. */
const namedFor = (spec: Spec, what: string): Spec => ({
  ...spec,
  video: { ...spec.video, name: `{stem}_${what}.{ext}`, oddSize: 'crop' },
});

const hasAlpha = ({ write }: Spec): boolean => writesAlpha(write.alpha);

export const startingPoints = {
  review: {
    words: 'Review video',
    note: 'H.264 that plays anywhere, BT.709',
    of: (spec) => namedFor(into(spec, 'h264', { sample: 'u8' }), 'review'),
  },
  edit: {
    words: 'For editing, with alpha',
    note: 'ProRes 4444, alpha kept',
    of: (spec) => namedFor(withFormat(spec, 'prores4444'), 'edit'),
  },
  viewport: {
    words: 'Frames for a 3D viewport',
    note: 'PNG, 8-bit, straight alpha, numbered from 0',
    of: (spec) => {
      const next = into(spec, 'png', {
        sample: 'u8',
        transfer: 'srgb',
        alpha: hasAlpha(spec) ? 'straight' : spec.write.alpha,
      });
      return { ...next, names: { ...next.names, first: 0 } };
    },
  },
  compositing: {
    words: 'Frames for compositing',
    note: 'OpenEXR, half float, linear light',
    of: (spec) => into(spec, 'exr', { sample: 'f16', transfer: 'linear' }),
  },
  half: {
    words: 'Half size',
    note: 'frames half as wide and high',
    of: (spec) => ({ ...spec, picture: sized(spec.picture, 50) }),
  },
  quarter: {
    words: 'Quarter size',
    note: 'frames a quarter as wide and high',
    of: (spec) => ({ ...spec, picture: sized(spec.picture, 25) }),
  },
  small: {
    words: 'Small moving picture',
    note: 'GIF, 360 pixels at most, played for ever',
    of: (spec) => ({
      ...withFormat(spec, 'gif'),
      picture: {
        ...spec.picture,
        resize: resizeSchema.parse({ to: { by: 'limit', width: 360, height: 360 } }),
      },
    }),
  },
  archive: {
    words: 'Archive',
    note: 'FFV1 in Matroska: every sample kept, with checksums',
    of: (spec) => namedFor(into(spec, 'ffv1', { sample: 'u16' }), 'archive'),
  },
} as const satisfies Record<string, StartingPoint>;

export type StartingPointName = keyof typeof startingPoints;

/**
 * A starting point as an output beside others: where it would write the same names as they do, its results go into a folder of their
 * own.
 * @param others what is written already
 */
export function alsoWrite(name: StartingPointName, first: Spec, others: readonly Spec[]): Spec {
  const spec = startingPoints[name].of(first);
  const isAlike = (other: Spec) =>
    isVideoFormat(spec.write.format)
      ? other.video.name === spec.video.name && other.write.format === spec.write.format
      : !isVideoFormat(other.write.format) && (other.into.folder ?? '{stem}') === (spec.into.folder ?? '{stem}');
  if (!others.some(isAlike)) return spec;
  return { ...spec, into: { ...spec.into, folder: `${spec.into.folder ?? '{stem}'}/${name}` } };
}
