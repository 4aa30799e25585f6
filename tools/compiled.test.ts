import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync, statSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const folder = mkdtempSync(join(tmpdir(), 'shale-compiled-'));
afterAll(() => rmSync(folder, { recursive: true }));

const bundle = join(folder, 'main.bundle.cjs');
const program = join(folder, 'main.cjs');
writeFileSync(
  bundle,
  `var heavy = globalThis.loadLate('heavy', () => { console.log('loaded'); return { add: (a, b) => a + b }; });
   globalThis.onceLoaded('heavy', () => console.log('told'));
   function sum() { return heavy.add(1, 2) + heavy.add(3, 4); }
   console.log('begun', process.argv[2] ?? 'nothing');
   if (process.argv[2] === 'sum') console.log(sum());`,
);
writeFileSync(
  program,
  `require(${JSON.stringify(join(import.meta.dirname, 'compiled.cjs'))}).run(${JSON.stringify(bundle)}, require, module);`,
);
const run = (...args: string[]) =>
  execFileSync(process.execPath, [program, ...args], { encoding: 'utf8' })
    .trim()
    .split('\n');
const compiled = () => readdirSync(folder).filter((name) => name.includes('compiled'));

test('a program runs as it is written, and what is compiled of it is kept for each command', () => {
  expect(run()).toEqual(['begun nothing']);
  expect(run('sum')).toEqual(['begun sum', 'loaded', 'told', '10']);
  expect(compiled().sort()).toEqual(['main.bundle.cjs.any.compiled', 'main.bundle.cjs.sum.compiled']);
  const before = statSync(join(folder, 'main.bundle.cjs.sum.compiled')).mtimeMs;
  expect(run('sum')).toEqual(['begun sum', 'loaded', 'told', '10']);
  expect(statSync(join(folder, 'main.bundle.cjs.sum.compiled')).mtimeMs).toBe(before);
});

test('letters of every alphabet are what they are in the source', () => {
  const path = join(folder, 'letters.bundle.cjs');
  const starts = join(folder, 'letters.cjs');
  writeFileSync(path, "console.log(/^[¹²]$/.test('¹'), /^[¹²]$/.test('Â'), 'Straßenbahn €'.length);");
  writeFileSync(
    starts,
    `require(${JSON.stringify(join(import.meta.dirname, 'compiled.cjs'))}).run(${JSON.stringify(path)}, require, module);`,
  );
  expect(execFileSync(process.execPath, [starts], { encoding: 'utf8' })).toBe('true false 13\n');
});

test('what is kept and damaged, or of another program, is compiled anew', () => {
  const kept = join(folder, 'main.bundle.cjs.sum.compiled');
  truncateSync(kept, 100);
  expect(run('sum').at(-1)).toBe('10');
  expect(statSync(kept).size).toBeGreaterThan(100);
  writeFileSync(kept, 'not compiled at all');
  expect(run('sum').at(-1)).toBe('10');
});
