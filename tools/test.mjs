// `npm test`: sets everything up with Chromium, then types, lint, the import rule, Jest and Playwright. Ends with one
// plain line: N passed, N failed.
import { spawn, spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join, relative } from 'node:path';
import { programs } from './programs.mjs';
import { project, refuse, setUp } from './steps.mjs';

// At their full length: every label of a day, properties as often as they say.
if (process.argv.includes('--long')) process.env.SHALE_LONG = '1';
const results = join(project, 'test-results');
rmSync(results, { recursive: true, force: true });
mkdirSync(results, { recursive: true });
const bin = (...path) => join(project, 'node_modules', ...path);
let passed = 0;
let failed = 0;
/** Every part and how long it took, in seconds. */
const parts = [];

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
      const seconds = (performance.now() - start) / 1000;
      parts.push([what, seconds]);
      console.log(`${code === 0 ? 'passed' : 'FAILED'}: ${what} (${seconds.toFixed(1)} s)`);
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
    await check('lint', [bin('oxlint', 'bin', 'oxlint'), '.']);
    // What has not changed since the last run is not looked at again.
    const written = ['--check', '--log-level', 'warn', '--cache', '--cache-location', bin('.cache', 'prettier.json')];
    await check('formatting', [bin('prettier', 'bin', 'prettier.cjs'), ...written, '.']);
    const folders = ['core', 'contract', 'media', 'engine', 'server', 'web', 'cli', 'demo', 'prove'];
    const rule = ['--config', '.dependency-cruiser.cjs', '--output-type', 'err'];
    await check('tables of the docs', ['--import', 'tsx', join(project, 'tools', 'docs.ts'), '--check']);
    await check('import rule', [bin('dependency-cruiser', 'bin', 'dependency-cruise.mjs'), ...folders, ...rule]);
  };
  return Promise.all([check('types', [bin('typescript7', 'bin', 'tsc'), '-b']), others()]);
}

let checked = Promise.resolve();
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
    const { numPassedTests, numFailedTests, numRuntimeErrorTestSuites, testResults } = read('units.json');
    for (const { name, startTime, endTime } of testResults)
      parts.push([relative(project, name), (endTime - startTime) / 1000]);
    return { passed: numPassedTests, failed: numFailedTests + numRuntimeErrorTestSuites };
  },
);
const provingSince = performance.now();
// The whole path by the command line, held against other libraries: each format and codec once; all of it is `npm run prove`.
const counts = join(results, 'prove.json');
suite('proof', ['--import', 'tsx', join(project, 'prove', 'main.ts'), '--quick', '--counts', counts], () => {
  parts.push(['proof', (performance.now() - provingSince) / 1000]);
  return read('prove.json');
});
const torturedSince = performance.now();
// What the server outlives, each kind once; all of it is `npm run torture`.
const tortured = join(results, 'torture.json');
suite(
  'torture',
  ['--import', 'tsx', join(project, 'e2e', 'torture', 'main.ts'), '--quick', '--counts', tortured],
  () => {
    parts.push(['torture', (performance.now() - torturedSince) / 1000]);
    return read('torture.json');
  },
);
suite('interface', [bin('@playwright', 'test', 'cli.js'), 'test', '-c', 'e2e/playwright.config.ts'], () => {
  const { stats, suites } = read('e2e.json');
  for (const { file, specs } of suites) {
    const took = specs.flatMap(({ tests }) => tests.flatMap(({ results: tries }) => tries.map((one) => one.duration)));
    parts.push([`e2e/${file}`, took.reduce((sum, one) => sum + one, 0) / 1000]);
  }
  if (stats.flaky > 0) console.log(`passed on the second try: ${stats.flaky}`);
  return { passed: stats.expected + stats.flaky, failed: stats.unexpected };
});

const slowest = parts.sort(([, a], [, b]) => b - a).slice(0, 10);
console.log(`The slowest: ${slowest.map(([what, seconds]) => `${what} ${seconds.toFixed(0)} s`).join(', ')}`);
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 && passed > 0 ? 0 : 1);
