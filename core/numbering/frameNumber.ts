import type { Run } from './runs.ts';

/** Words before a number that counts frames. */
const frameWords = new Set('f fr frm frame frames img image pic picture'.split(' '));

/** Words before a number that counts something else: cameras, takes, layers, tiles, shots. */
const otherWords = new Set(
  (
    'angle cam camera eye view rig ' +
    'aov id layer light lgt lyr matte pass ' +
    'bucket col column crop lod mip part quad region row slice strip tile ' +
    'alt iter iteration opt option rev seed set trial var ver version wedge ' +
    'day ep episode reel roll sc scene seq sequence sh shot slate sq take tk ' +
    'gpu job node rank worker'
  ).split(' '),
);

/** Single letters that stand for such a word, where the number is short: `c02`, `t3`. */
const otherLetters = new Set('abcdeijklmnopqrstuvwxyz'.split(''));

/** How a digit run is written in all names of a shape. */
export interface Writing {
  /** Fewest and most digits. */
  least: number;
  most: number;
  /** Whether any begins with a zero that pads it. */
  padded: boolean;
}

/** What the word before a number says of it: above 0 that it counts frames, below that it counts something else. */
export function wordEvidence(name: string, run: Run, { most }: Writing): number {
  const [, word = '', separator = ''] = /([a-z]+)([._ -]*)$/i.exec(name.slice(0, run.start)) ?? [];
  const said = word.toLowerCase();
  const strength = separator === '' ? 1 : 0.4;
  if (frameWords.has(said)) return 3 * strength;
  if (otherWords.has(said)) return -4 * strength;
  return separator === '' && otherLetters.has(said) && most <= 3 ? -2 : 0;
}

/** What the digits say: frames are padded to three digits and more, and to one width. */
export function digitEvidence({ least, most, padded }: Writing): number {
  if (least >= 4) return 1;
  return least === 3 || (padded && most > 2) ? 0.5 : 0;
}

/** What a run is worth as the frame number of a shape, the more the likelier. */
export interface Evidence {
  word: number;
  digits: number;
  /** Whether it is the last number before the ending. */
  last: boolean;
  /** Frames that a sequence has on average. */
  frames: number;
  /** Gaps in a sequence, on average. */
  breaks: number;
  /** Whether it counts parts of the frame that the number before it counts. */
  isPart: boolean;
}

/** No rule is always right: see {@link FrameNumber}. */
export const worthOf = ({ word, digits, last, frames, breaks, isPart }: Evidence): number =>
  (isPart ? -4 : 0) + word + digits + (last ? 1.5 : 0) + Math.log2(frames) / 4 - Math.min(4, breaks);

/**
 * Which number of a name counts the frames, where a person says so: 1 for the first, -1 for the last, 0 for none of them: then every
 * file is a still. Names that have fewer numbers are left to the rule.
 */
export type FrameNumber = number;

/** The run that a person means, of so many; undefined where there are fewer. */
export function runMeant(frameNumber: FrameNumber, runs: number): number | undefined {
  const run = frameNumber > 0 ? frameNumber - 1 : runs + frameNumber;
  return run >= 0 && run < runs ? run : undefined;
}

/** Sizes in which one picture is delivered: icons, previews, textures. */
const sizes = new Set(
  (
    '8 16 20 22 24 29 32 36 40 44 48 57 58 60 64 72 76 80 87 96 100 114 120 128 144 150 152 160 167 180 192 196 200 228 240 250 256 ' +
    '270 288 300 310 320 384 400 480 500 512 540 558 600 640 720 750 768 800 960 1000 1024 1080 1200 1242 1280 1440 1600 1920 2000 2048 ' +
    '2160 2560 2880 3000 3840 4000 4096 5120 7680 8192'
  )
    .split(' ')
    .map(Number),
);

/**
 * Whether numbers are the sizes of one picture, as 16, 32, 48: not padded, few, every one a usual size, a power of two among them (of
 * two both are), and none next to another.
 */
export function areSizes(numbers: ArrayLike<number>, padded: boolean): boolean {
  if (padded || numbers.length > 24) return false;
  const list = Array.from(numbers);
  const powers = list.filter((number) => number >= 16 && (number & (number - 1)) === 0);
  return (
    powers.length > (list.length === 2 ? 1 : 0) &&
    list.every((number) => sizes.has(number)) &&
    list.every((number, at) => at === 0 || number - list[at - 1]! > 1)
  );
}

/**
 * Whether the values behind a frame number are its parts: `00 25 50 75`, `0 5`, `000 333 667`. They begin at none, and part the frame
 * evenly.
 */
export function areSubFrames(values: ReadonlySet<number>, width: number): boolean {
  const count = values.size;
  if (count < 2 || count > 10 || width > 4) return false;
  const whole = 10 ** width;
  return Array.from({ length: count }, (_, part) => (part * whole) / count).every(
    (value) => values.has(Math.round(value)) || values.has(Math.floor(value)),
  );
}
