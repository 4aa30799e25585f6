import type { Pattern } from '../numbering/pattern.ts';
import type { Plan } from './plan.ts';

/** A folder of a root. */
export interface Place {
  root: string;
  folder: string;
}

/** The folder part of a path below a root. */
const folderOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf('/')));

/** Every folder that a plan reads from: its source, what is laid over it, the shots that follow, those whose channels it takes, its sound. */
export function foldersRead(plan: Plan): Place[] {
  const { root, source, others, shots, joined, sound } = plan;
  return [
    { root, folder: source.folder },
    ...Object.values(others).map((other) => ({ root: other.root, folder: other.source.folder })),
    ...joined.map((one) => ({ root: one.root, folder: one.source.folder })),
    ...shots.map((shot) => ({ root: shot.root, folder: shot.source.folder })),
    ...(sound && !sound.own ? [{ root: sound.root, folder: folderOf(sound.file) }] : []),
  ];
}

/** The folder that a plan writes into. */
export const folderWritten = ({ into: { root, folder } }: Plan): Place => ({ root, folder });

const isAlike = (a: { pattern: Pattern }, b: { pattern: Pattern }): boolean =>
  a.pattern.prefix === b.pattern.prefix && a.pattern.suffix === b.pattern.suffix;

/** Whether two plans would write the same names, as far as it is told without listing each. */
export function writeSameNames(a: Plan, b: Plan): boolean {
  if (a.into.root !== b.into.root || a.into.folder !== b.into.folder) return false;
  if (a.into.kind === 'sequence') return b.into.kind === 'sequence' ? isAlike(a.into, b.into) : writeSameNames(b, a);
  const names = new Set(a.into.kind === 'video' ? [a.into.file] : Object.values(a.into.names));
  if (b.into.kind !== 'sequence')
    return (b.into.kind === 'video' ? [b.into.file] : Object.values(b.into.names)).some((name) => names.has(name));
  const { prefix, suffix } = b.into.pattern;
  const isNumbered = (name: string) => /^\d+$/.test(name.slice(prefix.length, name.length - suffix.length));
  return [...names].some((name) => name.startsWith(prefix) && name.endsWith(suffix) && isNumbered(name));
}
