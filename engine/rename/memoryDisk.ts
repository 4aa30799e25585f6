import { dirname } from 'node:path';
import { StepFailed, type Disk } from '../disk/disk.ts';
import { Died } from './carry.ts';

interface Node {
  who: string;
  holds: string;
}

/** A disk in memory for tests: it can die at any step, in the middle of many names or of a line that is written. */
export class MemoryDisk implements Disk {
  readonly files = new Map<string, Node>();
  readonly folders = new Set<string>(['/']);
  readonly texts = new Map<string, string>();
  private next = 1;
  steps = 0;

  /** @param device what a path lies on */
  constructor(
    private readonly device: (path: string) => number = () => 1,
    /** The step at which it dies; none by default. */
    public dies = Infinity,
  ) {}

  put(path: string, holds: string): void {
    for (let at = dirname(path); at !== '/'; at = dirname(at)) this.folders.add(at);
    this.files.set(path, { who: this.fresh(path, holds), holds });
  }

  /** Every file with what it holds, and every folder. */
  tree(): string[] {
    return [
      ...[...this.files].map(([path, { holds }]) => `${path}=${holds}`),
      ...[...this.folders].map((path) => `${path}/`),
    ].sort();
  }

  private fresh(path: string, holds: string): string {
    this.next += 1;
    return `${this.device(path)}:${this.next}:${holds.length}:${this.next}`;
  }

  private step(): void {
    this.steps += 1;
    if (this.steps >= this.dies) throw new Died();
  }

  private refuse(code: string): never {
    throw Object.assign(new Error(code), { code });
  }

  async identify(paths: readonly string[]): Promise<string[]> {
    this.step();
    return paths.map(
      (path) => this.files.get(path)?.who ?? (this.folders.has(path) ? `${this.device(path)}:0:0:0:other` : ''),
    );
  }

  async renameAll(from: readonly string[], to: readonly string[]): Promise<void> {
    for (let at = 0; at < from.length; at += 1) {
      this.step();
      const node = this.files.get(from[at]!);
      const code = !node
        ? 'ENOENT'
        : this.files.has(to[at]!)
          ? 'EEXIST'
          : this.folders.has(dirname(to[at]!))
            ? ''
            : 'ENOENT';
      if (code !== '' || !node) throw new StepFailed(at, code, code);
      this.files.delete(from[at]!);
      this.files.set(to[at]!, node);
    }
  }

  async link(from: string, to: string): Promise<void> {
    this.step();
    if (this.files.has(to)) this.refuse('EEXIST');
    this.files.set(to, this.files.get(from) ?? this.refuse('ENOENT'));
  }

  async copy(from: string, to: string): Promise<void> {
    this.step();
    const { holds } = this.files.get(from) ?? this.refuse('ENOENT');
    if (this.files.has(to)) this.refuse('EEXIST');
    this.files.set(to, { who: this.fresh(to, holds), holds });
  }

  async same(one: string, other: string): Promise<boolean> {
    this.step();
    return this.files.get(one)?.holds === this.files.get(other)?.holds;
  }

  async remove(path: string): Promise<void> {
    this.step();
    if (!this.files.delete(path)) this.refuse('ENOENT');
  }

  async makeFolder(path: string): Promise<void> {
    this.step();
    if (this.folders.has(path)) this.refuse('EEXIST');
    this.folders.add(path);
  }

  async removeFolder(path: string): Promise<void> {
    this.step();
    const inside = [...this.files.keys(), ...this.folders].some((one) => one.startsWith(`${path}/`));
    if (!inside) this.folders.delete(path);
  }

  async flushFolder(): Promise<void> {
    this.step();
  }

  async append(path: string, text: string): Promise<void> {
    const held = this.texts.get(path) ?? '';
    // Cut off in the middle of what is written: half of it is there.
    if (this.steps + 1 >= this.dies && this.steps < this.dies)
      this.texts.set(path, held + text.slice(0, text.length >> 1));
    this.step();
    this.texts.set(path, held + text);
  }

  async read(path: string): Promise<string> {
    return this.texts.get(path) ?? '';
  }

  async list(path: string): Promise<string[]> {
    return [...this.texts.keys()].filter((one) => dirname(one) === path).map((one) => one.slice(path.length + 1));
  }

  /** A disk after a restart: the same files, alive again. */
  revive(dies = Infinity): void {
    this.steps = 0;
    this.dies = dies;
  }
}
