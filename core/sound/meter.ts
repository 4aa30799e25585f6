import {
  clippedRun,
  fullScale,
  mostListed,
  silentBelow,
  silentSeconds,
  type SoundFacts,
  type Stretch,
} from './facts.ts';

/** Coefficients of the interpolation by 4 of ITU-R BS.1770-4, Annex 2: 12 taps a phase. The third is the second backwards, the fourth the first. */
const phases = [
  [
    0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.1373291015625, 0.97216796875,
    -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125,
  ],
  [
    -0.0291748046875, 0.029296875, -0.0517578125, 0.089111328125, -0.16650390625, 0.465087890625, 0.77978515625,
    -0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375,
  ],
];
const { abs, max, min } = Math;
const taps = 12;
/** What an interpolated value may be at the most, against the largest of its samples. */
const most = Math.max(...phases.map((phase) => phase.reduce((sum, tap) => sum + Math.abs(tap), 0)));
/** The first two phases; the others are the same backwards. */
const [early, late] = phases.map((phase) => Float64Array.from(phase)) as [Float64Array, Float64Array];
/** Samples that are looked at together: where they are too small to make a larger value, none is worked out. */
const together = 32;

/** The largest value of one channel, at its samples and between them. */
class TruePeak {
  peak = 0;
  /** The largest sample of each {@link together} of what was added last. */
  largest = new Float64Array(0);
  private line = new Float64Array(taps - 1);
  /** The largest of what came before, as far as the taps reach back. */
  private carried = 0;

  /** @param data interleaved, of which every `channels`th is this one's from `channel` on */
  add(data: Float32Array | Float64Array, channels: number, channel: number): void {
    const count = data.length / channels;
    const blocks = Math.ceil(count / together);
    if (this.largest.length < blocks) this.largest = new Float64Array(blocks);
    const before = taps - 1;
    if (this.line.length < before + count) {
      const longer = new Float64Array(before + count);
      longer.set(this.line.subarray(0, before));
      this.line = longer;
    }
    const { line, largest } = this;
    for (let block = 0, at = 0, from = channel; block < blocks; block += 1) {
      const end = min(count, at + together);
      let most = 0;
      for (; at < end; at += 1, from += channels) {
        const value = data[from]!;
        line[before + at] = value;
        const size = value < 0 ? -value : value;
        if (size > most) most = size;
      }
      largest[block] = most;
    }
    for (let block = 0; block < blocks; block += 1) {
      const at = block * together;
      // The taps of a block reach into the one before it.
      this.look(at, min(count, at + together), max(largest[block]!, block > 0 ? largest[block - 1]! : this.carried));
    }
    // A piece that is shorter than the taps leaves some of what was before it in reach.
    let carried = count < before ? this.carried : 0;
    for (let block = max(0, blocks - 2); block < blocks; block += 1) carried = max(carried, largest[block]!);
    this.carried = carried;
    line.copyWithin(0, count, count + before);
  }

  /** @param largest nothing within reach is larger */
  private look(from: number, to: number, largest: number): void {
    const { line } = this;
    if (largest * most <= this.peak) return;
    let peak = max(this.peak, largest);
    // Written out: a loop over the taps takes several times as long.
    const e0 = early[0]!;
    const e1 = early[1]!;
    const e2 = early[2]!;
    const e3 = early[3]!;
    const e4 = early[4]!;
    const e5 = early[5]!;
    const e6 = early[6]!;
    const e7 = early[7]!;
    const e8 = early[8]!;
    const e9 = early[9]!;
    const e10 = early[10]!;
    const e11 = early[11]!;
    const l0 = late[0]!;
    const l1 = late[1]!;
    const l2 = late[2]!;
    const l3 = late[3]!;
    const l4 = late[4]!;
    const l5 = late[5]!;
    const l6 = late[6]!;
    const l7 = late[7]!;
    const l8 = late[8]!;
    const l9 = late[9]!;
    const l10 = late[10]!;
    const l11 = late[11]!;
    for (let at = from; at < to; at += 1) {
      const v0 = line[at + 0]!;
      const v1 = line[at + 1]!;
      const v2 = line[at + 2]!;
      const v3 = line[at + 3]!;
      const v4 = line[at + 4]!;
      const v5 = line[at + 5]!;
      const v6 = line[at + 6]!;
      const v7 = line[at + 7]!;
      const v8 = line[at + 8]!;
      const v9 = line[at + 9]!;
      const v10 = line[at + 10]!;
      const v11 = line[at + 11]!;
      // prettier-ignore
      const first = e0 * v0 + e1 * v1 + e2 * v2 + e3 * v3 + e4 * v4 + e5 * v5 + e6 * v6 + e7 * v7 + e8 * v8 + e9 * v9 + e10 * v10 + e11 * v11;
      // prettier-ignore
      const second = l0 * v0 + l1 * v1 + l2 * v2 + l3 * v3 + l4 * v4 + l5 * v5 + l6 * v6 + l7 * v7 + l8 * v8 + l9 * v9 + l10 * v10 + l11 * v11;
      // prettier-ignore
      const third = l11 * v0 + l10 * v1 + l9 * v2 + l8 * v3 + l7 * v4 + l6 * v5 + l5 * v6 + l4 * v7 + l3 * v8 + l2 * v9 + l1 * v10 + l0 * v11;
      // prettier-ignore
      const fourth = e11 * v0 + e10 * v1 + e9 * v2 + e8 * v3 + e7 * v4 + e6 * v5 + e5 * v6 + e4 * v7 + e3 * v8 + e2 * v9 + e1 * v10 + e0 * v11;
      peak = max(peak, abs(first), abs(second), abs(third), abs(fourth));
    }
    this.peak = peak;
  }
}

