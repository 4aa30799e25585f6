import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { tableOf, type Part } from './proof.ts';
import { Shale } from '@shale/cli/testing/shale.ts';
import { proveClips } from './clips.ts';
import { proveDamage } from './damage.ts';
import { proveFuzz } from './fuzz.ts';
import { proveStills } from './stills.ts';

/** Everything that is proved, by what it is called. */
const parts: Record<string, Part> = { stills: proveStills, clips: proveClips, damage: proveDamage, fuzz: proveFuzz };

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: {
    quick: { type: 'boolean', default: false },
    only: { type: 'string', default: '' },
    counts: { type: 'string' },
  },
});
const chosen = positionals.length > 0 ? positionals : Object.keys(parts);
const shale = new Shale();
let [passed, failed] = [0, 0];
for (const name of chosen) {
  const part = parts[name];
  if (!part) {
    console.error(`There is no part ${name}; there are ${Object.keys(parts).join(', ')}.`);
    process.exit(2);
  }
  const began = performance.now();
  const folder = await mkdtemp(join(tmpdir(), 'shale-prove-'));
  try {
    const outcomes = await part({ shale, folder, quick: values.quick, only: values.only });
    const wrong = outcomes.filter((one) => one.wrong !== undefined);
    const tried = outcomes.filter(({ lacking }) => lacking === undefined);
    console.log(`\n${name}: ${((performance.now() - began) / 1000).toFixed(0)} s\n${tableOf(outcomes)}\n`);
    for (const one of wrong) console.log(`FAILED ${one.name}: ${one.wrong}`);
    for (const [row, why] of new Map(
      outcomes.flatMap(({ row, lacking }) => (lacking ? [[row, lacking] as const] : [])),
    ))
      console.log(`not tried: ${row}: ${why}`);
    passed += tried.length - wrong.length;
    failed += wrong.length;
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
await shale.close();
if (values.counts) await writeFile(values.counts, JSON.stringify({ passed, failed }));
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed === 0 && passed > 0 ? 0 : 1);
