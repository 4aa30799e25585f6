import type { Shale } from '@shale/cli/testing/shale.ts';

/** What a part of the proof works with. */
export interface Ground {
  shale: Shale;
  /** An empty folder of its own. */
  folder: string;
  /** Only the cases that stand for the others: each format and codec written and read once. */
  quick: boolean;
  /** Only cases whose name holds this. */
  only: string;
}

/** How one case ended. */
export interface Outcome {
  /** Row and column of the table. */
  row: string;
  column: string;
  /** The case, as `--only` finds it. */
  name: string;
  /** What was wrong; none where it held. */
  wrong?: string;
  /** Why it was not tried: a library here does not write what it needs. */
  lacking?: string;
}

/** A part of the proof. */
export type Part = (ground: Ground) => Promise<Outcome[]>;

/** Outcomes as a table: rows by columns, each cell how many held, and of how many where not all did. */
export function tableOf(outcomes: readonly Outcome[]): string {
  const columns = [...new Set(outcomes.map(({ column }) => column))];
  const rows = [...new Set(outcomes.map(({ row }) => row))];
  const cell = (row: string, column: string): string => {
    const here = outcomes.filter((one) => one.row === row && one.column === column);
    const tried = here.filter(({ lacking }) => lacking === undefined);
    if (here.length === 0) return '';
    if (tried.length === 0) return '-';
    const held = tried.filter(({ wrong }) => wrong === undefined).length;
    return held === tried.length ? String(held) : `${held}/${tried.length} !`;
  };
  const lines = [['', ...columns], ...rows.map((row) => [row, ...columns.map((column) => cell(row, column))])];
  const widths = lines[0]!.map((_, at) => Math.max(...lines.map((line) => line[at]!.length)));
  return lines
    .map((line) =>
      line
        .map((text, at) => text.padEnd(widths[at]!))
        .join('  ')
        .trimEnd(),
    )
    .join('\n');
}
