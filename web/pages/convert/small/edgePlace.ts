import { loadImage } from '../../../pieces/loadImage.ts';

/** A place in a picture, 0 to 1 across and down. */
export interface Place {
  x: number;
  y: number;
}

/** Where pixels of RGBA turn from clear to not, coming from the top in the middle or near it; undefined where they nowhere do. */
export function edgeIn(data: Uint8ClampedArray, width: number, height: number): Place | undefined {
  const middle = Math.floor(width / 2);
  // Columns by their distance from the middle.
  for (let step = 0; step < width; step += 1) {
    const x = middle + (step % 2 === 0 ? step / 2 : -(step + 1) / 2);
    if (x < 0 || x >= width) continue;
    const alphaAt = (y: number) => data[(y * width + x) * 4 + 3]!;
    if (alphaAt(0) > 0) continue;
    for (let y = 1; y < height; y += 1) if (alphaAt(y) > 0) return { x: (x + 0.5) / width, y: (y + 0.5) / height };
  }
  return undefined;
}

/** An edge in the first picture of a file; undefined where it has none, or cannot be looked at. */
export async function edgePlace(url: string): Promise<Place | undefined> {
  const image = await loadImage(url);
  const canvas = document.createElement('canvas');
  canvas.width = image.naturalWidth;
  canvas.height = image.naturalHeight;
  const context = canvas.getContext('2d', { willReadFrequently: true });
  if (!context) return undefined;
  context.drawImage(image, 0, 0);
  const { data, width, height } = context.getImageData(0, 0, canvas.width, canvas.height);
  return edgeIn(data, width, height);
}
