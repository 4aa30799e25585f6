import { longestRun } from './runs.ts';
import type { Finding, Source } from './source.ts';

const token = new RegExp(`(^|[/._ ()-])[vV](\\d{1,${Math.min(3, longestRun)}})(?=$|[/._ ()-])`, 'g');

/**
 * The version that a path speaks of, as `_v02_`, and what all versions of the thing have in common. The last one counts, in
 * the name or in a folder above it.
 * @example versionIn('shots/pan_v02.####.exr') // {family: 'shots/pan_v#.####.exr', version: 2}
 */
export function versionIn(path: string): { family: string; version: number } | undefined {
  let last: RegExpExecArray | undefined;
  for (const match of path.matchAll(token)) last = match;
  if (!last) return undefined;
  const at = last.index + last[1]!.length + 1;
  return { family: `${path.slice(0, at)}#${path.slice(at + last[2]!.length)}`, version: Number(last[2]) };
}

/** The finding of a version that a newer one stands beside. @param newest the path of the newest */
const olderVersion = (newest: Pick<Source, 'name' | 'folder' | 'version'>): Finding => ({
  code: 'older-version',
  severity: 'note',
  sentence: `There is a newer version: v${String(newest.version).padStart(2, '0')}, ${newest.folder ? `${newest.folder}/` : ''}${newest.name}.`,
  short: `Older than v${String(newest.version).padStart(2, '0')}`,
  mend: 'Use the newer one, unless this version was asked for.',
});

/** Of the same versions of one family, which is the newest: the highest number. */
function newestOf<T extends { family?: string; version?: number }>(sources: readonly T[]): Map<string, T> {
  const newest = new Map<string, T>();
  for (const source of sources) {
    if (source.family === undefined) continue;
    const held = newest.get(source.family);
    if (!held || source.version! > held.version!) newest.set(source.family, source);
  }
  return newest;
}

/** The sources of a root with a note on each that has a newer version beside it. */
export function withOlderVersions(sources: readonly Source[]): Source[] {
  const newest = newestOf(sources);
  return sources.map((source) => {
    const best = source.family === undefined ? undefined : newest.get(source.family);
    const others = source.findings.filter(({ code }) => code !== 'older-version');
    const isOlder = best !== undefined && best.version! > source.version!;
    if (!isOlder && others.length === source.findings.length) return source;
    return { ...source, findings: isOlder ? [...others, olderVersion(best)] : others };
  });
}
