import { pieceBegin, pieceSide, type Extent, type Place } from './place.ts';
import type { CompareMode } from './state.ts';

/** The stage's grounds; neutral, with no hue. */
export const grounds = { checker: '#808080', black: '#000000', white: '#ffffff', grey: '#808080' } as const;

/** What is drawn behind a picture: squares, a colour, or another picture. */
export type Ground = 'checker' | { colour: string } | { picture: ImageBitmap };

/** A part of a picture that was made from its own samples. */
export interface DrawnPiece {
  piece: number;
  picture: ImageBitmap;
}

/** A picture as it is drawn. */
export interface DrawnPicture {
  /** The part of the stage that it may cover. */
  area: Place;
  place: Place;
  /** The picture's own size. */
  size: Extent;
  picture: ImageBitmap;
  pieces: readonly DrawnPiece[];
  /** Its alpha alone is shown: white where opaque, black where not. */
  isAlpha: boolean;
  ground: Ground;
}

/** How two pictures share the stage; `mode` is null where there is one. */
export interface Sharing {
  mode: CompareMode | null;
  /** Where the wipe stands, 0 to 1 across the first's area. */
  wipe: number;
  /** While they blink: whether it is the second's turn. */
  showsSecond: boolean;
}

/** Draws one picture, or two as they are compared; what is not here yet is left out. */
export function drawBoth(
  context: CanvasRenderingContext2D,
  first: DrawnPicture | null,
  second: DrawnPicture | null,
  { mode, wipe, showsSecond }: Sharing,
): void {
  const draw = (one: DrawnPicture | null, area?: Place) => one && drawPicture(context, area ? { ...one, area } : one);
  if (mode === 'wipe') {
    const area = (first ?? second)?.area;
    if (!area) return;
    const width = area.width * wipe;
    draw(first, { ...area, width });
    draw(second, { ...area, x: area.x + width, width: area.width - width });
  } else if (mode === 'blink') draw(showsSecond ? second : first);
  else {
    draw(first);
    if (mode === 'side') draw(second);
  }
}

/** Draws a picture over what lies behind it. */
function drawPicture(context: CanvasRenderingContext2D, drawn: DrawnPicture): void {
  const { area, place, picture, pieces, size, isAlpha } = drawn;
  context.save();
  clipTo(context, area);
  if (isAlpha) fill(context, place, '#000000');
  else drawGround(context, drawn.ground, place);
  const across = place.width / size.width;
  // Beyond twice its size a pixel is a square.
  context.imageSmoothingEnabled = place.width / picture.width < 2;
  context.imageSmoothingQuality = 'high';
  drawLayer(context, picture, place, isAlpha);
  context.imageSmoothingEnabled = across < 2;
  for (const one of pieces) {
    const { x, y } = pieceBegin(one.piece);
    const where = {
      x: place.x + x * across,
      y: place.y + (y * place.height) / size.height,
      width: Math.min(pieceSide, one.picture.width) * across,
      height: (Math.min(pieceSide, one.picture.height) * place.height) / size.height,
    };
    // What lay there is drawn anew, so that no edge of the smaller picture shows through.
    context.save();
    clipTo(context, where);
    if (isAlpha) fill(context, where, '#000000');
    else drawGround(context, drawn.ground, place);
    drawLayer(context, one.picture, where, isAlpha);
    context.restore();
  }
  context.restore();
}

function clipTo(context: CanvasRenderingContext2D, { x, y, width, height }: Place): void {
  context.beginPath();
  context.rect(x, y, width, height);
  context.clip();
}

function fill(context: CanvasRenderingContext2D, { x, y, width, height }: Place, colour: string): void {
  context.fillStyle = colour;
  context.fillRect(x, y, width, height);
}

function drawLayer(context: CanvasRenderingContext2D, picture: ImageBitmap, place: Place, isAlpha: boolean): void {
  if (!isAlpha) {
    context.drawImage(picture, place.x, place.y, place.width, place.height);
    return;
  }
  // White through the picture's alpha.
  const layer = new OffscreenCanvas(picture.width, picture.height);
  const ink = layer.getContext('2d')!;
  ink.drawImage(picture, 0, 0);
  ink.globalCompositeOperation = 'source-in';
  ink.fillStyle = '#ffffff';
  ink.fillRect(0, 0, layer.width, layer.height);
  context.drawImage(layer, place.x, place.y, place.width, place.height);
}

function drawGround(context: CanvasRenderingContext2D, ground: Ground, place: Place): void {
  if (ground === 'checker') {
    drawChecker(context, place);
    return;
  }
  if ('colour' in ground) {
    fill(context, place, ground.colour);
    return;
  }
  // Covers the place; what hangs over is cut off.
  const { picture } = ground;
  const scale = Math.max(place.width / picture.width, place.height / picture.height);
  const [width, height] = [picture.width * scale, picture.height * scale];
  context.save();
  clipTo(context, place);
  context.imageSmoothingQuality = 'high';
  context.drawImage(picture, place.x + (place.width - width) / 2, place.y + (place.height - height) / 2, width, height);
  context.restore();
}

let tile: OffscreenCanvas | undefined;

function drawChecker(context: CanvasRenderingContext2D, place: Place): void {
  // A stage without a size has nothing to be laid on.
  if (place.width < 1 || place.height < 1) return;
  if (!tile) {
    tile = new OffscreenCanvas(32, 32);
    const ink = tile.getContext('2d')!;
    ink.fillStyle = '#8c8c8c';
    ink.fillRect(0, 0, 32, 32);
    ink.fillStyle = '#767676';
    ink.fillRect(0, 0, 16, 16);
    ink.fillRect(16, 16, 16, 16);
  }
  context.save();
  context.fillStyle = context.createPattern(tile, 'repeat')!;
  context.fillRect(place.x, place.y, place.width, place.height);
  context.restore();
}
