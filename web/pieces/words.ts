import {
  hasFrames,
  coverageCount,
  plural,
  printSeconds,
  printRate,
  frameSeconds,
  alphaWords,
  groundsWords,
  transferWords,
  type FrameRange,
  type Rate,
} from '@shale/core';
import type { Job, ListedSource } from '@shale/contract';

export { plural, printBytes } from '@shale/core';

export const printCount = (count: number): string => count.toLocaleString('en-GB');

/** `2 minutes ago`. */
export function printAge(iso: string, now: number): string {
  const seconds = Math.max(0, (now - Date.parse(iso)) / 1000);
  if (seconds < 60) return 'just now';
  if (seconds < 5400) return `${plural(Math.round(seconds / 60), 'minute')} ago`;
  if (seconds < 129_600) return `${plural(Math.round(seconds / 3600), 'hour')} ago`;
  return `${plural(Math.round(seconds / 86_400), 'day')} ago`;
}

/** A time left, rounded as people say it: `6 s`, `4 min`. */
export function printLeft(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  return seconds < 5400 ? `${Math.round(seconds / 60)} min` : `${(seconds / 3600).toFixed(1)} h`;
}

/** `96 frames, 4.00 s`; the time only where a rate is declared. */
export function framesAndTime(coverage: readonly FrameRange[], rate: Rate | null): string {
  const count = coverageCount(coverage);
  return rate ? `${plural(count, 'frame')}, ${printSeconds(frameSeconds(count, rate))}` : plural(count, 'frame');
}

/** What a source is taken as, in the words of a table's cell. */
export function takenAs(source: ListedSource): { rate: string; grounds: string; pixels: string; undecided: boolean } {
  const { rate, alpha, transfer } = source.declaration;
  const pixels = [
    alpha.value ? alphaWords[alpha.value] : 'alpha undecided',
    transfer.value ? transferWords[transfer.value] : (source.facts?.transfer ?? 'transfer undecided'),
  ];
  return {
    rate: rate.value ? printRate(rate.value) : 'not declared',
    grounds: groundsWords[rate.grounds],
    pixels: source.facts ? pixels.join(', ') : '',
    undecided: !rate.value,
  };
}

/** How long a change of a source's files is told, in milliseconds. */
const tellsChange = 24 * 3_600_000;

/** `4 frames added 2 minutes ago`; undefined where nothing changed lately. */
export function changeWords(
  { change, kind }: Pick<ListedSource, 'change' | 'kind'>,
  now = Date.now(),
): string | undefined {
  if (!change || now - change.at > tellsChange) return undefined;
  const what = [
    change.added > 0 && `${printCount(change.added)} added`,
    change.edited > 0 && (kind === 'sequence' ? `${printCount(change.edited)} changed` : 'changed'),
    change.removed > 0 && `${printCount(change.removed)} gone`,
  ].filter(Boolean);
  return `${what.join(', ')} ${printAge(new Date(change.at).toISOString(), now)}`;
}

export const isUndeclared = (source: ListedSource): boolean =>
  hasFrames(source) && source.declaration.rate.value === null;

/** How far a job is: pictures of a video, else files. */
export const progressOf = ({ video, written, failed, total }: Job): { done: number; of: number } =>
  video ?? { done: written + failed, of: total };
