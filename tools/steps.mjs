// What `npm start`, `npm test` and `npm run bench` do before anything of Shale runs. Plain JavaScript without packages:
// it runs before they are installed, and must be able to say that Node is too old.
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { setPriority } from 'node:os';
import { existsSync, mkdirSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { buildPrograms } from './programs.mjs';

export const project = fileURLToPath(new URL('..', import.meta.url));
export const data = resolve(process.env.SHALE_DATA || join(project, '.shale'));

/** Ends with a clear line: the fact, the way out. */
export function refuse(fact, wayOut) {
  console.error(`Shale cannot start: ${fact}\n  ${wayOut}`);
  process.exit(1);
}

/** Does a step and says how long it took; a step that returns false had nothing to do and stays silent. */
export async function step(what, work) {
  const start = performance.now();
  const did = await work();
  if (did !== false) console.log(`  ${what} (${((performance.now() - start) / 1000).toFixed(1)} s)`);
}

/** Runs a command; its output is shown only where it fails. */
export function run(command, args, options = {}) {
  const done = spawnSync(command, args, { cwd: project, encoding: 'utf8', maxBuffer: 1 << 28, ...options });
  if (done.status === 0) return done.stdout;
  const output = `${done.stdout ?? ''}${done.stderr ?? ''}`.trim().split('\n').slice(-25).join('\n');
  throw new Error(`${command} ${args.join(' ')} failed (${done.error?.message ?? `exit ${done.status}`})\n${output}`);
}

/** Commands that run beside others. */
const beside = new Set();

/** {@link run} that lets other work go on meanwhile. @param options with `nice`: how far it stands back behind others, 0 to 19 */
function runBeside(command, args, { nice = 0, cwd = project } = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { cwd, stdio: ['ignore', 'pipe', 'pipe'] });
    beside.add(child);
    if (child.pid && nice > 0) setPriority(child.pid, nice);
    child.once('close', () => beside.delete(child));
    let said = '';
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (text) => (said += text));
    child.once('error', reject);
    child.once('close', (code) => {
      if (code === 0) return resolve(true);
      const output = said.trim().split('\n').slice(-25).join('\n');
      reject(new Error(`${command} ${args.join(' ')} failed (exit ${code})\n${output}`));
    });
  });
}

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major > 20 || (major === 20 && minor >= 19)) return;
  refuse(
    `this is Node ${process.versions.node}, and it needs 20.19 or later.`,
    'Install a newer Node.js and start again.',
  );
}

/** Refuses early where the project's folder may not be written. */
export function checkFolder() {
  try {
    mkdirSync(data, { recursive: true });
    writeFileSync(join(data, '.writable'), '');
  } catch (error) {
    refuse(
      `the folder ${data} may not be written (${error.code}).`,
      'Give your account the right to write there, or set SHALE_DATA to another folder.',
    );
  }
}

const isInstalled = (name) => {
  const asked = spawnSync('dpkg-query', ['-W', '-f=${Status}', name], { encoding: 'utf8' });
  return asked.status === 0 && asked.stdout.includes('install ok installed');
};

/**
 * What Shale needs of Debian. Of MariaDB only the programs: the package `mariadb-server` would start a server of the
 * whole machine, which Shale never touches.
 */
const needed = [
  {
    packages: ['mariadb-server-core', 'mariadb-client-core'],
    there: () =>
      existsSync('/usr/sbin/mariadbd') &&
      existsSync('/usr/bin/mariadb-install-db') &&
      existsSync('/usr/bin/my_print_defaults'),
  },
  { packages: ['libdeflate-dev'], there: () => isInstalled('libdeflate-dev') },
  { packages: ['libisal-dev'], there: () => isInstalled('libisal-dev') },
  { packages: ['libxxhash-dev'], there: () => isInstalled('libxxhash-dev') },
  { packages: ['libopenexr-dev'], there: () => isInstalled('libopenexr-dev') },
  { packages: ['pkg-config'], there: () => existsSync('/usr/bin/pkg-config') },
  { packages: ['g++', 'make'], there: () => existsSync('/usr/bin/g++') && existsSync('/usr/bin/make') },
  { packages: ['python3'], there: () => spawnSync('python3', ['--version']).status === 0 },
];
const neededForTests = [
  // Its sums are held against ours.
  { packages: ['xxhash'], there: () => existsSync('/usr/bin/xxh128sum') },
  { packages: ['chromium'], there: () => existsSync('/usr/bin/chromium') },
  // Another library for pictures, which tests hold ours against.
  { packages: ['python3-openimageio'], there: () => isInstalled('python3-openimageio') },
  { packages: ['python3-numpy'], there: () => isInstalled('python3-numpy') },
  // Others for clips, and for compressions that the first does not write.
  { packages: ['python3-av'], there: () => isInstalled('python3-av') },
  { packages: ['python3-pil'], there: () => isInstalled('python3-pil') },
];

