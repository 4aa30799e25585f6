import { watch, type FSWatcher } from 'node:fs';
import { join } from 'node:path';

/** Folders of one root that are watched at the most: each takes a handle of the system. */
const mostFolders = 4000;
/** A folder is told of so long after its last change, and no later than so long after its first, in milliseconds. */
const settle = 400;
const patience = 2000;

/** Watches folders for changes and tells of each once it has calmed down for a moment. */
export class Watch {
  private readonly watched = new Map<string, FSWatcher>();
  private readonly waiting = new Map<string, { timer: NodeJS.Timeout; since: number }>();
  /** Set where not every folder can be watched. */
  incomplete = false;

  /** @param onChange told the folder, below the root */
  constructor(
    private readonly root: string,
    private readonly onChange: (folder: string) => void,
  ) {}

  /** Watches a folder from now on, if it is not watched yet. */
  add(folder: string): void {
    if (this.watched.has(folder) || process.env.SHALE_WATCH === '0') return;
    if (this.watched.size >= mostFolders) {
      this.incomplete = true;
      return;
    }
    try {
      const watcher = watch(join(this.root, folder), (_event, name) => {
        // What Shale itself writes under temporary names is nobody's news.
        if (typeof name !== 'string' || !name.startsWith('.shale-')) this.stir(folder);
      });
      watcher.on('error', () => this.remove(folder));
      this.watched.set(folder, watcher);
    } catch (error) {
      // A folder that went away needs none; where the system has no handle left, it is scanned by hand.
      if ((error as NodeJS.ErrnoException).code !== 'ENOENT') this.incomplete = true;
    }
  }

  /** Watches exactly these folders. */
  keepOnly(folders: ReadonlySet<string>): void {
    for (const folder of [...this.watched.keys()]) if (!folders.has(folder)) this.remove(folder);
  }

  remove(folder: string): void {
    this.watched.get(folder)?.close();
    this.watched.delete(folder);
  }

  close(): void {
    for (const { timer } of this.waiting.values()) clearTimeout(timer);
    this.waiting.clear();
    for (const folder of [...this.watched.keys()]) this.remove(folder);
  }

  private stir(folder: string): void {
    const now = Date.now();
    const open = this.waiting.get(folder);
    if (open) clearTimeout(open.timer);
    const since = open?.since ?? now;
    const timer = setTimeout(
      () => {
        this.waiting.delete(folder);
        this.onChange(folder);
      },
      Math.max(0, Math.min(settle, since + patience - now)),
    );
    this.waiting.set(folder, { timer, since });
  }
}
