import { join } from 'node:path';
import { writeStill } from '@shale/media';
import { drawSvg } from '../raster.ts';
import { plainSettings } from '../settings.ts';

const drawings = 12;

/** A limb of two bones as a thick stroke; angles in degrees from straight down. */
function limb(
  x: number,
  y: number,
  upper: number,
  lower: number,
  length: number,
  colour: string,
  thick: number,
): string {
  const bend = (angle: number) =>
    [Math.sin((angle * Math.PI) / 180) * length, Math.cos((angle * Math.PI) / 180) * length] as const;
  const [ux, uy] = bend(upper);
  const [lx, ly] = bend(lower);
  const line = `M${x} ${y} L${(x + ux).toFixed(1)} ${(y + uy).toFixed(1)} L${(x + ux + lx).toFixed(1)} ${(y + uy + ly).toFixed(1)}`;
  return (
    `<path d="${line}" stroke="#14181a" stroke-width="${thick + 9}" fill="none" stroke-linecap="round" stroke-linejoin="round"/>` +
    `<path d="${line}" stroke="${colour}" stroke-width="${thick}" fill="none" stroke-linecap="round" stroke-linejoin="round"/>`
  );
}

function conductor(drawing: number): string {
  const phase = (drawing / drawings) * 2 * Math.PI;
  const stride = Math.sin(phase);
  const bob = -Math.abs(Math.cos(phase)) * 14;
  const knee = (at: number) => Math.max(0, Math.sin(at + 1.2)) * 48;
  const leg = (at: number, colour: string) =>
    limb(480, 322 + bob, Math.sin(at) * 30, Math.sin(at) * 30 - knee(at), 78, colour, 30);
  const arm = (at: number, colour: string) =>
    limb(480, 206 + bob, -Math.sin(at) * 34, -Math.sin(at) * 34 + 22, 56, colour, 22);
  const lanternX =
    480 + Math.sin(((-stride * 34 + 22) * Math.PI) / 180) * 56 - Math.sin((stride * 34 * Math.PI) / 180) * 56;
  return `${arm(phase + Math.PI, '#24414f')}${leg(phase + Math.PI, '#1d2f3a')}${leg(phase, '#27414f')}
    <path d="M432 ${188 + bob} q48 -26 96 0 l12 146 q-60 22 -120 0 z" fill="#2f5566" stroke="#14181a" stroke-width="5" stroke-linejoin="round"/>
    <path d="M480 ${190 + bob} v140" stroke="#14181a" stroke-width="4"/>${[0, 1, 2, 3].map((at) => `<circle cx="494" cy="${216 + bob + at * 30}" r="6" fill="#e0b04e" stroke="#14181a" stroke-width="2.5"/>`).join('')}
    <path d="M430 ${236 + bob} l104 62" stroke="#7a4a2b" stroke-width="10"/><rect x="518" y="${286 + bob}" width="42" height="34" rx="6" fill="#8f5a35" stroke="#14181a" stroke-width="4"/>
    <circle cx="488" cy="${138 + bob}" r="44" fill="#e3b48e" stroke="#14181a" stroke-width="5"/>
    <path d="M440 ${118 + bob} q46 -58 96 -6 l26 10 q-4 10 -26 8 q-50 -14 -98 2 z" fill="#22363f" stroke="#14181a" stroke-width="5" stroke-linejoin="round"/>
    <path d="M450 ${102 + bob} q36 -24 72 -2" stroke="#c0392b" stroke-width="8" fill="none"/><circle cx="508" cy="${136 + bob}" r="5" fill="#14181a"/>
    <path d="M498 ${158 + bob} q20 12 36 -2" stroke="#3a2418" stroke-width="8" fill="none" stroke-linecap="round"/><path d="M530 ${138 + bob} q14 8 2 14" stroke="#14181a" stroke-width="4" fill="#e3b48e"/>
    ${arm(phase, '#35617a')}
    <g transform="translate(${lanternX.toFixed(1)} ${(312 + bob).toFixed(1)})"><path d="M0 -8v14" stroke="#14181a" stroke-width="4"/><rect x="-15" y="6" width="30" height="38" rx="6" fill="#f7d98a" stroke="#14181a" stroke-width="5"/><path d="M-18 6h36M-18 44h36" stroke="#14181a" stroke-width="6"/></g>`;
}

/** conductor_walk: TGA with alpha; twelve drawings a second, each held for two files of a 24-frame second. */
export async function drawConductorWalk(folder: string): Promise<void> {
  for (let drawing = 0; drawing < drawings; drawing += 1) {
    const image = { ...(await drawSvg(960, 540, conductor(drawing))), channels: 4 as const, sample: 'u8' as const };
    for (const hold of [1, 2]) {
      const number = (drawing * 2 + hold).toString().padStart(3, '0');
      await writeStill(join(folder, `conductor_walk-${number}.tga`), 'tga', image, plainSettings);
    }
  }
}
