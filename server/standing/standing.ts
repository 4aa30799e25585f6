import { randomBytes } from 'node:crypto';
import { realpath } from 'node:fs/promises';
import { join } from 'node:path';
import { LRUCache } from 'lru-cache';
import {
  batchOf,
  circleThrough,
  isBeingWritten,
  plural,
  problemOf,
  ShaleError,
  type OrderPlace,
  type StandingOrder,
} from '@shale/core';
import type { BatchView, Decision, ListedSource, ServerEvent, StandingTrial, StandingView } from '@shale/contract';
import { toBegin } from '../batches/begin.ts';
import type { Workshop } from '../workshop.ts';
import { log } from '../log.ts';
import { insideRoot } from '../roots/paths.ts';
import type { LookRow, StandingRow } from '../store/standing.ts';
import { decide, left, sourcesOf, stampOf, type Decided } from './deciding.ts';
import { named, noCounts, sentenceOfOrder, viewOf, type Live } from './view.ts';

/** How soon sources are looked at after something changed, and the least between two looks, in milliseconds. */
const soon = 1000;
/** After how long what was left is looked at again though it did not change: what was in its way may be gone. */
const againAfter = 60_000;
/** After how long a look that could not be is tried again: the database is away. */
const patience = 10_000;
/** Decisions that a trial tells. */
const toldOfTrial = 2000;

/** Batches that begin by themselves. What they began is told, stopped and receipted as any batch. */
export class StandingOrders {
  private readonly orders = new Map<string, Live>();
  private timer: NodeJS.Timeout | undefined;
  /** When the timer ends. */
  private due = 0;
  private look: Promise<void> = Promise.resolve();
  /** When the next look may begin. */
  private notBefore = 0;
  private readonly stop = new AbortController();
  /** Batches whose end was noted, with the state in which they ended. */
  private readonly ended = new LRUCache<string, string>({ max: 500 });

  constructor(private readonly house: Workshop) {}

  async begin(): Promise<void> {
    const { store, events } = this.house;
    for (const row of await store.standing.list()) {
      const looks = await store.standing.looks(row.id);
      this.orders.set(row.id, {
        row,
        looks: new Map(looks.map((look) => [look.source, look])),
        present: new Set(looks.map(({ source }) => source)),
        problem: null,
        batch: await store.standing.lastBatch(row.id),
      });
    }
    events.onSent = (event) => this.heard(event);
    this.lookSoon();
  }

  /** Ends the looks; what was begun is left to the jobs. */
  async close(): Promise<void> {
    this.stop.abort();
    clearTimeout(this.timer);
    await this.look;
  }

  list(): StandingView[] {
    return [...this.orders.values()].sort((a, b) => b.row.created - a.row.created).map(viewOf);
  }

  /** What an order would decide now; nothing is kept. @param changes id of the one that it is a change of @throws ShaleError as {@link set} */
  async try(order: StandingOrder, changes?: string, signal?: AbortSignal): Promise<StandingTrial> {
    await this.check(order, changes);
    const decisions: StandingTrial['decisions'] = [];
    const counts = noCounts();
    for await (const part of sourcesOf(order, this.house)) {
      for (const one of (await decide(order, part, this.house, signal)).decided) {
        counts[one.kind] += 1;
        if (decisions.length < toldOfTrial)
          decisions.push({ kind: one.kind, source: named(one.source), words: one.words, files: one.files });
      }
    }
    return { sentence: sentenceOfOrder(order), decisions, counts };
  }

  /**
   * Sets an order.
   * @param earlier whether what is there already is made as well, or left until it changes
   * @throws ShaleError `root-not-found`, `root-read-only`, `outside-root`, `feeds-itself`, `taken`
   */
  set(order: StandingOrder, earlier: 'make' | 'leave'): Promise<StandingView> {
    // Of two that come at once with one name, or that would feed each other, the second is refused.
    return this.alone(() => this.setOne(order, earlier));
  }

