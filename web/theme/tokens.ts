/** The colours that a scheme names; contrast of text on its ground is 4.5 to 1 or more (WCAG 2.2, 1.4.3). */
export interface Tokens {
  ground: string;
  sheet: string;
  ink: string;
  soft: string;
  rule: string;
  ruleStrong: string;
  act: string;
  onAct: string;
  actWash: string;
  doubt: string;
  doubtWash: string;
  fault: string;
  faultWash: string;
  /** A strip's lightest and heaviest frame, as HSL lightness in percent. */
  strata: { hue: number; saturation: number; light: number; heavy: number };
}

/** Daylight: limestone, near-black ink, verdigris, ochre, cinnabar. */
export const daylight: Tokens = {
  ground: '#f4f2ec',
  sheet: '#fcfbf8',
  ink: '#20262a',
  soft: '#596267',
  rule: '#ddd8cc',
  ruleStrong: '#c9c2b3',
  act: '#1f6b5e',
  onAct: '#ffffff',
  actWash: '#e2eeea',
  doubt: '#8a5606',
  doubtWash: '#f8ecd3',
  fault: '#a63a24',
  faultWash: '#f7e2dc',
  strata: { hue: 45, saturation: 8, light: 84, heavy: 50 },
};

/** Basalt: the same at night. */
export const basalt: Tokens = {
  ground: '#1a1d1f',
  sheet: '#222628',
  ink: '#eceae3',
  soft: '#a9aca8',
  rule: '#353a3c',
  ruleStrong: '#4c5254',
  act: '#6fc2b0',
  onAct: '#0e2420',
  actWash: '#22352f',
  doubt: '#e0ab52',
  doubtWash: '#3a301b',
  fault: '#f0907a',
  faultWash: '#402722',
  strata: { hue: 45, saturation: 6, light: 38, heavy: 74 },
};
