import { chromaticities, primariesWords, toXyzUnder, transferWords, type Primaries, type Transfer } from '@shale/core';
import { d50 } from './icc.ts';

const fixed = (...values: number[]): Buffer => {
  const bytes = Buffer.alloc(values.length * 4);
  values.forEach((value, at) => bytes.writeInt32BE(Math.round(value * 65_536), at * 4));
  return bytes;
};
const typed = (type: string, ...parts: Buffer[]): Buffer =>
  Buffer.concat([Buffer.from(`${type}\0\0\0\0`, 'latin1'), ...parts]);

/** Text of one language (ICC.1:2010, 10.13). */
function text(words: string): Buffer {
  const letters = Buffer.from(words, 'utf16le').swap16();
  const head = Buffer.alloc(20);
  head.writeUInt32BE(1, 0);
  head.writeUInt32BE(12, 4);
  head.write('enUS', 8, 'latin1');
  head.writeUInt32BE(letters.length, 12);
  head.writeUInt32BE(28, 16);
  return typed('mluc', head, letters);
}

/** A curve by its parameters g a b c d (10.16): `(a x + b) ** g` from d on, `c x` below. */
function curve(kind: 0 | 3, ...parameters: number[]): Buffer {
  const head = Buffer.alloc(4);
  head.writeUInt16BE(kind, 0);
  return typed('para', head, fixed(...parameters));
}

const curves: Partial<Record<Transfer, Buffer>> = {
  linear: curve(0, 1),
  srgb: curve(3, 2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045),
  bt709: curve(3, 1 / 0.45, 1 / 1.099_297, 0.099_297 / 1.099_297, 1 / 4.5, 4.5 * 0.018_054),
  'gamma-2.2': curve(0, 2.2),
  'gamma-2.4': curve(0, 2.4),
};

/**
 * A matrix profile of version 4 (ICC.1:2010, 8.3) that says a curve and primaries, or a grey one; undefined for a film's log
 * curve, which such a profile has no form for.
 */
export function makeProfile(transfer: Transfer, primaries: Primaries, grey: boolean): Buffer | undefined {
  const trc = curves[transfer];
  if (!trc) return undefined;
  const matrix = toXyzUnder(chromaticities[primaries], d50);
  const xyz = (column: 0 | 1 | 2) => typed('XYZ ', fixed(...matrix.map((row) => row[column])));
  const tags: [string, Buffer][] = [
    ['desc', text(`${primariesWords[primaries]}, ${transferWords[transfer]}`)],
    ['cprt', text('No copyright')],
    ['wtpt', typed('XYZ ', fixed(...d50))],
    ...(grey
      ? ([['kTRC', trc]] as [string, Buffer][])
      : ([
          ['rXYZ', xyz(0)],
          ['gXYZ', xyz(1)],
          ['bXYZ', xyz(2)],
          ['rTRC', trc],
          ['gTRC', trc],
          ['bTRC', trc],
        ] as [string, Buffer][])),
  ];
  const table = Buffer.alloc(4 + tags.length * 12);
  table.writeUInt32BE(tags.length, 0);
  const bodies: Buffer[] = [];
  let next = 128 + table.length;
  tags.forEach(([name, body], at) => {
    table.write(name, 4 + at * 12, 'latin1');
    table.writeUInt32BE(next, 8 + at * 12);
    table.writeUInt32BE(body.length, 12 + at * 12);
    const padded = Buffer.concat([body, Buffer.alloc((4 - (body.length % 4)) % 4)]);
    bodies.push(padded);
    next += padded.length;
  });
  const head = Buffer.alloc(128);
  head.writeUInt32BE(next, 0);
  head.writeUInt32BE(0x04200000, 8);
  head.write(`mntr${grey ? 'GRAY' : 'RGB '}XYZ `, 12, 'latin1');
  // A date that is the same for every file: the profile is part of what is compared.
  [2026, 1, 1, 0, 0, 0].forEach((value, at) => head.writeUInt16BE(value, 24 + at * 2));
  head.write('acsp', 36, 'latin1');
  fixed(...d50).copy(head, 68);
  return Buffer.concat([head, table, ...bodies]);
}
