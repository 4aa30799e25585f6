import type { Beside } from '@shale/core';

/** Steps from one folder to another; those of other roots are the farthest. */
export function stepsBetween(a: Pick<Beside, 'root' | 'folder'>, b: Pick<Beside, 'root' | 'folder'>): number {
  if (a.root !== b.root) return Infinity;
  const steps = ({ folder }: Pick<Beside, 'folder'>) => folder.split('/').filter((step) => step !== '');
  const [one, other] = [steps(a), steps(b)];
  let shared = 0;
  while (shared < one.length && one[shared] === other[shared]) shared += 1;
  return one.length + other.length - 2 * shared;
}
