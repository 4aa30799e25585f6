// `npm start`: sets everything up, then runs the server until Ctrl-C.
import { spawn } from 'node:child_process';
import { programs } from './programs.mjs';
import { project, refuse, setUp } from './steps.mjs';

try {
  await setUp();
} catch (error) {
  refuse('a step of the set-up failed.', error.message);
}

const { server: program, worker } = await programs();
const server = spawn(process.execPath, [program], {
  cwd: project,
  env: { ...process.env, SHALE_WORKER: worker },
  stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
});
// Ctrl-C reaches the server too; it stops its jobs, its workers and its database, and this waits for it.
process.on('SIGINT', () => undefined);
process.on('SIGTERM', () => server.kill('SIGTERM'));
process.on('SIGHUP', () => server.kill('SIGTERM'));
server.on('exit', (code) => process.exit(code ?? 1));
