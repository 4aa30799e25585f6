import { eachColour, type Canvas } from './canvas.ts';
import type { Levels } from './picture.ts';

/** A value by the levels of a channel; below black the curve is mirrored, above white it goes on. */
export function levelled(value: number, black: number, white: number, gamma: number): number {
  const scaled = (value - black) / (white - black);
  if (gamma === 1) return scaled;
  return scaled < 0 ? -((-scaled) ** (1 / gamma)) : scaled ** (1 / gamma);
}

/** Black, white and gamma on values as stored, in place. A grey picture takes the first channel's. */
export function applyLevels(canvas: Canvas, { black, white, gamma }: Pick<Levels, 'black' | 'white' | 'gamma'>): void {
  const rests = [0, 1, 2].map((channel) => black[channel] === 0 && white[channel] === 1 && gamma[channel] === 1);
  eachColour(canvas, (value, channel) =>
    rests[channel] ? value : levelled(value, black[channel]!, white[channel]!, gamma[channel]!),
  );
}

/** Where the roll-off begins. */
export const kneeAt = 0.8;

/**
 * Light above 0.8 bent towards 1, which it never reaches: `knee + room * (1 - exp(-(light - knee) / room))`, with `room` being
 * 1 - knee. Value and slope go on unbroken at the knee.
 */
export function rolledOff(light: number): number {
  const room = 1 - kneeAt;
  return light <= kneeAt ? light : kneeAt + room * (1 - Math.exp(-(light - kneeAt) / room));
}
