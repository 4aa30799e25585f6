// Server, worker and command line as one file each, bundled whenever a source is newer: loading hundreds of files through the
// transpiler takes seconds at every start.
import { existsSync, readdirSync, rmSync, statSync } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';

const project = fileURLToPath(new URL('..', import.meta.url));
const folders = ['core', 'contract', 'media', 'engine', 'server', 'cli'];
const entries = { server: 'server/main.ts', worker: 'engine/worker.ts', cli: 'cli/main.ts' };
// Under the same names as their sources: a server is told by its command line.
const pathOf = (name) => join(project, 'dist', entries[name].replace(/\.ts$/, '.cjs'));
const bundleOf = (name) => pathOf(name).replace(/\.cjs$/, '.bundle.cjs');

/** When the newest of the sources was changed, milliseconds since 1970. */
function newest() {
  let latest = statSync(join(project, 'package-lock.json')).mtimeMs;
  const look = (folder) => {
    for (const entry of readdirSync(folder, { withFileTypes: true })) {
      const path = join(folder, entry.name);
      if (entry.isDirectory()) {
        if (entry.name !== 'build' && entry.name !== 'node_modules') look(path);
      } else if (/(?<!\.test)\.(ts|mjs)$/.test(entry.name)) latest = Math.max(latest, statSync(path).mtimeMs);
    }
  };
  for (const folder of folders) look(join(project, folder));
  return latest;
}

/** Packages that go into the bundles: each of them is many small files, or as quickly there. The others stay outside. */
const within = new Set(['zod', 'commander', 'lru-cache', 'p-limit', 'yocto-queue', 'potpack']);

/** Packages that are loaded when the first thing of them is used: the libraries of video are 170 MB, and most commands need none of them. */
const lately = ['node-av', 'fast-xml-parser', 're2js', 'papaparse', 'archiver', '@tus/server', '@tus/file-store'];
const lateRequire = new RegExp(
  `__toESM\\(require\\("(${lately.join('|')})"\\)\\)|require\\("(${lately.join('|')})"\\)`,
  'g',
);

/** Each source keeps the address that it lies at. */
const asTheyLie = {
  name: 'as-they-lie',
  setup(build) {
    build.onResolve({ filter: /^@shale\// }, ({ path }) => {
      const [, folder, ...rest] = path.split('/');
      return { path: join(project, folder, rest.length > 0 ? rest.join('/') : 'index.ts'), sideEffects: false };
    });
    // What nothing is taken from is not loaded: a command that reads no picture needs no codec.
    build.onResolve({ filter: /^\.{1,2}\// }, ({ importer, kind, path, resolveDir }) =>
      kind === 'entry-point' || (importer.includes('/node_modules/') && !importer.includes('/node-av/dist/constants/'))
        ? undefined
        : { path: join(resolveDir, path), sideEffects: false },
    );
    build.onResolve({ filter: /^[^./]/ }, ({ kind, path }) =>
      kind === 'entry-point' || within.has(path) || path === 'node-av/constants'
        ? undefined
        : { path, external: true, sideEffects: false },
    );
    build.onLoad({ filter: /\.ts$/ }, async ({ path }) => {
      const text = await readFile(path, 'utf8');
      return {
        contents: text
          .replaceAll('import.meta.url', JSON.stringify(pathToFileURL(path).href))
          .replaceAll('import.meta.dirname', JSON.stringify(join(path, '..'))),
        loader: 'ts',
      };
    });
  },
};

/** Bundles what is older than its sources. @returns whether anything was */
export async function buildPrograms() {
  const since = newest();
  const isFresh = Object.keys(entries).every(
    (name) => existsSync(pathOf(name)) && statSync(pathOf(name)).mtimeMs > since,
  );
  if (isFresh) return false;
  const { build } = await import('esbuild');
  await build({
    entryPoints: Object.fromEntries(
      Object.values(entries).map((path) => [path.replace(/\.ts$/, ''), join(project, path)]),
    ),
    outdir: join(project, 'dist'),
    outExtension: { '.js': '.bundle.cjs' },
    bundle: true,
    platform: 'node',
    format: 'cjs',
    target: 'node20',
    // What runs by what was compiled of it before has no loader of its own for these: they become `require`.
    supported: { 'dynamic-import': false },
    sourcemap: 'linked',
    logLevel: 'error',
    plugins: [asTheyLie],
  });
  for (const name of Object.keys(entries)) {
    const bundle = bundleOf(name);
    const text = await readFile(bundle, 'utf8');
    await writeFile(
      bundle,
      text.replaceAll(lateRequire, (call, ...names) => `globalThis.loadLate('${names[0] ?? names[1]}', () => ${call})`),
    );
    for (const old of readdirSync(dirname(bundle)).filter(
      (one) => one.startsWith(`${basename(bundle)}.`) && one.endsWith('.compiled'),
    ))
      rmSync(join(dirname(bundle), old));
    // Written last: a program is as new as this.
    const loader = join(project, 'tools', 'compiled.cjs');
    await writeFile(
      pathOf(name),
      `require(${JSON.stringify(loader)}).run(${JSON.stringify(bundle)}, require, module);\n`,
    );
  }
  return true;
}

/** The bundled server, worker and command line, built anew where that is needed. */
export async function programs() {
  await buildPrograms();
  return Object.fromEntries(Object.keys(entries).map((name) => [name, pathOf(name)]));
}
