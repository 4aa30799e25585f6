import type { Frame } from 'node-av';
import {
  AV_BUFFERSRC_FLAG_KEEP_REF,
  AVERROR_EAGAIN,
  AVERROR_EOF,
  Filter,
  FilterGraph,
  type FilterContext,
} from 'node-av';
import { check } from './libav.ts';

/** A filter of the library and its options, as `['zscale', 'matrix=gbr']`. */
export type FilterStep = readonly [name: string, options?: string];

/** A chain of the library's filters: frames in, frames out. */
export class Chain {
  private constructor(
    private readonly graph: FilterGraph,
    private readonly source: FilterContext,
    private readonly sink: FilterContext,
  ) {}

  /** @param input the options of the library's `buffer` or `abuffer`: what comes in */
  static async make(
    input: string,
    steps: readonly FilterStep[],
    of: 'pictures' | 'sound' = 'pictures',
  ): Promise<Chain> {
    const graph = new FilterGraph();
    graph.alloc();
    graph.nbThreads = 1;
    try {
      const add = (name: string, as: string, options?: string): FilterContext => {
        const filter = Filter.getByName(name);
        const made = filter && graph.createFilter(filter, as, options);
        if (!made) throw new Error(`the filter ${name} cannot be made with ${options ?? 'no options'}`);
        return made;
      };
      const source = add(of === 'sound' ? 'abuffer' : 'buffer', 'in', input);
      const sink = add(of === 'sound' ? 'abuffersink' : 'buffersink', 'out');
      let last = source;
      steps.forEach(([name, options], at) => {
        const next = add(name, `${name}${at}`, options);
        check(last.link(0, next, 0), 'joining filters');
        last = next;
      });
      check(last.link(0, sink, 0), 'joining filters');
      check(await graph.config(), 'setting filters up');
      return new Chain(graph, source, sink);
    } catch (error) {
      graph.free();
      throw error;
    }
  }

  /** Gives a frame in, or the end; the caller keeps the frame. */
  async put(frame: Frame | null): Promise<void> {
    const code = await this.source.buffersrcAddFrame(frame, AV_BUFFERSRC_FLAG_KEEP_REF);
    // Filters that have all they want take no more.
    if (code !== AVERROR_EOF) check(code, 'filtering');
  }

  /** Takes the next frame out into `frame`; false where there is none yet, or none any more. */
  async take(frame: Frame): Promise<boolean> {
    const code = await this.sink.buffersinkGetFrame(frame);
    if (code === AVERROR_EAGAIN || code === AVERROR_EOF) return false;
    check(code, 'filtering');
    return true;
  }

  /** {@link put} without leaving the thread: for sounds, whose frames take less time than a thread takes to answer. */
  putNow(frame: Frame | null): void {
    const code = this.source.buffersrcAddFrameSync(frame, AV_BUFFERSRC_FLAG_KEEP_REF);
    if (code !== AVERROR_EOF) check(code, 'filtering');
  }

  /** {@link take} in the same way. */
  takeNow(frame: Frame): boolean {
    const code = this.sink.buffersinkGetFrameSync(frame);
    if (code === AVERROR_EAGAIN || code === AVERROR_EOF) return false;
    check(code, 'filtering');
    return true;
  }

  free(): void {
    this.graph.free();
  }
}
