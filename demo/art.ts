import { randomFrom } from './random.ts';

/** A tram of the museum, seen from the side: 300 by 150 around its own origin at the rails' left end. */
export function tram(body: string, trim: string, lit: boolean): string {
  const glass = lit ? 'url(#lit)' : '#9fb4b8';
  const windows = [0, 1, 2, 3, 4]
    .map(
      (at) =>
        `<rect x="${26 + at * 50}" y="38" width="42" height="36" rx="4" fill="${glass}" stroke="#2a1a14" stroke-width="3"/><path d="M${28 + at * 50} 49h38" stroke="#2a1a14" stroke-width="1.6" opacity=".55"/>`,
    )
    .join('');
  const wheel = (x: number) =>
    `<circle cx="${x}" cy="132" r="15" fill="#1b1f22"/><circle cx="${x}" cy="132" r="8" fill="#5a5f60"/><circle cx="${x}" cy="132" r="3" fill="#15181a"/>`;
  return `<g>
    <path d="M128 14 L158 -28 L172 -28 M158 -28 L150 -40 M120 14 h62" stroke="#20262a" stroke-width="4" fill="none" stroke-linecap="round"/>
    <path d="M142 -41 h22" stroke="#20262a" stroke-width="5" stroke-linecap="round"/>
    <path d="M4 30 Q8 12 34 12 H266 Q292 12 296 30 L300 104 Q300 116 288 116 H12 Q0 116 0 104 Z" fill="${body}"/>
    <path d="M4 30 Q8 12 34 12 H266 Q292 12 296 30 Z" fill="${trim}"/>
    <path d="M14 20 H286" stroke="#fff" stroke-opacity=".25" stroke-width="3"/>
    <rect x="14" y="34" width="272" height="44" rx="6" fill="#2a1a14" opacity=".85"/>${windows}
    <rect x="0" y="84" width="300" height="9" fill="#f2e3bd"/><rect x="0" y="95" width="300" height="2.5" fill="#f2e3bd" opacity=".7"/>
    <g transform="translate(150 104)"><circle r="9" fill="#f2e3bd"/><path d="M-4 -3h8v5h-8zM-2 4h4" stroke="${body}" stroke-width="2" fill="none"/></g>
    <path d="M16 116 H284 L276 126 H24 Z" fill="#23282b"/>${wheel(56)}${wheel(104)}${wheel(196)}${wheel(244)}
    <rect x="282" y="92" width="14" height="12" rx="3" fill="#fff3c4"/><rect x="2" y="96" width="9" height="9" rx="2" fill="#c0392b"/>
  </g>`;
}

/** Gradients that the drawings refer to. */
export const defs = `<defs>
  <linearGradient id="lit" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#fff0bf"/><stop offset="1" stop-color="#f3bf63"/></linearGradient>
  <linearGradient id="roof" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#6b7f86"/><stop offset="1" stop-color="#3f5058"/></linearGradient>
  <linearGradient id="ground" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#6a6257"/><stop offset="1" stop-color="#2e2b29"/></linearGradient>
  <radialGradient id="glow"><stop offset="0" stop-color="#ffdf9a" stop-opacity=".95"/><stop offset=".25" stop-color="#ffb85a" stop-opacity=".42"/><stop offset="1" stop-color="#ff9a3a" stop-opacity="0"/></radialGradient>
</defs>`;

/** A line of hills across a width. */
export function hills(width: number, base: number, height: number, fill: string, seed: number): string {
  const random = randomFrom(seed);
  let path = `M0 ${base}`;
  for (let x = 0; x <= width; x += width / 14)
    path += ` L${x.toFixed(0)} ${(base - height * (0.35 + 0.65 * random())).toFixed(0)}`;
  return `<path d="${path} L${width} ${base + 400} L0 ${base + 400} Z" fill="${fill}" stroke="${fill}" stroke-width="30" stroke-linejoin="round"/>`;
}

/** Roofs and lit windows of a town. */
export function town(width: number, base: number, seed: number): string {
  const random = randomFrom(seed);
  let out = '';
  for (let x = -20; x < width;) {
    const wide = 60 + random() * 110;
    const tall = 70 + random() * 150;
    const shade = ['#2b3a44', '#31424b', '#263540', '#384650'][Math.floor(random() * 4)]!;
    const roof =
      random() < 0.5
        ? `<path d="M${x - 5} ${base - tall} h${wide + 10} l${-wide / 2 - 5} ${-26 - random() * 30}z" fill="#22303a"/>`
        : '';
    out += `<rect x="${x}" y="${base - tall}" width="${wide}" height="${tall + 60}" fill="${shade}"/>${roof}`;
    for (let wy = base - tall + 16; wy < base - 14; wy += 26) {
      for (let wx = x + 10; wx < x + wide - 14; wx += 22) {
        if (random() < 0.34)
          out += `<rect x="${wx.toFixed(0)}" y="${wy.toFixed(0)}" width="9" height="13" fill="#f0b962" opacity="${(0.5 + random() * 0.5).toFixed(2)}"/>`;
      }
    }
    x += wide + random() * 16;
  }
  return out;
}

/** The depot: a hall of arches with trams standing in them, 1,500 wide, its floor at `base`. */
export function depot(base: number): string {
  const bays = [0, 1, 2, 3]
    .map((bay) => {
      const x = 40 + bay * 360;
      const lamps = `<circle cx="${x + 160}" cy="${base - 250}" r="70" fill="url(#glow)"/>`;
      return `<path d="M${x} ${base} V${base - 190} A160 160 0 0 1 ${x + 320} ${base - 190} V${base} Z" fill="#1d2529"/>
        <path d="M${x + 14} ${base} V${base - 190} A146 146 0 0 1 ${x + 306} ${base - 190} V${base} Z" fill="#39352f"/>${lamps}`;
    })
    .join('');
  return `<path d="M0 ${base} V${base - 350} L70 ${base - 420} H1420 L1490 ${base - 350} V${base} Z" fill="#8a5a45"/>
    <path d="M-20 ${base - 344} L70 ${base - 436} H1420 L1510 ${base - 344} Z" fill="url(#roof)"/>
    <path d="M0 ${base - 330} H1490" stroke="#d8b48c" stroke-width="6"/>${bays}
    ${[0, 1, 2, 3].map((bay) => `<path d="M${40 + bay * 360} ${base - 190} A160 160 0 0 1 ${360 + bay * 360} ${base - 190}" stroke="#e2c39a" stroke-width="9" fill="none"/>`).join('')}`;
}

/** A lamp post with its arm, foot at `base`. */
export const post = (x: number, base: number, tall: number): string =>
  `<path d="M${x} ${base} V${base - tall} q0 -26 26 -26 h34" stroke="#161b1e" stroke-width="9" fill="none" stroke-linecap="round"/><path d="M${x + 46} ${base - tall - 24} h28 l8 16 h-44z" fill="#161b1e"/><rect x="${x - 9}" y="${base - 34}" width="18" height="34" fill="#161b1e"/>`;