const neededForProof = [
  { packages: ['clang'], there: () => existsSync('/usr/bin/clang++') },
  { packages: ['libclang-rt-dev'], there: () => isInstalled('libclang-rt-dev') },
];

/** Installs the Debian packages that are missing, as root or with sudo that asks nothing. */
export function installPackages(forTests, forProof = false) {
  const missing = [...needed, ...(forTests ? neededForTests : []), ...(forProof ? neededForProof : [])]
    .filter(({ there }) => !there())
    .flatMap(({ packages }) => packages);
  if (missing.length === 0) return false;
  if (!existsSync('/usr/bin/apt-get'))
    refuse(
      `it needs ${missing.join(', ')}, and this is not a Debian system.`,
      'Install them by your own package manager, under Debian, or in a Debian container.',
    );
  const command = `apt-get install -y --no-install-recommends ${missing.join(' ')}`;
  const isRoot = process.getuid() === 0;
  if (!isRoot && spawnSync('sudo', ['-n', 'true']).status !== 0) {
    refuse(
      `the Debian packages ${missing.join(', ')} are missing, and this account may not install them.`,
      `Run this once, then start again:\n  sudo apt-get update && sudo ${command}`,
    );
  }
  const asRoot = (args) =>
    isRoot ? run('apt-get', args, { env: quiet }) : run('sudo', ['-n', 'apt-get', ...args], { env: quiet });
  const quiet = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  console.log(`  installing Debian packages: ${missing.join(', ')}`);
  asRoot(['update', '-qq']);
  asRoot(['install', '-y', '-qq', '--no-install-recommends', ...missing]);
  return true;
}

const hashOf = (...texts) => createHash('sha256').update(texts.join('\0')).digest('hex');

/** Every file below the folders, with its time: changes when any does. */
function stateOf(...folders) {
  const lines = [];
  const walk = (path) => {
    for (const entry of readdirSync(path, { withFileTypes: true })) {
      if (['node_modules', 'dist', 'build'].includes(entry.name)) continue;
      const below = join(path, entry.name);
      if (entry.isDirectory()) walk(below);
      else lines.push(`${below} ${statSync(below).mtimeMs} ${statSync(below).size}`);
    }
  };
  folders.forEach((folder) => walk(join(project, folder)));
  return hashOf(...lines.sort());
}

/** Does work again only where what it is made of has changed since, or its result is gone. */
async function whenChanged(name, state, result, work) {
  const stamp = join(project, 'node_modules', `.shale-${name}`);
  if (existsSync(result) && existsSync(stamp) && readFileSync(stamp, 'utf8') === state) return false;
  await work();
  writeFileSync(stamp, state);
  return true;
}

export function installModules() {
  const lock = hashOf(readFileSync(join(project, 'package-lock.json'), 'utf8'), process.versions.modules);
  return whenChanged('modules', lock, join(project, 'node_modules', 'zod'), () =>
    run('npm', ['ci', '--ignore-scripts', '--no-audit', '--no-fund']),
  );
}

/** Our own C++: folder and name of what comes out. */
const addons = [
  ['media/exr', 'shale_exr'],
  ['media/pixels', 'shale_pixels'],
  ['media/png', 'shale_png'],
  ['media/tiff', 'shale_tiff'],
  ['engine/disk', 'shale_disk'],
];

