/** The order in which files get their names so that none is in another's way. */
export interface RenameOrder {
  /** Rows that go aside first: they wait for each other in a circle. */
  aside: number[];
  /** All rows, each after the one that has its new name now. */
  order: number[];
}

/** Works the order out: rows in a line from its end, circles aside. */
export function renameOrder(from: readonly string[], to: readonly string[]): RenameOrder {
  const holder = new Map<string, number>();
  const wanted = new Set(to);
  // Only names that somebody wants need to be known: none, in most renames.
  from.forEach((path, row) => wanted.has(path) && holder.set(path, row));
  const aside: number[] = [];
  const order: number[] = [];
  /** 0 not met, 1 on the way, 2 done. */
  const state = new Uint8Array(from.length);
  for (let start = 0; start < from.length; start += 1) {
    const way: number[] = [];
    let at: number | undefined = start;
    while (at !== undefined && state[at] === 0) {
      state[at] = 1;
      way.push(at);
      at = holder.get(to[at]!);
    }
    if (at !== undefined && state[at] === 1) aside.push(...way.slice(way.indexOf(at)));
    for (const row of way.reverse()) {
      state[row] = 2;
      order.push(row);
    }
  }
  return { aside, order };
}
