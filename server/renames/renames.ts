import { randomBytes } from 'node:crypto';
import { LRUCache } from 'lru-cache';
import { namingSpecSchema, printPattern, problemOf, readWith, ShaleError, type NamingSpec } from '@shale/core';
import type { ListedSource, Rename } from '@shale/contract';
import {
  carryOutRename,
  dayOf,
  listRecords,
  planUndo,
  readRecord,
  realDisk,
  recoverRenames,
  renameStep,
  workOf,
  type NamedRoot,
  type RenameWork,
  type WorkerPool,
} from '@shale/engine';
import type { Events } from '../events.ts';
import type { Jobs } from '../jobs/jobs.ts';
import { fromRecord } from './fromRecord.ts';
import { sentenceOf, type Planned } from './planned.ts';
import { log } from '../log.ts';
import { insideRoot } from '../roots/paths.ts';
import type { Roots } from '../roots/roots.ts';
import { patiently } from '../store/away.ts';
import type { RenameRow } from '../store/names.ts';
import { sourceId } from '../store/sources.ts';
import type { Store } from '../store/store.ts';

/** How often a running rename is told of, in milliseconds. */
const tellEvery = 200;
/** How long a rename waits for the scan of its folders, in milliseconds. */
const scanWait = 4000;

/** Reads a naming spec from anything. @throws ShaleError `bad-names` naming the field */
export const parseNaming = (value: unknown): NamingSpec =>
  readWith(namingSpecSchema, value, {
    code: 'bad-names',
    what: 'The stack of naming rules',
    wayOut: 'Correct the field; docs/naming.md lists what each field takes.',
  });

/** A root as a process needs it. */
const place = ({ id, path }: NamedRoot): NamedRoot => ({ id, path });

/** Renames: planned at any time, carried out one after another, undone, and settled after a crash. */
export class Renames {
  private rows: RenameRow[] = [];
  private readonly settled = new Map<string, number>();
  private readonly stops = new Map<string, AbortController>();
  /** Folders that renames under way work in. */
  private readonly active = new Map<string, ReadonlySet<string>>();
  /** Plans whose rows can still be asked for. */
  private readonly plans = new LRUCache<string, Planned>({ max: 6 });
  private last: Promise<unknown> = Promise.resolve();
  private closing = false;

  constructor(
    private readonly store: Store,
    private readonly roots: Roots,
    private readonly jobs: Jobs,
    private readonly events: Events,
    private readonly journals: string,
    private readonly pool: WorkerPool,
  ) {}

  /** Settles what was cut off, and takes up renames of the command line. */
  async begin(): Promise<void> {
    await recoverRenames(realDisk, this.journals);
    this.rows = await this.store.names.listRenames();
    const known = new Map(this.rows.map((row) => [row.id, row]));
    const recorded = new Set<string>();
    for (const id of await listRecords(realDisk, this.journals)) {
      const row = known.get(id);
      if (row && row.state !== 'running') continue;
      const record = await readRecord(realDisk, this.journals, id);
      if (!record) continue;
      recorded.add(id);
      await this.keep(fromRecord(record, row));
    }
    // What has no journal, or one without a readable beginning, had not begun: a server ended in between.
    for (const row of this.rows.filter(({ id, state }) => state === 'running' && !recorded.has(id)))
      await this.keep({ ...row, state: 'back', finished: new Date().toISOString() });
    this.rows.sort((a, b) => b.created - a.created);
  }

  list(): Rename[] {
    return this.rows.map((row) => this.view(row));
  }

  /**
   * Works new names out, on a process of its own: rules may take long over many names.
   * @param signal of who asks, who may be gone
   * @throws ShaleError `source-not-found`, `mixed-roots`, `bad-names`
   */
  async plan(ids: readonly string[], given: unknown, signal?: AbortSignal): Promise<Planned> {
    const spec = parseNaming(given);
    const sources = await this.store.sources.many([...new Set(ids)]);
    if (sources.length < new Set(ids).size || sources.length === 0) {
      throw new ShaleError({
        code: 'source-not-found',
        fact:
          sources.length === 0 ? 'None of these sources exists any more.' : 'Some of these sources no longer exist.',
        wayOut: 'Choose them again on Intake.',
      });
    }
    const config = this.roots.config(sources[0]!.root);
    if (sources.some(({ root }) => root !== config.id)) {
      throw new ShaleError({
        code: 'mixed-roots',
        fact: 'The sources are in several roots.',
        wayOut: 'Rename those of one root at a time.',
      });
    }
    const stays = spec.mode === 'rename' || spec.into.root === null;
    const target = stays ? config : this.roots.config(spec.into.root!);
    const items = sources.map((source: ListedSource) => ({
      id: source.id,
      source,
      declaration: source.declaration,
      date: dayOf(source.modified),
    }));
    const named = { items, spec, root: place(config), into: place(target) };
    const { plan, digest } = await this.pool.run('names', named, { signal });
    const leaves = spec.mode === 'rename' || spec.mode === 'move';
    for (const { id, name, writable } of new Set(leaves ? [config, target] : [target])) {
      if (writable) continue;
      plan.problems.unshift({
        code: 'root-read-only',
        fact: `The root "${name}" is read-only.`,
        wayOut:
          leaves && id === config.id ? 'Copy or link into a writable root.' : 'Choose another root to write into.',
        subject: id,
      });
    }
    await insideRoot(target.path, '');
    for (const folder of new Set(plan.groups.map(({ into }) => into))) await insideRoot(target.path, folder);
    const planned = { plan, items, root: config, into: target, digest };
    this.plans.set(digest, planned);
    return planned;
  }

