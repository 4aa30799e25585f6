import { avGetPixFmtName, Frame, type AVPixelFormat } from 'node-av';
import { picturesAfter, type Fields } from '@shale/core';
import { Chain, type FilterStep } from './graph.ts';

/** Filters by what is wanted, and how many pictures come out for how many that go in. */
interface Work {
  steps: FilterStep[];
  out: number;
  per: number;
  /** Stored pictures that go in before those of the one asked for. */
  before: number;
}

const works: Record<Exclude<Fields, 'keep'>, Work> = {
  deinterlace: { steps: [['bwdif', 'mode=send_frame:deint=all']], out: 1, per: 1, before: 2 },
  'each-field': { steps: [['bwdif', 'mode=send_field:deint=all']], out: 2, per: 1, before: 2 },
  // Two cycles before: the first of a chain has nothing to be compared with.
  'remove-pulldown': {
    steps: [
      ['fieldmatch', 'combmatch=full'],
      ['decimate', 'cycle=5'],
    ],
    out: 4,
    per: 5,
    before: 10,
  },
};

/**
 * Pictures made of the fields of several stored ones. Whichever is asked for, the filters begin the same distance before it, so that
 * a picture is the same in a run from the beginning and by itself.
 */
export class FieldWork {
  private chain: Chain | undefined;
  private readonly frame = new Frame();
  /** The next stored picture to go in, and the next that comes out. */
  private in = 0;
  private out = 0;
  private ended = false;
  private readonly work: Work;
  private readonly count: number;

  constructor(
    fields: Exclude<Fields, 'keep'>,
    private readonly stored: number,
    private readonly decode: (number: number) => Promise<Frame>,
  ) {
    this.work = works[fields];
    this.count = picturesAfter(stored, fields);
    this.frame.alloc();
  }

  /** The picture of a number in display order, valid until the next is asked for. */
  async picture(number: number): Promise<Frame> {
    const { out, per } = this.work;
    const ahead = number - this.out;
    if (!this.chain || ahead < 0 || ahead > 4 * out) await this.beginBefore(number);
    for (;;) {
      this.frame.unref();
      if (await this.chain!.take(this.frame)) {
        this.out += 1;
        if (this.out - 1 === number) return this.frame;
        continue;
      }
      if (this.ended) throw new Error(`its fields give no picture (${this.out} of ${this.count} came)`);
      if (this.in < this.stored) {
        const frame = await this.decode(this.in);
        // Filters go by times: one a stored picture, so that nothing is dropped or doubled by them.
        frame.pts = BigInt(this.in * per);
        frame.duration = BigInt(per);
        await this.chain!.put(frame);
        this.in += 1;
      } else {
        this.ended = true;
        await this.chain!.put(null);
      }
    }
  }

  private async beginBefore(number: number): Promise<void> {
    const { out, per, before, steps } = this.work;
    const group = Math.floor(number / out);
    this.in = Math.max(0, group * per - before);
    this.out = (this.in / per) * out;
    this.ended = false;
    this.chain?.free();
    const frame = await this.decode(this.in);
    const pixels = avGetPixFmtName(frame.format as AVPixelFormat)!;
    // Ticks as many a picture as `per`: twice the rate is still whole.
    this.chain = await Chain.make(
      `width=${frame.width}:height=${frame.height}:pix_fmt=${pixels}:time_base=1/${25 * per}:pixel_aspect=1/1:frame_rate=25/1`,
      steps,
    );
  }

  free(): void {
    this.chain?.free();
    this.frame.free();
  }
}
