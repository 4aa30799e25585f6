import { halfTable, numberToHalf } from './half.ts';
import { hasAlphaChannel, isFloat, makeSamples, type Image } from './image.ts';

/**
 * A picture between two of the same size, channels and samples, as they are stored: `a` at share 0, `b` at share 1, each sample the
 * nearest to `a + (b - a) * share`. Colours with straight alpha are weighed by it, as light through both at once would be.
 * @param share 0 to 1
 * @param straight whether colours are not multiplied by alpha
 */
export function blendPictures(a: Image, b: Image, share: number, straight: boolean): Image {
  const { width, height, channels, sample } = a;
  const data = makeSamples(sample, a.data.length);
  const table = sample === 'f16' ? halfTable() : undefined;
  const read = (samples: Image['data'], at: number): number => (table ? table[samples[at]!]! : samples[at]!);
  const whole = !isFloat(sample);
  const store = (value: number): number => (whole ? Math.round(value) : table ? numberToHalf(value) : value);
  const weighs = straight && hasAlphaChannel(a);
  const alpha = channels - 1;
  for (let pixel = 0; pixel < data.length; pixel += channels) {
    let [mine, theirs] = [1 - share, share];
    let colours = channels as number;
    if (weighs) {
      const [first, second] = [read(a.data, pixel + alpha) * mine, read(b.data, pixel + alpha) * theirs];
      const sum = first + second;
      data[pixel + alpha] = store(sum);
      // Where both are clear colours have no weight: they are mixed as they are.
      if (sum > 0) [mine, theirs] = [first / sum, second / sum];
      colours = alpha;
    }
    for (let at = pixel; at < pixel + colours; at += 1)
      data[at] = store(read(a.data, at) * mine + read(b.data, at) * theirs);
  }
  return { width, height, channels, sample, data };
}

/** A picture with the even rows of one, counted from 0, and the odd rows of another. */
export function weavePictures(even: Image, odd: Image): Image {
  const { width, height, channels, sample } = even;
  const data = even.data.slice();
  const row = width * channels;
  for (let y = 1; y < height; y += 2) data.set(odd.data.subarray(y * row, (y + 1) * row), y * row);
  return { width, height, channels, sample, data };
}

/** Whether two pictures can be mixed sample by sample. */
export const areAlike = (a: Image, b: Image): boolean =>
  a.width === b.width && a.height === b.height && a.channels === b.channels && a.sample === b.sample;
