import { Filter, FilterGraph, Frame, type FilterContext } from 'node-av';
import { AV_BUFFERSRC_FLAG_KEEP_REF, AV_PIX_FMT_BGRA } from 'node-av/constants';
import { sharp } from '../libvips.ts';
import type { VideoSpec } from '@shale/core';
import { imageOf } from '../video/frameImage.ts';
import { check, fillFrame } from '../video/libav.ts';
import type { Palette } from './gifFile.ts';

/** Pixels whose colours a palette is chosen by, at most: all of a short animation, evenly spread ones of a long one. */
const mostGathered = 1 << 16;

/** Colours of a palette, at most. */
const mostColours = 256;

/** Gathers the colours of pictures, clear pixels left out; where there are too many, every second is forgotten again. */
export class Colours {
  private readonly held = new Uint8Array(mostGathered * 3);
  private count = 0;
  private every = 1;
  private at = 0;
  /** All colours that were met, as 24 bits, as long as they are no more than a palette holds. */
  private readonly met = new Set<number>();
  private last = -1;

  /** @param rgba pixels of 8 bits; those of alpha 0 are clear */
  add(rgba: Uint8Array): void {
    const { met, held } = this;
    for (let from = 0; from < rgba.length; from += 4) {
      if (rgba[from + 3] === 0) continue;
      const [red, green, blue] = [rgba[from]!, rgba[from + 1]!, rgba[from + 2]!];
      const colour = (red << 16) | (green << 8) | blue;
      if (colour !== this.last && met.size <= mostColours) met.add(colour);
      this.last = colour;
      this.at += 1;
      if (this.at < this.every) continue;
      this.at = 0;
      const to = this.count * 3;
      held[to] = red;
      held[to + 1] = green;
      held[to + 2] = blue;
      this.count += 1;
      if (this.count === mostGathered) this.thin();
    }
  }

  private thin(): void {
    this.count >>= 1;
    for (let at = 1; at < this.count; at += 1) this.held.copyWithin(at * 3, at * 6, at * 6 + 3);
    this.every *= 2;
  }

  /** Red, green and blue of what was gathered, as a picture whose last line is filled up. */
  picture(): { width: number; height: number; rgb: Uint8Array } {
    const count = Math.max(1, this.count);
    const width = Math.min(count, 1024);
    const height = Math.ceil(count / width);
    const rgb = new Uint8Array(width * height * 3);
    rgb.set(this.held.subarray(0, count * 3));
    for (let at = count; at < width * height; at += 1) rgb.copyWithin(at * 3, (count - 1) * 3, count * 3);
    return { width, height, rgb };
  }

  /** The colours of all pixels, where they are so few; else undefined. */
  few(most: number): Palette | undefined {
    return this.met.size <= most ? paletteOf(this.met) : undefined;
  }
}

/**
 * Chooses colours for what was gathered: those themselves where they are few enough and none was left out, else by a library's
 * quantiser (libav's median cut and k-means, libimagequant's perceptual one).
 * @param most colours, 1 to 256
 */
export async function choosePalette(
  colours: Colours,
  most: number,
  quantiser: VideoSpec['quantiser'],
): Promise<Palette> {
  const few = colours.few(most);
  // Where all is clear there is none to choose.
  if (few) return few.length > 0 ? few : Uint8Array.of(0, 0, 0);
  const { width, height, rgb } = colours.picture();
  if (most === 1) return meanOf(rgb);
  if (quantiser === 'perceptual') return perceptual({ width, height, rgb }, most);
  const [filter, options] =
    quantiser === 'median-cut'
      ? ['palettegen', `max_colors=${most}:reserve_transparent=0:stats_mode=full`]
      : // What each pixel becomes is its cluster's mean.
        ['elbg', `codebook_length=${most}:seed=1:nb_steps=4`];
  const frame = new Frame();
  const chosen = new Frame();
  chosen.alloc();
  const graph = new Graph(filter, options, [{ width, height }]);
  try {
    fillFrame(frame, { width, height, format: AV_PIX_FMT_BGRA, bytes: bgraOf(rgb) });
    await graph.begin();
    await graph.put(0, frame);
    await graph.put(0, null);
    if (!(await graph.take(chosen))) throw new Error('no palette came of the colours');
    const image = imageOf(chosen);
    const pixels = quantiser === 'median-cut' ? most : image.width * image.height;
    return distinct(image.data.subarray(0, pixels * image.channels) as Uint8Array, image.channels);
  } finally {
    graph.free();
    frame.free();
    chosen.free();
  }
}

