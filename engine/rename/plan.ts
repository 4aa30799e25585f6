import { createHash } from 'node:crypto';
import { constants, readdirSync } from 'node:fs';
import { access, stat, statfs } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { planRename, printBytes, type NamingSpec, type Problem, type RenamePlan, type ToName } from '@shale/core';
import type { RenameWork } from './carry.ts';

/** A root as a rename needs it. */
export interface NamedRoot {
  id: string;
  /** Absolute. */
  path: string;
}

/** Sources that are to get new names, and how. */
export interface ToBeNamed {
  items: ToName[];
  spec: NamingSpec;
  root: NamedRoot;
  into: NamedRoot;
}

const namesIn = (folder: string): string[] => {
  try {
    return readdirSync(folder);
  } catch {
    return [];
  }
};

/** A folder, or the nearest above it that is there. */
async function nearest(folder: string): Promise<string> {
  for (let at = folder; ; at = dirname(at)) {
    const told = await stat(at).catch(() => undefined);
    if (told || dirname(at) === at) return at;
  }
}

const belowRoot = (folder: string, name: string): string => (folder === '' ? name : `${folder}/${name}`);

/** Works new names out with what lies on the disk now; what would stop the run there is among its problems. */
export async function planOnDisk(
  items: readonly ToName[],
  spec: NamingSpec,
  root: NamedRoot,
  into: NamedRoot,
): Promise<RenamePlan> {
  const plan = planRename(items, spec, {
    root: root.id,
    into: into.id,
    names: (folder) => namesIn(join(into.path, folder)),
  });
  if (plan.problems.length > 0) return plan;
  return { ...plan, problems: await diskProblems(plan, items, root, into) };
}

async function diskProblems(
  plan: RenamePlan,
  items: readonly ToName[],
  root: NamedRoot,
  into: NamedRoot,
): Promise<Problem[]> {
  const { mode } = plan.spec;
  const leaves = mode === 'rename' || mode === 'move';
  const changed = plan.groups.filter((group) => group.changed > 0);
  const sources = [...new Set(changed.map(({ from }) => join(root.path, from)))];
  const targets = await Promise.all([...new Set(changed.map((group) => join(into.path, group.into)))].map(nearest));
  const problems: Problem[] = [];
  for (const folder of new Set([...(leaves ? sources : []), ...targets])) {
    const told = await stat(folder);
    if (!told.isDirectory()) {
      problems.push({
        code: 'folder-blocked',
        fact: `${folder} is a file, but a folder of that name is needed.`,
        wayOut: 'Choose another folder.',
        subject: folder,
      });
    } else if (
      await access(folder, constants.W_OK | constants.X_OK).then(
        () => false,
        () => true,
      )
    ) {
      problems.push({
        code: 'not-writable',
        fact: `The names in ${folder} cannot be changed: permission denied.`,
        wayOut: 'Give the account that runs Shale the right to write there, or copy into another folder.',
        subject: folder,
      });
    }
  }
  if (problems.length > 0 || changed.length === 0) return problems;
  const devices = await Promise.all(
    [...sources, ...targets].map(async (folder) => (await stat(await nearest(folder))).dev),
  );
  const across = new Set(devices).size > 1;
  if (across && mode === 'link') {
    problems.push({
      code: 'other-disk',
      fact: 'The folder is on another disk, and hard links cannot cross disks.',
      wayOut: 'Copy instead, or choose a folder on the same disk.',
      subject: into.id,
    });
  }
  if (mode === 'copy' || (mode === 'move' && across)) {
    const byId = new Map(items.map(({ id, source }) => [id, source]));
    const bytes = changed.reduce((sum, { id, changed: some, count }) => sum + (byId.get(id)!.bytes * some) / count, 0);
    const { bavail, bsize } = await statfs(targets[0]!);
    if (bytes > bavail * bsize) {
      problems.push({
        code: 'disk-full',
        fact: `The copies need ${printBytes(bytes)}, and the disk has ${printBytes(bavail * bsize)} left.`,
        wayOut:
          mode === 'copy'
            ? 'Free some space, choose another disk, or link instead.'
            : 'Free some space, or choose another disk.',
        subject: into.id,
      });
    }
  }
  return problems;
}

/** What tells one plan from another: every old and new name and place. */
export function planDigest({ spec, root, into, groups, from, to }: RenamePlan): string {
  const hash = createHash('sha256').update(`${spec.mode}\0${root}\0${into}`);
  for (const group of groups) {
    const end = group.start + group.count;
    hash.update(`\0${group.from}\0${group.into}\0`);
    hash.update(from.slice(group.start, end).join('/')).update('\0').update(to.slice(group.start, end).join('/'));
  }
  return hash.digest('hex');
}

/** The rows of a plan that change, as work. */
export function workOf(plan: RenamePlan, id: string, root: NamedRoot, into: NamedRoot, sentence: string): RenameWork {
  const rows = { from: [] as string[], to: [] as string[] };
  for (const group of plan.groups) {
    for (let row = group.start; row < group.start + group.count; row += 1) {
      if (plan.relation[row] === 0) continue;
      rows.from.push(belowRoot(group.from, plan.from[row]!));
      rows.to.push(belowRoot(group.into, plan.to[row]!));
    }
  }
  return { id, mode: plan.spec.mode, from: root.path, into: into.path, roots: [root.id, into.id], rows, sentence };
}
