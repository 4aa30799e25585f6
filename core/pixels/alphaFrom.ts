import { filled } from './filled.ts';
import { valueTable } from './canvas.ts';
import { hasAlphaChannel, makeSamples, maxCode, type Image } from './image.ts';
import { lumaOf } from './luma.ts';
import type { AlphaFrom } from './picture.ts';
import { plainQuantiser } from './quantise.ts';
import { resample } from './resample.ts';

/** Alpha of a picture taken from another one, which is resized where it is of another size. Without alpha or luma to take it throws. */
export function withAlphaFrom(image: Image, other: Image, { use, inverted }: AlphaFrom): Image {
  const matte = sized(matteOf(other, use), image);
  const { width, height, sample, data: source } = image;
  const colours = image.channels <= 2 ? 1 : 3;
  const channels = (colours + 1) as Image['channels'];
  const data = makeSamples(sample, width * height * channels);
  const alphaOf = inSample(matte, sample, inverted);
  for (let pixel = 0; pixel < width * height; pixel += 1) {
    for (let channel = 0; channel < colours; channel += 1)
      data[pixel * channels + channel] = source[pixel * image.channels + channel]!;
    data[pixel * channels + colours] = alphaOf(pixel);
  }
  return { width, height, channels, sample, data };
}

/** One channel: alpha as it is stored, or luma. */
function matteOf(other: Image, use: AlphaFrom['use']): Image {
  const { width, height, channels, sample, data: source } = other;
  if (use === 'alpha' && !hasAlphaChannel(other)) throw new Error('it has no alpha to take');
  if (use === 'alpha' || channels <= 2) {
    const at = use === 'alpha' ? channels - 1 : 0;
    const data = makeSamples(sample, width * height);
    for (let pixel = 0; pixel < data.length; pixel += 1) data[pixel] = source[pixel * channels + at]!;
    return { width, height, channels: 1, sample, data };
  }
  const values = valueTable(sample);
  const data = new Float32Array(width * height);
  for (let pixel = 0; pixel < data.length; pixel += 1) {
    const at = pixel * channels;
    const [red, green, blue] = [source[at]!, source[at + 1]!, source[at + 2]!];
    data[pixel] = values ? lumaOf(values[red]!, values[green]!, values[blue]!) : lumaOf(red, green, blue);
  }
  return { width, height, channels: 1, sample: 'f32', data };
}

function sized(matte: Image, { width, height }: Image): Image {
  if (matte.width === width && matte.height === height) return matte;
  const values = valueTable(matte.sample);
  const floats = filled(new Float32Array(matte.data.length), (at) => {
    const stored = matte.data[at]!;
    return values ? values[stored]! : stored;
  });
  const { data } = resample(
    { width: matte.width, height: matte.height, stride: 1, data: floats },
    { width, height },
    'bilinear',
  );
  return { width, height, channels: 1, sample: 'f32', data };
}

/** The matte's samples in another format; the same bits where it is the same. */
function inSample({ sample, data }: Image, wanted: Image['sample'], inverted: boolean): (pixel: number) => number {
  const max = maxCode(wanted);
  if (sample === wanted && (!inverted || max !== undefined))
    return inverted ? (pixel) => max! - data[pixel]! : (pixel) => data[pixel]!;
  const values = valueTable(sample);
  const code = plainQuantiser(wanted);
  return (pixel) => {
    const value = values ? values[data[pixel]!]! : data[pixel]!;
    return code(inverted ? 1 - value : value);
  };
}
