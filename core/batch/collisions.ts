import type { Problem } from '../errors.ts';
import { resultName, writtenAs } from '../plan/into.ts';
import type { Plan } from '../plan/plan.ts';

/** A plan among others. */
interface Part {
  plan: Plan;
}

const placeOf = ({ into: { root, folder } }: Plan): string => `${root}/${folder}`;

/** Names of a plan that are no numbered ones. */
function singleNames({ into, sound }: Plan): string[] {
  const names = into.kind === 'video' ? [into.file] : into.kind === 'stills' ? Object.values(into.names) : [];
  return sound?.as ? [...names, sound.as] : names;
}

/** What tells a pattern's names from those of others, however they are padded. */
const formKey = (folder: string, prefix: string, suffix: string): string => `${folder}\0${prefix}\0${suffix}`;

/** The patterns that a name could be of: each of its numbers taken as the frame's. */
const formsOf = (name: string): [prefix: string, suffix: string][] =>
  [...name.matchAll(/\d+/g)].map(({ index, 0: digits }) => [name.slice(0, index), name.slice(index + digits.length)]);

/**
 * Plans that would write names which another among them writes, and why that forbids both. It takes as long as there are plans,
 * not as there are pairs of them.
 * @returns by the plan's place; those that are not in it write names of their own
 */
export function collisionsAmong(parts: readonly Part[]): Map<number, Problem> {
  const byForm = new Map<string, number[]>();
  const byName = new Map<string, number[]>();
  const add = (all: Map<string, number[]>, key: string, at: number) => {
    const there = all.get(key);
    if (there) there.push(at);
    else all.set(key, [at]);
  };
  for (const [at, { plan }] of parts.entries()) {
    const { into } = plan;
    if (into.kind === 'sequence') add(byForm, formKey(placeOf(plan), into.pattern.prefix, into.pattern.suffix), at);
    for (const name of singleNames(plan)) add(byName, `${placeOf(plan)}\0${name}`, at);
  }
  for (const [key, ats] of byName) {
    const [folder, name] = key.split('\0') as [string, string];
    for (const form of formsOf(name)) for (const at of byForm.get(formKey(folder, ...form)) ?? []) ats.push(at);
  }
  const found = new Map<number, Problem>();
  for (const ats of [...byForm.values(), ...byName.values()]) {
    const all = [...new Set(ats)];
    if (all.length < 2) continue;
    for (const at of all) {
      const other = all.find((one) => one !== at)!;
      if (!found.has(at)) found.set(at, sameNames(parts[at]!.plan, parts[other]!.plan, all.length - 1));
    }
  }
  return found;
}

function sameNames(plan: Plan, other: Plan, others: number): Problem {
  const { into, source } = plan;
  const isSelf = other.source.name === source.name && other.source.folder === source.folder && other.root === plan.root;
  const whose = isSelf
    ? 'another output of the same source'
    : `${other.source.folder ? `${other.source.folder}/` : ''}${other.source.name}${others > 1 ? ` and ${others - 1} more` : ''}`;
  const name = into.kind === 'sequence' ? writtenAs(into) : resultName(into, plan.runs[0]?.to ?? 0);
  return {
    code: 'same-names',
    fact: `${into.folder ? `${into.folder}/` : ''}${name} would be written for ${whose} too.`,
    wayOut: isSelf
      ? 'Give one of the outputs another folder or name.'
      : 'Put {folder} or {path} into the folder or the name, so that each source has its own.',
    subject: into.kind === 'video' ? 'video.name' : 'into.folder',
  };
}
