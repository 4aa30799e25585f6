/** What is known of a picture. `since` is when it was first asked for, as `performance.now()` has it. */
export type Held =
  | { state: 'loading'; since: number }
  | { state: 'ready'; picture: ImageBitmap }
  | { state: 'failed'; words: string }
  | { state: 'lost'; words: string };

/** Why the server gave no picture. */
export class Refused extends Error {
  constructor(
    message: string,
    /** Whether asking again may help: the server is starting, a process of it ended. */
    readonly passing: boolean,
  ) {
    super(message);
  }
}

/** How pictures are come by. `T` is what is kept of one before it is decoded. */
export interface Source<T> {
  load(key: number, signal: AbortSignal): Promise<T>;
  sizeOf(loaded: T): number;
}

/** Makes a picture of what was loaded. */
export type Decode<T> = (loaded: T, key: number) => Promise<ImageBitmap>;

/** Pictures loaded at once: the server makes two at a time, the rest are on their way. */
const loadTogether = 4;
const decodeTogether = 3;
/** Of the wanted ones, how many are kept decoded. */
const decodeAhead = 16;

/** Bytes that are kept, loaded and decoded. */
const loadedBound = 320 * 2 ** 20;
const shownBound = 256 * 2 ** 20;

/** How long after a failed answer it is asked again, in milliseconds. */
const again = 1000;

interface Shown {
  picture: ImageBitmap;
  /** Which way of decoding made it. */
  made: number;
}

/** Pictures by number, loaded on demand, the nearest wanted first, decoded shortly before they are shown; the longest unused go first. */
export class PictureCache<T> {
  private readonly loaded = new Map<number, T>();
  private readonly shown = new Map<number, Shown>();
  private readonly failed = new Map<number, string>();
  private readonly lost = new Set<number>();
  private readonly asked = new Map<number, number>();
  private readonly loading = new Map<number, AbortController>();
  private readonly decoding = new Map<number, number>();
  private wanted: readonly number[] = [];
  private firstAlone = false;
  private made = 0;
  private closed = true;

  constructor(
    private readonly source: Source<T>,
    private decode: Decode<T>,
    private readonly onChange: () => void,
  ) {}

  open(): void {
    this.closed = false;
    this.pump();
  }

  close(): void {
    this.closed = true;
    for (const controller of this.loading.values()) controller.abort();
    for (const { picture } of this.shown.values()) picture.close();
    for (const map of [this.shown, this.loaded, this.failed, this.asked, this.lost]) map.clear();
  }

  /** Makes pictures another way from now on; those that are shown stay until the new ones are there. */
  decodeBy(decode: Decode<T>): void {
    this.decode = decode;
    this.made += 1;
    this.pump();
  }

  get(key: number): Held {
    const shown = this.shown.get(key);
    if (shown) return { state: 'ready', picture: shown.picture };
    const words = this.failed.get(key);
    if (words !== undefined) return { state: 'failed', words };
    if (this.lost.has(key)) return { state: 'lost', words: 'No answer from the server; it is asked again' };
    return { state: 'loading', since: this.asked.get(key) ?? performance.now() };
  }

  /** What was loaded of a picture, decoded or not. */
  loadedOf(key: number): T | undefined {
    return this.loaded.get(key);
  }

  /**
   * Says which are needed, the most urgent first; what is no longer in the list is not loaded.
   * @param firstAlone whether the others wait until the first is here: nothing is to take its time
   */
  want(keys: readonly number[], firstAlone = false): void {
    this.wanted = keys;
    this.firstAlone = firstAlone;
    const still = new Set(keys);
    for (const [key, controller] of this.loading) if (!still.has(key)) controller.abort();
    for (const key of this.asked.keys()) if (!still.has(key)) this.asked.delete(key);
    this.pump();
  }

  /** Whether there is nothing to wait for: it can be shown, or never will be. */
  isSettled(key: number): boolean {
    return this.shown.has(key) || this.failed.has(key);
  }

