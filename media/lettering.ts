import type { SKRSContext2D } from '@napi-rs/canvas';
import type { Letters } from '@shale/core';
import { canvas, families } from './canvas.ts';

/** A text that is written into a picture, and where it stands across. */
export interface Line {
  text: string;
  at: 'left' | 'middle' | 'right';
}

const aligned = { left: 'left', middle: 'center', right: 'right' } as const;

/** Numbers stand in the fixed width, so that they do not jump from picture to picture. */
const fontOf = (height: number, weight = 500): string =>
  `${weight} ${height}px "${families.numbers}", "${families.text}"`;

/** Letters of a canvas as shade and cover. */
function lettersOf(context: SKRSContext2D, left: number, top: number, width: number, height: number): Letters {
  const { data } = context.getImageData(0, 0, width, height);
  const letters = new Uint8Array(width * height * 2);
  for (let pixel = 0; pixel < width * height; pixel += 1) {
    letters[pixel * 2] = data[pixel * 4]!;
    letters[pixel * 2 + 1] = data[pixel * 4 + 3]!;
  }
  return { left, top, width, height, data: letters };
}

/**
 * A line of texts for a picture, light on a dark ground, so that it is read over anything.
 * @param width of the picture
 * @param letter height of the letters in pixels, 4 or more
 */
export function band(
  size: { width: number; height: number },
  lines: readonly Line[],
  letter: number,
  where: 'top' | 'bottom',
): Letters {
  const height = Math.min(size.height, Math.ceil(letter * 1.7));
  const context = canvas().createCanvas(size.width, height).getContext('2d');
  context.font = fontOf(letter);
  context.textBaseline = 'middle';
  const margin = letter * 0.6;
  for (const { text, at } of lines) {
    if (text === '') continue;
    const room = size.width - 2 * margin;
    const across = Math.min(room, context.measureText(text).width);
    const x = at === 'left' ? margin : at === 'right' ? size.width - margin : size.width / 2;
    const from = at === 'left' ? x : at === 'right' ? x - across : x - across / 2;
    context.fillStyle = 'rgba(0, 0, 0, 0.62)';
    context.beginPath();
    context.roundRect(
      from - letter * 0.3,
      height / 2 - letter * 0.75,
      across + letter * 0.6,
      letter * 1.5,
      letter * 0.2,
    );
    context.fill();
    context.fillStyle = '#fff';
    context.textAlign = aligned[at];
    context.fillText(text, x, height / 2, room);
  }
  return lettersOf(context, 0, where === 'top' ? 0 : size.height - height, size.width, height);
}

/** What a picture before a film says: a title, and facts as label and words. */
export interface Title {
  title: string;
  facts: readonly (readonly [label: string, words: string])[];
}

/** A picture that says what follows. */
export function titleLetters({ width, height }: { width: number; height: number }, { title, facts }: Title): Letters {
  const context = canvas().createCanvas(width, height).getContext('2d');
  context.fillStyle = '#1c1c1e';
  context.fillRect(0, 0, width, height);
  const edge = Math.max(1, Math.round(height / 40));
  context.fillStyle = '#8a8a86';
  context.fillRect(0, 0, width, edge);
  context.fillRect(0, height - edge, width, edge);
  const letter = Math.max(6, Math.min(height / (facts.length + 6), width / 34));
  const left = width * 0.1;
  const room = width * 0.8;
  context.textBaseline = 'alphabetic';
  context.fillStyle = '#f2f0e9';
  context.font = `650 ${letter * 1.8}px "${families.text}"`;
  context.fillText(title, left, height * 0.24, room);
  facts.forEach(([label, words], at) => {
    const y = height * 0.24 + letter * (2.4 + at * 1.45);
    context.font = `400 ${letter}px "${families.text}"`;
    context.fillStyle = '#b4b2aa';
    context.fillText(label, left, y, room * 0.28);
    context.font = fontOf(letter);
    context.fillStyle = '#f2f0e9';
    context.fillText(words, left + room * 0.3, y, room * 0.7);
  });
  return lettersOf(context, 0, 0, width, height);
}
