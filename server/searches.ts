import { createHash } from 'node:crypto';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { LRUCache } from 'lru-cache';
import {
  codecRecord,
  isAnimationFormat,
  limitOf,
  modelledLoss,
  planGiven,
  problemOf,
  ShaleError,
  solveLimit,
  stepOf,
  type Plan,
  type Problem,
  type ShownTry,
} from '@shale/core';
import type { ListedSource, SearchView } from '@shale/contract';
import { shownTwin, type WorkerPool } from '@shale/engine';
import { sourcePlaces } from './jobs/places.ts';
import type { Roots } from './roots/roots.ts';

/** Searches that are kept with their files; the one that was not asked for longest goes first. */
const mostSearches = 12;

/** Milliseconds after which a search that nobody asks for makes no further try. */
const patience = 60_000;

interface Search {
  id: string;
  source: string;
  plan: Plan;
  tries: ShownTry[];
  /** By {@link stepOf}: what comes to the same is made once. */
  made: Map<string, ShownTry>;
  state: SearchView['state'];
  cannot: boolean;
  progress: SearchView['progress'];
  problem: Problem | null;
  stop: AbortController;
  /** When it was asked for last. */
  asked: number;
}

/** Searches within a limit of bytes, whose tries are kept to be looked at. They do not outlive the server. */
export class Searches {
  private readonly searches = new LRUCache<string, Search>({
    max: mostSearches,
    dispose: (search, id) => {
      search.stop.abort();
      void rm(join(this.folder, id), { recursive: true, force: true }).catch(() => undefined);
    },
    noDisposeOnSet: true,
  });

  constructor(
    private readonly folder: string,
    private readonly pool: WorkerPool,
    private readonly roots: Roots,
    /** Milliseconds. */
    private readonly waits = patience,
  ) {}

  async begin(): Promise<void> {
    await rm(this.folder, { recursive: true, force: true });
    await mkdir(this.folder, { recursive: true });
  }

  /** Begins the search of a plan, or tells of the one that there is. @throws ShaleError what forbids the plan to run */
  start(source: ListedSource, plan: Plan): SearchView {
    if (!isAnimationFormat(plan.spec.write.format))
      throw new ShaleError({
        code: 'not-an-animation',
        fact: 'A limit is searched for small moving pictures alone.',
        wayOut: 'Write GIF, animated PNG or animated WebP.',
        subject: 'write.format',
      });
    if (plan.problems[0]) throw new ShaleError(plan.problems[0]);
    // Where results go and what they are called is nothing to a try; neither is which try was taken before.
    const { into: _, names: __, existing: ___, ...spec } = plan.spec;
    const wanted = { ...spec, video: { ...spec.video, given: null, name: '' } };
    const { source: taken, shots, others, declaration, runs } = plan;
    const text = JSON.stringify([source.id, taken, shots, others, declaration, runs, wanted]);
    const id = createHash('sha256').update(text).digest('hex').slice(0, 16);
    const known = this.searches.get(id);
    // What failed is tried again by whoever asks for it again.
    if (known) return known.state === 'failed' ? this.continue(id) : this.view(known);
    const search: Search = {
      ...{ id, source: source.id, plan, tries: [], made: new Map(), state: 'searching', cannot: false },
      ...{ progress: null, problem: null, stop: new AbortController(), asked: Date.now() },
    };
    this.searches.set(id, search);
    void this.run(search);
    return this.view(search);
  }

  /** @throws ShaleError `search-not-found` */
  get(id: string): SearchView {
    return this.view(this.find(id));
  }

  stop(id: string): SearchView {
    const search = this.find(id);
    if (search.state === 'searching') {
      search.state = 'stopped';
      search.stop.abort();
    }
    return this.view(search);
  }

  /** Lets one go on; its tries are not made again. */
  continue(id: string): SearchView {
    const search = this.find(id);
    if (search.state === 'stopped' || search.state === 'failed') void this.run(this.anew(search));
    return this.view(search);
  }

