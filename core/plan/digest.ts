import type { Plan } from './plan.ts';

/** A value as text, the same whatever the order of its keys, and with what is undefined left out as JSON does. */
function canonical(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map((one) => canonical(one ?? null)).join()}]`;
  if (typeof value !== 'object' || value === null) return JSON.stringify(value) ?? 'null';
  const entries = Object.entries(value)
    .filter(([, one]) => one !== undefined)
    .sort(([a], [b]) => (a < b ? -1 : 1));
  return `{${entries.map(([key, one]) => `${JSON.stringify(key)}:${canonical(one)}`).join()}}`;
}

/**
 * What tells a plan from any other: two that have the same write the same files from the same files. Over all of it but what is
 * only told (losses, findings that were set aside).
 */
export const digestOfPlan = ({ losses: _, setAside: __, ...plan }: Plan): string => digestOf(plan);

/**
 * FNV-1a (64 bits, in two halves) over a plain value, whatever the order of its keys.
 * @returns 16 hexadecimal digits
 */
export function digestOf(value: unknown): string {
  const text = canonical(value);
  let one = 0x811c9dc5;
  let two = 0x9e3779b9;
  for (let at = 0; at < text.length; at += 1) {
    const code = text.charCodeAt(at);
    one = Math.imul(one ^ code, 0x01000193) >>> 0;
    two = Math.imul((two ^ code ^ (one >>> 13)) >>> 0, 0x85ebca6b) >>> 0;
  }
  return [one, two].map((half) => half.toString(16).padStart(8, '0')).join('');
}

/**
 * What tells jobs that make the same results of one source, whatever frames it had or were asked for: its place, what it is taken
 * to be, the spec but for its frames and for what becomes of names that exist, and where it writes.
 */
export function digestOfMaking({ root, source, declaration, shots, joined, others, spec, into }: Plan): string {
  const { frames: _, existing: __, readBack: ___, ...wanted } = spec;
  const place = ({ root: of, source: { folder, name } }: { root: string; source: Plan['source'] }) => [
    of,
    folder,
    name,
  ];
  const taken = (declared: Plan['declaration']) =>
    Object.fromEntries(Object.entries(declared).map(([fact, { value }]) => [fact, value]));
  return digestOf({
    source: place({ root, source }),
    declaration: taken(declaration),
    shots: shots.map((shot) => [place(shot), taken(shot.declaration)]),
    joined: joined.map(place),
    others: Object.entries(others).map(([role, other]) => [role, place(other), taken(other.declaration)]),
    wanted,
    into: [into.root, into.folder],
  });
}
