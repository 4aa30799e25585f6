/**
 * Brings samples to whole numbers of so many bits. With dither the rounding is hidden under noise of a triangular density, two steps wide, that does
 * not depend on the sound (Lipshitz, Wannamaker, Vanderkooy: Quantization and dither, 1992). The noise is the same every time.
 */
export class Quantiser {
  /** Samples beyond full scale, which were held there. */
  clipped = 0;
  private state = 0x9e3779b9;

  constructor(
    private readonly bits: 16 | 24,
    private readonly dithers: boolean,
  ) {}

  /** A number in -0.5 to 0.5, evenly (Marsaglia: Xorshift RNGs, 2003). */
  private noise(): number {
    let { state } = this;
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    this.state = state;
    return state / 2 ** 32;
  }

  /**
   * @param samples 1 for full scale
   * @returns 16 bits each; or 24 in the upper ones of 32
   */
  put(samples: Float64Array): Int16Array<ArrayBuffer> | Int32Array<ArrayBuffer> {
    const { bits, dithers } = this;
    const full = 2 ** (bits - 1);
    const out = bits === 16 ? new Int16Array(samples.length) : new Int32Array(samples.length);
    const raise = bits === 16 ? 1 : 256;
    for (let at = 0; at < samples.length; at += 1) {
      const exact = samples[at]! * full;
      let value = Math.round(dithers ? exact + this.noise() + this.noise() : exact);
      if (value > full - 1) {
        value = full - 1;
        this.clipped += 1;
      } else if (value < -full) {
        value = -full;
        this.clipped += 1;
      }
      out[at] = value * raise;
    }
    return out;
  }
}
