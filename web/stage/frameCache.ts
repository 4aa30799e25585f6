/** What is known of a frame's picture. */
export type Held = { state: 'loading' } | { state: 'ready'; picture: ImageBitmap } | { state: 'failed'; words: string };

/** Pictures fetched at once: the server makes two at a time, the rest are on their way. */
const together = 4;

/** Bytes of pictures that are kept in memory. */
const bound = 480 * 2 ** 20;

/** Pictures of one source at one size, fetched on demand, the nearest wanted first, the longest unused dropped. */
export class FrameCache {
  private readonly held = new Map<number, Held>();
  private wanted: number[] = [];
  private readonly running = new Map<number, AbortController>();
  private closed = true;

  constructor(
    private readonly urlOf: (frame: number) => string,
    private readonly onChange: () => void,
  ) {}

  open(): void {
    this.closed = false;
    this.pump();
  }

  get(frame: number): Held | undefined {
    return this.held.get(frame);
  }

  /** Says which frames are needed, the most urgent first; what is no longer in the list is not fetched. */
  want(frames: number[]): void {
    this.wanted = frames;
    for (const [frame, controller] of this.running) if (!frames.includes(frame)) controller.abort();
    this.pump();
  }

  /** How many of these frames can be shown at once. */
  settledOf(frames: number[]): number {
    return frames.filter((frame) => (this.held.get(frame)?.state ?? 'loading') !== 'loading').length;
  }

  close(): void {
    this.closed = true;
    for (const controller of this.running.values()) controller.abort();
    for (const one of this.held.values()) if (one.state === 'ready') one.picture.close();
    this.held.clear();
  }

  private pump(): void {
    for (const frame of this.wanted) {
      if (this.closed || this.running.size >= together) return;
      if (this.held.has(frame) || this.running.has(frame)) continue;
      const controller = new AbortController();
      this.running.set(frame, controller);
      this.held.set(frame, { state: 'loading' });
      void this.fetch(frame, controller.signal).then((held) => {
        this.running.delete(frame);
        if (this.closed) {
          if (held?.state === 'ready') held.picture.close();
          return;
        }
        if (held) this.held.set(frame, held);
        else this.held.delete(frame);
        this.evict();
        this.onChange();
        this.pump();
      });
    }
  }

  private async fetch(frame: number, signal: AbortSignal): Promise<Held | undefined> {
    try {
      const response = await fetch(this.urlOf(frame), { signal });
      if (!response.ok) {
        const problem = (await response.json()) as { fact?: string };
        return { state: 'failed', words: problem.fact ?? 'The server gave no picture.' };
      }
      const picture = await createImageBitmap(await response.blob(), { premultiplyAlpha: 'none' });
      return { state: 'ready', picture };
    } catch {
      if (!signal.aborted) await new Promise((done) => setTimeout(done, 1000));
      // Not there for now: fetched again while it is wanted.
      return undefined;
    }
  }

  private evict(): void {
    let bytes = 0;
    for (const one of this.held.values())
      if (one.state === 'ready') bytes += one.picture.width * one.picture.height * 4;
    for (const [frame, one] of this.held) {
      if (bytes <= bound) return;
      if (one.state !== 'ready' || this.wanted.slice(0, 32).includes(frame)) continue;
      bytes -= one.picture.width * one.picture.height * 4;
      one.picture.close();
      this.held.delete(frame);
    }
  }
}
