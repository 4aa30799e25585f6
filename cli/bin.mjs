#!/usr/bin/env node
// `npx shale` in the checkout, and `shale` after `npm link`: the bundled command line.
await import(new URL('../tools/shale.mjs', import.meta.url).href);
