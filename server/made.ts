import { createHash, randomUUID } from 'node:crypto';
import { mkdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { LRUCache } from 'lru-cache';
import {
  asStills,
  coverageCount,
  coverageOf,
  fileOfFrame,
  plainPattern,
  problemOf,
  resultsOf,
  ShaleError,
  writtenAs,
  type Comparison,
  type Declaration,
  type FrameRange,
  type Plan,
  type Written,
} from '@shale/core';
import type { ListedSource, Proof, ReceiptEntry } from '@shale/contract';
import { crashed, takenOfResults, type Tasks, type WorkerPool } from '@shale/engine';
import { sourcePlaces } from './jobs/places.ts';
import type { Jobs } from './jobs/jobs.ts';
import { insideRoot } from './roots/paths.ts';
import type { Roots } from './roots/roots.ts';
import type { Store } from './store/store.ts';

/** Proofs that are kept; the one that was not asked for longest goes first. */
const mostProofs = 12;

/** The root id of what lies among the proofs: no root of the operator's. */
const proofRoot = 'proof';

/** A proof and what was made for it so far. */
interface Kept {
  plan: Plan;
  /** They as a source; null before the first is made. */
  source: ListedSource | null;
  /** By source frame. */
  made: Map<number, Written>;
  /** Those that are being made: two who ask for one frame wait for the same. */
  making: Map<number, Promise<Written>>;
  problems: Map<number, Proof['problems'][number]>;
}

/** What results are taken to be, as their plan says: by its word. */
function declarationOf(plan: Plan): Declaration {
  const { alpha, transfer, primaries, matte } = takenOfResults(plan);
  const said = <T>(value: T) => ({ value, grounds: 'word' as const });
  return {
    ...plan.declaration,
    alpha: said(alpha),
    transfer: said(transfer),
    primaries: said(primaries),
    matte: said(matte),
  };
}

/** What Shale made itself as sources for the stage: proofs, which lie in a folder of their own, and the results of jobs. */
export class MadeSources {
  private readonly proofs = new LRUCache<string, Kept>({
    max: mostProofs,
    dispose: (_, id, reason) => {
      if (reason === 'evict') void rm(join(this.folder, id), { recursive: true, force: true }).catch(() => undefined);
    },
  });
  /** Results of jobs that were looked at, by job. */
  private readonly results = new LRUCache<string, ListedSource>({ max: 200 });

  constructor(
    private readonly folder: string,
    private readonly pool: WorkerPool,
    private readonly store: Store,
    private readonly roots: Roots,
    private readonly jobs: Jobs,
  ) {}

  /** Proofs do not outlive the server. */
  async begin(): Promise<void> {
    await rm(this.folder, { recursive: true, force: true });
    await mkdir(this.folder, { recursive: true });
  }

  /** The source of an id: `proof-` and its number, or `made-` and a job; undefined for any other. */
  async find(id: string): Promise<ListedSource | undefined> {
    const kept = this.proofs.get(id);
    if (kept) return kept.source ?? undefined;
    if (!id.startsWith('made-')) return undefined;
    const job = id.slice(5);
    const known = this.results.get(job);
    if (known) return known;
    const receipt = await this.store.getReceipt(job);
    return receipt && this.resultsOf(receipt);
  }

  /** What a job wrote, as it lies on the disk now. */
  async resultsOf({ job, coverage, bytes }: ReceiptEntry): Promise<ListedSource> {
    const { plan } = await this.jobs.get(job);
    const source = await this.listed(`made-${job}`, plan, plan.into.root, coverage, bytes);
    this.results.set(job, source);
    return source;
  }

  /** The folder that a source's root stands for, absolute. */
  folderOf({ root, id }: ListedSource): string {
    return root === proofRoot ? join(this.folder, id) : this.roots.config(root).path;
  }

  /** Makes results of some source frames for real, those that are not there yet. What fails is told frame by frame. */
  async prove(source: ListedSource, plan: Plan, frames: readonly number[], signal?: AbortSignal): Promise<Proof> {
    const text = JSON.stringify([plan, source.id, source.modified]);
    const id = `proof-${createHash('sha256').update(text).digest('hex').slice(0, 16)}`;
    const kept = this.proofs.get(id) ?? {
      plan,
      source: null,
      made: new Map(),
      making: new Map(),
      problems: new Map(),
    };
    this.proofs.set(id, kept);
    const places = { ...(await sourcePlaces(plan, this.roots)), target: join(this.folder, id) };
    await Promise.all(
      frames.map(async (sourceFrame) => {
        if (kept.made.has(sourceFrame)) return;
        try {
          kept.made.set(sourceFrame, await this.make(kept, { plan, places, sourceFrame }, id, signal));
          kept.problems.delete(sourceFrame);
        } catch (error) {
          kept.problems.set(sourceFrame, { ...problemOf(error), sourceFrame });
        }
      }),
    );
    if (kept.made.size > 0) kept.source = await this.sourceOf(id, kept);
    return {
      id,
      source: kept.source,
      runs: plan.runs,
      frames: [...kept.made.values()].sort((a, b) => a.index - b.index),
      problems: [...kept.problems.values()],
    };
  }

  /** Makes one result of a source frame, which does not stay. @throws ShaleError what forbids it */
  async tryOne(plan: Plan, sourceFrame: number, signal?: AbortSignal): Promise<Written> {
    const folder = join(this.folder, `try-${randomUUID()}`);
    const places = { ...(await sourcePlaces(plan, this.roots)), target: folder };
    try {
      return await this.pool.run('proof', { plan, places, sourceFrame }, { signal });
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  }

  /** Makes one frame; where it is being made for somebody else, waits for that one, and makes it anew if he has gone. */
  private async make(
    { making }: Kept,
    work: Tasks['proof']['in'],
    id: string,
    signal: AbortSignal | undefined,
  ): Promise<Written> {
    for (;;) {
      const theirs = making.get(work.sourceFrame);
      if (!theirs) {
        const ours = this.pool.run('proof', work, { signal, asker: id });
        making.set(work.sourceFrame, ours);
        return await ours.finally(() => making.delete(work.sourceFrame));
      }
      try {
        return await theirs;
      } catch (error) {
        if (!crashed(error) || signal?.aborted) throw error;
      }
    }
  }

  /** How a proved frame differs from what it would be in 32-bit floats. @throws ShaleError `proof-gone` */
  async exactness(id: string, sourceFrame: number, signal?: AbortSignal): Promise<Comparison> {
    const kept = this.proofs.get(id);
    const made = kept?.made.get(sourceFrame);
    if (!kept || !made) {
      throw new ShaleError({
        code: 'proof-gone',
        fact: `Frame ${sourceFrame} of this proof is no longer kept.`,
        wayOut: 'Try it again.',
        subject: id,
      });
    }
    const places = { ...(await sourcePlaces(kept.plan, this.roots)), target: join(this.folder, id) };
    const [row] = resultsOf(asStills(kept.plan), made.index, made.index + 1);
    const path = await insideRoot(places.target, row!.to);
    return this.pool.run('exactness', { plan: kept.plan, places, sourceFrame, made: path }, { first: true, signal });
  }

  private sourceOf(id: string, { plan, made }: Kept): Promise<ListedSource> {
    const written = [...made.values()];
    const coverage = coverageOf(written.map(({ frame }) => frame).sort((a, b) => a - b));
    return this.listed(
      id,
      plan,
      proofRoot,
      coverage,
      written.reduce((sum, { bytes }) => sum + bytes, 0),
    );
  }

  private async listed(
    id: string,
    plan: Plan,
    root: string,
    coverage: FrameRange[],
    bytes: number,
  ): Promise<ListedSource> {
    // A proof of a video is stills of its pictures.
    const into = root === proofRoot ? asStills(plan).into : plan.into;
    const source: ListedSource = {
      id,
      root,
      kind: into.kind === 'video' ? 'clip' : 'sequence',
      folder: into.folder,
      name: writtenAs(into),
      ...(into.kind === 'video' ? {} : { pattern: into.kind === 'sequence' ? into.pattern : plainPattern(into.stem) }),
      coverage,
      // Stills at markers have names of their own.
      irregular:
        into.kind === 'stills'
          ? Object.entries(into.names).map(([frame, name]) => ({ frame: Number(frame), name }))
          : [],
      doubled: [],
      files: into.kind === 'video' ? 1 : coverageCount(coverage),
      bytes,
      modified: 0,
      weights: [1],
      findings: [],
      declaration: declarationOf(plan),
    };
    const first = coverage[0] && fileOfFrame(source, coverage[0].first);
    if (first === undefined) return source;
    const path = await insideRoot(this.folderOf(source), first);
    const [probed] = await this.pool.run('probe', [{ path, kind: into.kind === 'video' ? 'clip' : 'picture' }], {
      first: true,
    });
    const modified = (await stat(path).catch(() => undefined))?.mtimeMs ?? 0;
    if (!probed || !('facts' in probed)) return { ...source, modified };
    const { facts, weights } = probed;
    return { ...source, modified, facts, ...(weights ? { weights } : {}) };
  }
}
