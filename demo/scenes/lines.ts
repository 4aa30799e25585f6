import { join } from 'node:path';
import pLimit from 'p-limit';
import type { Image } from '@shale/core';
import { writeExr } from '@shale/media';
import { defs, depot, hills, post, town, tram } from '../art.ts';
import { toHalfRow } from '../half.ts';
import { drawSvg, toLinear } from '../raster.ts';

const width = 640;
const height = 360;
const rails = 300;

/** A shot of the day on the tram. */
interface Shot {
  /** Its folder. */
  line: string;
  stem: string;
  frames: number;
  /** The colour of the sky at the horizon, and what the light multiplies red, green and blue by. */
  sky: string;
  light: [number, number, number];
  /** The tram: its colours, where it is at first and how many pixels it goes each frame; absent where none passes. */
  passing?: { body: string; trim: string; from: number; speed: number; scale: number };
  /** Pixels that what is far goes to the left each frame. */
  pan: number;
  /** What stands behind the tram. */
  behind: 'town' | 'depot' | 'hills';
  isNight?: boolean;
  /** Drops on the window that it is seen through. */
  isRaining?: boolean;
  /** Frames that were never rendered. */
  missing?: number[];
  /** Whether nothing says its rate. */
  isSilent?: boolean;
}

const red = { body: '#b5472e', trim: '#8f3421' };
const green = { body: '#2f6b5c', trim: '#21503f' };
const cream = { body: '#c9b27a', trim: '#8d7444' };

const shots: readonly Shot[] = [
  {
    line: 'line_01',
    stem: 'first_light',
    frames: 20,
    sky: '#8b93b8',
    light: [0.55, 0.6, 0.8],
    pan: 0.5,
    behind: 'depot',
  },
  {
    line: 'line_02',
    stem: 'crew_call',
    frames: 16,
    sky: '#c9a9a0',
    light: [0.85, 0.75, 0.75],
    pan: 0,
    behind: 'hills',
    passing: { ...cream, from: 120, speed: 2, scale: 1 },
  },
  {
    line: 'line_03',
    stem: 'yard_wide',
    frames: 24,
    sky: '#d9c3a0',
    light: [1, 0.9, 0.78],
    pan: 1,
    behind: 'depot',
    isSilent: true,
    passing: { ...red, from: -120, speed: 9, scale: 0.8 },
  },
  {
    line: 'line_04',
    stem: 'depot_track',
    frames: 24,
    sky: '#bfd0d8',
    light: [1, 1, 1],
    pan: 3,
    behind: 'depot',
    passing: { ...green, from: 200, speed: 2, scale: 0.9 },
  },
  {
    line: 'line_05',
    stem: 'depot_track',
    frames: 20,
    sky: '#bcd3de',
    light: [1.05, 1.05, 1.05],
    pan: -3,
    behind: 'depot',
    passing: { ...red, from: 60, speed: 3, scale: 0.9 },
  },
  {
    line: 'line_06',
    stem: 'signal_arm',
    frames: 18,
    sky: '#b8d2e0',
    light: [1.1, 1.1, 1.1],
    pan: 0.4,
    behind: 'hills',
  },
  {
    line: 'line_07',
    stem: 'conductor',
    frames: 24,
    sky: '#b5cfdc',
    light: [1.1, 1.08, 1],
    pan: 2,
    behind: 'town',
    passing: { ...cream, from: 20, speed: 6, scale: 1.2 },
  },
  {
    line: 'line_08',
    stem: 'yard_wide',
    frames: 24,
    sky: '#d6bf95',
    light: [1.1, 0.98, 0.8],
    pan: 1,
    behind: 'depot',
    isSilent: true,
    passing: { ...green, from: 420, speed: -8, scale: 0.8 },
  },
  {
    line: 'line_09',
    stem: 'night_ride',
    frames: 26,
    sky: '#1e2a44',
    light: [0.22, 0.26, 0.42],
    pan: 5,
    behind: 'town',
    isNight: true,
    passing: { ...red, from: 160, speed: 1, scale: 1 },
  },
  {
    line: 'line_10',
    stem: 'rain_glass',
    frames: 24,
    sky: '#55616c',
    light: [0.4, 0.45, 0.52],
    pan: 4,
    behind: 'town',
    isRaining: true,
    missing: [1009, 1010],
  },
  {
    line: 'line_11',
    stem: 'platform',
    frames: 22,
    sky: '#3a3550',
    light: [0.4, 0.36, 0.5],
    pan: 0.6,
    behind: 'town',
    isNight: true,
    passing: { ...green, from: 560, speed: -14, scale: 1 },
  },
  {
    line: 'line_12',
    stem: 'last_tram',
    frames: 22,
    sky: '#141c30',
    light: [0.16, 0.19, 0.34],
    pan: 0.8,
    behind: 'hills',
    isNight: true,
    passing: { ...cream, from: 180, speed: 12, scale: 0.9 },
  },
];

/** The sky, opaque at the horizon and clear at the top, so that another can go behind it. */
const skyOf = (colour: string): string =>
  `<linearGradient id="sky" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="${colour}" stop-opacity="0"/><stop offset=".55" stop-color="${colour}"/></linearGradient><rect width="${width}" height="${height}" fill="url(#sky)"/>`;

