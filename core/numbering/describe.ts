import { findingsOf } from './findings.ts';
import type { Grouped, ListedFile, Sequence } from './group.ts';
import { printPattern } from './pattern.ts';
import type { Source } from './source.ts';

/** Most parts a source's weights are cut into: a strip is seldom wider in pixels. */
export const weightParts = 1024;

/** The sources of a grouped folder, without header facts. */
export function describeFolder(folder: string, grouped: Grouped): Source[] {
  const single =
    (kind: 'clip' | 'still' | 'sound') =>
    (file: ListedFile): Source => {
      const source: Source = {
        kind,
        folder,
        name: file.name,
        coverage: [],
        irregular: [],
        doubled: [],
        files: 1,
        bytes: file.bytes,
        modified: file.modified,
        weights: [file.bytes],
        findings: [],
      };
      return { ...source, findings: findingsOf(source, [{ frame: 0, file }]) };
    };
  return [
    ...grouped.sequences.map((sequence) => describeSequence(folder, sequence)),
    ...grouped.clips.map(single('clip')),
    ...grouped.stills.map(single('still')),
    ...grouped.sounds.map(single('sound')),
  ];
}

function describeSequence(folder: string, sequence: Sequence): Source {
  const { pattern, coverage, irregular, doubled, frames } = sequence;
  const source: Source = {
    kind: 'sequence',
    folder,
    name: printPattern(pattern),
    pattern,
    coverage,
    irregular,
    doubled,
    files: frames.length + doubled.length,
    bytes: frames.reduce((sum, { file }) => sum + file.bytes, 0),
    modified: frames.reduce((latest, { file }) => Math.max(latest, file.modified), 0),
    weights: weigh(frames),
    findings: [],
  };
  return { ...source, findings: findingsOf(source, frames) };
}

function weigh(frames: Sequence['frames']): number[] {
  const first = frames[0]!.frame;
  const span = frames[frames.length - 1]!.frame - first + 1;
  const parts = Math.min(span, weightParts);
  const sums = new Float64Array(parts);
  const counts = new Uint32Array(parts);
  for (const { frame, file } of frames) {
    const part = Math.floor(((frame - first) * parts) / span);
    sums[part]! += file.bytes;
    counts[part]! += 1;
  }
  return Array.from(sums, (sum, part) => (counts[part] ? Math.round(sum / counts[part]!) : 0));
}
