// `npm run bench`: ratios measured side by side in one run; nothing here passes or fails.
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { project, refuse, setUp } from './steps.mjs';

try {
  await setUp();
} catch (error) {
  refuse('a step of the set-up failed.', error.message);
}
process.exit(
  spawnSync(
    process.execPath,
    ['--import', 'tsx', join(project, 'tools', 'bench', 'main.ts'), ...process.argv.slice(2)],
    { cwd: project, stdio: 'inherit' },
  ).status ?? 1,
);
