// `npm test`: sets everything up with Chromium, then types, lint, the import rule, Jest and Playwright. Ends with one
// plain line: N passed, N failed.
import { spawn, spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { programs } from './programs.mjs';
import { project, refuse, setUp } from './steps.mjs';

const results = join(project, 'test-results');
rmSync(results, { recursive: true, force: true });
mkdirSync(results, { recursive: true });
const bin = (...path) => join(project, 'node_modules', ...path);
let passed = 0;
let failed = 0;

/** A check that is one thing: it passes or it fails. What it says is shown when it ends. */
function check(what, args) {
  const start = performance.now();
  return new Promise((done) => {
    const child = spawn(process.execPath, args, { cwd: project, stdio: ['ignore', 'pipe', 'pipe'] });
    let said = '';
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (text) => (said += text));
    child.on('close', (code) => {
      if (code === 0) passed += 1;
      else failed += 1;
      process.stdout.write(said);
      console.log(
        `${code === 0 ? 'passed' : 'FAILED'}: ${what} (${((performance.now() - start) / 1000).toFixed(1)} s)`,
      );
      done();
    });
  });
}

/** A suite that counts its own tests into a file. */
function suite(what, args, countOf) {
  const start = performance.now();
  const done = spawnSync(process.execPath, args, { cwd: project, stdio: 'inherit' });
  let counts = { passed: 0, failed: 0 };
  try {
    counts = countOf();
  } catch {
    // Nothing was written: the suite itself did not come to its end.
  }
  passed += counts.passed;
  failed += counts.failed > 0 || done.status === 0 ? counts.failed : 1;
  console.log(
    `${what}: ${counts.passed} passed, ${counts.failed} failed (${((performance.now() - start) / 1000).toFixed(1)} s)`,
  );
}

const read = (name) => JSON.parse(readFileSync(join(results, name), 'utf8'));

/** Needs nothing but npm's packages: it goes on while the rest is set up. One core each, the types taking as long as the others. */
function checkText() {
  const others = async () => {
    await check('lint', [bin('eslint', 'bin', 'eslint.js'), '.']);
    await check('formatting', [bin('prettier', 'bin', 'prettier.cjs'), '--check', '--log-level', 'warn', '.']);
    const folders = ['core', 'contract', 'media', 'engine', 'server', 'web', 'cli', 'demo'];
    const rule = ['--config', '.dependency-cruiser.cjs', '--output-type', 'err'];
    await check('tables of the docs', ['--import', 'tsx', join(project, 'tools', 'docs.ts'), '--check']);
    await check('import rule', [bin('dependency-cruiser', 'bin', 'dependency-cruise.mjs'), ...folders, ...rule]);
  };
  return Promise.all([check('types', [bin('typescript', 'bin', 'tsc'), '-p', '.']), others()]);
}

let checked;
try {
  await setUp({ forTests: true, onModules: () => (checked = checkText()) });
} catch (error) {
  refuse('a step of the set-up failed.', error.message);
}
await checked;
// Tests run the workers that were just bundled.
process.env.SHALE_WORKER = (await programs()).worker;
suite(
  'units',
  [
    '--experimental-vm-modules',
    '--no-warnings',
    bin('jest', 'bin', 'jest.js'),
    '--json',
    '--outputFile',
    join(results, 'units.json'),
  ],
  () => {
    const { numPassedTests, numFailedTests, numRuntimeErrorTestSuites } = read('units.json');
    return { passed: numPassedTests, failed: numFailedTests + numRuntimeErrorTestSuites };
  },
);
suite('interface', [bin('@playwright', 'test', 'cli.js'), 'test', '-c', 'e2e/playwright.config.ts'], () => {
  const { stats } = read('e2e.json');
  if (stats.flaky > 0) console.log(`passed on the second try: ${stats.flaky}`);
  return { passed: stats.expected + stats.flaky, failed: stats.unexpected };
});

console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 && passed > 0 ? 0 : 1);
