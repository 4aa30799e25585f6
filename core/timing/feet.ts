import { ShaleError } from '../errors.ts';

/** Frames on a foot of film: 64 perforations of 35 mm (ISO 491) at four or two a frame, 40 frames of 16 mm (ISO 69). */
export const gauges = { '35 mm, 4 perforations': 16, '35 mm, 2 perforations': 32, '16 mm': 40 } as const;
export type Gauge = keyof typeof gauges;

/** `12+08`: feet, and frames beyond them. @param frame 0 or more */
export function printFeet(frame: number, gauge: Gauge): string {
  const each = gauges[gauge];
  return `${Math.floor(frame / each)}+${String(frame % each).padStart(2, '0')}`;
}

/** The frame that feet and frames name, counted from 0. @throws ShaleError `bad-feet` */
export function parseFeet(text: string, gauge: Gauge): number {
  const each = gauges[gauge];
  const match = /^(\d{1,8})\+(\d{1,2})$/.exec(text.trim());
  const frames = Number(match?.[2]);
  if (!match || frames >= each)
    throw new ShaleError({
      code: 'bad-feet',
      fact: `"${text.trim()}" is not a length in feet and frames of ${gauge}.`,
      wayOut: `Write feet and frames as 12+08; frames go from 0 to ${each - 1}.`,
      subject: 'feet',
    });
  return Number(match[1]) * each + frames;
}
