import sharp from 'sharp';
import { srgbToLinear } from '@shale/core';

/** RGBA of 8 bits, straight alpha. */
export interface Layer {
  width: number;
  height: number;
  data: Uint8Array;
}

/** Draws SVG content at a size. No text: fonts differ between machines; {@link pixelText} writes instead. */
export async function drawSvg(width: number, height: number, content: string): Promise<Layer> {
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}">${content}</svg>`;
  const data = await sharp(Buffer.from(svg), { limitInputPixels: 2 ** 29 })
    .ensureAlpha()
    .raw()
    .toBuffer();
  return { width, height, data };
}

/** An empty, transparent layer. */
export const blank = (width: number, height: number): Layer => ({
  width,
  height,
  data: new Uint8Array(width * height * 4),
});

/** Lays `top` over `under` at a whole-pixel place, in place; what falls outside is cut off. */
export function lay(under: Layer, top: Layer, left: number, down: number, opacity = 1): void {
  const fromX = Math.max(0, -left);
  const toX = Math.min(top.width, under.width - left);
  for (let y = Math.max(0, -down); y < Math.min(top.height, under.height - down); y += 1) {
    let from = (y * top.width + fromX) * 4;
    let to = ((y + down) * under.width + fromX + left) * 4;
    for (let x = fromX; x < toX; x += 1, from += 4, to += 4) {
      const alpha = (top.data[from + 3]! / 255) * opacity;
      if (alpha === 0) continue;
      const behind = under.data[to + 3]! / 255;
      const whole = alpha + behind * (1 - alpha);
      const over = alpha / whole;
      under.data[to] = top.data[from]! * over + under.data[to]! * (1 - over) + 0.5;
      under.data[to + 1] = top.data[from + 1]! * over + under.data[to + 1]! * (1 - over) + 0.5;
      under.data[to + 2] = top.data[from + 2]! * over + under.data[to + 2]! * (1 - over) + 0.5;
      under.data[to + 3] = whole * 255 + 0.5;
    }
  }
}

const linearOf = Float32Array.from({ length: 256 }, (_, code) => srgbToLinear(code / 255));

/** Linear light, premultiplied, as floats: how a renderer would hand a layer over. */
export function toLinear(layer: Layer, gain = 1): Float32Array {
  const light = new Float32Array(layer.data.length);
  for (let at = 0; at < layer.data.length; at += 4) {
    const alpha = layer.data[at + 3]! / 255;
    for (let channel = 0; channel < 3; channel += 1)
      light[at + channel] = linearOf[layer.data[at + channel]!]! * alpha * gain;
    light[at + 3] = alpha;
  }
  return light;
}

/** Glyphs of 3 by 5: five rows of three bits. */
const glyphs: Record<string, number[]> = {
  '0': [7, 5, 5, 5, 7],
  '1': [2, 6, 2, 2, 7],
  '2': [7, 1, 7, 4, 7],
  '3': [7, 1, 3, 1, 7],
  '4': [5, 5, 7, 1, 1],
  '5': [7, 4, 7, 1, 7],
  '6': [7, 4, 7, 5, 7],
  '7': [7, 1, 2, 2, 2],
  '8': [7, 5, 7, 5, 7],
  '9': [7, 5, 7, 1, 7],
  A: [2, 5, 7, 5, 5],
  B: [6, 5, 6, 5, 6],
  C: [7, 4, 4, 4, 7],
  D: [6, 5, 5, 5, 6],
  E: [7, 4, 6, 4, 7],
  I: [7, 2, 2, 2, 7],
  L: [4, 4, 4, 4, 7],
  M: [5, 7, 7, 5, 5],
  N: [6, 5, 5, 5, 5],
  O: [7, 5, 5, 5, 7],
  P: [7, 5, 7, 4, 4],
  R: [6, 5, 6, 5, 5],
  S: [7, 4, 7, 1, 7],
  T: [7, 2, 2, 2, 2],
  U: [5, 5, 5, 5, 7],
  Y: [5, 5, 2, 2, 2],
  K: [5, 5, 6, 5, 5],
  H: [5, 5, 7, 5, 5],
  G: [7, 4, 5, 5, 7],
  W: [5, 5, 7, 7, 5],
  V: [5, 5, 5, 5, 2],
  F: [7, 4, 6, 4, 4],
  ':': [0, 2, 0, 2, 0],
  '.': [0, 0, 0, 0, 2],
  '-': [0, 0, 7, 0, 0],
  ' ': [0, 0, 0, 0, 0],
};

/** Capital letters and digits as SVG squares, `size` pixels a square. */
export function pixelText(text: string, x: number, y: number, size: number, fill: string): string {
  const squares: string[] = [];
  [...text.toUpperCase()].forEach((letter, index) => {
    (glyphs[letter] ?? glyphs[' ']!).forEach((bits, row) => {
      for (let column = 0; column < 3; column += 1) {
        if (bits & (4 >> column))
          squares.push(`M${x + (index * 4 + column) * size} ${y + row * size}h${size}v${size}h${-size}z`);
      }
    });
  });
  return `<path d="${squares.join('')}" fill="${fill}"/>`;
}
