#!/usr/bin/env node
// `npx shale ...` in the checkout, `shale ...` after `npm link`, `npm run -s shale -- ...`: the command line, bundled anew where a source has changed.
import { pathToFileURL } from 'node:url';
import { programs } from './programs.mjs';

const { cli, worker } = await programs();
process.env.SHALE_WORKER = worker;
await import(pathToFileURL(cli).href);
