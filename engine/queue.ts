/** Something that waits for its turn. */
export interface InQueue {
  /** Whose it is: askers take turns. */
  asker: unknown;
  /** Whether the newest of its asker goes first. */
  newest: boolean;
  /** What goes before others whatever turn it is: smaller first. */
  rank: number;
}

/** Of an asker's newest-first requests every so many picks the oldest goes, so that none waits for ever. */
const oldestEvery = 4;

/** A line for tasks: turns among askers; of one asker's in order, or the newest first. */
export class FairQueue<T extends InQueue> {
  /** Askers who wait, the one that was served longest ago first; of each what it waits for, the oldest first. */
  private readonly waiting = new Map<unknown, T[]>();
  private picks = 0;

  get length(): number {
    let sum = 0;
    for (const list of this.waiting.values()) sum += list.length;
    return sum;
  }

  add(one: T): void {
    const list = this.waiting.get(one.asker);
    if (list) list.push(one);
    else this.waiting.set(one.asker, [one]);
  }

  /** Takes one out of the line that has not had its turn; false where it is not in it. */
  remove(one: T): boolean {
    const list = this.waiting.get(one.asker);
    const at = list?.indexOf(one) ?? -1;
    if (!list || at < 0) return false;
    list.splice(at, 1);
    if (list.length === 0) this.waiting.delete(one.asker);
    return true;
  }

  /** The first in the line of which something is so. */
  find(isIt: (one: T) => boolean): T | undefined {
    for (const list of this.waiting.values()) {
      const found = list.find(isIt);
      if (found) return found;
    }
    return undefined;
  }

  /** The next in turn, which leaves the line; undefined where nobody waits. */
  take(): T | undefined {
    let best: { asker: unknown; list: T[]; rank: number } | undefined;
    for (const [asker, list] of this.waiting) {
      const rank = Math.min(...list.map((one) => one.rank));
      if (!best || rank < best.rank) best = { asker, list, rank };
    }
    if (!best) return undefined;
    const { asker, list, rank } = best;
    this.picks += 1;
    const wanted = list.filter((one) => one.rank === rank);
    const one = wanted[0]!.newest && this.picks % oldestEvery !== 0 ? wanted.at(-1)! : wanted[0]!;
    list.splice(list.indexOf(one), 1);
    // Whoever was served goes to the end.
    this.waiting.delete(asker);
    if (list.length > 0) this.waiting.set(asker, list);
    return one;
  }

  /** Everybody who waits, who leave the line. */
  clear(): T[] {
    const all = [...this.waiting.values()].flat();
    this.waiting.clear();
    return all;
  }
}
