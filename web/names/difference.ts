import { diffArrays } from 'diff';

/** A piece of a name: in both, or in this one only. */
export interface Piece {
  text: string;
  own: boolean;
}

/** A number is one thing; all else is told letter by letter. */
const tokens = (name: string): string[] => name.match(/\d+|./gsu) ?? [];

/** Two names, each in pieces that tell what only it has: what both end with stays, the rest by the shortest edit, numbers whole. */
export function difference(from: string, to: string): [before: Piece[], after: Piece[]] {
  const [was, is] = [tokens(from), tokens(to)];
  const end: string[] = [];
  while (was.length > 0 && is.length > 0 && was[was.length - 1] === is[is.length - 1]) {
    end.unshift(was.pop()!);
    is.pop();
  }
  const before: Piece[] = [];
  const after: Piece[] = [];
  for (const { value, added, removed } of [...diffArrays(was, is), { value: end, added: false, removed: false }]) {
    if (value.length === 0) continue;
    const text = value.join('');
    if (!added) before.push({ text, own: removed });
    if (!removed) after.push({ text, own: added });
  }
  return [before, after];
}
