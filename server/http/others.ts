import { askedOthers, type GivenOthers, type Role, type Spec } from '@shale/core';
import { sourceId, type Sources } from '../store/sources.ts';

/** The second sources that a spec names, as far as they were found. */
export async function othersOf(spec: Spec, sources: Sources): Promise<GivenOthers> {
  const given: GivenOthers = {};
  for (const [role, { source: named }] of Object.entries(askedOthers(spec.picture))) {
    const source = await sources.get(sourceId(named.root, named.folder, named.name));
    if (source) given[role as Role] = { root: source.root, source, declaration: source.declaration };
  }
  return given;
}