/** The colours that pixels have, each once. */
function distinct(pixels: Uint8Array, channels: number): Palette {
  const seen = new Set<number>();
  for (let at = 0; at < pixels.length; at += channels)
    seen.add((pixels[at]! << 16) | (pixels[at + 1]! << 8) | pixels[at + 2]!);
  return paletteOf(seen);
}

/** Colours of 24 bits as a palette, in order. */
const paletteOf = (colours: Iterable<number>): Palette =>
  Uint8Array.from([...colours].sort((a, b) => a - b).flatMap((one) => [one >> 16, (one >> 8) & 255, one & 255]));

function meanOf(rgb: Uint8Array): Palette {
  const sums = [0, 0, 0];
  for (let at = 0; at < rgb.length; at += 1) sums[at % 3]! += rgb[at]!;
  return Uint8Array.from(sums, (sum) => Math.round((sum * 3) / rgb.length));
}

/** The palette that libimagequant gives a picture: that of the PNG which is made of it. */
async function perceptual(
  { width, height, rgb }: { width: number; height: number; rgb: Uint8Array },
  most: number,
): Promise<Palette> {
  const png = await sharp(rgb, { raw: { width, height, channels: 3 } })
    .png({ palette: true, colours: most, dither: 0, effort: 10, quality: 100, compressionLevel: 0 })
    .toBuffer();
  for (let at = 8; at < png.length; at += 12 + png.readUInt32BE(at))
    if (png.toString('latin1', at + 4, at + 8) === 'PLTE')
      return merged(Uint8Array.from(png.subarray(at + 8, at + 8 + png.readUInt32BE(at))), most);
  throw new Error('no palette came of the colours');
}

/** A palette of no more colours than asked for: the two nearest become one. A PNG's has as many as its bits count. */
function merged(palette: Palette, most: number): Palette {
  const colours = Array.from({ length: palette.length / 3 }, (_, at) => [...palette.subarray(at * 3, at * 3 + 3)]);
  while (colours.length > most) {
    let [least, one, other] = [Infinity, 0, 1];
    for (let a = 0; a < colours.length; a += 1)
      for (let b = a + 1; b < colours.length; b += 1) {
        const [red, green, blue] = [0, 1, 2].map((channel) => colours[a]![channel]! - colours[b]![channel]!);
        const apart = red! * red! + green! * green! + blue! * blue!;
        if (apart < least) [least, one, other] = [apart, a, b];
      }
    const [gone] = colours.splice(other, 1);
    colours[one] = colours[one]!.map((value, channel) => Math.round((value + gone![channel]!) / 2));
  }
  return distinct(Uint8Array.from(colours.flat()), 3);
}

const bgraOf = (rgb: Uint8Array): Buffer => {
  const bytes = Buffer.alloc((rgb.length / 3) * 4, 255);
  for (let from = 0, to = 0; from < rgb.length; from += 3, to += 4) {
    bytes[to] = rgb[from + 2]!;
    bytes[to + 1] = rgb[from + 1]!;
    bytes[to + 2] = rgb[from]!;
  }
  return bytes;
};

/** One of the library's filters with as many inputs of 8-bit pictures as it takes. */
class Graph {
  private readonly graph = new FilterGraph();
  private readonly sources: FilterContext[];
  private readonly sink: FilterContext;

  constructor(name: string, options: string, inputs: readonly { width: number; height: number }[]) {
    this.graph.alloc();
    this.graph.nbThreads = 1;
    const add = (filter: string, as: string, told?: string): FilterContext => {
      const found = Filter.getByName(filter);
      const made = found && this.graph.createFilter(found, as, told);
      if (!made) throw new Error(`the filter ${filter} cannot be made with ${told ?? 'no options'}`);
      return made;
    };
    this.sources = inputs.map(({ width, height }, at) =>
      add('buffer', `in${at}`, `width=${width}:height=${height}:pix_fmt=bgra:time_base=1/25:pixel_aspect=1/1`),
    );
    const filter = add(name, 'filter', options);
    this.sink = add('buffersink', 'out');
    this.sources.forEach((source, at) => check(source.link(0, filter, at), 'joining filters'));
    check(filter.link(0, this.sink, 0), 'joining filters');
  }

  async begin(): Promise<void> {
    check(await this.graph.config(), 'setting filters up');
  }

  async put(input: number, frame: Frame | null): Promise<void> {
    check(await this.sources[input]!.buffersrcAddFrame(frame, AV_BUFFERSRC_FLAG_KEEP_REF), 'filtering');
  }

  async take(frame: Frame): Promise<boolean> {
    return (await this.sink.buffersinkGetFrame(frame)) >= 0;
  }

  free(): void {
    this.graph.free();
  }
}