  /** How many of these are here, decoded or not. */
  hereOf(keys: readonly number[]): number {
    return keys.filter((key) => this.loaded.has(key) || this.failed.has(key)).length;
  }

  private pump(): void {
    if (this.closed) return;
    const [first] = this.wanted;
    const waits = this.firstAlone && first !== undefined && !this.loaded.has(first) && !this.failed.has(first);
    let bytes = 0;
    for (const key of waits ? [first] : this.wanted) {
      const here = this.loaded.get(key);
      if (here !== undefined) bytes += this.source.sizeOf(here);
      // What lies further ahead would only push out what comes sooner.
      if (this.loading.size >= loadTogether || bytes > loadedBound * 0.8) break;
      if (!this.loaded.has(key) && !this.failed.has(key) && !this.loading.has(key)) void this.load(key);
    }
    for (const key of this.wanted.slice(0, decodeAhead)) {
      if (this.decoding.size >= decodeTogether) break;
      const isNew = this.shown.get(key)?.made === this.made || this.decoding.get(key) === this.made;
      if (this.loaded.has(key) && !isNew) void this.show(key);
    }
  }

  private async load(key: number): Promise<void> {
    const controller = new AbortController();
    this.loading.set(key, controller);
    if (!this.asked.has(key)) this.asked.set(key, performance.now());
    try {
      const loaded = await this.source.load(key, controller.signal);
      if (this.closed) return;
      this.loaded.set(key, loaded);
      this.lost.delete(key);
      this.forgetLoaded();
    } catch (error) {
      if (this.closed) return;
      if (error instanceof Refused && !error.passing) this.failed.set(key, error.message);
      else if (!controller.signal.aborted) {
        this.lost.add(key);
        this.onChange();
        await new Promise((done) => setTimeout(done, again));
      }
    } finally {
      this.loading.delete(key);
    }
    if (this.closed) return;
    // What was loaded is told once it is decoded.
    if (this.failed.has(key)) this.onChange();
    this.pump();
  }

  private async show(key: number): Promise<void> {
    const { made } = this;
    this.decoding.set(key, made);
    // Used now: it goes last.
    const loaded = this.loaded.get(key)!;
    this.loaded.delete(key);
    this.loaded.set(key, loaded);
    try {
      const picture = await this.decode(loaded, key);
      if (this.closed) {
        picture.close();
        return;
      }
      this.shown.get(key)?.picture.close();
      this.shown.delete(key);
      this.shown.set(key, { picture, made });
      this.forgetShown();
    } catch {
      this.failed.set(key, 'The picture from the server cannot be shown');
    } finally {
      this.decoding.delete(key);
    }
    if (this.closed) return;
    this.onChange();
    this.pump();
  }

  /** Those of the wanted that there is room for, the most urgent first. */
  private nearest(): Set<number> {
    const kept = new Set<number>();
    let bytes = 0;
    for (const key of this.wanted) {
      const one = this.loaded.get(key);
      if (one === undefined) continue;
      bytes += this.source.sizeOf(one);
      if (bytes > loadedBound) break;
      kept.add(key);
    }
    return kept;
  }

  private forgetLoaded(): void {
    const kept = this.nearest();
    let bytes = 0;
    for (const one of this.loaded.values()) bytes += this.source.sizeOf(one);
    for (const [key, one] of this.loaded) {
      if (bytes <= loadedBound) return;
      if (kept.has(key)) continue;
      bytes -= this.source.sizeOf(one);
      this.loaded.delete(key);
    }
  }

  private forgetShown(): void {
    const kept = new Set(this.wanted.slice(0, decodeAhead));
    const sizeOf = ({ picture }: Shown) => picture.width * picture.height * 4;
    let bytes = 0;
    for (const one of this.shown.values()) bytes += sizeOf(one);
    for (const [key, one] of this.shown) {
      if (bytes <= shownBound) return;
      if (kept.has(key)) continue;
      bytes -= sizeOf(one);
      one.picture.close();
      this.shown.delete(key);
    }
  }
}