  /** A plan that was worked out a moment ago. @throws ShaleError `plan-forgotten` */
  planned(digest: string): Planned {
    const planned = this.plans.get(digest);
    if (planned) return planned;
    throw new ShaleError({
      code: 'plan-forgotten',
      fact: 'This plan has expired.',
      wayOut: 'Plan the names again.',
    });
  }

  /** Carries a plan out. @throws ShaleError `plan-changed` where names or files are no longer those that were shown */
  async start(ids: readonly string[], spec: unknown, digest: string): Promise<Rename> {
    const { plan, items, root, into, digest: now } = await this.plan(ids, spec);
    const [problem] = plan.problems;
    if (problem) throw new ShaleError(problem);
    if (now !== digest) {
      throw new ShaleError({
        code: 'plan-changed',
        fact: 'The folder changed since these names were shown.',
        wayOut: 'Nothing has been touched. Check the names again, then run.',
      });
    }
    const sentence = sentenceOf(plan, into);
    const work = workOf(plan, randomBytes(6).toString('hex'), root, into, sentence);
    const pairs = plan.groups.flatMap(
      ({ id, into: folder, pattern, count, changed, start }, at): RenameRow['sources'] => {
        if (changed === 0 || (plan.spec.join && at > 0)) return [];
        const name = pattern && count > 1 ? printPattern(pattern) : plan.to[start]!;
        return [[id, sourceId(into.id, folder, name)]];
      },
    );
    const folders: Folders = {
      from: new Set(items.map(({ source }) => source.folder)),
      into: new Set(plan.groups.map((group) => group.into)),
    };
    return this.run(work, pairs, folders);
  }

  /** Brings old names back. @throws ShaleError `not-undoable`, `touched-since` */
  async undo(id: string, rest: boolean): Promise<Rename> {
    const row = this.row(id);
    const record = await readRecord(realDisk, this.journals, id);
    if (!record) {
      throw new ShaleError({
        code: 'not-undoable',
        fact: 'The journal of this rename is gone.',
        wayOut: 'Rename by hand: the history shows an example of the old and new names.',
        subject: id,
      });
    }
    const own = randomBytes(6).toString('hex');
    const { work, problems } = await planUndo(record, realDisk, own, rest).catch(async (error: unknown) => {
      if (renameStep(record, 'undone')) await this.keep({ ...row, state: 'undone' });
      throw error;
    });
    if (problems.length > 0) throw new ShaleError(problems[0]!);
    const folders = { from: foldersIn(work.rows.from), into: foldersIn(work.rows.to) };
    const back = row.sources.map(([before, after]): [string, string] => [after, before]);
    return this.run(work, back, folders);
  }

  /** Stops a rename: everything is as it was when this returns. */
  async stop(id: string): Promise<Rename> {
    this.stops.get(id)?.abort();
    await this.last;
    return this.view(this.row(id));
  }

  /** Stops what runs; it is taken back. */
  async close(): Promise<void> {
    this.closing = true;
    for (const stop of this.stops.values()) stop.abort();
    await this.last;
  }

  private row(id: string): RenameRow {
    const row = this.rows.find((one) => one.id === id);
    if (row) return row;
    throw new ShaleError({
      code: 'rename-not-found',
      fact: `There is no rename ${id}.`,
      wayOut: 'Choose one from the history.',
      subject: id,
    });
  }

  /** Begins the work once what came before it has ended. */
  private async run(work: RenameWork, sources: RenameRow['sources'], folders: Folders): Promise<Rename> {
    this.refuseBusy(work, folders);
    this.active.set(work.id, placesOf(work, folders));
    const row: RenameRow = {
      id: work.id,
      state: 'running',
      mode: work.mode,
      sentence: work.sentence,
      files: work.rows.from.length,
      root: work.roots[0],
      into: work.roots[1],
      example: work.rows.from.length > 0 ? [work.rows.from[0]!, work.rows.to[0]!] : null,
      undoes: work.undoes ?? null,
      sources,
      problem: null,
      created: Date.now(),
      finished: null,
    };
    // A stop may come as soon as the row is in the list: it is heard, and waits for the end of this one.
    this.stops.set(row.id, new AbortController());
    const kept = this.keep(row);
    const done = Promise.all([this.last, kept]).then(() => this.carry(row, work, folders));
    this.last = done.catch((error: unknown) =>
      log('error', `rename ${row.id}: its end was not kept: ${String(error)}`),
    );
    await kept;
    // Most are done before a person looks up; the answer has the end then.
    await Promise.race([this.last, new Promise((done) => setTimeout(done, 1000))]);
    return this.view(this.row(row.id));
  }

