import type { Fits, StandingOrder } from '@shale/core';
import type { DecisionKind, StandingView } from '@shale/contract';
import { plural } from '../pieces/words.ts';

export const kindWords = { sequence: 'sequences', clip: 'clips', still: 'stills' } as const;

/** What a standing order watches and takes, as one sentence. */
export function watchedWords({ root, folder, fits }: StandingOrder, rootName = root): string {
  const { kinds, name, rate, frames, gaps } = fits;
  const what = kinds.length === 0 ? 'any source with pictures' : kinds.map((kind) => kindWords[kind]).join(' and ');
  return [
    `Watches ${rootName}${folder === '' ? '' : `/${folder}`} for ${what}`,
    ...(name === '' ? [] : [`named ${name}`]),
    ...(rate === null ? [] : [`at ${rate} fps`]),
    ...(frames === '' ? [] : [`once frames ${frames} are there`]),
    ...(gaps === 'take' ? ['with gaps too'] : []),
  ].join(', ');
}

/** Sources by what was decided of them, or would be. */
export function countWords({ counts }: Pick<StandingView, 'counts'>, made = 'made'): string {
  const { begins, waits, left, there } = counts;
  const words = [
    ...(begins + there > 0 ? [`${plural(begins + there, 'source')} ${made}`] : []),
    ...(waits > 0 ? [`${plural(waits, 'source')} waited for`] : []),
    ...(left > 0 ? [`${plural(left, 'source')} left`] : []),
  ];
  return words.join(', ') || 'No matching source yet';
}

/** How a decision is marked: well, doubtful, wrong. */
export function severityOf(kind: DecisionKind, words: string): 'note' | 'doubt' | 'fault' {
  if (kind === 'left' || words.startsWith('ended incomplete') || words.startsWith('stopped')) return 'fault';
  return kind === 'waits' ? 'doubt' : 'note';
}

/** A rate as it is typed, as a fraction; undefined where it cannot be one. `23.976` is what people say of 24000/1001. */
export function rateTyped(text: string): string | null | undefined {
  const said: Record<string, string> = { '23.976': '24000/1001', '29.97': '30000/1001', '59.94': '60000/1001' };
  const trimmed = text.trim();
  if (trimmed === '') return null;
  return said[trimmed] ?? (/^\d{1,8}(\/[1-9]\d{0,7})?$/.test(trimmed) ? trimmed : undefined);
}

export const anyFits: Fits = { kinds: [], name: '', rate: null, frames: '', gaps: 'wait' };
