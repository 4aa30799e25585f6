import {
  breachesOf,
  groupedBy,
  heldRename,
  namingMend,
  namingSentence,
  strictRead,
  type Receiver,
  type RenamePlan,
  type ToName,
} from '@shale/core';
import type { RenameView } from '@shale/contract';
import type { NamedRoot } from '@shale/engine';

/** A plan that was worked out, with what it was made of. */
export interface Planned {
  plan: RenamePlan;
  items: ToName[];
  root: NamedRoot;
  into: NamedRoot;
  digest: string;
}

/** Sources of a plan that are told one by one: more are not headed in the list of names. */
const groupsTold = 2001;
/** A plan read aloud. */
export const sentenceOf = (plan: RenamePlan, into: NamedRoot): string => {
  const folders = [...new Set(plan.groups.map((group) => group.into))];
  const where = folders.length === 1 && folders[0] !== '' ? `${into.id}/${folders[0]}` : into.id;
  return namingSentence(plan.spec, plan.counts.changed, where);
};

/** A plan as the interface is told of it, held against a receiver where one is named. */
export function viewPlan({ plan, items, into, digest }: Planned, receiver: Receiver | undefined): RenameView {
  const { spec, counts, groups, problems, doubts, idle } = plan;
  return {
    digest,
    spec,
    sentence: counts.changed > 0 ? sentenceOf(plan, into) : 'No name changes yet.',
    counts,
    groups: groups.slice(0, groupsTold).map(({ pattern: _, coverage: __, ...group }) => group),
    problems,
    doubts,
    idle,
    held: receiver && groups.length === items.length ? holdAgainst(plan, items, into, receiver) : null,
  };
}

function holdAgainst(
  plan: RenamePlan,
  items: readonly ToName[],
  into: NamedRoot,
  receiver: Receiver,
): RenameView['held'] {
  const held = heldRename(plan, items, into.path);
  const breaches = held.flatMap((one) => breachesOf(one, receiver));
  // By its names alone: what a tool would load of each folder, folders of which it would load alike told together.
  const byFolder = groupedBy(plan.groups, (group) => group.into);
  const told = [...byFolder].map(([folder, inIt]) => ({
    folder,
    sentence: strictRead(
      inIt.flatMap(({ start, count }) => plan.to.slice(start, start + count)),
      receiver,
    ).sentence,
  }));
  const alike = groupedBy(told, ({ sentence }) => sentence);
  return {
    breaches: breaches.map((breach) => ({ ...breach, mend: namingMend(breach, receiver) })),
    loads: [...alike].map(([sentence, folders]) => ({ sentence, folders: folders.map(({ folder }) => folder) })),
  };
}
