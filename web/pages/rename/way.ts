import type { Rename } from '@shale/contract';

type Step = Pick<Rename, 'id' | 'undoes'>;

/** Whether a rename brings back what was before: it undoes one that went forth. What undoes an undoing goes forth again. */
export function goesBack({ undoes }: Step, all: readonly Step[]): boolean {
  if (undoes === null) return false;
  const undone = all.find(({ id }) => id === undoes);
  // One whose beginning is out of the list's reach was an ordinary rename, as nearly all are.
  return undone === undefined || !goesBack(undone, all);
}