const behindOf = ({ behind, line }: Shot, seed: number): string =>
  hills(1400, 250, 90, '#4a5d6b', seed) +
  (behind === 'hills'
    ? hills(1400, 285, 70, '#3b4d53', seed + 3)
    : behind === 'town'
      ? `<g transform="translate(0 120) scale(.6)">${town(2200, 270, seed + 1)}</g>`
      : `<g transform="translate(${line === 'line_01' ? 40 : -60} ${rails - 300 * 0.62}) scale(.62)">${depot(300)}</g>`);

/** What makes a shot one of its own: the arm of a signal, drops on a window. */
function extraOf(shot: Shot, at: number): string {
  if (shot.stem === 'signal_arm') {
    const turn = -45 * Math.min(1, Math.max(0, (at - 4) / 8));
    return `<g transform="translate(330 90)"><rect x="-5" y="0" width="10" height="215" fill="#20262a"/><g transform="rotate(${turn})"><rect x="0" y="-9" width="96" height="18" rx="3" fill="#b5472e"/><rect x="70" y="-9" width="12" height="18" fill="#f2e3bd"/></g><circle r="10" fill="#20262a"/></g>`;
  }
  if (!shot.isRaining) return '';
  return Array.from({ length: 60 }, (_, drop) => {
    const x = (drop * 97) % width;
    const y = ((drop * 53) % height) + at * (2 + (drop % 5));
    return `<ellipse cx="${x}" cy="${y % height}" rx="${2 + (drop % 3)}" ry="${4 + (drop % 4)}" fill="#dfe8ee" opacity=".5"/>`;
  }).join('');
}

function drawingOf(shot: Shot, at: number, seed: number): string {
  const { passing, pan, isNight } = shot;
  const x = passing ? passing.from + passing.speed * at : 0;
  const drawn = passing
    ? `<g transform="translate(${x} ${rails - 147 * passing.scale}) scale(${passing.scale})">${tram(passing.body, passing.trim, isNight ?? false)}</g>`
    : '';
  const shift = pan < 0 ? -200 : 0;
  const near = [100, 420, 740, 1060].map((place) => post(place, 352, 190)).join('');
  return `${defs}${skyOf(shot.sky)}<g transform="translate(${shift - pan * at} 0)">${behindOf(shot, seed)}</g>
    <rect y="${rails - 18}" width="${width}" height="90" fill="url(#ground)"/>
    <path d="M0 ${rails}H${width}M0 ${rails + 14}H${width}" stroke="#a59c8a" stroke-width="3"/>${drawn}${extraOf(shot, at)}
    <g transform="translate(${-60 - pan * 2.4 * at} 0)">${near}</g>`;
}

/** Headlights and lamps: light to add, above 1, that carries no alpha of its own. */
function glowOf({ passing, pan, isNight }: Shot, at: number): string | undefined {
  if (!isNight) return undefined;
  const lamps = [164, 484, 804, 1124]
    .map((x) => `<circle cx="${x - 60 - pan * 2.4 * at}" cy="146" r="46" fill="url(#glow)"/>`)
    .join('');
  if (!passing) return defs + lamps;
  const ahead = passing.speed < 0 ? 6 : 290;
  const x = passing.from + passing.speed * at + ahead * passing.scale;
  return `${defs}${lamps}<circle cx="${x}" cy="${rails - 50 * passing.scale}" r="52" fill="url(#glow)"/>`;
}

async function drawFrame(shot: Shot, at: number, seed: number): Promise<Image> {
  const picture = toLinear(await drawSvg(width, height, drawingOf(shot, at, seed)));
  const glow = glowOf(shot, at);
  const added = glow === undefined ? undefined : toLinear(await drawSvg(width, height, glow), 2.5);
  for (let place = 0; place < picture.length; place += 4)
    for (let channel = 0; channel < 3; channel += 1)
      picture[place + channel] = picture[place + channel]! * shot.light[channel]! + (added?.[place + channel] ?? 0);
  const data = new Uint16Array(picture.length);
  toHalfRow(picture, data, 0);
  return { width, height, channels: 4, sample: 'f16', data };
}

/**
 * lines: a day on the tram in twelve short shots. Half-float OpenEXR, premultiplied, linear, from 1001 on; two have no rate, one has a
 * gap, and some share a name.
 */
export async function drawLines(into: (line: string) => string): Promise<void> {
  const side = pLimit(2);
  await Promise.all(
    shots.map(async (shot, index) => {
      const folder = into(shot.line);
      const attributes = [
        ...(shot.isSilent
          ? []
          : [{ name: 'framesPerSecond', type: 'rational' as const, value: [24, 1] as [number, number] }]),
        { name: 'owner', type: 'string' as const, value: 'Tram museum' },
      ];
      for (let at = 0; at < shot.frames; at += 1) {
        const number = 1001 + at;
        if (shot.missing?.includes(number)) continue;
        await side(async () => {
          const path = join(folder, `${shot.stem}.${number}.exr`);
          await writeExr(path, await drawFrame(shot, at, 40 + index), { compression: 'ZIP', attributes });
        });
      }
    }),
  );
}
