import type { Source } from '../numbering/source.ts';
import { namingSpecSchema, type NamingSpec } from './rules.ts';

/** Findings that new names mend. */
export const mendedByNames: ReadonlySet<string> = new Set([
  'listing-order',
  'mixed-padding',
  'mixed-names',
  'stray-files',
]);

/**
 * The naming spec that mends a finding. Strays are moved out of the way into a folder beside; the rest get one padding or one
 * spelling on the spot.
 * @param source the sequence that is mended, or for strays one of those that lie among another
 */
export function mendingSpec(code: string, source: Pick<Source, 'pattern'>): NamingSpec | undefined {
  if (code === 'listing-order') return stack({ rules: [{ kind: 'number', digits: 'auto' }] });
  if (code === 'mixed-padding')
    return stack({ rules: [{ kind: 'number', digits: source.pattern?.padding === 1 ? 'auto' : null }] });
  if (code === 'mixed-names') return stack({ rules: [{ kind: 'spelling' }] });
  if (code === 'stray-files') return stack({ mode: 'move', into: { folder: '{path}/strays' } });
  return undefined;
}

const stack = (more: object): NamingSpec => namingSpecSchema.parse({ version: 1, ...more });
