import { constants } from 'node:fs';
import { access, mkdir, readdir, rm } from 'node:fs/promises';
import { basename, join } from 'node:path';
import {
  besideName,
  otherFiles,
  rowCount,
  rowsOf,
  shotSource,
  type Plan,
  type PlannedOther,
  type PlanRow,
  type Problem,
  type Role,
} from '@shale/core';
import type { Places } from './frame.ts';
import { soundPath } from './sound.ts';
import { shotRoot } from './places.ts';

/** How many names a message gives before it counts the rest. */
const shown = 3;

const listing = (names: string[]): string =>
  names.slice(0, shown).join(', ') + (names.length > shown ? ` and ${names.length - shown} more` : '');

/**
 * What would stop a plan, found before anything is written: its own problems, sources that are gone, a folder that may
 * not be written, names that exist. Makes the target folder where the sources are there. Temporary files of the same job are removed.
 * @param mayExist names that are no hindrance: they stay, or are made again
 */
export async function preflight(
  plan: Plan,
  places: Places,
  job: string,
  mayExist: ReadonlySet<string> = new Set(),
): Promise<Problem[]> {
  if (plan.problems.length > 0) return plan.problems;
  const missing = await missingSources(plan, places);
  // Not even the target folder is made for a plan that cannot run.
  return missing.length > 0 ? missing : targetProblems(plan, places, job, mayExist);
}

async function missingSources(plan: Plan, places: Places): Promise<Problem[]> {
  const rows = rowsOf(plan, 0, rowCount(plan)).filter(({ kind }) => kind === 'write');
  const needed = new Map<number, Set<string>>();
  for (const { shot, from, mixed } of rows) {
    let names = needed.get(shot);
    if (!names) needed.set(shot, (names = new Set()));
    names.add(basename(from!));
    if (mixed) names.add(basename(mixed.from));
  }
  for (const [shot, names] of needed) {
    const problem = await missingOfShot(plan, places, shot, names);
    if (problem) return [problem];
  }
  return [...(await missingOthers(plan, places, rows)), ...(await missingSound(plan, places))];
}

/** Frames of the source, or of a shot that follows it, that are gone. */
async function missingOfShot(
  plan: Plan,
  places: Places,
  shot: number,
  needed: ReadonlySet<string>,
): Promise<Problem | undefined> {
  const source = shotSource(plan, shot);
  const folder = join(shotRoot(places, shot), source.folder);
  let names: Set<string>;
  try {
    names = new Set(await readdir(folder));
  } catch (error) {
    const denied = (error as NodeJS.ErrnoException).code === 'EACCES';
    return {
      code: denied ? 'not-allowed' : 'folder-gone',
      fact: `The folder ${source.folder || 'of the source'} ${denied ? 'may not be read' : 'is no longer there'}.`,
      wayOut: 'Put it back or correct its permissions, and scan again on Intake.',
      subject: source.folder,
    };
  }
  const gone = [...needed].filter((name) => !names.has(name));
  if (gone.length === 0) return undefined;
  return {
    code: 'source-changed',
    fact: `${gone.length} of ${needed.size} source files ${gone.length === 1 ? 'is' : 'are'} missing since the scan: ${listing(gone)}.`,
    wayOut: 'Scan again on Intake, then run; or put the files back.',
    subject: source.name,
  };
}

/** Files of second sources that are not there, or folders that the roots do not hold. */
async function missingOthers(plan: Plan, places: Places, rows: readonly PlanRow[]): Promise<Problem[]> {
  const problems: Problem[] = [];
  for (const [role, other] of Object.entries(plan.others) as [Role, PlannedOther][]) {
    const there = new Set(await readdir(join(places.others![role]!, other.source.folder)).catch(() => []));
    const needed = new Set(rows.map(({ sourceFrame }) => basename(otherFiles(plan, sourceFrame)[role]!.file)));
    const gone = [...needed].filter((name) => !there.has(name));
    if (gone.length === 0) continue;
    problems.push({
      code: 'source-changed',
      fact: `${gone.length} of ${needed.size} files of ${other.source.name} ${gone.length === 1 ? 'is' : 'are'} missing since the scan: ${listing(gone)}.`,
      wayOut: 'Scan again on Intake, then run; or put the files back.',
      subject: other.source.name,
    });
  }
  return problems;
}

