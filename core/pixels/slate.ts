import type { SampleFormat } from '../numbering/source.ts';
import { numberToHalf } from './half.ts';
import { makeSamples, maxCode, type Image } from './image.ts';

/** Digits and the letters of "MISSING", five dots across and seven down, a row a number whose bits are dots. */
const glyphs: Record<string, readonly number[]> = {
  '0': [14, 17, 19, 21, 25, 17, 14],
  '1': [4, 12, 4, 4, 4, 4, 14],
  '2': [14, 17, 1, 2, 4, 8, 31],
  '3': [31, 2, 4, 2, 1, 17, 14],
  '4': [2, 6, 10, 18, 31, 2, 2],
  '5': [31, 16, 30, 1, 1, 17, 14],
  '6': [6, 8, 16, 30, 17, 17, 14],
  '7': [31, 1, 2, 4, 8, 8, 8],
  '8': [14, 17, 17, 14, 17, 17, 14],
  '9': [14, 17, 17, 15, 1, 2, 12],
  '-': [0, 0, 0, 31, 0, 0, 0],
  M: [17, 27, 21, 21, 17, 17, 17],
  I: [14, 4, 4, 4, 4, 4, 14],
  S: [15, 16, 16, 14, 1, 1, 30],
  N: [17, 25, 21, 19, 17, 17, 17],
  G: [14, 17, 16, 23, 17, 17, 15],
};

/** Of 1: the ground, the bands above and below, and what is written. */
const ground = [0.11, 0.11, 0.12];
const band = [0.77, 0.54, 0.17];
const ink = [0.95, 0.94, 0.9];

/** A value of 0 to 1 as it is stored. */
function stored(value: number, sample: SampleFormat): number {
  const most = maxCode(sample);
  if (most !== undefined) return Math.round(value * most);
  return sample === 'f16' ? numberToHalf(value) : value;
}

/** A picture that stands for a missing frame: dark, banded, its number on it. It cannot be taken for footage. */
export function slate(
  { width, height }: { width: number; height: number },
  frame: number,
  sample: SampleFormat,
  channels: 1 | 2 | 3 | 4,
): Image {
  const data = makeSamples(sample, width * height * channels);
  const alpha = channels === 2 || channels === 4;
  const colours = channels > 2 ? 3 : 1;
  const paint = (left: number, top: number, right: number, bottom: number, colour: readonly number[]) => {
    const values = colour.map((value) => stored(value, sample));
    for (let y = Math.max(0, top); y < Math.min(height, bottom); y += 1)
      for (let x = Math.max(0, left); x < Math.min(width, right); x += 1) {
        const at = (y * width + x) * channels;
        for (let channel = 0; channel < colours; channel += 1) data[at + channel] = values[channel]!;
        if (alpha) data[at + channels - 1] = stored(1, sample);
      }
  };
  paint(0, 0, width, height, ground);
  const edge = Math.max(1, Math.round(height / 12));
  paint(0, 0, width, edge, band);
  paint(0, height - edge, width, height, band);
  const lines = ['MISSING', String(frame)];
  const dot = Math.max(1, Math.floor(Math.min(width / 50, height / 28)));
  lines.forEach((text, line) => {
    const left = Math.round(width / 2 - ((text.length * 6 - 1) * dot) / 2);
    const top = Math.round(height / 2 + (line === 0 ? -8.5 : 1.5) * dot);
    [...text].forEach((letter, at) =>
      glyphs[letter]!.forEach((row, y) => {
        for (let x = 0; x < 5; x += 1)
          if ((row >> (4 - x)) & 1)
            paint(left + (at * 6 + x) * dot, top + y * dot, left + (at * 6 + x + 1) * dot, top + (y + 1) * dot, ink);
      }),
    );
  });
  return { width, height, channels, sample, data };
}

/** Whether every pixel of a picture is alike. */
export function isBlank({ data, channels }: Image): boolean {
  for (let at = channels; at < data.length; at += 1) if (data[at] !== data[at - channels]) return false;
  return true;
}
