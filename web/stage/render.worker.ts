import {
  showDifference,
  showPacked,
  showView,
  unpackPiece,
  unpackView,
  viewOf,
  type Looking,
  type Taken,
  type View,
} from '@shale/core';
import { Card } from './card.ts';

/** What the stage has worked out off the page's thread. */
export type Work =
  | { kind: 'view'; bytes: Uint8Array; looking: Looking }
  | { kind: 'difference'; a: Uint8Array; b: Uint8Array; looking: Looking; gain: number }
  | { kind: 'piece'; bytes: Uint8Array; taken: Taken; looking: Looking };

export interface Asked {
  id: number;
  work: Work;
}
export type Answer = { id: number } & ({ picture: ImageBitmap } | { error: string });

function pictureOf({ width, height }: Pick<View, 'width' | 'height'>, pixels: Uint8ClampedArray): Promise<ImageBitmap> {
  const image = new ImageData(pixels as Uint8ClampedArray<ArrayBuffer>, width, height);
  return createImageBitmap(image, { premultiplyAlpha: 'none' });
}

/** The graphics card, once it was looked for; null where there is none. */
let card: Card | null | undefined;

/** @throws where the bytes are no picture */
async function work(asked: Work): Promise<ImageBitmap> {
  switch (asked.kind) {
    case 'view': {
      card ??= Card.open() ?? null;
      const shown = card?.show(asked.bytes, asked.looking);
      if (shown) return shown;
      const { pixels, ...size } = showPacked(asked.bytes, asked.looking);
      return pictureOf(size, pixels);
    }
    case 'difference': {
      const a = unpackView(asked.a);
      return pictureOf(a, showDifference(a, unpackView(asked.b), asked.looking, asked.gain));
    }
    case 'piece': {
      const { image } = unpackPiece(asked.bytes);
      const view = viewOf(image, asked.taken, image.width);
      return pictureOf(view, showView(view, asked.looking));
    }
  }
}

self.onmessage = ({ data: { id, work: asked } }: MessageEvent<Asked>) => {
  work(asked)
    .then((picture) => self.postMessage({ id, picture } satisfies Answer, { transfer: [picture] }))
    .catch((error: unknown) => self.postMessage({ id, error: String(error) } satisfies Answer));
};