/** Stretches as they are found one behind another: all counted, the first listed. */
class Stretches {
  count = 0;
  samples = 0;
  readonly listed: Stretch[] = [];

  add(from: number, to: number): void {
    this.count += 1;
    this.samples += to - from;
    if (this.listed.length < mostListed) this.listed.push({ from, to });
  }
}

/** The last moment of a stretch, counted from its first, at which a channel sounds. One does. */
function lastSound(data: Float32Array | Float64Array, from: number, to: number, channels: number): number {
  let at = to - 1;
  while (at > from && abs(data[at]!) < silentBelow) at -= 1;
  return Math.floor((at - from) / channels);
}

/** Measures a sound while it passes: peaks, where it sounds, where it is silent, where it is clipped. */
export class SoundMeter {
  private readonly peaks: Float64Array;
  private readonly between: TruePeak[];
  private readonly full: Int32Array;
  private readonly silences = new Stretches();
  private readonly clipped = new Stretches();
  private at = 0;
  private first = -1;
  private quietSince = 0;

  constructor(
    private readonly rate: number,
    private readonly channels: number,
  ) {
    this.peaks = new Float64Array(channels);
    this.full = new Int32Array(channels);
    this.between = Array.from({ length: channels }, () => new TruePeak());
  }

  /** @param data interleaved, 1 for full scale */
  add(data: Float32Array | Float64Array): void {
    const { channels, peaks, between } = this;
    between.forEach((one, channel) => one.add(data, channels, channel));
    const count = data.length / channels;
    const longest = silentSeconds * this.rate;
    for (let block = 0, from = 0; from < count; block += 1, from += together) {
      const to = min(count, from + together);
      let loudest = 0;
      for (let channel = 0; channel < channels; channel += 1) {
        const size = between[channel]!.largest[block]!;
        if (size > peaks[channel]!) peaks[channel] = size;
        if (size > loudest) loudest = size;
      }
      const isOrdinary = loudest < fullScale && !this.full.some((run) => run > 0);
      const isQuiet = loudest < silentBelow;
      if (!isOrdinary || (!isQuiet && (this.first < 0 || this.at + together - this.quietSince >= longest)))
        this.each(data.subarray(from * channels, to * channels));
      else {
        // Nothing is clipped, and no silence is long enough to end here: where the last sound was is all there is to know.
        if (!isQuiet) this.quietSince = this.at + lastSound(data, from * channels, to * channels, channels) + 1;
        this.at += to - from;
      }
    }
  }

  /** Looks at every sample. */
  private each(data: Float32Array | Float64Array): void {
    const { channels, full } = this;
    for (let at = 0; at < data.length; at += channels) {
      let loudest = 0;
      for (let channel = 0; channel < channels; channel += 1) {
        const value = data[at + channel]!;
        const size = abs(value);
        if (size > loudest) loudest = size;
        if (size >= fullScale) full[channel]! += 1;
        else if (full[channel] !== 0) this.endRun(channel);
      }
      if (loudest >= silentBelow) {
        if (this.first < 0) this.first = this.at;
        if (this.quietSince < this.at) this.endSilence(this.at);
        this.quietSince = this.at + 1;
      }
      this.at += 1;
    }
  }

  private endSilence(to: number): void {
    if (to - this.quietSince >= silentSeconds * this.rate) this.silences.add(this.quietSince, to);
  }

  private endRun(channel: number): void {
    const length = this.full[channel]!;
    if (length >= clippedRun) this.clipped.add(this.at - length, this.at);
    this.full[channel] = 0;
  }

  /** What it has measured once all has passed. */
  end(): Pick<SoundFacts, 'samples' | 'peaks' | 'truePeaks' | 'sounds' | 'silences' | 'clipped'> {
    for (let channel = 0; channel < this.channels; channel += 1) this.endRun(channel);
    // What the last samples still make between them and the silence behind.
    for (const one of this.between) one.add(new Float32Array(taps), 1, 0);
    const to = this.quietSince;
    this.endSilence(this.at);
    const { silences, clipped } = this;
    return {
      samples: this.at,
      peaks: [...this.peaks],
      truePeaks: this.between.map(({ peak }) => peak),
      sounds: this.first < 0 ? null : { from: this.first, to },
      silences: { count: silences.count, listed: silences.listed },
      clipped: { count: clipped.count, samples: clipped.samples, listed: clipped.listed },
    };
  }
}
