/** A picture of an address, decoded. Of a moving one the first is drawn (HTML, 4.12.5.1.4). */
export async function loadImage(url: string): Promise<HTMLImageElement> {
  const image = new Image();
  image.src = url;
  await image.decode();
  return image;
}
