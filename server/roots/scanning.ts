import { existsSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { join } from 'node:path';
import {
  coverageCount,
  numberRuleFor,
  gapsIn,
  isBeingWritten,
  problemOf,
  type Problem,
  type Rule,
  type Source,
} from '@shale/core';
import type { Root, ServerEvent } from '@shale/contract';
import {
  loadReadings,
  scanFolder,
  scanFolders,
  type Checked,
  type KeptFolder,
  type ScannedFolder,
  type WorkerPool,
} from '@shale/engine';
import { sourceId } from '../store/sources.ts';
import type { Store } from '../store/store.ts';
import type { RootConfig } from './config.ts';
import { Watch } from './watch.ts';

/** How often a root tells of its progress and of new sources, in milliseconds. */
const tellEvery = 300;

/** What a scan stands on. */
export interface Ground {
  store: Store;
  pool: WorkerPool;
  send: (event: ServerEvent) => void;
  /** Where what was read of folders is kept. */
  readings: string;
  /** Milliseconds without a change after which a file counts as whole, where a root sets nothing else. */
  quiet: number;
}

/**
 * The scans of one root, one at a time: of all of it, or of folders that changed. Folders are watched, and those in which
 * something is still being written are looked at again until it has come to rest.
 */
export class Scanning {
  progress: Root['progress'] = null;
  problem: Problem | null = null;
  private work: Promise<void> | undefined;
  private all = false;
  private readonly dirty = new Set<string>();
  private readonly again = new Map<string, NodeJS.Timeout>();
  /** What each folder held when it was last scanned. */
  private readonly held = new Map<string, { files: number; bytes: number; notes: Problem[] }>();
  /** Folders in which Shale finished a job, and when. */
  private readonly ours = new Map<string, number>();
  /** What checks of every frame found in each folder since it was last scanned. */
  private readonly checked = new Map<string, Checked>();
  private stop = new AbortController();
  private closed = false;
  private told = 0;
  private readonly watch: Watch;
  private readonly id: string;
  private readonly path: string;
  private readonly quiet: number;

  constructor(
    { id, path, quiet }: RootConfig,
    private readonly ground: Ground,
    /** Tells of the root as it is now. */
    private readonly tell: () => void,
  ) {
    this.id = id;
    this.path = path;
    this.quiet = quiet === undefined ? ground.quiet : quiet * 1000;
    this.watch = new Watch(path, (folder) => this.rescan(folder));
  }

  get running(): boolean {
    return this.work !== undefined;
  }

  /** Scans everything; a call while that is under way waits for it. */
  scan(): Promise<void> {
    this.all = true;
    return this.begin();
  }

  /** Scans a folder again. */
  rescan(folder: string): void {
    if (this.closed) return;
    this.dirty.add(folder);
    void this.begin();
  }

  /** Scans a folder that Shale has finished writing into. */
  finished(folder: string): void {
    this.ours.set(folder, Date.now());
    this.rescan(folder);
  }

  /** What was read of a folder at its last scan. */
  known(folder: string): Promise<KeptFolder> {
    return loadReadings(this.readingsOf(folder));
  }

  /** Enters what a check of every frame found, and waits until the sources tell of it. */
  async enter(folder: string, files: Checked): Promise<void> {
    if (files.size === 0 || this.closed) return;
    this.checked.set(folder, new Map([...(this.checked.get(folder) ?? []), ...files]));
    this.rescan(folder);
    await this.work;
  }

  /** Waits until nothing is under way. */
  async rested(): Promise<void> {
    await this.work;
  }

  /** Ends what is under way; what it found stays. */
  async halt(): Promise<void> {
    this.all = false;
    this.dirty.clear();
    this.stop.abort();
    await this.work;
  }

  async close(): Promise<void> {
    this.closed = true;
    for (const timer of this.again.values()) clearTimeout(timer);
    this.watch.close();
    await this.halt();
  }

  private begin(): Promise<void> {
    this.work ??= this.run().finally(() => {
      this.work = undefined;
      this.progress = null;
      if (!this.closed) this.tell();
    });
    return this.work;
  }

  private async run(): Promise<void> {
    this.stop = new AbortController();
    this.parts.length = 0;
    while ((this.all || this.dirty.size > 0) && !this.closed && !this.stop.signal.aborted) {
      try {
        await this.readRules();
        if (this.all) {
          this.all = false;
          this.dirty.clear();
          await this.scanAll();
        } else {
          const [folder] = this.dirty;
          this.dirty.delete(folder!);
          await this.scanOne(folder!);
        }
        this.problem = null;
      } catch (error) {
        if (!this.stop.signal.aborted) this.problem = problemOf(error);
      }
    }
  }

  private rules: Rule[] = [];
  private async readRules(): Promise<void> {
    this.rules = await this.ground.store.sources.rules(this.id);
  }

  /** Where what was read of a folder is kept. */
  readingsOf(folder: string): string {
    const name = createHash('sha256').update(`${this.id}\0${folder}`).digest('hex').slice(0, 24);
    return join(this.ground.readings, `${name}.bin`);
  }

  private options() {
    return {
      signal: this.stop.signal,
      quiet: this.quiet,
      readingsOf: (folder: string) => this.readingsOf(folder),
      frameNumberIn: (folder: string) => numberRuleFor(this.rules, folder)?.word.frameNumber,
      checkedIn: (folder: string) => {
        const files = this.checked.get(folder);
        this.checked.delete(folder);
        return files;
      },
      onProgress: (folder: string, done: number, total: number) => this.step({ folder, done, total }),
    };
  }

  /** A number greater than that of every scan before. */
  private async nextNumber(): Promise<number> {
    const last = (await this.ground.store.listScans()).find(({ root }) => root === this.id);
    this.lastNumber = Math.max(Date.now(), (last?.number ?? 0) + 1, this.lastNumber + 1);
    return this.lastNumber;
  }
  private lastNumber = 0;

  private async scanAll(): Promise<void> {
    const { store } = this.ground;
    const number = await this.nextNumber();
    const seen = new Set<string>();
    let files = 0;
    this.progress = { folder: '', files: 0, done: 0, total: 0 };
    this.tell();
    for await (const scanned of scanFolders(this.path, this.ground.pool, this.options())) {
      seen.add(scanned.folder);
      await this.take(scanned, number);
      if (scanned.unfinished) continue;
      files += scanned.files;
      this.step({ folder: scanned.folder, done: 0, total: 0, files });
    }
    if (this.stop.signal.aborted) return;
    this.watch.keepOnly(seen);
    for (const folder of [...this.held.keys()]) if (!seen.has(folder)) this.held.delete(folder);
    await store.sources.dropBefore(this.id, number);
    await this.conclude(number);
  }

  /** Notes what the root holds now, and tells of it. */
  private async conclude(number: number): Promise<void> {
    const { store } = this.ground;
    const folders = [...this.held.values()];
    const notes = folders.flatMap((folder) => folder.notes.slice(0, 100)).slice(0, 500);
    if (this.watch.incomplete) notes.push(notWatched(this.path));
    if (existsSync(`${this.path}.drawing`)) notes.unshift(beingDrawn);
    await store.putScan({
      root: this.id,
      number,
      files: folders.reduce((sum, folder) => sum + folder.files, 0),
      bytes: folders.reduce((sum, folder) => sum + folder.bytes, 0),
      notes,
      finished: new Date().toISOString(),
    });
    await store.sources.markVersions(this.id);
    this.tellSources(true);
  }

  /** One folder, those that came below it, and away with those that went. */
  private async scanOne(folder: string): Promise<void> {
    const { store } = this.ground;
    const number = await this.nextNumber();
    const open = [folder];
    for (let next = open.shift(); next !== undefined; next = open.shift()) {
      for await (const scanned of scanFolder(this.path, next, this.ground.pool, this.options())) {
        if (this.stop.signal.aborted) return;
        await this.take(scanned, number);
        if (scanned.unfinished) continue;
        await store.sources.dropBefore(this.id, number, { folder: next, below: false });
        const below = this.below(next);
        const there = new Set(scanned.subfolders);
        for (const old of below) {
          const top = next === '' ? old.split('/')[0]! : `${next}/${old.slice(next.length + 1).split('/')[0]!}`;
          if (there.has(top)) continue;
          this.watch.remove(old);
          this.held.delete(old);
          await store.sources.dropBefore(this.id, number, { folder: old, below: true });
        }
        open.push(...scanned.subfolders.filter((one) => !below.includes(one)));
      }
    }
    await this.conclude(number);
  }

  /** Folders below one that were there at the last scan. */
  private below(folder: string): string[] {
    return [...this.held.keys()].filter((one) => one !== folder && (folder === '' || one.startsWith(`${folder}/`)));
  }

  /** Enters a folder's sources, watches it, and sees to what is still being written. */
  private async take(scanned: ScannedFolder, number: number): Promise<void> {
    const { folder, unfinished, changed } = scanned;
    const sources = this.ours.has(folder) ? scanned.sources.map((source) => this.settledByUs(source)) : scanned.sources;
    if (scanned.gone) this.watch.remove(folder);
    else this.watch.add(folder);
    const before = unfinished ? [] : await this.ground.store.sources.withCode(this.id, folder, 'still-writing');
    if (sources.length > 0) await this.ground.store.sources.put(this.id, sources, number);
    this.tellSources(false);
    this.parts.push(...sources.filter(({ kind }) => !unfinished || kind === 'still'));
    if (unfinished) return;
    const all = this.parts.splice(0);
    const bytes = all.reduce((sum, source) => sum + source.bytes, 0);
    if (scanned.gone) this.held.delete(folder);
    else this.held.set(folder, { files: scanned.files, bytes, notes: scanned.notes });
    const writing = all.filter(isBeingWritten);
    const calm = new Set(before);
    for (const { name } of writing) calm.delete(sourceId(this.id, folder, name));
    for (const source of all) {
      const id = sourceId(this.id, folder, source.name);
      // What Shale wrote itself its job tells of.
      if (calm.has(id) && !this.isOurs(folder, source)) this.ground.send(settled(this.id, id, source));
    }
    if (changed || writing.length > 0)
      this.lookAgain(folder, changed ? 1000 : this.quiet + 200 - sinceLast(writing, this.quiet));
  }

  /** A source that nobody changed since Shale finished it is whole. */
  private settledByUs(source: Source): Source {
    if (!this.isOurs(source.folder, source)) return source;
    return { ...source, findings: source.findings.filter(({ code }) => code !== 'still-writing') };
  }

  /** Whether nobody changed a source since Shale finished writing into its folder. */
  private isOurs(folder: string, { modified }: Source): boolean {
    const finished = this.ours.get(folder);
    return finished !== undefined && modified <= finished;
  }

  private lookAgain(folder: string, delay: number): void {
    clearTimeout(this.again.get(folder));
    this.again.set(
      folder,
      setTimeout(
        () => {
          this.again.delete(folder);
          this.rescan(folder);
        },
        Math.max(500, delay),
      ),
    );
  }

  private step(progress: { folder: string; done: number; total: number; files?: number }): void {
    this.progress = { ...progress, files: progress.files ?? this.progress?.files ?? 0 };
    if (Date.now() - this.told < tellEvery) return;
    this.told = Date.now();
    this.tell();
  }

  /** Sources of the folder in work that were told of before its last part. */
  private readonly parts: Source[] = [];
  private toldSources = 0;
  private tellSources(now: boolean): void {
    if (!now && Date.now() - this.toldSources < tellEvery) return;
    this.toldSources = Date.now();
    this.ground.send({ type: 'sources', root: this.id });
  }
}

/** Milliseconds since the latest change of any of the sources, up to the quiet time. */
const sinceLast = (sources: Source[], quiet: number): number =>
  Math.max(0, Math.min(quiet, Date.now() - Math.max(...sources.map(({ modified }) => modified))));

/** While the demo is drawn, a folder beside it holds what is not whole (demo/draw.ts). */
const beingDrawn: Problem = {
  code: 'being-drawn',
  fact: 'The demo footage is being drawn.',
  wayOut: 'Its sources appear one by one within a minute or two.',
};

const notWatched = (path: string): Problem => ({
  code: 'not-watched',
  fact: `Not every folder of ${path} can be watched for changes.`,
  wayOut: 'Press "Scan again" after changes; raise fs.inotify.max_user_watches to watch more folders.',
});

/** What is told once a source that was being written has come to rest. */
function settled(root: string, id: string, source: Source): ServerEvent {
  const missing = coverageCount(gapsIn(source.coverage));
  const faults = source.findings.filter(({ severity }) => severity === 'fault');
  const count = source.kind === 'sequence' ? `${coverageCount(source.coverage)} frames` : source.kind;
  const whole = faults.length === 0;
  const sentence = whole
    ? `${source.name} is complete: ${count}, nothing missing, every file complete.`
    : `${source.name} is finished but incomplete: ${missing > 0 ? `${missing} missing` : faults[0]!.short.toLowerCase()}.`;
  return { type: 'settled', root, source: id, name: source.name, whole, sentence };
}
