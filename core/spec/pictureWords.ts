import { operationKeys, operations, operationsOf, type OperationKey, type Picture } from '../pixels/picture.ts';
import type { Shot, Spec } from './schema.ts';

/** What is done where a frame is missing. */
export const missingWords: Record<Spec['missing'], string> = {
  'leave-out': 'leave it out',
  stop: 'stop',
  hold: 'repeat the previous frame',
  slate: 'insert a slate',
};

/** What is done where a frame is damaged. */
export const damagedWords: Record<Spec['damaged'], string> = { fail: 'fail', 'as-missing': 'treat it as missing' };

/** What is done with pictures that differ from the others of their source. */
export const mixedWords = { stop: 'stop', fit: 'fit it', 'leave-out': 'leave it out' } as const;

/** A row of {@link pictureRows}. */
export interface PictureRow {
  /** The operations that it tells of: those that follow one another with one label. */
  keys: OperationKey[];
  label: string;
  words: string;
  isAtRest: boolean;
}

/** What is done to the picture, a row for each kind of work: what it is at rest where it is left. The same labels for every spec. */
export function pictureRows(picture: Picture): PictureRow[] {
  const done = new Map(operationsOf(picture).map(({ key, operation, value }) => [key, operation.row(value)]));
  const rows: PictureRow[] = [];
  for (const key of operationKeys) {
    const { label, rest } = operations[key];
    let row = rows.at(-1);
    if (row?.label !== label) rows.push((row = { keys: [], label, words: rest, isAtRest: true }));
    row.keys.push(key);
    const words = done.get(key);
    if (words === undefined) continue;
    row.words = row.isAtRest ? words : `${row.words}, ${words}`;
    row.isAtRest = false;
  }
  return rows;
}

/** The work that is done, in a few words each: for the sentence. Empty where the picture is left. */
export const pictureSaid = (picture: Picture): string[] =>
  operationsOf(picture).map(({ operation, value }) => operation.said(value));

/** A source that follows another, in a few words: its name, and what of it is taken. */
export const shotWords = ({ source, frames }: Shot): string =>
  frames === 'all' ? source.name : `${source.name} ${frames}`;