  /** Makes one try by hand. @throws ShaleError `search-at-work` */
  tryOne(id: string, given: number): SearchView {
    const search = this.find(id);
    if (search.state === 'searching')
      throw new ShaleError({
        code: 'search-at-work',
        fact: 'This search is at work.',
        wayOut: 'Wait until it has ended, or stop it.',
        subject: id,
      });
    const { state } = search;
    void this.work(this.anew(search), async () => {
      await this.make(search, given);
      search.state = state === 'failed' ? 'stopped' : state;
    });
    return this.view(search);
  }

  /** The file of a try, absolute. @param shown what a browser shows of it @throws ShaleError `search-not-found` */
  file(id: string, at: number, shown = false): string {
    const search = this.find(id);
    const { format } = search.plan.spec.write;
    const path = this.path(search, at);
    if (search.tries[at]) return shown && codecRecord(format)?.animation?.unseen ? shownTwin(path) : path;
    throw notFound(id);
  }

  close(): void {
    for (const search of this.searches.values()) search.stop.abort();
  }

  private find(id: string): Search {
    const search = this.searches.get(id);
    if (!search) throw notFound(id);
    search.asked = Date.now();
    return search;
  }

  private anew(search: Search): Search {
    return Object.assign(search, { state: 'searching', problem: null, stop: new AbortController() });
  }

  private path({ id, plan }: Search, at: number): string {
    const ending = plan.into.kind === 'video' ? plan.into.file.replace(/^.*\./, '') : 'bin';
    return join(this.folder, id, `try-${at}.${ending}`);
  }

  private run(search: Search): Promise<void> {
    const { plan } = search;
    return this.work(search, async () => {
      const { cannot } = await solveLimit({
        limit: limitOf(plan.spec) ?? Infinity,
        settings: (given) => stepOf(plan, given),
        modelled: modelledLoss(plan),
        encode: async (given) => {
          if (!search.made.has(stepOf(plan, given)) && Date.now() - search.asked > this.waits) search.stop.abort();
          return (await this.make(search, given)).bytes;
        },
      });
      search.cannot = cannot;
      search.state = 'ended';
    });
  }

  /** Works on a search, and notes how it came out. */
  private async work(search: Search, work: () => Promise<void>): Promise<void> {
    const { stop } = search;
    try {
      await work();
    } catch (error) {
      // It may have gone on already.
      if (search.stop !== stop) return;
      search.state = stop.signal.aborted ? 'stopped' : 'failed';
      search.problem = stop.signal.aborted ? null : problemOf(error);
    } finally {
      if (search.stop === stop) search.progress = null;
    }
  }

  private async make(search: Search, given: number): Promise<ShownTry> {
    const { plan, made, tries, stop } = search;
    const step = stepOf(plan, given);
    const known = made.get(step);
    if (known) return known;
    stop.signal.throwIfAborted();
    const places = await sourcePlaces(plan, this.roots);
    await this.pool.run('stamps', { plan, places, readings: [], takes: false });
    await mkdir(join(this.folder, search.id), { recursive: true });
    const of = planGiven(plan, given).results.length;
    search.progress = { done: 0, of };
    const one = await this.pool.run(
      'limitTry',
      { plan, places, given, to: this.path(search, tries.length) },
      { signal: stop.signal, asker: search, onEvent: (done) => (search.progress = { done, of }) },
    );
    stop.signal.throwIfAborted();
    made.set(step, one!);
    tries.push(one!);
    return one!;
  }

  private view({ id, source, plan, tries, state, cannot, progress, problem }: Search): SearchView {
    const limit = limitOf(plan.spec);
    const within = tries.filter(({ bytes }) => bytes <= (limit ?? Infinity));
    const best = within.reduce<ShownTry | undefined>(
      (most, one) => (!most || one.bytes > most.bytes ? one : most),
      undefined,
    );
    return {
      ...{ id, source, state, limit, tries, cannot, progress, problem },
      best: best ? tries.indexOf(best) : null,
    };
  }
}

const notFound = (id: string): ShaleError =>
  new ShaleError({
    code: 'search-not-found',
    fact: 'This search is no longer kept.',
    wayOut: 'Search again.',
    subject: id,
  });
