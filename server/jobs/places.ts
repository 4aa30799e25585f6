import type { Plan, PlannedOther, Role } from '@shale/core';
import type { Places } from '@shale/engine';
import { insideRoot } from '../roots/paths.ts';
import type { Roots } from '../roots/roots.ts';

/** Where a plan's sources lie on this machine. @throws ShaleError where one is outside its root */
export async function sourcePlaces(plan: Plan, roots: Roots): Promise<Places> {
  const source = roots.config(plan.root).path;
  await insideRoot(source, plan.source.folder);
  const others: NonNullable<Places['others']> = {};
  for (const [role, other] of Object.entries(plan.others) as [Role, PlannedOther][]) {
    const { path } = roots.config(other.root);
    await insideRoot(path, other.source.folder);
    others[role] = path;
  }
  const shots = plan.shots.map(({ root }) => roots.config(root).path);
  for (const [at, shot] of plan.shots.entries()) await insideRoot(shots[at]!, shot.source.folder);
  const joined = plan.joined.map(({ root }) => roots.config(root).path);
  for (const [at, { source: one }] of plan.joined.entries()) await insideRoot(joined[at]!, one.folder);
  const sound = plan.sound && !plan.sound.own ? roots.config(plan.sound.root).path : undefined;
  if (plan.sound && sound !== undefined) await insideRoot(sound, plan.sound.file);
  return { source, target: '', others, shots, joined, ...(sound === undefined ? {} : { sound }) };
}

/** Where a plan's sources and results lie on this machine. @throws ShaleError where one may not be written, or leads out */
export async function placesOf(plan: Plan, roots: Roots): Promise<Places> {
  const target = roots.writable(plan.into.root).path;
  await insideRoot(target, plan.into.folder);
  return { ...(await sourcePlaces(plan, roots)), target };
}