  private async setOne(order: StandingOrder, earlier: 'make' | 'leave'): Promise<StandingView> {
    await this.check(order);
    const id = randomBytes(6).toString('hex');
    const row: StandingRow = { id, edition: 1, order, paused: false, looked: null, created: Date.now() };
    const live: Live = { row, looks: new Map(), present: new Set(), problem: null, batch: null };
    if (earlier === 'leave') await this.leaveAll(live);
    await this.house.store.standing.put(row);
    await this.note(live, [{ kind: 'set', source: null, words: 'set', batch: null }]);
    this.orders.set(id, live);
    this.tell(live);
    this.lookSoon();
    return viewOf(live);
  }

  /** @throws ShaleError as {@link set}, and `standing-changed` where somebody changed it since that edition */
  async change(id: string, order: StandingOrder, edition: number): Promise<StandingView> {
    const live = this.get(id);
    await this.alone(async () => {
      await this.check(order, id);
      if (live.row.edition !== edition)
        throw new ShaleError({
          code: 'standing-changed',
          fact: `"${live.row.order.name}" was changed elsewhere in the meantime.`,
          wayOut: 'Check it as it is now, and change it again.',
          subject: id,
        });
      live.row = { ...live.row, order, edition: edition + 1 };
      await this.house.store.standing.put(live.row);
      const kept = [...live.looks.values()].filter(({ holds }) => holds);
      live.looks = new Map(kept.map((look) => [look.source, look]));
      await this.house.store.standing.forgetLooks(id);
      await this.house.store.standing.putLooks(id, kept);
      await this.note(live, [{ kind: 'set', source: null, words: 'changed', batch: null }]);
    });
    this.tell(live);
    this.lookSoon();
    return viewOf(live);
  }

  async pause(id: string, paused: boolean): Promise<StandingView> {
    const live = this.get(id);
    if (live.row.paused !== paused) {
      // At once: a look that is under way begins nothing more.
      live.row = { ...live.row, paused };
      await this.alone(() => this.house.store.standing.put(live.row));
      await this.note(live, [{ kind: 'set', source: null, words: paused ? 'paused' : 'goes on', batch: null }]);
      this.tell(live);
    }
    if (!paused) this.lookSoon();
    return viewOf(live);
  }

  async remove(id: string): Promise<void> {
    this.get(id);
    // A look that is under way comes to its end first: nothing is begun for an order that is gone.
    await this.alone(async () => {
      this.orders.delete(id);
      await this.house.store.standing.remove(id);
    });
  }

  async log(id: string, limit: number, before?: number): Promise<Decision[]> {
    this.get(id);
    return this.house.store.standing.log(id, limit, before);
  }

  private get(id: string): Live {
    const live = this.orders.get(id);
    if (live) return live;
    throw new ShaleError({
      code: 'standing-not-found',
      fact: `There is no standing order ${id}.`,
      wayOut: 'Choose one from the list, or set a new one.',
      subject: id,
    });
  }

  /** Refuses an order that cannot be carried out, or would be given its own results again. */
  private async check(order: StandingOrder, id?: string): Promise<void> {
    const others = [...this.orders.values()].filter(({ row }) => row.id !== id);
    if (others.some(({ row }) => row.order.name === order.name))
      throw new ShaleError({
        code: 'taken',
        fact: `There is a standing order "${order.name}" already.`,
        wayOut: 'Give this one another name, or change that one.',
        subject: 'order.name',
      });
    const place = await this.placeOf(order);
    const known = await Promise.all(others.map(({ row }) => this.placeOf(row.order).catch(() => undefined)));
    const way = circleThrough(
      place,
      known.filter((one) => one !== undefined),
    );
    if (!way) return;
    const through = way.slice(1).map(({ name }) => `"${name}"`);
    throw new ShaleError({
      code: 'feeds-itself',
      fact:
        through.length === 0
          ? 'Its results may be written into the folder it watches, and would be converted again.'
          : `Its results are watched by ${through.join(' and ')}, and come back from there.`,
      wayOut: 'Write into a folder that is not watched, or limit the sources by kind or by a name such as *.exr.',
      subject: 'order',
    });
  }

