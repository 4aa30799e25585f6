import type { Picture } from './picture.ts';

/** A square of thresholds between 0 and 1, repeated over the picture. */
export interface Thresholds {
  /** A power of two. */
  side: number;
  values: Float64Array;
}

/** Ranks 0 to side * side - 1 as thresholds in the middle of their steps. */
const fromRanks = (side: number, ranks: ArrayLike<number>): Thresholds => ({
  side,
  values: Float64Array.from({ length: side * side }, (_, at) => (ranks[at]! + 0.5) / (side * side)),
});

/** The recursive matrix of 8 x 8 (Bayer, "An optimum method for two-level rendition of continuous-tone pictures", 1973). */
export function orderedThresholds(): Thresholds {
  let ranks = [0];
  let side = 1;
  while (side < 8) {
    const next = new Array<number>(side * side * 4);
    for (let y = 0; y < side * 2; y += 1) {
      for (let x = 0; x < side * 2; x += 1) {
        const offset = [0, 2, 3, 1][(y >= side ? 2 : 0) + (x >= side ? 1 : 0)]!;
        next[y * side * 2 + x] = ranks[(y % side) * side + (x % side)]! * 4 + offset;
      }
    }
    ranks = next;
    side *= 2;
  }
  return fromRanks(side, ranks);
}

/** Random numbers from 0 to 1 that are the same every time. */
function seeded(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return state / 2 ** 32;
  };
}

/** Points on a torus and how crowded each place is by them. */
class Crowd {
  readonly on: Uint8Array;
  private readonly energy: Float64Array;
  private readonly falloff: Float64Array;

  constructor(private readonly side: number) {
    this.on = new Uint8Array(side * side);
    this.energy = new Float64Array(side * side);
    // A Gaussian of sigma 1.5, as the method's author found best.
    this.falloff = Float64Array.from({ length: side * side }, (_, at) => {
      const x = Math.min(at % side, side - (at % side));
      const down = Math.floor(at / side);
      const y = Math.min(down, side - down);
      return Math.exp(-(x * x + y * y) / (2 * 1.5 * 1.5));
    });
  }

  put(place: number, on: 0 | 1): void {
    const { side, energy, falloff } = this;
    this.on[place] = on;
    const sign = on ? 1 : -1;
    const [px, py] = [place % side, Math.floor(place / side)];
    for (let y = 0, at = 0; y < side; y += 1) {
      const row = ((y - py + side) % side) * side;
      for (let x = 0; x < side; x += 1, at += 1) energy[at]! += sign * falloff[row + ((x - px + side) % side)]!;
    }
  }

  /** The most crowded point, or the emptiest place without one. */
  extreme(of: 'cluster' | 'void'): number {
    let best = -1;
    for (let at = 0; at < this.on.length; at += 1) {
      if ((this.on[at] === 1) !== (of === 'cluster')) continue;
      if (
        best < 0 ||
        (of === 'cluster' ? this.energy[at]! > this.energy[best]! : this.energy[at]! < this.energy[best]!)
      )
        best = at;
    }
    return best;
  }
}

let noise: Thresholds | undefined;

/** Blue noise of 64 x 64 by void and cluster (Ulichney, "The void-and-cluster method for dither array generation", 1993). */
export function blueNoiseThresholds(): Thresholds {
  if (noise) return noise;
  const side = 64;
  const count = side * side;
  const random = seeded(1879);
  const crowd = new Crowd(side);
  const first = Math.floor(count / 10);
  for (let put = 0; put < first;) {
    const place = Math.floor(random() * count);
    if (crowd.on[place]) continue;
    crowd.put(place, 1);
    put += 1;
  }
  for (;;) {
    const cluster = crowd.extreme('cluster');
    crowd.put(cluster, 0);
    const empty = crowd.extreme('void');
    crowd.put(empty, 1);
    if (empty === cluster) break;
  }
  const ranks = new Int32Array(count);
  const start = crowd.on.slice();
  for (let rank = first - 1; rank >= 0; rank -= 1) {
    const cluster = crowd.extreme('cluster');
    crowd.put(cluster, 0);
    ranks[cluster] = rank;
  }
  start.forEach((on, place) => on && crowd.put(place, 1));
  for (let rank = first; rank < count; rank += 1) {
    const empty = crowd.extreme('void');
    crowd.put(empty, 1);
    ranks[empty] = rank;
  }
  noise = fromRanks(side, ranks);
  return noise;
}

/** Rounds values, in codes, to whole ones so that their mean over an area is kept. Called for the pixels in order. */
export interface Ditherer {
  /** @param value in codes, 0 to the greatest */
  (value: number, channel: number, x: number, y: number): number;
}

/** A value as near to a code as float arithmetic moves it is that code: what has the codes already is left alone. */
function snapper(max: number): (value: number) => number {
  const near = Math.max(1 / 2048, max / 65_535 / 64);
  return (value) => {
    const whole = Math.floor(value + 0.5);
    return Math.abs(value - whole) < near ? whole : value;
  };
}

function byThresholds({ side, values }: Thresholds, max: number): Ditherer {
  const mask = side - 1;
  const snapped = snapper(max);
  return (value, _channel, x, y) => Math.floor(snapped(value) + values[(y & mask) * side + (x & mask)]!);
}

/** Weights 7, 3, 5 and 1 of 16 (Floyd and Steinberg, "An adaptive algorithm for spatial grey scale", 1976), rows all from the left. */
function byDiffusion(width: number, max: number): Ditherer {
  const channels = 3;
  const snapped = snapper(max);
  // One column of room on both sides.
  let here = new Float64Array((width + 2) * channels);
  let below = new Float64Array((width + 2) * channels);
  let row = 0;
  return (value, channel, x, y) => {
    if (y !== row) {
      [here, below] = [below, here];
      below.fill(0);
      row = y;
    }
    const at = (x + 1) * channels + channel;
    const wanted = snapped(value) + here[at]!;
    const code = Math.min(max, Math.max(0, Math.floor(wanted + 0.5)));
    const error = wanted - code;
    here[at + channels]! += (error * 7) / 16;
    below[at - channels]! += (error * 3) / 16;
    below[at]! += (error * 5) / 16;
    below[at + channels]! += error / 16;
    return code;
  };
}

/** The ditherer for one picture; the same picture always gives the same codes. @param max the greatest code */
export function dithererOf(kind: Exclude<Picture['dither'], 'none'>, width: number, max: number): Ditherer {
  if (kind === 'diffusion') return byDiffusion(width, max);
  return byThresholds(kind === 'ordered' ? orderedThresholds() : blueNoiseThresholds(), max);
}
