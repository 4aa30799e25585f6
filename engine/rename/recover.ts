import type { Disk } from '../disk/disk.ts';
import { finish, inode, pathsOf, takeBack } from './carry.ts';
import { isAlive, isEnded, listRecords, readRecord, stepOf, type Owner, type Record } from './journal.ts';

/** A rename that a process left unfinished, and what became of it. */
export interface Recovered {
  record: Record;
  outcome: 'finished' | 'undone' | 'stuck';
}

/**
 * Settles every rename that was cut off: forward where all files had their names already, back otherwise. Those that a
 * process still carries out are let be. It may itself be cut off and run again.
 */
export async function recoverRenames(
  disk: Disk,
  journals: string,
  stillRuns: (owner: Owner) => boolean = isAlive,
): Promise<Recovered[]> {
  const settled: Recovered[] = [];
  for (const id of await listRecords(disk, journals)) {
    const record = await readRecord(disk, journals, id);
    if (!record || isEnded(record) || stillRuns(record.head.owner)) continue;
    settled.push({ record, outcome: await settle(record, disk, journals) });
  }
  return settled;
}

async function settle(record: Record, disk: Disk, journals: string): Promise<Recovered['outcome']> {
  const named =
    stepOf(record, 'named') !== undefined || record.head.mode === 'remove' || (await allNamed(record, disk));
  if (named) {
    await finish(record, disk, journals);
    return 'finished';
  }
  try {
    await takeBack(record, disk, journals, 'Shale stopped during the rename.');
    return 'undone';
  } catch {
    return 'stuck';
  }
}

/** Whether each file that was to be renamed has its new name, and only the note of it is missing. */
async function allNamed(record: Record, disk: Disk): Promise<boolean> {
  const { head, files } = record;
  if (head.across || head.mode === 'copy') return false;
  const there = await disk.identify(pathsOf(record).to);
  return there.every((who, row) => who !== '' && inode(who) === inode(files[row]![2]));
}
