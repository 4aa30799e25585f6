#!/usr/bin/env node
// `npx shale ...` in the checkout, `shale ...` after `npm link`, `npm run -s shale -- ...`: the command line, bundled anew where a source has changed.
import { createRequire } from 'node:module';
import { programs } from './programs.mjs';

const { cli, worker } = await programs();
process.env.SHALE_WORKER = worker;
createRequire(import.meta.url)(cli);