  /** @throws ShaleError `root-not-found`, `root-read-only`, `outside-root` */
  private async placeOf(order: StandingOrder): Promise<OrderPlace> {
    const { roots } = this.house;
    const { path } = roots.config(order.root);
    await insideRoot(path, order.folder);
    const real = (folder: string) => realpath(folder).catch(() => folder);
    return {
      order,
      watched: await real(join(path, order.folder)),
      roots: await Promise.all(order.outputs.map(({ into }) => real(roots.writable(into.root).path))),
    };
  }

  /** Leaves all that is there, but for what is still being written. */
  private async leaveAll({ row, looks }: Live): Promise<void> {
    const at = Date.now();
    for await (const part of sourcesOf(row.order, this.house)) {
      for (const source of part) {
        if (isBeingWritten(source)) continue;
        const words = 'left: it existed before the order was set';
        looks.set(source.id, { source: source.id, kind: 'left', words, stamp: stampOf(source), holds: true, at });
      }
    }
    await this.house.store.standing.putLooks(row.id, [...looks.values()]);
  }

  private heard(event: ServerEvent): void {
    if (event.type === 'batch') void this.heardOfBatch(event.batch);
    if (event.type !== 'sources' && event.type !== 'settled') return;
    for (const { row } of this.orders.values()) if (row.order.root === event.root) return this.lookSoon();
  }

  /** Notes the end of a batch that an order began. */
  private async heardOfBatch(batch: BatchView): Promise<void> {
    const live = batch.standing === null ? undefined : this.orders.get(batch.standing);
    if (!live) return;
    if (batch.state === 'running' || batch.state === 'queued') return void this.ended.delete(batch.id);
    const { written, failed } = batch.files;
    const words = {
      done: `ended: ${plural(written, 'file')} written`,
      incomplete: `ended incomplete: ${plural(written, 'file')} written, ${failed} failed${batch.refused.length > 0 ? `, ${batch.refused.length} refused` : ''}`,
      stopped: `stopped: ${batch.troubles[0]?.problem.fact ?? 'by hand'}`,
      cancelled: 'cancelled',
    }[batch.state];
    if (this.ended.get(batch.id) === words) return;
    this.ended.set(batch.id, words);
    await this.note(live, [{ kind: 'ended', source: null, words, batch: batch.id }]).catch((error: unknown) =>
      log('warning', `standing order "${live.row.order.name}": ${problemOf(error).fact}`),
    );
    this.tell(live);
  }

  private lookSoon(delay = soon): void {
    if (this.stop.signal.aborted) return;
    const now = Date.now();
    const due = Math.max(now + delay, this.notBefore);
    if (this.timer && this.due <= due) return;
    clearTimeout(this.timer);
    this.due = due;
    this.timer = setTimeout(() => {
      this.timer = undefined;
      void this.alone(() => this.lookAtAll());
    }, due - now);
    this.timer.unref();
  }

  /** One thing at a time: looks, and what changes an order. */
  private alone<T>(work: () => Promise<T>): Promise<T> {
    const done = this.look.then(work);
    this.look = done.then(
      () => undefined,
      () => undefined,
    );
    return done;
  }

  private async lookAtAll(): Promise<void> {
    const began = Date.now();
    for (const live of [...this.orders.values()]) {
      if (this.stop.signal.aborted) return;
      if (live.row.paused) continue;
      try {
        await this.lookAtOne(live);
      } catch (error) {
        if (this.stop.signal.aborted) return;
        log('warning', `standing order "${live.row.order.name}": ${problemOf(error).fact}`);
        this.lookSoon(patience);
      }
    }
    this.notBefore = Date.now() + 3 * (Date.now() - began);
    if (this.orders.size > 0) this.lookSoon(againAfter);
  }

