import { declare, describeFolder, findingsOf, parseSpec, type Facts, type Source } from '@shale/core';
import type { Job, ListedSource, ReceiptEntry, Rename, BatchView } from '@shale/contract';

/** Values as the server sends them, made by the core from names and facts. For tests. */
const facts: Facts = {
  width: 64,
  height: 32,
  format: 'png',
  sample: 'u8',
  channels: ['R', 'G', 'B', 'A'],
  hasAlpha: true,
  more: [],
};

/** A sequence of the yard with some frames. */
export function listed(frames: readonly number[], more: Partial<Source> = {}): ListedSource {
  const names = frames.map((frame) => `pan.${String(frame).padStart(4, '0')}.png`);
  const [bytes, modified] = [frames.map(() => 100), frames.map(() => 0)];
  const { source, columns } = describeFolder('yard', { names, bytes, modified }).sequences[0]!;
  const findings = findingsOf(source, { columns, moment: { now: 1e9, quiet: 1000 } });
  const whole = { ...source, facts, findings, ...more };
  return { ...whole, id: 'pan', root: 'museum', declaration: declare(whole) };
}

export const spec = parseSpec({
  version: 1,
  write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
});

export const job = (more: Partial<Job> = {}): Job => ({
  id: 'j1',
  source: 'pan',
  state: 'running',
  priority: 'normal',
  place: 1,
  sentence: 'Writes 4 frames as PNG.',
  sourceName: 'pan.####.png',
  into: { root: 'results', folder: 'yard', pattern: 'pan.####.png' },
  total: 4,
  written: 1,
  failed: 0,
  bytes: 2048,
  video: null,
  coverage: [{ first: 1001, last: 1001, step: 1 }],
  failedFrames: [],
  leftOut: [],
  span: { first: 1001, last: 1004 },
  workSeconds: 1,
  rate: 2,
  secondsLeft: 90,
  created: '2026-05-01T10:00:00.000Z',
  finished: null,
  problem: null,
  sourceChanged: false,
  batch: null,
  output: 0,
  ...more,
});

export const batch = (more: Partial<BatchView> = {}): BatchView => ({
  id: 'b1',
  sentence: 'Take 12 sequences as declared; write PNG.',
  state: 'running',
  priority: 'normal',
  sources: 12,
  outputs: 2,
  jobs: 24,
  states: { running: 3, done: 4, queued: 17 },
  files: { written: 70, failed: 0, total: 274 },
  frames: { done: 100, of: 524 },
  bytes: 2048,
  workSeconds: 10,
  secondsLeft: 90,
  standing: null,
  into: ['results/line_01', 'results/line_02'],
  refused: [],
  troubles: [],
  created: '2026-05-01T10:00:00.000Z',
  finished: null,
  ...more,
});

export const receipt = (more: Partial<ReceiptEntry> = {}): ReceiptEntry => ({
  version: 1,
  job: 'j1',
  source: { root: 'museum', folder: 'yard', name: 'pan.####.png' },
  into: { root: 'results', folder: 'yard', pattern: 'pan.####.png' },
  sentence: 'Writes 4 frames as PNG.',
  declaration: listed([1001, 1002]).declaration,
  setAside: [],
  spec,
  planned: 4,
  written: 4,
  bytes: 4096,
  failed: [],
  leftOut: [],
  check: { readBack: 4, identical: 4, most: 0 },
  losses: [],
  sources: [],
  changed: [],
  coverage: [{ first: 1001, last: 1004, step: 1 }],
  started: '2026-05-01T10:00:00.000Z',
  finished: '2026-05-01T10:00:10.000Z',
  workSeconds: 10,
  ...more,
});

export const rename = (more: Partial<Rename> = {}): Rename => ({
  id: 'r1',
  state: 'done',
  mode: 'rename',
  sentence: 'Renamed 4 files.',
  files: 4,
  settled: 4,
  root: 'museum',
  into: 'yard',
  example: ['pan.0001.png', 'yard.0001.png'],
  undoes: null,
  sources: ['pan'],
  created: '2026-05-01T10:00:00.000Z',
  finished: '2026-05-01T10:00:01.000Z',
  problem: null,
  ...more,
});
