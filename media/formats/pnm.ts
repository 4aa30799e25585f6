import type { Facts, SampleFormat } from '@shale/core';
import { lacking, refuseAbsurdSize, type StillFormat, type StillHeader } from './format.ts';

const depths: Record<number, SampleFormat> = { 1023: 'u10', 4095: 'u12' };
const sampleFor = (most: number): SampleFormat => depths[most] ?? (most > 255 ? 'u16' : 'u8');

const channelNames: Record<number, string[]> = {
  1: ['Y'],
  2: ['Y', 'A'],
  3: ['R', 'G', 'B'],
  4: ['R', 'G', 'B', 'A'],
};

interface Told {
  width: number;
  height: number;
  count: number;
  sample: SampleFormat;
  dataAt: number;
  /** Bytes of the picture; undefined where it is written in text. */
  bytes?: number;
}

/** A PAM header: words and values, a line each, to ENDHDR. */
function pam(text: string): Told {
  const end = /\nENDHDR\n/.exec(text);
  const value = (word: string): number => Number(new RegExp(`\n${word}[ \t]+(\\d+)`).exec(text)?.[1]);
  if (!end) throw new Error('its header has no end');
  const [width, height, count, most] = ['WIDTH', 'HEIGHT', 'DEPTH', 'MAXVAL'].map(value) as [
    number,
    number,
    number,
    number,
  ];
  const bytes = width * height * count * (most > 255 ? 2 : 1);
  return { width, height, count, sample: sampleFor(most), dataAt: end.index + end[0].length, bytes };
}

/** PBM, PGM, PPM and PFM: numbers between white space, comments from # to the line's end. */
function plain(text: string, kind: string): Told {
  const values = kind === '1' || kind === '4' ? 2 : 3;
  const match = new RegExp(`^P.(?:(?:\\s|#[^\n]*\n)+(-?[\\d.]+)){${values}}\\s`).exec(text);
  const numbers = match?.[0]
    .replace(/#[^\n]*\n/g, ' ')
    .slice(2)
    .trim()
    .split(/\s+/)
    .map(Number);
  if (!match || !numbers) throw new Error('its header is damaged');
  const [width, height, most = 1] = numbers as [number, number, number?];
  const dataAt = match[0].length;
  const count = /[36F]/.test(kind) ? 3 : 1;
  if (/[Ff]/.test(kind)) return { width, height, count, sample: 'f32', dataAt, bytes: width * height * count * 4 };
  const row = kind === '4' ? Math.ceil(width / 8) : width * count * (most > 255 ? 2 : 1);
  return {
    width,
    height,
    count,
    sample: sampleFor(most),
    dataAt,
    bytes: /[456]/.test(kind) ? row * height : undefined,
  };
}

/** PBM, PGM, PPM, PAM and PFM by their headers; pictures are not read in this version. */
export const pnm: StillFormat = {
  id: 'pnm',
  recognises: (head) => /^P[1-7Ff]\s/.test(head.toString('latin1', 0, 3)),
  header(file): StillHeader {
    const text = file.head.toString('latin1', 0, 2048);
    const told = text[1] === '7' ? pam(text) : plain(text, text[1]!);
    refuseAbsurdSize(told.width, told.height);
    const channels = channelNames[told.count];
    if (!channels) throw new Error(`it has ${told.count} channels, which Shale does not know`);
    const facts: Facts = {
      width: told.width,
      height: told.height,
      format: 'pnm',
      sample: told.sample,
      channels,
      hasAlpha: channels.includes('A'),
      compression: 'none',
      more: [],
    };
    const cutShort = told.bytes === undefined ? undefined : lacking(file.size, told.dataAt + told.bytes);
    return { facts, dataAt: told.dataAt, cutShort };
  },
};
