/** What of each channel of a sound goes into each channel of a result: rows of the result, columns of the sound, 1 for all of it. */
export type Mix = number[][];

const half = Math.SQRT1_2;

/**
 * What of each channel goes to the left of two (ITU-R BS.775-4, Annex 4; the second pair behind as the first). Low frequencies are left out,
 * as there. By the order of WAV: left, right, centre, low, left and right back, left and right side.
 */
const toLeft: Record<number, number[]> = {
  6: [1, 0, half, 0, half, 0],
  8: [1, 0, half, 0, half, 0, half, 0],
};
const toRight: Record<number, number[]> = {
  6: [0, 1, half, 0, 0, half],
  8: [0, 1, half, 0, 0, half, 0, half],
};
/** The same for one. */
const toOne: Record<number, number[]> = {
  2: [half, half],
  6: [half, half, 1, 0, 0.5, 0.5],
  8: [half, half, 1, 0, 0.5, 0.5, 0.5, 0.5],
};

/** Lowered by as much as its loudest channel could exceed full scale. */
function unclipped(mix: Mix): Mix {
  const most = Math.max(1, ...mix.map((row) => row.reduce((sum, one) => sum + one, 0)));
  return mix.map((row) => row.map((one) => one / most));
}

/** Every channel as it is. */
export const keepMix = (channels: number): Mix =>
  Array.from({ length: channels }, (_, at) => Array.from({ length: channels }, (_, of) => (at === of ? 1 : 0)));

/**
 * How so many channels become one or two: undefined where nothing says where the channels belong.
 * A single one goes into both of two as it is.
 */
export function mixTo(channels: number, to: 'mono' | 'stereo'): Mix | undefined {
  if (to === 'mono') {
    if (channels === 1) return keepMix(1);
    const row = toOne[channels];
    return row && unclipped([row]);
  }
  if (channels === 1) return [[1], [1]];
  if (channels === 2) return keepMix(2);
  const left = toLeft[channels];
  return left && unclipped([left, toRight[channels]!]);
}

/** Whether a mix leaves every channel what it was. */
export const isKept = (mix: Mix): boolean =>
  mix.every((row, at) => row.length === mix.length && row.every((one, of) => one === (at === of ? 1 : 0)));

/**
 * Mixes interleaved samples. @param gain a factor over all
 * @returns as many samples of each of the mix's channels, interleaved
 */
export function mixed(samples: Float64Array, channels: number, mix: Mix, gain = 1): Float64Array {
  const count = samples.length / channels;
  const out = new Float64Array(count * mix.length);
  mix.forEach((row, to) => {
    row.forEach((part, from) => {
      if (part === 0) return;
      const factor = part * gain;
      for (let at = 0, into = to, of = from; at < count; at += 1, into += mix.length, of += channels)
        out[into]! += samples[of]! * factor;
    });
  });
  return out;
}
