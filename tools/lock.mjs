// Completes package-lock.json after `npm install`: a registry that holds the native parts of some platforms only leaves
// the others out of the lock, and `npm ci` then refuses it everywhere. They are entered by name, version and platform;
// npm skips them where the platform is another one. Usage: node tools/lock.mjs
import { readFileSync, writeFileSync } from 'node:fs';

const path = new URL('../package-lock.json', import.meta.url);
const lock = JSON.parse(readFileSync(path, 'utf8'));
const systems = [
  'aix',
  'android',
  'darwin',
  'freebsd',
  'linux',
  'netbsd',
  'openbsd',
  'openharmony',
  'sunos',
  'wasm32',
  'win32',
];
const processors = {
  x64: 'x64',
  arm64: 'arm64',
  ia32: 'ia32',
  arm: 'arm',
  armv7: 'arm',
  ppc64: 'ppc64',
  s390x: 's390x',
  riscv64: 'riscv64',
  loong64: 'loong64',
  mips64el: 'mips64el',
  wasm32: 'wasm32',
};

let added = 0;
for (const [holder, entry] of Object.entries(lock.packages)) {
  for (const [name, version] of Object.entries(entry.optionalDependencies ?? {})) {
    const nested = `${holder}/node_modules/${name}`;
    const top = `node_modules/${name}`;
    if (lock.packages[nested] || lock.packages[top] || !/^\d/.test(version)) continue;
    const parts = name.split(/[-/]/);
    const os = parts.find((part) => systems.includes(part));
    const cpu = parts.map((part) => processors[part]).find(Boolean);
    if (!os || !cpu) continue;
    lock.packages[top] = {
      version,
      ...(entry.dev && { dev: true }),
      cpu: [cpu],
      optional: true,
      os: [os === 'wasm32' ? 'none' : os],
    };
    added += 1;
  }
}
const [root, ...rest] = Object.entries(lock.packages);
lock.packages = Object.fromEntries([root, ...rest.sort(([a], [b]) => (a < b ? -1 : 1))]);
writeFileSync(path, `${JSON.stringify(lock, null, 2)}\n`);
console.log(`${added} packages of other platforms entered`);
