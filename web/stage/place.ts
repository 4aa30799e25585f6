/** A rectangle of the stage, in its pixels. */
export interface Place {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Pixels, of a picture or of the stage. */
export interface Extent {
  width: number;
  height: number;
}

/** A picture's size, and how wide its pixels are for their height: 1 where they are square. */
export interface Shape extends Extent {
  aspect: number;
}

/** A picture that is not shown whole. */
export interface Zoom {
  /** Pixels of the stage that a pixel of the picture is high. */
  scale: number;
  /** The point of the picture, in its pixels, that stands in the middle of the stage. */
  x: number;
  y: number;
}

export const leastScale = 1 / 32;
export const mostScale = 64;

/** Where a picture stands inside a part of the stage: whole, in the middle, never enlarged beyond four times. */
export function fit(picture: Shape, area: Place): Place {
  const scale = fitScale(picture, area);
  const [width, height] = [picture.width * picture.aspect * scale, picture.height * scale];
  return { x: area.x + (area.width - width) / 2, y: area.y + (area.height - height) / 2, width, height };
}

/** Pixels of the stage that a pixel is high where the picture is shown whole. */
export const fitScale = (picture: Shape, area: Extent): number =>
  Math.min(area.width / (picture.width * picture.aspect), area.height / picture.height, 4);

/** Where a picture stands when it is zoomed; whole where it is not. */
export function placeOf(picture: Shape, area: Place, zoom: Zoom | null): Place {
  if (!zoom) return fit(picture, area);
  const { scale, x, y } = zoom;
  const across = scale * picture.aspect;
  return {
    x: area.x + area.width / 2 - x * across,
    y: area.y + area.height / 2 - y * scale,
    width: picture.width * across,
    height: picture.height * scale,
  };
}

/** The pixel of a picture under a point of the stage; undefined beside it. */
export function pixelUnder(
  place: Place,
  picture: Extent,
  point: { x: number; y: number },
): { x: number; y: number } | undefined {
  const x = Math.floor(((point.x - place.x) / place.width) * picture.width);
  const y = Math.floor(((point.y - place.y) / place.height) * picture.height);
  return x >= 0 && y >= 0 && x < picture.width && y < picture.height ? { x, y } : undefined;
}

/** The zoom that makes a picture `factor` times as large, the point under the pointer staying where it is. */
export function zoomedAt(
  picture: Shape,
  area: Place,
  zoom: Zoom | null,
  factor: number,
  point: { x: number; y: number },
): Zoom {
  const place = placeOf(picture, area, zoom);
  const scale = Math.min(mostScale, Math.max(leastScale, (place.height / picture.height) * factor));
  const at = {
    x: ((point.x - place.x) / place.width) * picture.width,
    y: ((point.y - place.y) / place.height) * picture.height,
  };
  return within(picture, {
    scale,
    x: at.x + (area.x + area.width / 2 - point.x) / (scale * picture.aspect),
    y: at.y + (area.y + area.height / 2 - point.y) / scale,
  });
}

/** The zoom moved by pixels of the stage. */
export const movedBy = (picture: Shape, zoom: Zoom, x: number, y: number): Zoom =>
  within(picture, { ...zoom, x: zoom.x - x / (zoom.scale * picture.aspect), y: zoom.y - y / zoom.scale });

/** The middle of the stage stays on the picture. */
const within = ({ width, height }: Extent, zoom: Zoom): Zoom => ({
  ...zoom,
  x: Math.min(width, Math.max(0, zoom.x)),
  y: Math.min(height, Math.max(0, zoom.y)),
});

/** Pixels on a side of a piece in which a picture's own samples are fetched. */
export const pieceSide = 512;
/** Pieces in a row of the greatest picture: 65,536 pixels. */
const piecesAcross = 128;

/** The number of the piece that a pixel lies in, and where a piece begins. */
export const pieceAt = ({ x, y }: { x: number; y: number }): number =>
  Math.floor(y / pieceSide) * piecesAcross + Math.floor(x / pieceSide);
export const pieceBegin = (piece: number): { x: number; y: number } => ({
  x: (piece % piecesAcross) * pieceSide,
  y: Math.floor(piece / piecesAcross) * pieceSide,
});

/** Pieces that can be seen, those in the middle first. */
export function piecesIn(place: Place, picture: Extent, area: Place): number[] {
  const edge = (at: number, size: number) => Math.min(size - 1, Math.max(0, Math.floor(at * size)));
  const across = (x: number) => edge((x - place.x) / place.width, picture.width);
  const down = (y: number) => edge((y - place.y) / place.height, picture.height);
  const [left, right] = [across(area.x), across(area.x + area.width)];
  const [top, bottom] = [down(area.y), down(area.y + area.height)];
  const pieces: { piece: number; away: number }[] = [];
  const middle = { x: (left + right) / 2, y: (top + bottom) / 2 };
  for (let y = Math.floor(top / pieceSide); y * pieceSide <= bottom; y += 1) {
    for (let x = Math.floor(left / pieceSide); x * pieceSide <= right; x += 1) {
      const [dx, dy] = [(x + 0.5) * pieceSide - middle.x, (y + 0.5) * pieceSide - middle.y];
      pieces.push({ piece: y * piecesAcross + x, away: dx * dx + dy * dy });
    }
  }
  return pieces.sort((a, b) => a.away - b.away).map(({ piece }) => piece);
}
