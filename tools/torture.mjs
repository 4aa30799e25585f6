// `npm run torture`: what the server outlives. Usage: npm run torture -- [--quick] [--kills N] [--only TEXT]
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { project, refuse, setUp } from './steps.mjs';

try {
  await setUp();
} catch (error) {
  refuse('a step of the set-up failed.', error.message);
}
const main = join(project, 'e2e', 'torture', 'main.ts');
process.exit(
  spawnSync(process.execPath, ['--import', 'tsx', main, ...process.argv.slice(2)], { cwd: project, stdio: 'inherit' })
    .status ?? 1,
);
