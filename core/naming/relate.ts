import type { Problem } from '../errors.ts';
import { foldName, nameFault } from './names.ts';
import {
  faultCodes,
  relationKinds,
  type FaultCode,
  type NameGroup,
  type NamingGround,
  type RelationKind,
  type Relations,
} from './renamePlan.ts';
import type { RenameMode } from './rules.ts';

const wayOuts: Record<Exclude<FaultCode, 'none'>, string> = {
  collision: 'Add a field that differs: {stem}, {tail}, {counter} or a number.',
  taken: 'Choose another name, number or folder; Shale never overwrites an existing file.',
  'differs-in-case':
    'Many systems treat such names as one; make them differ in more than capital letters or the form of accents.',
  'empty-name': 'Add something to the name, such as {stem}.',
  'hidden-name': 'Begin the name with a letter or a digit.',
  'unfit-character': 'Add the rule "letters and digits", or replace the character.',
  'reserved-name': 'Add a word to the name.',
  'name-too-long': 'Shorten the stem, or remove a field.',
};

const facts: Record<Exclude<FaultCode, 'none'>, (count: string, example: string) => string> = {
  collision: (count, example) => `${count} would get the same name as another file, ${example}.`,
  taken: (count, example) => `${count} would get the name of an existing file, ${example}.`,
  'differs-in-case': (count, example) =>
    `${count} would differ from another name in capital letters or Unicode form only, as ${example}.`,
  'empty-name': (count) => `${count} would have an empty name.`,
  'hidden-name': (count, example) => `${count} would be hidden, as ${example}.`,
  'unfit-character': (count, example) => `${count} would hold a character that file names cannot have, as ${example}.`,
  'reserved-name': (count, example) => `${count} would get a name that other systems reserve or shorten, ${example}.`,
  'name-too-long': (count, example) => `${count} would be longer than 255 bytes, as ${example.slice(0, 40)}...`,
};

interface Rows {
  groups: NameGroup[];
  from: string[];
  to: string[];
}

/** Works out how new names stand to each other, to the old ones and to what is there. Sets each group's `changed`. */
export function relate(
  rows: Rows,
  mode: RenameMode,
  ground: NamingGround,
): { relations: Relations; problems: Problem[] } {
  const total = rows.from.length;
  const sameRoot = ground.root === ground.into;
  const leaves = sameRoot && (mode === 'rename' || mode === 'move');
  const work: Work = {
    ...rows,
    changed: new Uint8Array(total),
    fault: new Uint8Array(total),
    given: perFolder(() => new Map<string, number>()),
  };
  findChanged(work, sameRoot, leaves);
  findTwins(work);
  findTaken(work, ground);
  const { relation, counts } = relationsOf(work, leaves);
  return {
    relations: { relation, fault: work.fault, counts },
    problems: faultProblems(rows.to, work.fault, counts.changed),
  };
}

/** What the steps of {@link relate} share; everything but the groups is by row. */
interface Work extends Rows {
  /** 1 where a file gets another name or another folder. */
  changed: Uint8Array;
  fault: Uint8Array;
  /** Old names that are given up, and by which row, by folder. */
  given: (folder: string) => Map<string, number>;
}

/** Something of its own for every folder. */
function perFolder<T>(make: () => T): (folder: string) => T {
  const held = new Map<string, T>();
  return (folder) => {
    const known = held.get(folder);
    if (known !== undefined) return known;
    const fresh = make();
    held.set(folder, fresh);
    return fresh;
  };
}

/** Notes the first fault of a row. */
function note({ fault }: Work, row: number, code: FaultCode): void {
  if (fault[row] === 0) fault[row] = faultCodes.indexOf(code);
}

function findChanged({ groups, from, to, changed, given }: Work, sameRoot: boolean, leaves: boolean): void {
  for (const group of groups) {
    const stays = sameRoot && group.from === group.into;
    const old = given(group.from);
    for (let row = group.start; row < group.start + group.count; row += 1) {
      if (stays && from[row] === to[row]) continue;
      changed[row] = 1;
      group.changed += 1;
      if (leaves) old.set(from[row]!, row);
    }
  }
}

