import { fileIdentity, readStill } from '@shale/media';
import { pictureOfClip } from './clips.ts';
import type { Image } from '@shale/core';

/** One picture on this machine, as the stage asks for it. */
export interface ShownFile {
  /** Absolute. */
  path: string;
  /** A clip of video. */
  clip: boolean;
  /** Which picture of the file, from 0. */
  picture: number;
}

/** Bytes of decoded pictures that a process keeps; the last one is kept whatever it takes. */
const bound = 256 * 2 ** 20;
/** How long they are kept after the last question, in milliseconds. */
const patience = 20_000;

/** Decoded pictures by file, modification and place; the last used last. */
const held = new Map<string, Promise<Image>>();
const sizes = new Map<string, number>();
let forgetting: NodeJS.Timeout | undefined;

function forgetLater(): void {
  clearTimeout(forgetting);
  forgetting = setTimeout(() => {
    held.clear();
    sizes.clear();
  }, patience);
  forgetting.unref();
}

function forgetUnused(): void {
  let bytes = [...sizes.values()].reduce((sum, size) => sum + size, 0);
  for (const key of held.keys()) {
    if (bytes <= bound || held.size <= 1) return;
    bytes -= sizes.get(key) ?? 0;
    held.delete(key);
    sizes.delete(key);
  }
}

/**
 * A picture in its file's own samples, decoded once for all that is asked of it within a while: its values, its scopes, its
 * comparison. @throws ShaleError naming the file
 */
export async function readShown({ path, clip, picture }: ShownFile): Promise<Image> {
  const key = `${await fileIdentity(path)}\0${picture}`;
  const known = held.get(key);
  held.delete(key);
  const reading = known ?? (clip ? pictureOfClip(path, picture) : readStill(path, { picture }));
  held.set(key, reading);
  forgetLater();
  try {
    const image = await reading;
    sizes.set(key, image.data.byteLength);
    forgetUnused();
    return image;
  } catch (error) {
    held.delete(key);
    throw error;
  }
}