  /** @throws ShaleError `folder-in-use` where a rename is under way in a folder, given as root, slash, folder */
  refuseUse(place: string): void {
    const [busy] = [...this.active].find(([, places]) => places.has(place)) ?? [];
    if (busy === undefined) return;
    throw new ShaleError({
      code: 'folder-in-use',
      fact: 'A rename is under way in that folder.',
      wayOut: 'Nothing has been touched. Wait until it is done, and check the names again.',
      subject: busy,
    });
  }

  private refuseBusy(work: RenameWork, folders: Folders): void {
    const [from, into] = work.roots;
    const job =
      [...folders.from].map((folder) => this.jobs.usingFolder(from, folder)).find(Boolean) ??
      [...folders.into].map((folder) => this.jobs.usingFolder(into, folder)).find(Boolean);
    for (const place of placesOf(work, folders)) this.refuseUse(place);
    if (!job) return;
    throw new ShaleError({
      code: 'folder-in-use',
      fact: `A job that ${job.state === 'running' ? 'runs' : 'waits'} works in one of these folders: ${job.plan.source.name}.`,
      wayOut: 'Wait until it is done, or stop it on Jobs.',
      subject: job.id,
    });
  }

  private async carry(row: RenameRow, work: RenameWork, folders: Folders): Promise<void> {
    const { signal } = this.stops.get(row.id)!;
    let told = 0;
    let next: RenameRow;
    try {
      await carryOutRename(work, {
        disk: realDisk,
        journals: this.journals,
        signal,
        onProgress: (done) => {
          this.settled.set(row.id, done);
          if (Date.now() - told < tellEvery) return;
          told = Date.now();
          this.tell(row);
        },
      });
      next = { ...row, state: 'done' };
    } catch (error) {
      const problem = problemOf(error);
      next = { ...row, state: problem.code === 'rename-stuck' ? 'stuck' : 'back', problem };
    }
    this.stops.delete(row.id);
    this.active.delete(row.id);
    this.settled.delete(row.id);
    const finished = new Date().toISOString();
    if (next.state === 'done') {
      await this.patiently(() => this.store.sources.carryOver(row.sources));
      await this.patiently(() => this.store.marks.carryOver(row.sources));
      if (row.undoes) await this.keep({ ...this.row(row.undoes), state: 'undone' });
    }
    for (const folder of folders.from) this.roots.finished(work.roots[0], folder);
    for (const folder of folders.into) this.roots.finished(work.roots[1], folder);
    // Whoever is told that it is done finds the new names in the list, unless there are very many.
    const scanned = Promise.all(work.roots.map((root) => this.roots.rested(root)));
    await Promise.race([scanned, new Promise((done) => setTimeout(done, scanWait))]);
    await this.keep({ ...next, finished });
  }

  private async keep(row: RenameRow): Promise<void> {
    const at = this.rows.findIndex(({ id }) => id === row.id);
    if (at < 0) this.rows.unshift(row);
    else this.rows[at] = row;
    await this.patiently(() => this.store.names.putRename(row));
    this.tell(row);
  }

  /** What must not be lost while the database is away. */
  private patiently(work: () => Promise<void>): Promise<void> {
    return patiently(work, () => this.closing);
  }

  private tell(row: RenameRow): void {
    this.events.send({ type: 'rename', rename: this.view(row) });
  }

  private view({ sources, ...row }: RenameRow): Rename {
    const settled = row.state === 'running' ? (this.settled.get(row.id) ?? 0) : row.state === 'back' ? 0 : row.files;
    const after = sources.slice(0, 1000).map(([, id]) => id);
    return { ...row, settled, sources: after, created: new Date(row.created).toISOString() };
  }
}

interface Folders {
  from: ReadonlySet<string>;
  into: ReadonlySet<string>;
}

/** Every folder that a rename reads or writes, with its root. */
const placesOf = ({ roots: [from, into] }: RenameWork, folders: Folders): Set<string> =>
  new Set([
    ...[...folders.from].map((folder) => `${from}/${folder}`),
    ...[...folders.into].map((folder) => `${into}/${folder}`),
  ]);

const foldersIn = (paths: readonly string[]): Set<string> =>
  new Set(paths.map((path) => (path.includes('/') ? path.slice(0, path.lastIndexOf('/')) : '')));