/** Names that cannot be, and new names that a system without regard to case or form takes for one. */
function findTwins(work: Work): void {
  const { groups, from, to, changed } = work;
  const news = perFolder(() => new Map<string, number>());
  for (const group of groups) {
    const here = news(group.into);
    for (let row = group.start; row < group.start + group.count; row += 1) {
      const name = to[row]!;
      // A name that only moves is as it was: whoever gave it could.
      const bad = changed[row] && name !== from[row] ? nameFault(name) : undefined;
      if (bad) note(work, row, bad.code);
      const fold = foldName(name);
      const twin = here.get(fold);
      if (twin === undefined) here.set(fold, row);
      else if (changed[row] || changed[twin]) {
        const code = to[twin] === name ? 'collision' : 'differs-in-case';
        note(work, row, code);
        note(work, twin, code);
      }
    }
  }
}

/** Names that a file has which stays. */
function findTaken(work: Work, ground: NamingGround): void {
  const { groups, to, changed, given } = work;
  const staying = new Map<string, Map<string, string>>();
  for (const { into, start, count } of groups) {
    let stay = staying.get(into);
    if (!stay) {
      const old = given(into);
      stay = new Map(ground.names(into).flatMap((name) => (old.has(name) ? [] : [[foldName(name), name]])));
      staying.set(into, stay);
    }
    if (stay.size === 0) continue;
    for (let row = start; row < start + count; row += 1) {
      const there = changed[row] ? stay.get(foldName(to[row]!)) : undefined;
      if (there !== undefined) note(work, row, there === to[row] ? 'taken' : 'differs-in-case');
    }
  }
}

/** Which old name each row takes: of a file that gives it up, of one with which it changes places, or of nobody. */
function relationsOf(
  { groups, from, to, changed, fault, given }: Work,
  leaves: boolean,
): Pick<Relations, 'relation' | 'counts'> {
  const total = from.length;
  const next = new Int32Array(total).fill(-1);
  for (const group of groups) {
    const old = given(group.into);
    if (old.size === 0) continue;
    for (let row = group.start; row < group.start + group.count; row += 1)
      if (changed[row]) next[row] = old.get(to[row]!) ?? -1;
  }
  const circle = inCircles(next);
  const relation = new Uint8Array(total);
  const counts = { files: total, changed: 0, overlaps: 0, swaps: 0, caseOnly: 0, faults: 0 };
  for (const group of groups) {
    const isHere = leaves && group.from === group.into;
    for (let row = group.start; row < group.start + group.count; row += 1) {
      if (fault[row]) counts.faults += 1;
      if (!changed[row]) continue;
      counts.changed += 1;
      let kind: RelationKind = 'new';
      if (circle[row]) {
        kind = 'swap';
        counts.swaps += 1;
      } else if (next[row]! >= 0) {
        kind = 'overlap';
        counts.overlaps += 1;
      } else if (isHere && foldName(from[row]!) === foldName(to[row]!)) {
        kind = 'case';
        counts.caseOnly += 1;
      }
      relation[row] = relationKinds.indexOf(kind);
    }
  }
  return { relation, counts };
}

/** Which rows lie on a circle of `next`. */
function inCircles(next: Int32Array): Uint8Array {
  const circle = new Uint8Array(next.length);
  /** 0 not met, 1 on the way of this walk, 2 done. */
  const state = new Uint8Array(next.length);
  for (let start = 0; start < next.length; start += 1) {
    const way: number[] = [];
    let at = start;
    while (at >= 0 && state[at] === 0) {
      state[at] = 1;
      way.push(at);
      at = next[at]!;
    }
    if (at >= 0 && state[at] === 1) {
      const first = at;
      do {
        circle[at] = 1;
        at = next[at]!;
      } while (at !== first);
    }
    for (const row of way) state[row] = 2;
  }
  return circle;
}

function faultProblems(to: readonly string[], fault: Uint8Array, changed: number): Problem[] {
  const rows = new Map<number, { count: number; example: string }>();
  fault.forEach((code, row) => {
    if (code === 0) return;
    const held = rows.get(code);
    if (held) held.count += 1;
    else rows.set(code, { count: 1, example: to[row]! });
  });
  const problems: Problem[] = [...rows].map(([index, { count, example }]) => {
    const code = faultCodes[index] as Exclude<FaultCode, 'none'>;
    const words = count === 1 ? 'One file' : `${count.toLocaleString('en-GB')} files`;
    return { code, fact: facts[code](words, example), wayOut: wayOuts[code], subject: example };
  });
  if (changed === 0 && problems.length === 0 && to.length > 0) {
    problems.push({
      code: 'nothing-changes',
      fact: 'Every file has that name already.',
      wayOut: 'Add a rule, or choose where the files go.',
    });
  }
  return problems;
}
