/** A place in a picture, 0 to 1 across and down. */
export interface Place {
  x: number;
  y: number;
}

/** Where pixels of RGBA turn from clear to not, coming from the right at half height or near it; undefined where they nowhere do. */
export function edgeIn(data: Uint8ClampedArray, width: number, height: number): Place | undefined {
  const middle = Math.floor(height / 2);
  // Rows by their distance from the middle.
  for (let step = 0; step < height; step += 1) {
    const y = middle + (step % 2 === 0 ? step / 2 : -(step + 1) / 2);
    if (y < 0 || y >= height) continue;
    const alphaAt = (x: number) => data[(y * width + x) * 4 + 3]!;
    if (alphaAt(width - 1) > 0) continue;
    for (let x = width - 2; x >= 0; x -= 1) if (alphaAt(x) > 0) return { x: (x + 0.5) / width, y: (y + 0.5) / height };
  }
  return undefined;
}

/** An edge in the first picture of a file; undefined where it has none, or cannot be looked at. */
export async function edgePlace(url: string): Promise<Place | undefined> {
  const image = new Image();
  image.src = url;
  await image.decode();
  const canvas = document.createElement('canvas');
  canvas.width = image.naturalWidth;
  canvas.height = image.naturalHeight;
  const context = canvas.getContext('2d', { willReadFrequently: true });
  if (!context) return undefined;
  context.drawImage(image, 0, 0);
  const { data, width, height } = context.getImageData(0, 0, canvas.width, canvas.height);
  return edgeIn(data, width, height);
}
