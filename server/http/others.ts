import { askedOthers, type Given, type Role, type Spec } from '@shale/core';
import { sourceId, type Sources } from '../store/sources.ts';

/** The second sources and the sound that a spec names, as far as they were found. */
export async function othersOf(spec: Spec, sources: Sources): Promise<Given> {
  const given: Given = {};
  for (const [role, { source: named }] of Object.entries(askedOthers(spec.picture))) {
    const source = await sources.get(sourceId(named.root, named.folder, named.name));
    if (source) given[role as Role] = { root: source.root, source, declaration: source.declaration };
  }
  const { from } = spec.sound;
  if (typeof from !== 'string') {
    const source = await sources.get(sourceId(from.root, from.folder, from.name));
    if (source) given.sound = { root: source.root, source };
  }
  return given;
}
