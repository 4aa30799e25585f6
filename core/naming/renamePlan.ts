import type { Problem } from '../errors.ts';
import type { Pattern } from '../numbering/pattern.ts';
import type { FrameRange } from '../numbering/ranges.ts';
import type { Source } from '../numbering/source.ts';
import type { Declaration } from '../spec/declaration.ts';
import type { NamingSpec } from './rules.ts';

/** How a new name stands to the old ones. */
export const relationKinds = ['same', 'new', 'overlap', 'swap', 'case'] as const;
export type RelationKind = (typeof relationKinds)[number];

/** What may be wrong with a new name. */
export const faultCodes = [
  'none',
  'collision',
  'taken',
  'differs-in-case',
  'empty-name',
  'hidden-name',
  'unfit-character',
  'reserved-name',
  'name-too-long',
] as const;
export type FaultCode = (typeof faultCodes)[number];

/** Per row, as positions in {@link relationKinds} and {@link faultCodes}. */
export interface Relations {
  relation: Uint8Array;
  fault: Uint8Array;
  /** Rows that get another name or place; of these, whose new name another file still has, in a line or in a circle, or that change in case or Unicode form only. */
  counts: { files: number; changed: number; overlaps: number; swaps: number; caseOnly: number; faults: number };
}

/** A source that gets new names. */
export interface ToName {
  id: string;
  source: Source;
  declaration: Declaration;
  /** The day its newest file was made, as `2026-11-25`, in the time of whoever looks. */
  date: string;
}

/** What is in the way where the names go. */
export interface NamingGround {
  /** Ids of the sources' root and of the one that the names go into. */
  root: string;
  into: string;
  /** Every name that a folder of the target root holds now; none for a folder that does not exist. */
  names: (folder: string) => readonly string[];
}

/** One source of a rename: its rows stand together. */
export interface NameGroup {
  id: string;
  name: string;
  /** Folders below their roots. */
  from: string;
  into: string;
  /** Its rows are `start` to `start + count`, the last not included. */
  start: number;
  count: number;
  /** How many get another name or folder. */
  changed: number;
  /** How the new names read: `pan.####.exr 1001-1096`, or the one name. */
  reads: string;
  /** The new names' pattern and numbers where all are numbered alike: what a scan will call it. */
  pattern: Pattern | null;
  coverage: FrameRange[];
}

/** Every old and new name of a rename, nothing touched yet. Row k goes from `from[k]` to `to[k]` within its group's folders. */
export interface RenamePlan extends Relations {
  spec: NamingSpec;
  root: string;
  into: string;
  groups: NameGroup[];
  from: string[];
  to: string[];
  /** What forbids the run. */
  problems: Problem[];
  /** What is worth knowing before it. */
  doubts: Problem[];
  /** Positions of replacing rules that find nothing. */
  idle: number[];
}
