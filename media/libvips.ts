import { createRequire } from 'node:module';
import type Library from 'sharp';
import type { Sharp } from 'sharp';

const require = createRequire(import.meta.url);
let loaded: typeof Library | undefined;

function load(): typeof Library {
  const library = require('sharp') as typeof Library;
  // One thread a picture: frames run side by side, and the cache would only hold what is never asked for again.
  library.concurrency(1);
  library.cache(false);
  return library;
}

/** A pipeline of libvips. The library is loaded with the first: it takes a third of a second, and most work needs none of it. */
export const sharp = (...args: Parameters<typeof Library>): Sharp => (loaded ??= load())(...args);
