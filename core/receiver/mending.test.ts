import fc from 'fast-check';
import { planRename } from '../naming/rename.ts';
import type { ToName } from '../naming/renamePlan.ts';
import { namingSpecSchema, type NamingSpec } from '../naming/rules.ts';
import { sourcesOf } from '../naming/testing.ts';
import { breachesOf } from './breaches.ts';
import { conformNaming, namingMend } from './conform.ts';
import { heldRename } from './held.ts';
import { receiverSchema, type Receiver } from './receiver.ts';
import { strictRead } from './strict.ts';

const receivers: fc.Arbitrary<Receiver> = fc
  .record({
    characters: fc.constantFrom('any', 'ascii', 'plain'),
    keep: fc.constantFrom('', '_', '-', '_-'),
    separator: fc.constantFrom(null, '.', '_', '-'),
    digits: fc.constantFrom(null, 3, 4, 6),
    first: fc.constantFrom(null, 0, 1, 1001),
    letters: fc.constantFrom(null, 'lower', 'upper'),
    unbroken: fc.boolean(),
    byName: fc.boolean(),
    nameLength: fc.constantFrom(null, 24),
  })
  // A separator that letters of the stem may be as well leaves open where the number begins.
  .filter(({ digits, first }) => digits === null || String(first ?? 0).length <= digits)
  .map((rules) => receiverSchema.parse({ version: 1, name: 'any', ...rules }));

const stems = fc.constantFrom('bell_turn', 'Depot Pan', 'écran', 'a', 'shot-010_comp', 'Straßenbahn', 'take.two');
const sequences = fc.record({
  stem: stems,
  gap: fc.constantFrom('.', '_', '-'),
  padding: fc.constantFrom(1, 4),
  tail: fc.constantFrom('', '_left'),
  frames: fc.uniqueArray(fc.integer({ min: 0, max: 60 }), { minLength: 3, maxLength: 12 }),
  ext: fc.constantFrom('png', 'EXR'),
});

const planOf = (item: ToName, spec: NamingSpec) => planRename([item], spec, { root: 'a', into: 'a', names: () => [] });

test('whatever the sequence and the receiver: what has a mend is mended, and the strict reader then loads every frame', () => {
  let mended = 0;
  fc.assert(
    fc.property(sequences, receivers, ({ stem, gap, padding, tail, frames, ext }, receiver) => {
      const names = frames.map((frame) => `${stem}${gap}${String(frame).padStart(padding, '0')}${tail}.${ext}`);
      const [item, ...others] = sourcesOf('f', names);
      fc.pre(item?.source.kind === 'sequence' && others.length === 0);
      let spec = namingSpecSchema.parse({ version: 1 });
      for (let press = 0; press < 12; press += 1) {
        const open = heldRename(planOf(item, spec), [item], '/').flatMap((held) => breachesOf(held, receiver));
        const mends = open.filter((breach) => namingMend(breach, receiver) !== undefined);
        if (mends.length === 0) break;
        spec = conformNaming(spec, receiver, mends);
      }
      const plan = planOf(item, spec);
      const left = heldRename(plan, [item], '/').flatMap((held) => breachesOf(held, receiver));
      expect(left).toEqual([]);
      expect(plan.problems.filter(({ code }) => code !== 'nothing-changes')).toEqual([]);
      const loaded = strictRead(plan.to, receiver);
      expect(loaded.leftOut).toEqual([]);
      expect(loaded.plays).toHaveLength(names.length);
      expect(loaded.sentence).not.toContain('order');
      mended += 1;
    }),
    { numRuns: 800 },
  );
  expect(mended).toBeGreaterThan(300);
});
