// `npm run prove`: every readable kind of file to every delivery by the command line, read back by other libraries.
// Usage: npm run prove -- [PART...] [--quick] [--only TEXT]
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { programs } from './programs.mjs';
import { project, refuse, setUp } from './steps.mjs';

try {
  // Its libraries are those of the tests, and a compiler that fuzzes.
  await setUp({ forTests: true, forProof: true });
} catch (error) {
  refuse('a step of the set-up failed.', error.message);
}
process.env.SHALE_WORKER = (await programs()).worker;
const main = join(project, 'prove', 'main.ts');
process.exit(
  spawnSync(process.execPath, ['--import', 'tsx', main, ...process.argv.slice(2)], { cwd: project, stdio: 'inherit' })
    .status ?? 1,
);
