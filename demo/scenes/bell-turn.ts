import { join } from 'node:path';
import { writeStill } from '@shale/media';
import { linearToSrgb, quantiser, type Image } from '@shale/core';
import { plainSettings } from '../settings.ts';

const width = 1280;
const height = 720;

/** The bell's outline: half width in pixels at a height of 0 (crown) to 1 (lip). */
function radius(v: number): number {
  const shoulder = 78 * Math.sqrt(Math.min(1, Math.max(0, v) / 0.12));
  const waist = 46 * v ** 1.4;
  const lip = 92 * Math.max(0, (v - 0.72) / 0.28) ** 2.1;
  return shoulder + waist + lip;
}

/** Bronze under a warm window and a cool room, by the normal; linear light. */
function shade(nx: number, ny: number, nz: number, tone: number): [number, number, number] {
  const window_ = Math.max(0, nx * -0.55 + ny * -0.3 + nz * 0.78);
  const key = window_ ** 28 * 2.2 + window_ ** 4 * 0.55;
  const rim = Math.max(0, nx * 0.92 - nz * 0.12 + 0.06) ** 3 * 0.5;
  const floor = Math.max(0, ny) ** 1.5 * 0.32;
  const base = 0.13 + 0.3 * Math.max(0, nz);
  return [
    (base * 0.84 + key * 1.0 + rim * 0.55 + floor * 0.9) * tone * 0.86,
    (base * 0.56 + key * 0.8 + rim * 0.62 + floor * 0.5) * tone * 0.72,
    (base * 0.22 + key * 0.45 + rim * 0.7 + floor * 0.2) * tone * 0.56,
  ];
}

/** A fine line around the bell at a height. */
const rule = (v: number, at: number): number => (Math.abs(v - at) < 0.02 ? Math.exp(-(((v - at) / 0.006) ** 2)) : 0);

/** How far a turn is through one of `count` equal parts, 0 to 1. */
const beatOf = (turns: number, count: number): number => turns * count - Math.floor(turns * count);

/** Ornament around the bell: four lines, and a ring of twelve lozenges that shows the turning. */
function ornament(v: number, angle: number): number {
  const turns = angle / (2 * Math.PI);
  const beat = Math.abs(beatOf(turns, 12) - 0.5) * 2;
  const lozenge = Math.abs(v - 0.52) / 0.075 + beat / 0.62 < 1 ? 1 : 0;
  const inner = Math.abs(v - 0.52) / 0.045 + beat / 0.36 < 1 ? 1 : 0;
  const letters = Math.abs(v - 0.86) < 0.022 && beatOf(turns, 40) < 0.55 ? 1 : 0;
  const lines = rule(v, 0.4) + rule(v, 0.64) + rule(v, 0.81) + rule(v, 0.91);
  return 1 - 0.45 * lines - 0.38 * lozenge + 0.55 * inner - 0.3 * letters;
}

const encode = quantiser('u16', linearToSrgb);

function drawFrame(turn: number): Image {
  const data = new Uint16Array(width * height * 4);
  const put = (x: number, y: number, light: [number, number, number], alpha: number) => {
    if (x < 0 || x >= width || y < 0 || y >= height || alpha <= 0) return;
    const at = (y * width + x) * 4;
    const over = Math.min(1, alpha);
    const under = (data[at + 3]! / 65_535) * (1 - over);
    for (let channel = 0; channel < 3; channel += 1) {
      const coded = encode(light[channel]!);
      data[at + channel] =
        under > 0 ? Math.round((coded * over + data[at + channel]! * under) / (over + under)) : coded;
    }
    data[at + 3] = Math.round((over + under) * 65_535);
  };
  const middle = width / 2;
  const top = 150;
  const tall = 430;
  const swing = 16 * Math.sin(turn * 2);

  ball(put, middle + swing, top + tall + 26, 40, 0.42);
  for (let y = top; y <= top + tall; y += 1) {
    const v = (y - top) / tall;
    const r = radius(v);
    const slope = (radius(Math.min(1, v + 0.004)) - radius(Math.max(0, v - 0.004))) / (0.008 * tall);
    const edge = Math.min(1, (top + tall + 0.5 - y) / 1);
    for (let x = Math.floor(middle - r - 1); x <= Math.ceil(middle + r + 1); x += 1) {
      const across = (x + 0.5 - middle) / r;
      const coverage = Math.min(1, r - Math.abs(x + 0.5 - middle) + 0.5) * edge;
      if (coverage <= 0) continue;
      const nx = Math.max(-1, Math.min(1, across));
      const nz = Math.sqrt(1 - nx * nx);
      const length = Math.hypot(1, slope);
      put(x, y, shade(nx / length, -slope / length, nz / length, ornament(v, Math.asin(nx) + turn)), coverage);
    }
  }
  // The dark mouth of the bell, then its crown.
  const lip = radius(1);
  for (let y = -16; y <= 16; y += 1) {
    const r = lip * Math.sqrt(Math.max(0, 1 - (y / 16) ** 2));
    if (y < 0) continue;
    for (let x = Math.floor(middle - r); x <= Math.ceil(middle + r); x += 1) {
      const coverage = Math.min(1, r - Math.abs(x + 0.5 - middle) + 0.5);
      put(x, top + tall + y, [0.05 + 0.04 * (y / 16), 0.03 + 0.02 * (y / 16), 0.012], coverage);
    }
  }
  ball(put, middle, top - 22, 34, 0.9);
  ball(put, middle - 34 * Math.cos(turn), top - 2, 20, 0.8);
  ball(put, middle + 34 * Math.cos(turn), top - 2, 20, 0.8);
  return { width, height, channels: 4, sample: 'u16', data };
}

type Put = (x: number, y: number, light: [number, number, number], alpha: number) => void;

function ball(put: Put, cx: number, cy: number, r: number, tone: number): void {
  for (let y = Math.floor(cy - r); y <= cy + r; y += 1) {
    for (let x = Math.floor(cx - r); x <= cx + r; x += 1) {
      const nx = (x + 0.5 - cx) / r;
      const ny = (y + 0.5 - cy) / r;
      const from = Math.hypot(nx, ny);
      if (from >= 1 + 1 / r) continue;
      const nz = Math.sqrt(Math.max(0, 1 - from * from));
      put(x, y, shade(nx, ny, nz, tone), (1 - from) * r + 0.5);
    }
  }
}

/** bell_turn: 16-bit PNG, straight alpha, numbers not padded, 1 to 60 with 37 missing. */
export async function drawBellTurn(folder: string): Promise<void> {
  for (let frame = 1; frame <= 60; frame += 1) {
    if (frame === 37) continue;
    await writeStill(
      join(folder, `bell_turn_${frame}.png`),
      'png',
      drawFrame(((frame - 1) / 60) * 2 * Math.PI),
      plainSettings,
    );
  }
}
