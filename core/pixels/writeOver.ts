import { numberToHalf, halfTable } from './half.ts';
import { hasAlphaChannel, maxCode, type Image } from './image.ts';

/** Letters as a mask of how much of each pixel they cover, 0 to 255, with the shade they have, 0 black to 255 white. */
export interface Letters {
  left: number;
  top: number;
  width: number;
  height: number;
  /** `width * height` pixels of shade and cover. */
  data: Uint8Array;
}

/**
 * Writes letters into a picture, in its stored values: 0 is black and 1 is white whatever its transfer, so that they are read as
 * plainly in any. Alpha is full where they cover. The picture is changed.
 */
export function writeOver(image: Image, { left, top, width, height, data }: Letters): void {
  const { channels, sample, data: into } = image;
  const most = maxCode(sample) ?? 1;
  const table = sample === 'f16' ? halfTable() : undefined;
  const alpha = hasAlphaChannel(image);
  for (let y = Math.max(0, -top); y < height && top + y < image.height; y += 1)
    for (let x = Math.max(0, -left); x < width && left + x < image.width; x += 1) {
      const from = (y * width + x) * 2;
      const cover = data[from + 1]! / 255;
      if (cover === 0) continue;
      const at = ((top + y) * image.width + left + x) * channels;
      for (let channel = 0; channel < channels; channel += 1) {
        const value = alpha && channel === channels - 1 ? most : (data[from]! / 255) * most;
        const before = table ? table[into[at + channel]!]! : into[at + channel]!;
        const mixed = before + (value - before) * cover;
        into[at + channel] = table ? numberToHalf(mixed) : sample === 'f32' ? mixed : Math.round(mixed);
      }
    }
}
