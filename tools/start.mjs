// `npm start`: sets everything up, then keeps the server running until Ctrl-C.
import { spawn } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { programs } from './programs.mjs';
import { data, drawDemoBeside, endBeside, project, refuse, setUp } from './steps.mjs';

/** The exit of a server that crashed and ended cleanly; any other that was not asked for is an ending by the system. */
const crashed = 70;

/** Pauses before a server that crashed is started again, in seconds; after so many crashes in a row it is not. */
const pauses = [1, 2, 5, 15, 30];

/** A server that ran for so long begins a new row, in seconds. */
const steady = 600;

try {
  await setUp();
} catch (error) {
  refuse('a step of the set-up failed.', error.message);
}

const { server: program, worker } = await programs();
/** `npm start -- FOLDER` opens with that folder. */
const opens = process.argv[2] && resolve(process.env.INIT_CWD ?? process.cwd(), process.argv[2]);
let asked = false;
let server;
let row = 0;

function run() {
  const began = Date.now();
  server = spawn(process.execPath, [program], {
    cwd: project,
    env: { ...process.env, SHALE_WORKER: worker, ...(opens ? { SHALE_OPEN: opens } : {}) },
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
  });
  server.on('exit', (code, signal) => {
    const byItself = code === crashed || signal !== null;
    if (asked || !byItself) {
      // One that was killed while it ended leaves its database.
      void endDatabase().then(() => process.exit(code ?? 1));
      return;
    }
    if (Date.now() - began > steady * 1000) row = 0;
    const pause = pauses[row];
    row += 1;
    const how = signal ? `was ended by ${signal}` : 'crashed';
    if (pause === undefined) {
      console.error(`Shale ${how} ${row} times in a row, and is not started again; its log says why.`);
      void endDatabase().then(() => process.exit(1));
      return;
    }
    console.error(`Shale ${how}. It is started again in ${pause} s; what ran goes on.`);
    setTimeout(() => !asked && run(), pause * 1000);
  });
}

/** Ends a database that a killed server left running on this very folder: the next start would, and there may be none. */
async function endDatabase() {
  const folder = join(data, 'db');
  try {
    const pid = Number(readFileSync(join(folder, 'pid'), 'utf8'));
    if (!readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(join(folder, 'data'))) return;
    process.kill(pid, 'SIGTERM');
    for (let tries = 0; tries < 150 && existsSync(`/proc/${pid}`); tries += 1) await wait(100);
  } catch {
    // None is there.
  }
}

/** Ends the server, which stops its jobs, its workers and its database; this waits for it. */
function end() {
  asked = true;
  endBeside();
  if (server.exitCode !== null || server.signalCode !== null) {
    void endDatabase().then(() => process.exit(0));
    return;
  }
  server.kill('SIGTERM');
}

// Ctrl-C reaches the server too.
process.on('SIGINT', end);
process.on('SIGTERM', end);
process.on('SIGHUP', end);
// It goes on while the server runs: a scene that fails is no reason to end.
drawDemoBeside().catch((error) => !asked && console.error(`The demo footage could not be drawn. ${error.message}`));
run();
