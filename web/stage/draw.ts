import type { StageBackground, StageView } from './state.ts';

/** The stage's grounds; neutral, with no hue. */
export const grounds: Record<StageBackground, string> = {
  checker: '#808080',
  black: '#000000',
  white: '#ffffff',
  grey: '#808080',
};

/** Draws a picture over its background, as colour or as its alpha alone: white where opaque, black where not. */
export function drawPicture(
  context: CanvasRenderingContext2D,
  picture: ImageBitmap,
  box: Place,
  view: StageView,
  background: StageBackground,
): void {
  const { x, y, width, height } = box;
  context.imageSmoothingQuality = 'high';
  if (view === 'alpha') {
    const layer = new OffscreenCanvas(Math.max(1, Math.round(width)), Math.max(1, Math.round(height)));
    const ink = layer.getContext('2d')!;
    ink.imageSmoothingQuality = 'high';
    ink.drawImage(picture, 0, 0, layer.width, layer.height);
    ink.globalCompositeOperation = 'source-in';
    ink.fillStyle = '#ffffff';
    ink.fillRect(0, 0, layer.width, layer.height);
    context.fillStyle = '#000000';
    context.fillRect(x, y, width, height);
    context.drawImage(layer, x, y, width, height);
    return;
  }
  if (background === 'checker') drawChecker(context, box);
  else {
    context.fillStyle = grounds[background];
    context.fillRect(x, y, width, height);
  }
  context.drawImage(picture, x, y, width, height);
}

function drawChecker(context: CanvasRenderingContext2D, { x, y, width, height }: Place): void {
  const tile = new OffscreenCanvas(32, 32);
  const ink = tile.getContext('2d')!;
  ink.fillStyle = '#8c8c8c';
  ink.fillRect(0, 0, 32, 32);
  ink.fillStyle = '#767676';
  ink.fillRect(0, 0, 16, 16);
  ink.fillRect(16, 16, 16, 16);
  context.save();
  context.translate(x, y);
  context.fillStyle = context.createPattern(tile, 'repeat')!;
  context.fillRect(0, 0, width, height);
  context.restore();
}

/** A rectangle of the stage, in its pixels. */
export interface Place {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Where a picture of a shape stands inside the stage: whole, in the middle, never enlarged beyond four times. */
export function fit(pictureWidth: number, pictureHeight: number, width: number, height: number): Place {
  const scale = Math.min(width / pictureWidth, height / pictureHeight, 4);
  const box = { width: pictureWidth * scale, height: pictureHeight * scale };
  return { x: (width - box.width) / 2, y: (height - box.height) / 2, ...box };
}
