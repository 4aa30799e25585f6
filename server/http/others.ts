import {
  askedOthers,
  holdsOf,
  joinedIn,
  type Beside,
  type Given,
  type GivenHolds,
  type Role,
  type Spec,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { cadenceOf } from '../cadence.ts';
import { sourceId } from '../store/sources.ts';
import type { Workshop } from '../workshop.ts';

/** What a spec names beside its source, as far as it was found: second sources, sound, shots that follow, holds, markers. */
export async function othersOf(source: ListedSource, spec: Spec, house: Workshop): Promise<Given> {
  const { sources, marks } = house.store;
  const find = ({ root, folder, name }: Beside) => sources.get(sourceId(root, folder, name));
  const holds = async (of: ListedSource): Promise<GivenHolds | undefined> => {
    if (spec.time.undo !== 'holds') return undefined;
    const cadence = await cadenceOf(of, house, false);
    return cadence ? holdsOf(cadence) : undefined;
  };
  const given: Given = { holds: await holds(source) };
  for (const [role, { source: named }] of Object.entries(askedOthers(spec.picture))) {
    const found = await find(named);
    if (found) given[role as Role] = { root: found.root, source: found, declaration: found.declaration };
  }
  given.joined = await Promise.all(
    joinedIn(spec.channels).map(async (named) => {
      const found = await find(named);
      return found && { root: found.root, source: found, declaration: found.declaration };
    }),
  );
  const { from } = spec.sound;
  if (typeof from !== 'string') {
    const found = await find(from);
    if (found) given.sound = { root: found.root, source: found };
  }
  given.shots = await Promise.all(
    spec.then.map(async (shot) => {
      const found = await find(shot.source);
      return found && { root: found.root, source: found, declaration: found.declaration, holds: await holds(found) };
    }),
  );
  if (spec.frames === 'markers') given.markers = (await marks.markers(source.id)).markers;
  return given;
}