async function missingSound(plan: Plan, places: Places): Promise<Problem[]> {
  if (!plan.sound) return [];
  const path = soundPath(plan, places);
  if (
    await access(path).then(
      () => true,
      () => false,
    )
  )
    return [];
  return [
    {
      code: 'source-changed',
      fact: `The sound ${basename(path)} is missing since the scan.`,
      wayOut: 'Scan again on Intake, then run; or put the file back.',
      subject: 'sound',
    },
  ];
}

async function targetProblems(
  plan: Plan,
  places: Places,
  job: string,
  mayExist: ReadonlySet<string>,
): Promise<Problem[]> {
  const folder = join(places.target, plan.into.folder);
  try {
    await mkdir(folder, { recursive: true });
    await access(folder, constants.W_OK | constants.X_OK);
  } catch (error) {
    const { code, message } = error as NodeJS.ErrnoException;
    const full = code === 'ENOSPC';
    const inTheWay = code === 'EEXIST' || code === 'ENOTDIR';
    return [
      {
        code: full ? 'disk-full' : inTheWay ? 'folder-blocked' : 'not-writable',
        fact: `The folder ${plan.into.folder} ${full ? 'cannot be made: the disk is full' : inTheWay ? 'cannot be made: a file has that name' : `may not be written (${message})`}.`,
        wayOut: full
          ? 'Free some space.'
          : 'Choose another folder, or give the account that runs Shale the right to write there.',
        subject: plan.into.folder,
      },
    ];
  }
  const names = await readdir(folder);
  const ours = names.filter((name) => name.startsWith(`.shale-${job}-`));
  await Promise.all(ours.map((name) => rm(join(folder, name), { force: true })));
  if (plan.spec.existing === 'replace') return [];
  const problem = existingProblem(
    plan,
    takenAmong(
      plan,
      names.filter((name) => !mayExist.has(name)),
    ),
  );
  return problem ? [problem] : [];
}

/** Names of a plan that exist already. */
export interface Taken {
  names: string[];
  /** Names that the plan writes. */
  of: number;
}

/** @param names all that the folder holds */
export function takenAmong(plan: Plan, names: readonly string[]): Taken {
  const there = new Set(names);
  const beside = [plan.sound?.as, besideName(plan)].filter((name) => typeof name === 'string');
  if (there.size === 0) return { names: [], of: plan.files + beside.length };
  const wanted = new Set(
    rowsOf(plan, 0, rowCount(plan))
      .filter((row) => row.kind !== 'missing')
      .map((row) => basename(row.to)),
  );
  for (const name of beside) wanted.add(name);
  return { names: [...wanted].filter((name) => there.has(name)), of: wanted.size };
}

/** The names of a plan that exist already where it writes; none where its folder is not there. @param target the root, absolute */
export async function takenNames(plan: Plan, target: string): Promise<Taken> {
  return takenAmong(plan, await readdir(join(target, plan.into.folder)).catch(() => []));
}

/** Why a plan is refused for names that exist; undefined where there are none, or they are to be replaced. */
export function existingProblem(plan: Plan, { names, of }: Taken): Problem | undefined {
  if (names.length === 0 || plan.spec.existing === 'replace') return undefined;
  return {
    code: 'output-exists',
    fact: `${names.length.toLocaleString('en-GB')} of ${of.toLocaleString('en-GB')} names exist already in ${plan.into.folder || 'the folder'}: ${listing(names)}.`,
    wayOut: 'Choose another folder, name or first number, or let the spec replace existing files.',
    subject: plan.into.folder,
  };
}
