import { defs, depot, hills, post, town, tram } from '../art.ts';
import { blank, drawSvg, lay, type Layer } from '../raster.ts';

/** A place in the yard by day or by night, seen by a fixed camera, and the trams that cross it. */
export interface YardView {
  width: number;
  height: number;
  /** Drawn over the sky once. */
  scenery: string;
  sky: [string, string];
  /** Each tram's drawing, its line on the ground, its start and its speed in pixels per frame. */
  trams: { art: string; scale: number; y: number; start: number; speed: number }[];
  night: boolean;
}

const track = (y: number, width: number): string =>
  `<path d="M0 ${y}H${width}M0 ${y + 26}H${width}" stroke="#8f8877" stroke-width="4"/>` +
  Array.from(
    { length: Math.ceil(width / 30) },
    (_, at) => `<path d="M${at * 30} ${y - 4}l-8 36" stroke="#3d362f" stroke-width="8"/>`,
  ).join('') +
  `<path d="M0 ${y}H${width}M0 ${y + 26}H${width}" stroke="#b9b19e" stroke-width="3"/>`;

const ground = (y: number, width: number): string =>
  `<rect y="${y}" width="${width}" height="400" fill="url(#ground)"/>`;

/** The four yard cameras and the platform, all 1280 by 720. */
export function yardView(which: 'a' | 'b' | 'c' | 'd' | 'platform' | 'night'): YardView {
  const red = tram('#b5472e', '#8f3421', which === 'd' || which === 'night');
  const green = tram('#2f6b5c', '#21503f', which === 'd');
  const ochre = tram('#c08a2e', '#8c611b', false);
  const size = { width: 1280, height: 720 };
  switch (which) {
    case 'a':
      return {
        ...size,
        night: false,
        sky: ['#7fa6b8', '#e9e2c8'],
        scenery: hills(1280, 430, 170, '#6f8388', 3) + town(1280, 470, 4) + ground(470, 1280) + track(600, 1280),
        trams: [{ art: red, scale: 1.5, y: 390, start: -500, speed: 14 }],
      };
    case 'b':
      return {
        ...size,
        night: false,
        sky: ['#8fb0bb', '#efe7cf'],
        scenery:
          ground(500, 1280) +
          `<g transform="translate(40 0) scale(.8)">${depot(640)}</g>` +
          track(560, 1280) +
          track(660, 1280),
        trams: [
          { art: green, scale: 1.35, y: 380, start: 1300, speed: -9 },
          { art: ochre, scale: 1.7, y: 426, start: -600, speed: 17 },
        ],
      };
    case 'c':
      return {
        ...size,
        night: false,
        sky: ['#c98f6a', '#ecd2a0'],
        scenery:
          hills(1280, 420, 210, '#57555c', 8) +
          ground(440, 1280) +
          track(600, 1280) +
          post(240, 640, 380) +
          post(940, 640, 380),
        trams: [{ art: ochre, scale: 1.6, y: 375, start: 1300, speed: -12 }],
      };
    case 'd':
      return {
        ...size,
        night: true,
        sky: ['#141c2b', '#3a4257'],
        scenery:
          town(1280, 450, 14) +
          ground(450, 1280) +
          track(600, 1280) +
          `<circle cx="620" cy="180" r="120" fill="url(#glow)"/>` +
          post(560, 640, 430),
        trams: [{ art: red, scale: 1.5, y: 390, start: -480, speed: 16 }],
      };
    case 'platform':
      return {
        ...size,
        night: false,
        sky: ['#274257', '#ecd2a0'],
        scenery:
          hills(1280, 470, 240, '#3d4a50', 6) +
          town(1280, 500, 31) +
          ground(500, 1280) +
          track(590, 1280) +
          `<rect y="640" width="1280" height="80" fill="#8b8478"/><rect y="640" width="1280" height="9" fill="#e8d7a6"/>` +
          post(180, 648, 460) +
          post(1080, 648, 460),
        trams: [{ art: red, scale: 1.7, y: 352, start: -260, speed: 7 }],
      };
    case 'night':
      return {
        ...size,
        night: true,
        sky: ['#000', '#000'],
        scenery: '',
        trams: [{ art: red, scale: 1.9, y: 250, start: 40, speed: 14 }],
      };
  }
}

/** A view made ready at a size of 1280 by 720 times `zoom`: call it with a frame number to get that frame's picture. */
export async function prepareView(view: YardView, transparent = false, zoom = 1): Promise<(frame: number) => Layer> {
  const width = view.width * zoom;
  const height = view.height * zoom;
  const zoomed = (content: string) => `${defs}<g transform="scale(${zoom})">${content}</g>`;
  const sky = `<defs><linearGradient id="sky" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="${view.sky[0]}"/><stop offset=".7" stop-color="${view.sky[1]}"/></linearGradient></defs><rect width="${view.width}" height="${view.height}" fill="url(#sky)"/>`;
  const back = await drawSvg(width, height, zoomed(transparent ? '' : sky + view.scenery));
  const cars = await Promise.all(
    view.trams.map(async ({ art, scale, ...rest }) => {
      const glow = view.night ? '<circle cx="300" cy="98" r="95" fill="url(#glow)"/>' : '';
      const content = `<g transform="translate(60 ${50 * scale}) scale(${scale})">${art}${glow}</g>`;
      return {
        layer: await drawSvg(Math.ceil((120 + 400 * scale) * zoom), Math.ceil(240 * scale * zoom), zoomed(content)),
        scale,
        ...rest,
      };
    }),
  );
  return (frame) => {
    const picture = blank(width, height);
    picture.data.set(back.data);
    for (const { layer, y, start, speed, scale } of cars) {
      const sway = Math.round(2 * Math.sin(frame / 3));
      lay(picture, layer, Math.round((start + speed * frame - 60) * zoom), Math.round((y - 50 * scale) * zoom) + sway);
    }
    return picture;
  };
}