  private async lookAtOne(live: Live): Promise<void> {
    const { row } = live;
    const before = live.problem;
    const place = await this.placeOf(row.order).catch((error: unknown) => {
      if (error instanceof ShaleError) live.problem = `${error.fact} ${error.wayOut}`;
      else throw error;
    });
    if (!place) {
      if (live.problem !== before) this.tell(live);
      return;
    }
    live.problem = null;
    const present = new Set<string>();
    let changed = before !== null;
    for await (const part of sourcesOf(row.order, this.house)) {
      for (const { id } of part) present.add(id);
      changed = (await this.lookAtPart(live, part)) || changed;
    }
    changed = changed || present.size !== live.present.size;
    live.present = present;
    live.row = { ...live.row, looked: new Date().toISOString() };
    await this.house.store.standing.put(live.row);
    if (changed) this.tell(live);
  }

  /** @returns whether anything was decided */
  private async lookAtPart(live: Live, part: readonly ListedSource[]): Promise<boolean> {
    const now = Date.now();
    const stamps = new Map(part.map((source) => [source.id, stampOf(source)]));
    const due = part.filter(({ id }) => {
      const last = live.looks.get(id);
      if (!last || last.stamp !== stamps.get(id)) return true;
      return last.kind === 'waits' || (last.kind === 'left' && !last.holds && now - last.at >= againAfter);
    });
    if (due.length === 0) return false;
    const { decided, planned } = await decide(live.row.order, due, this.house, this.stop.signal);
    // Paused meanwhile, it decides nothing of this: it is looked at again once it goes on.
    if (live.row.paused) return false;
    const begun =
      planned && decided.some(({ kind }) => kind === 'begins') ? await this.start(live, planned) : undefined;
    const told = decided.map((one) => (one.kind === 'begins' ? (begun?.refused.get(one.source.id) ?? one) : one));
    const isNews = ({ source, kind, words }: Decided) =>
      kind === 'begins' || live.looks.get(source.id)?.words !== words;
    const news = told.filter(isNews);
    const looks = told.map(({ source, kind, words }): LookRow => ({
      ...{ source: source.id, kind, words, at: now, holds: false },
      stamp: stamps.get(source.id)!,
    }));
    for (const look of looks) live.looks.set(look.source, look);
    const { standing } = this.house.store;
    await standing.putLooks(live.row.id, looks);
    await this.note(
      live,
      news.map(({ source, kind, words }) => ({
        ...{ source: named(source), kind, words },
        batch: kind === 'begins' ? (begun?.batch ?? null) : null,
      })),
    );
    return news.length > 0;
  }

  /** Begins what may begin. @returns its batch, and what is decided of sources that were refused at the last moment */
  private async start(live: Live, planned: Parameters<typeof toBegin>[0]) {
    const { batches } = this.house;
    const refused = new Map<string, Decided>();
    const refuse = (source: ListedSource | undefined, fact: string) =>
      source && refused.set(source.id, { source, ...left(fact) });
    const batch = batchOf(...live.row.order.outputs);
    try {
      const view = await batches.start({ ...toBegin(planned, batch, this.house), standing: live.row.id });
      live.batch = view.id;
      for (const { source, problem } of view.refused)
        refuse(
          planned.sources.find(({ id }) => id === source),
          problem.fact,
        );
      return { batch: view.id, refused };
    } catch (error) {
      if (!(error instanceof ShaleError)) throw error;
      for (const source of planned.sources) refuse(source, error.fact);
      return { batch: null, refused };
    }
  }

  private async note(live: Live, decisions: Omit<Decision, 'id' | 'at'>[]): Promise<void> {
    const at = new Date().toISOString();
    if (decisions.length > 0)
      await this.house.store.standing.note(
        live.row.id,
        decisions.map((one) => ({ ...one, at })),
      );
  }

  private tell(live: Live): void {
    this.house.events.send({ type: 'standing', standing: viewOf(live) });
  }
}
