import { readFileSync } from 'node:fs';

/** Of Shale, as its package says. */
export const shaleVersion = (
  JSON.parse(readFileSync(new URL('../package.json', import.meta.url), 'utf8')) as { version: string }
).version;
