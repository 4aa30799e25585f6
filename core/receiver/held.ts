import type { NameGroup, RenamePlan, ToName } from '../naming/renamePlan.ts';
import { printPattern, type Pattern } from '../numbering/pattern.ts';
import { rangeCount, type FrameRange } from '../numbering/ranges.ts';
import { frameCount, type Facts, type SampleFormat, type Source } from '../numbering/source.ts';
import { sizeOfPlan } from '../plan/pictureProblems.ts';
import { writtenAs } from '../plan/into.ts';
import type { Plan } from '../plan/plan.ts';
import type { AlphaKind, DeclaredTransfer } from '../pixels/colourNames.ts';
import { limitOf } from '../limit/movable.ts';
import { isAnimationFormat } from '../spec/video.ts';
import type { Declaration } from '../spec/declaration.ts';
import type { Rate } from '../timing/rate.ts';

/** What is held against a receiver: a source as it is, or what a plan makes of it. What is not known is null. */
export interface Held {
  /** As a person knows it. */
  name: string;
  /** Null for a single file. */
  pattern: Pattern | null;
  coverage: readonly FrameRange[];
  /** Names that are not the pattern's; empty where all are. */
  odd: readonly string[];
  /** Other pictures in its folder. */
  beside: readonly string[];
  /** The folder's whole path, in characters. */
  folderLength: number;
  format: string | null;
  width: number | null;
  height: number | null;
  sample: SampleFormat | null;
  alpha: AlphaKind | null;
  transfer: DeclaredTransfer | null;
  rate: Rate | null;
  /** Files, and their bytes where they are known. */
  files: number;
  bytes: number | null;
  /** Bytes that each file is held to, where it is not written yet. */
  limit: number | null;
  /** How long it plays; null where nothing says so. */
  seconds: number | null;
  /** How often a small moving picture plays, null for ever; undefined where it is none, or nothing says so. */
  plays: number | null | undefined;
}

/** Names of sequences that lie among a source, as its finding tells. */
const strays = (source: Source): string[] =>
  source.findings.flatMap(({ code, names }) => (code === 'stray-files' ? (names ?? []) : []));

const pixelsOf = (facts: Facts | undefined, declaration: Declaration) => ({
  format: facts?.format ?? null,
  width: facts?.width ?? null,
  height: facts?.height ?? null,
  sample: facts?.sample ?? null,
  alpha: declaration.alpha.value,
  transfer: declaration.transfer.value,
  rate: declaration.rate.value,
});

const folderLength = (root: string, folder: string): number =>
  root.length + 1 + (folder === '' ? 0 : folder.length + 1);

const secondsOf = (frames: number, rate: Rate | null): number | null => rate && (frames * rate.den) / rate.num;

/** A source as it lies there. @param root the path of its root */
export function heldSource(source: Source, declaration: Declaration, root: string): Held {
  return {
    name: source.name,
    pattern: source.pattern ?? null,
    coverage: source.coverage,
    odd: [...source.irregular, ...source.doubled].map(({ name }) => name),
    beside: strays(source),
    folderLength: folderLength(root, source.folder),
    ...pixelsOf(source.facts, declaration),
    files: frameCount(source),
    bytes: source.bytes,
    limit: null,
    seconds: secondsOf(frameCount(source), declaration.rate.value),
    plays: undefined,
  };
}

/**
 * Sources as a rename will leave them; joined ones are one.
 * @param root the path of the root that the names go into
 */
export function heldRename(plan: RenamePlan, items: readonly ToName[], root: string): Held[] {
  const byId = new Map(items.map((item) => [item.id, item]));
  const held = plan.groups.map((group) => heldGroup(group, plan, byId.get(group.id)!, root));
  if (!plan.spec.join || held.length < 2) return held;
  const [first] = held as [Held];
  return [
    {
      ...first,
      name: `${held.length} sources joined`,
      coverage: held.flatMap(({ coverage }) => coverage),
      files: held.reduce((sum, { files }) => sum + files, 0),
      bytes: held.reduce((sum, { bytes }) => sum + (bytes ?? 0), 0),
    },
  ];
}

function heldGroup(group: NameGroup, plan: RenamePlan, { source, declaration }: ToName, root: string): Held {
  const stays = plan.root === plan.into && group.from === group.into;
  return {
    ...heldSource(source, declaration, root),
    name: group.pattern && group.count > 1 ? printPattern(group.pattern) : (plan.to[group.start] ?? source.name),
    pattern: group.pattern,
    coverage: group.coverage,
    odd: [],
    beside: stays ? strays(source) : [],
    folderLength: folderLength(root, group.into),
    files: group.count,
  };
}

/** What a conversion will have written. @param root the path of the root that it writes into */
export function heldPlan(plan: Plan, root: string): Held {
  const { write } = plan.spec;
  const written = plan.runs.filter(({ kind }) => kind !== 'missing');
  const { into } = plan;
  const size = sizeOfPlan(plan);
  return {
    name: into.kind === 'stills' ? (Object.values(into.names)[0] ?? '') : writtenAs(into),
    pattern: into.kind === 'sequence' ? into.pattern : null,
    coverage: written.map(({ to, toStep, count }) => ({
      first: to,
      last: to + (count - 1) * toStep,
      step: toStep || 1,
    })),
    odd: [],
    beside: [],
    folderLength: folderLength(root, into.folder),
    format: write.format,
    width: size?.width ?? null,
    height: size?.height ?? null,
    sample: write.sample,
    // Alpha by itself is a grey picture without any.
    alpha: write.alpha === 'matte' ? 'none' : write.alpha,
    transfer: write.transfer,
    rate: plan.rate,
    files: into.kind === 'video' ? 1 : written.reduce((sum, run) => sum + run.count, 0),
    bytes: null,
    limit: limitOf(plan.spec),
    seconds: secondsOf(plan.frames, plan.rate),
    plays: isAnimationFormat(write.format) ? plan.spec.video.plays : undefined,
  };
}

/** First and last number of what is held; undefined where it has none. */
export function numbersIn({ coverage }: Pick<Held, 'coverage'>): { first: number; last: number } | undefined {
  const first = coverage[0];
  return (
    first && { first: first.first, last: coverage.reduce((last, range) => Math.max(last, range.last), first.last) }
  );
}

/** Whether numbers follow one another without a hole, by one. */
export function isUnbroken({ coverage }: Pick<Held, 'coverage'>): boolean {
  const span = numbersIn({ coverage });
  return !span || coverage.reduce((sum, range) => sum + rangeCount(range), 0) === span.last - span.first + 1;
}
