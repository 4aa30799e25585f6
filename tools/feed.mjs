// `npm run feed`: sets everything up, then stands in for a render machine until it is done or Ctrl-C ends it.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { project, refuse, setUp } from './steps.mjs';

try {
  await setUp();
} catch (error) {
  refuse('a step of the set-up failed.', error.message);
}
spawn(process.execPath, ['--import', 'tsx', join(project, 'demo', 'feed.ts'), ...process.argv.slice(2)], {
  stdio: 'inherit',
}).on('exit', (code) => process.exit(code ?? 1));
