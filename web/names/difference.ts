import { diffChars } from 'diff';

/** A piece of a name: in both, or in this one only. */
export interface Piece {
  text: string;
  own: boolean;
}

/** Two names, each in pieces that tell what only it has: the shortest edit from one to the other. */
export function difference(from: string, to: string): [before: Piece[], after: Piece[]] {
  const before: Piece[] = [];
  const after: Piece[] = [];
  for (const { value, added, removed } of diffChars(from, to)) {
    if (!added) before.push({ text: value, own: removed });
    if (!removed) after.push({ text: value, own: added });
  }
  return [before, after];
}
