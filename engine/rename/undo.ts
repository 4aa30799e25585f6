import { ShaleError, someOf, type Problem } from '@shale/core';
import type { Disk } from '../disk/disk.ts';
import { inode, pathsOf, type RenameWork } from './carry.ts';
import { isEnded, stepOf, type Record } from './journal.ts';

/** What undoing would do, and what stands against it. */
export interface UndoPlan {
  work: RenameWork;
  /** Files that something else has changed, moved or taken away since, or whose old name is taken; below their root. */
  touched: string[];
  /** Files of the rename that the work leaves as they are. */
  left: number;
  problems: Problem[];
}

/**
 * Works out how a rename is undone: files get their old names back, copies and links go again. A copy goes only while its
 * original is there and the copy is as it was made.
 * @param rest undo what can be undone, and leave the rest
 * @throws ShaleError `not-undoable` where it did not end well, or is undone already
 */
export async function planUndo(record: Record, disk: Disk, id: string, rest: boolean): Promise<UndoPlan> {
  refuseUndone(record);
  const { head, files } = record;
  const removes = head.mode === 'copy' || head.mode === 'link';
  const { kept, touched } = await undoable(record, disk, removes);
  const work: RenameWork = {
    id,
    mode: removes ? 'remove' : 'move',
    from: head.into,
    into: head.from,
    roots: [head.roots[1], head.roots[0]],
    rows: { from: kept.map((row) => files[row]![1]), to: kept.map((row) => files[row]![0]) },
    sentence: head.sentence,
    undoes: head.id,
    emptied: head.folders,
  };
  const problems: Problem[] = [];
  if (touched.length > 0 && !rest) {
    problems.push({
      code: 'touched-since',
      fact: `${touched.length === 1 ? 'One file was' : `${touched.length} of ${files.length} files were`} changed, moved or removed since: ${someOf(touched)}.`,
      wayOut: removes
        ? 'Put them back first, or undo what can be undone: edited copies stay.'
        : 'Put them back first, or undo what can be undone: the old names return, the contents stay as they are now.',
      subject: touched[0]!,
    });
  } else if (kept.length === 0) {
    problems.push({
      code: 'nothing-changes',
      fact: 'None of its files can be given its old name.',
      wayOut: 'Put them back first.',
      subject: head.id,
    });
  }
  return { work, touched, left: files.length - kept.length, problems };
}

/** @throws ShaleError `not-undoable` */
function refuseUndone(record: Record): void {
  if (!stepOf(record, 'done') || !isEnded(record) || stepOf(record, 'undone')) {
    throw new ShaleError({
      code: 'not-undoable',
      fact: stepOf(record, 'undone') ? 'This rename has already been undone.' : 'This rename was not carried out.',
      wayOut: 'See the history for what happened.',
      subject: record.head.id,
    });
  }
}

/** Which rows can be undone, and files that were touched since. @param removes whether what was made goes away */
async function undoable(record: Record, disk: Disk, removes: boolean): Promise<{ kept: number[]; touched: string[] }> {
  const { head, files } = record;
  const { from, to } = pathsOf(record);
  const copies = stepOf(record, 'copied')?.copies;
  const [old, now] = await Promise.all([disk.identify(from), disk.identify(to)]);
  const giving = new Set(to);
  const touched: string[] = [];
  const rows: number[] = [];
  for (let row = 0; row < files.length; row += 1) {
    const was = copies?.[row] ?? files[row]![2];
    const same = now[row] === was || (head.mode === 'link' && now[row] !== '' && inode(now[row]!) === inode(was));
    const free = removes ? old[row] !== '' : old[row] === '' || giving.has(from[row]!);
    if (!same || !free) touched.push(files[row]![1]);
    // A name can go back to a file that was worked on; a copy that was worked on is not taken away.
    const there = removes ? same : now[row] !== '' && !now[row]!.endsWith(':other');
    if (there && free) rows.push(row);
  }
  // A name may be given back only if whoever has it now goes too.
  let kept = rows;
  for (let again = !removes && touched.length > 0; again;) {
    const leaving = new Set(kept.map((row) => to[row]!));
    const next = kept.filter((row) => old[row] === '' || leaving.has(from[row]!));
    again = next.length < kept.length;
    kept = next;
  }
  return { kept, touched };
}
