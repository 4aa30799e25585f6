import { join } from 'node:path';
import { writeStill } from '@shale/media';
import { drawSvg, pixelText } from '../raster.ts';
import { plainSettings } from '../settings.ts';

const width = 960;
const height = 540;
const frames = 48;

/** A ticket that turns over and over; `rough` is the unpainted draft of it. */
function ticket(frame: number, rough: boolean): string {
  const turn = (frame / frames) * 2 * Math.PI;
  const wide = Math.cos(turn);
  const back = wide < 0;
  const paper = rough ? '#c9c9c4' : back ? '#e9c98a' : '#f1dfb6';
  const ink = rough ? '#9a9a96' : '#7d6a46';
  const rows = [0, 1, 2]
    .map((row) => `<rect x="-200" y="${-6 + row * 34}" width="${250 - row * 40}" height="11" fill="${ink}"/>`)
    .join('');
  const front = rough
    ? rows
    : `${rows}<rect x="-200" y="-94" width="250" height="40" fill="#b5472e"/>${pixelText('TRAM MUSEUM', -190, -86, 5, '#f6e8c8')}
       <circle cx="172" cy="-8" r="40" fill="none" stroke="#1f6b5e" stroke-width="11"/><path d="M152 -8l14 16 30 -34" stroke="#1f6b5e" stroke-width="9" fill="none"/>${pixelText('0417', 132, 66, 7, '#7d6a46')}`;
  const reverse = `<path d="M-230 -90L230 90M-230 -20L150 130M-150 -130L230 20" stroke="${ink}" stroke-width="7" opacity=".4"/>`;
  const light = rough ? 0 : Math.abs(Math.sin(turn)) * 0.35;
  const body = `M-262 -136 H90 a14 14 0 0 0 28 0 H262 V136 H118 a14 14 0 0 0 -28 0 H-262 Z`;
  return `<g transform="translate(${width / 2} ${height / 2 + 16 * Math.sin(turn * 2)}) rotate(${-8 + 4 * Math.sin(turn)}) scale(${Math.abs(wide) < 0.03 ? 0.03 : wide} 1)">
    <path d="${body}" fill="${paper}"/><path d="M104 -110V110" stroke="${ink}" stroke-width="4" stroke-dasharray="12 11"/>
    ${back ? reverse : front}<path d="${body}" fill="#20160a" opacity="${light.toFixed(3)}"/></g>`;
}

/** ticket_loop: 8-bit PNG with alpha, 60 fps by its folder's name, 0 to 47, with twelve drafts beside it. */
export async function drawTicketLoop(folder: string): Promise<void> {
  for (let frame = 0; frame < frames; frame += 1) {
    const number = frame.toString().padStart(4, '0');
    const image = {
      ...(await drawSvg(width, height, ticket(frame, false))),
      channels: 4 as const,
      sample: 'u8' as const,
    };
    await writeStill(join(folder, `ticket_loop.${number}.png`), 'png', image, plainSettings);
    if (frame % 4 !== 0) continue;
    const draft = {
      ...(await drawSvg(width, height, ticket(frame, true))),
      channels: 4 as const,
      sample: 'u8' as const,
    };
    await writeStill(join(folder, `draft_ticket_loop.${number}.png`), 'png', draft, plainSettings);
  }
}
