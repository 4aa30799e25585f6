import { createRequire } from 'node:module';
import type * as Canvas from '@napi-rs/canvas';

const require = createRequire(import.meta.url);

/** The families of Shale's own type, for text and for numbers. */
export const families = { text: 'Shale Text', numbers: 'Shale Numbers' } as const;

let loaded: typeof Canvas | undefined;

/** The canvas, with the fonts that ship with Shale. It is loaded where something is drawn, and not at every start of a process. */
export function canvas(): typeof Canvas {
  if (loaded) return loaded;
  const library = require('@napi-rs/canvas') as typeof Canvas;
  const next = '@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next';
  const mono = '@fontsource-variable/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono';
  for (const [file, family] of [
    [next, families.text],
    [mono, families.numbers],
  ] as const)
    for (const range of ['latin', 'latin-ext'])
      library.GlobalFonts.registerFromPath(require.resolve(`${file}-${range}-wght-normal.woff2`), family);
  return (loaded = library);
}