/** Builds those that have changed, beside each other. */
export async function buildAddons() {
  const own = dirname(dirname(process.execPath));
  // Node's headers lie beside it where it is installed with them; otherwise node-gyp brings them.
  const headers = existsSync(join(own, 'include', 'node', 'node_api.h')) ? [`--nodedir=${own}`] : [];
  const builder = join(project, 'node_modules', 'node-gyp', 'bin', 'node-gyp.js');
  const building = addons.map(([place, name]) => {
    const folder = join(project, place);
    const state = hashOf(
      readFileSync(join(folder, 'binding.gyp'), 'utf8'),
      stateOf(`${place}/src`, 'media/native'),
      process.versions.modules,
    );
    return whenChanged(`addon-${name}`, state, join(folder, 'build', 'Release', `${name}.node`), () =>
      runBeside(process.execPath, [builder, 'rebuild', ...headers], { cwd: folder }),
    );
  });
  return (await Promise.all(building)).some(Boolean);
}

export function buildPage() {
  const state = hashOf(stateOf('web', 'core', 'contract'));
  return whenChanged('page', state, join(project, 'web', 'dist', 'index.html'), () =>
    run(process.execPath, [join(project, 'node_modules', 'vite', 'bin', 'vite.js'), 'build', 'web']),
  );
}

const demo = join(data, 'demo', 'tram_museum');

/** Draws what of the demo footage is not there. */
const drawDemo = (nice) =>
  runBeside(process.execPath, ['--import', 'tsx', join(project, 'demo', 'draw.ts'), demo], { nice });

/** Whether all of the demo footage is there, as far as can be told without drawing. */
function isDemoDrawn() {
  const told = `${demo}.drawn.json`;
  if (!existsSync(told)) return existsSync(join(demo, 'lines'));
  return !existsSync(`${demo}.drawing`);
}

/** Draws the demo footage while the server runs, which shows each scene as soon as it is there. */
export async function drawDemoBeside() {
  if (isDemoDrawn()) return;
  // Both are there before the server looks for them, which tells of the second (server/roots/scanning.ts).
  for (const folder of [demo, `${demo}.drawing`]) mkdirSync(folder, { recursive: true });
  console.log('  the demo footage is drawn beside, once: its sources come one after another');
  await alone(() => step('demo footage drawn', () => drawDemo(10)), { endsWithAll: false });
}

/** Ends what runs beside. */
export function endBeside() {
  for (const child of beside) child.kill('SIGTERM');
}

const lock = join(project, '.setup.lock');

/** The number of the process that sets this checkout up, where that lives; a lock that outlived its process is taken away. */
function holder() {
  try {
    const pid = Number(readFileSync(lock, 'utf8'));
    if (pid > 0 && existsSync(`/proc/${pid}`)) return pid;
    // One that was made a moment ago has no number yet.
    if (Date.now() - statSync(lock).mtimeMs > 2000) rmSync(lock, { force: true });
    return undefined;
  } catch {
    return undefined;
  }
}

/** Ends what runs beside when this process is asked to end: it would go on without it. */
function endAll() {
  endBeside();
  process.exit(143);
}

const endings = ['SIGTERM', 'SIGHUP', 'SIGINT'];

/** Only one process sets a checkout up: a second waits for it, and finds everything there. */
async function alone(work, { endsWithAll = true } = {}) {
  for (let told = false; ; told = true) {
    try {
      writeFileSync(lock, String(process.pid), { flag: 'wx' });
      break;
    } catch (error) {
      if (error.code !== 'EEXIST') throw error;
    }
    const pid = holder();
    if (!told) console.log(`  waiting for process ${pid ?? ''}, which sets this folder up`);
    await wait(500);
  }
  const free = () => rmSync(lock, { force: true });
  process.once('exit', free);
  if (endsWithAll) for (const signal of endings) process.on(signal, endAll);
  try {
    return await work();
  } finally {
    free();
    process.off('exit', free);
    for (const signal of endings) process.off(signal, endAll);
  }
}

/** Everything that must be there before the server, the tests or the bench. `onModules` is told when npm's packages are there. */
export async function setUp({ forTests = false, forProof = false, onModules = () => undefined } = {}) {
  checkNode();
  checkFolder();
  await alone(async () => {
    await step('Debian packages installed', () => installPackages(forTests, forProof));
    await step('npm packages installed', installModules);
    onModules();
    await step('addons built', buildAddons);
    await step('web page built', buildPage);
    await step('programs bundled', buildPrograms);
    if (forTests && !isDemoDrawn()) await step('demo footage drawn', () => drawDemo(0));
  });
}
