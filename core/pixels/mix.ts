import { halfTable, numberToHalf } from './half.ts';
import { hasAlphaChannel, isFloat, makeSamples, type Image } from './image.ts';

/** A weight of a whole, as {@link blendPictures} takes it. */
const whole = 1024;

/**
 * A picture between two of the same size, channels and samples, as they are stored: `a` at weight 0, `b` at 1,024, each sample the nearest
 * to `a + (b - a) * weight / 1024`. Colours with straight alpha are weighed by it, as light through both at once would be.
 * @param weight whole, 0 to 1,024
 * @param straight whether colours are not multiplied by alpha
 */
export function blendPictures(a: Image, b: Image, weight: number, straight: boolean): Image {
  const { width, height, channels, sample } = a;
  const data = makeSamples(sample, a.data.length);
  if (straight && hasAlphaChannel(a)) blendWeighed(a, b, weight, data);
  else if (isFloat(sample)) blendFloats(a, b, weight, data);
  else {
    const [first, second, mine] = [a.data, b.data, whole - weight];
    // At most 65,535 x 1,024: whole 32-bit numbers throughout.
    for (let at = 0; at < data.length; at += 1) data[at] = (first[at]! * mine + second[at]! * weight + 512) >> 10;
  }
  return { width, height, channels, sample, data };
}

function blendFloats(a: Image, b: Image, weight: number, data: Image['data']): void {
  const [first, second, theirs] = [a.data, b.data, weight / whole];
  if (a.sample === 'f32') {
    for (let at = 0; at < data.length; at += 1) data[at] = first[at]! * (1 - theirs) + second[at]! * theirs;
    return;
  }
  const table = halfTable();
  for (let at = 0; at < data.length; at += 1)
    data[at] =
      first[at] === second[at]
        ? first[at]!
        : numberToHalf(table[first[at]!]! * (1 - theirs) + table[second[at]!]! * theirs);
}

/** Colours weighed by alpha; where both are clear they have no weight and are mixed as they are. */
function blendWeighed(a: Image, b: Image, weight: number, data: Image['data']): void {
  const { channels, sample } = a;
  const table = sample === 'f16' ? halfTable() : undefined;
  const read = (samples: Image['data'], at: number): number => (table ? table[samples[at]!]! : samples[at]!);
  const isWhole = !isFloat(sample);
  const alpha = channels - 1;
  for (let pixel = 0; pixel < data.length; pixel += channels) {
    const first = read(a.data, pixel + alpha) * (whole - weight);
    const second = read(b.data, pixel + alpha) * weight;
    const sum = first + second;
    const opacity = sum / whole;
    data[pixel + alpha] = isWhole ? Math.floor(opacity + 0.5) : table ? numberToHalf(opacity) : opacity;
    const share = sum > 0 ? second / sum : weight / whole;
    for (let at = pixel; at < pixel + alpha; at += 1) {
      const mixed = read(a.data, at) * (1 - share) + read(b.data, at) * share;
      data[at] = isWhole ? Math.floor(mixed + 0.5) : table ? numberToHalf(mixed) : mixed;
    }
  }
}

/** A picture with the even rows of one, counted from 0, and the odd rows of another. */
export function weavePictures(even: Image, odd: Image): Image {
  const { width, height, channels, sample } = even;
  const data = even.data.slice();
  const row = width * channels;
  for (let y = 1; y < height; y += 2) data.set(odd.data.subarray(y * row, (y + 1) * row), y * row);
  return { width, height, channels, sample, data };
}
