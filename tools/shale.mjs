#!/usr/bin/env node
// `npx shale ...` in the checkout, `shale ...` after `npm link`, `npm run -s shale -- ...`: the command line, bundled anew where a source has changed.
import { createRequire } from 'node:module';
import { forkWorker } from '../engine/forkWorker.mjs';
import { programs } from './programs.mjs';

/** Processes that a command is sure to need: they load while it loads itself and makes its plan. */
const beginning = { scan: 1, convert: 2, plan: 1, receive: 1 };

const { cli, worker } = await programs();
process.env.SHALE_WORKER = worker;
const [command, ...rest] = process.argv.slice(2);
const asksForHelp = rest.length === 0 || rest.some((word) => word === '--help' || word === '-h');
globalThis.begunWorkers = Array.from({ length: asksForHelp ? 0 : (beginning[command] ?? 0) }, () => {
  const child = forkWorker(worker);
  // Nobody waits for one that is not taken over: it ends with this process.
  child.unref();
  child.channel.unref();
  return child;
});
createRequire(import.meta.url)(cli);
