import { join } from 'node:path';
import pLimit from 'p-limit';
import type { Image } from '@shale/core';
import { writeExr } from '@shale/media';
import { defs, depot, hills, post, town, tram } from '../art.ts';
import { toHalfRow } from '../half.ts';
import { drawSvg, toLinear, type Layer } from '../raster.ts';

const width = 1920;
const height = 1080;
const frames = 96;
const rails = 880;

interface Depth {
  layer: Layer;
  light: Float32Array;
  /** Pixels that it moves per frame. */
  speed: number;
  /** The first row that holds anything. */
  top: number;
  /** The first row from which all below is opaque: nothing behind it shows there. */
  solid: number;
}

const topOf = (layer: Layer): number => {
  const at = layer.data.findIndex((_, index) => index % 4 === 3 && layer.data[index] !== 0);
  return at < 0 ? layer.height : Math.floor(at / 4 / layer.width);
};

function solidOf(layer: Layer): number {
  let at = layer.data.length - 1;
  while (at > 0 && layer.data[at] === 255) at -= 4;
  return Math.floor(at / 4 / layer.width) + 1;
}

async function drawDepth(speed: number, gain: number, content: string): Promise<Depth> {
  const layer = await drawSvg(Math.ceil(width + speed * frames), height, defs + content);
  return { layer, light: toLinear(layer, gain), speed, top: topOf(layer), solid: solidOf(layer) };
}

async function layers(): Promise<Depth[]> {
  const draw = (speed: number, content: string) => drawDepth(speed, 1, content);
  const shadows = [130, 492, 850]
    .map((x) => `<ellipse cx="${x + 190}" cy="${rails + 8}" rx="210" ry="16" fill="#000" opacity=".35"/>`)
    .join('');
  const trams =
    `<g transform="translate(110 ${rails - 178}) scale(1.22)">${tram('#a8402a', '#7d2c1c', true)}</g>` +
    `<g transform="translate(840 ${rails - 178}) scale(1.22)">${tram('#2f6b5c', '#21503f', true)}</g>` +
    `<g transform="translate(1600 ${rails - 206}) scale(1.42)">${tram('#b5472e', '#8f3421', true)}</g>`;
  const track = [0, 34, 92, 150]
    .map((drop) => `<path d="M0 ${rails + drop}H3000" stroke="#a59c8a" stroke-width="${3 + drop / 34}"/>`)
    .join('');
  const sleepers = Array.from(
    { length: 90 },
    (_, at) => `<path d="M${at * 36} ${rails + 96}l-10 52" stroke="#3b342d" stroke-width="10"/>`,
  ).join('');
  const wire = `<path d="M0 470 Q700 520 1400 470 T2800 470" stroke="#12171a" stroke-width="3" fill="none"/>`;
  return [
    await draw(2, hills(2200, 720, 230, '#44546a', 5) + hills(2200, 800, 150, '#35454f', 9) + town(2200, 800, 21)),
    await draw(
      8,
      `<rect y="${rails - 120}" width="3000" height="400" fill="url(#ground)"/>${sleepers}${track}<g transform="translate(60 0)">${depot(rails - 20)}</g>${shadows}${trams}${wire}`,
    ),
    await draw(
      14,
      [260, 1180, 2100, 3020].map((x) => post(x, 1010, 560)).join('') +
        `<rect y="1004" width="3400" height="90" fill="#15181a"/>`,
    ),
  ];
}

/** Lamps and headlights: light to add, far above 1, that carries no alpha of its own. */
async function lights(): Promise<Depth[]> {
  const lamps = [318, 1238, 2158, 3078].map((x) => `<circle cx="${x}" cy="452" r="96" fill="url(#glow)"/>`).join('');
  const heads = [
    [478, 826],
    [1208, 826],
    [2012, 806],
  ]
    .map(([x, y]) => `<circle cx="${x}" cy="${y}" r="64" fill="url(#glow)"/>`)
    .join('');
  return [await drawDepth(14, 2.5, lamps), await drawDepth(8, 3, heads)];
}

/** Dusk: opaque at the hills, fading to nothing at the top, so that another sky can go behind it. */
function sky(y: number): [number, number, number, number] {
  const down = Math.min(1, y / 800);
  const alpha = Math.min(1, Math.max(0, (down - 0.06) / 0.5));
  const soft = alpha * alpha * (3 - 2 * alpha);
  const warm = down ** 2.2;
  return [(0.045 + 0.85 * warm) * soft, (0.07 + 0.42 * warm) * soft, (0.13 + 0.2 * warm) * soft, soft];
}

/** Lays a row of premultiplied light over another, in place. */
function layOver(row: Float32Array, light: Float32Array): void {
  for (let at = 0; at < row.length; at += 4) {
    const over = light[at + 3]!;
    if (over === 0) continue;
    const under = 1 - over;
    row[at] = light[at]! + row[at]! * under;
    row[at + 1] = light[at + 1]! + row[at + 1]! * under;
    row[at + 2] = light[at + 2]! + row[at + 2]! * under;
    row[at + 3] = over + row[at + 3]! * under;
  }
}

/** Adds a row of light to another, in place; its alpha is left out. */
function add(row: Float32Array, light: Float32Array): void {
  for (let at = 0; at < row.length; at += 4) {
    if (light[at + 3] === 0) continue;
    row[at] = row[at]! + light[at]!;
    row[at + 1] = row[at + 1]! + light[at + 1]!;
    row[at + 2] = row[at + 2]! + light[at + 2]!;
  }
}

/** The part of a row of a depth that a frame shows. */
function rowOf({ layer, light, speed }: Depth, y: number, frame: number): Float32Array {
  const from = (y * layer.width + Math.round(speed * frame)) * 4;
  return light.subarray(from, from + width * 4);
}

function compose(depths: Depth[], glows: Depth[], frame: number): Image {
  const data = new Uint16Array(width * height * 4);
  const row = new Float32Array(width * 4);
  for (let y = 0; y < height; y += 1) {
    const [red, green, blue, alpha] = sky(y);
    for (let at = 0; at < row.length; at += 4) {
      row[at] = red;
      row[at + 1] = green;
      row[at + 2] = blue;
      row[at + 3] = alpha;
    }
    const behind = depths.findLastIndex(({ solid }) => y >= solid);
    for (const [index, depth] of depths.entries())
      if (y >= depth.top && index >= behind) layOver(row, rowOf(depth, y, frame));
    for (const glow of glows) if (y >= glow.top) add(row, rowOf(glow, y, frame));
    toHalfRow(row, data, y * width * 4);
  }
  return { width, height, channels: 4, sample: 'f16', data };
}

/** depot_pan: half-float OpenEXR, DWAA, premultiplied, linear, 24 fps, 1001 to 1096. */
export async function drawDepotPan(folder: string): Promise<void> {
  const depths = await layers();
  const glows = await lights();
  const writing = pLimit(2);
  const attributes = [
    { name: 'framesPerSecond', type: 'rational', value: [24, 1] },
    { name: 'owner', type: 'string', value: 'Tram museum' },
  ];
  const pending: Promise<void>[] = [];
  for (let frame = 0; frame < frames; frame += 1) {
    const image = compose(depths, glows, frame);
    pending.push(
      writing(() =>
        writeExr(join(folder, `depot_pan.${1001 + frame}.exr`), image, { compression: 'DWAA', attributes }),
      ),
    );
    if (pending.length >= 3) await pending.shift();
  }
  await Promise.all(pending);
}
