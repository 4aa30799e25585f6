import type { DeclaredTransfer, Primaries } from '@shale/core';
import { chromaticities, curves, toXyzUnder } from '@shale/core';

/** What an embedded profile says, as far as it is one of the curves and primaries that Shale knows. */
export interface Profile {
  /** Its description. */
  name: string;
  transfer?: DeclaredTransfer;
  primaries?: Primaries;
  /** True for a profile of grey pictures. */
  grey?: boolean;
}

/** The tags by their signatures (ICC.1:2010, 7.3). */
function tagsOf(bytes: Buffer): Map<string, Buffer> {
  const tags = new Map<string, Buffer>();
  if (bytes.length < 132 || bytes.toString('latin1', 36, 40) !== 'acsp') return tags;
  const count = Math.min(100, bytes.readUInt32BE(128));
  for (let at = 132; at < 132 + count * 12 && at + 12 <= bytes.length; at += 12) {
    const from = bytes.readUInt32BE(at + 4);
    tags.set(bytes.toString('latin1', at, at + 4), bytes.subarray(from, from + bytes.readUInt32BE(at + 8)));
  }
  return tags;
}

const fixed = (bytes: Buffer, at: number): number => bytes.readInt32BE(at) / 65_536;

/** `desc` of version 2 in ASCII, `mluc` of version 4 in UTF-16 (10.13). */
function textOf(tag: Buffer | undefined): string {
  if (!tag || tag.length < 28) return 'without a name';
  if (tag.toString('latin1', 0, 4) === 'desc')
    return tag.toString('latin1', 12, 12 + Math.max(0, tag.readUInt32BE(8) - 1)).trim();
  const length = tag.readUInt32BE(20);
  const from = tag.readUInt32BE(24);
  return Buffer.from(tag.subarray(from, from + length - (length % 2)))
    .swap16()
    .toString('utf16le')
    .trim();
}

/** A tone curve as a function (10.5 `curv`, 10.16 `para`); undefined where it is neither. */
function curveOf(tag: Buffer | undefined): ((value: number) => number) | undefined {
  if (!tag || tag.length < 12) return undefined;
  const type = tag.toString('latin1', 0, 4);
  if (type === 'curv') {
    const count = tag.readUInt32BE(8);
    if (count === 0) return (value) => value;
    if (count === 1) {
      const gamma = tag.readUInt16BE(12) / 256;
      return (value) => value ** gamma;
    }
    if (tag.length < 12 + count * 2) return undefined;
    return (value) => {
      const place = value * (count - 1);
      const low = Math.min(count - 2, Math.floor(place));
      const [a, b] = [tag.readUInt16BE(12 + low * 2), tag.readUInt16BE(14 + low * 2)];
      return (a + (b - a) * (place - low)) / 65_535;
    };
  }
  if (type !== 'para') return undefined;
  const kind = tag.readUInt16BE(8);
  const needs = [1, 3, 4, 5, 7][kind];
  if (needs === undefined || tag.length < 12 + needs * 4) return undefined;
  const [g = 1, a = 1, b = 0, c = 0, d = 0, e = 0, f = 0] = Array.from({ length: needs }, (_, at) =>
    fixed(tag, 12 + at * 4),
  );
  if (kind === 0) return (value) => value ** g;
  if (kind === 1) return (value) => (value >= -b / a ? (a * value + b) ** g : 0);
  if (kind === 2) return (value) => (value >= -b / a ? (a * value + b) ** g + c : c);
  return (value) => (value >= d ? (a * value + b) ** g + e : c * value + f);
}

/** How far a curve may be from one of ours to be it: a profile's tables and sixteenths of bits. */
const nearCurve = 0.002;

function transferOf(curve: ((value: number) => number) | undefined): DeclaredTransfer | undefined {
  if (!curve) return undefined;
  const places = Array.from({ length: 33 }, (_, at) => at / 32);
  const known = ['linear', 'srgb', 'gamma-2.2', 'gamma-2.4', 'bt709'] as const;
  return known.find((name) => places.every((at) => Math.abs(curve(at) - curves[name].toLinear(at)) < nearCurve));
}

/** The profile connection space's white (7.2.16), under which the colourants are given. */
export const d50 = [0.9642, 1, 0.8249] as const;

/** The primaries whose colours, adapted to D50 by Bradford as profiles have them (annex E), are the profile's colourants. */
function primariesOf(tags: Map<string, Buffer>): Primaries | undefined {
  const colourants = ['rXYZ', 'gXYZ', 'bXYZ'].map((name) => tags.get(name));
  if (colourants.some((tag) => !tag || tag.length < 20)) return undefined;
  const said = colourants.map((tag) => [8, 12, 16].map((at) => fixed(tag!, at)));
  return (Object.keys(chromaticities) as Primaries[]).find((name) => {
    const rows = toXyzUnder(chromaticities[name], d50);
    return said.every((colour, at) => colour.every((value, row) => Math.abs(value - rows[row]![at]!) < 0.003));
  });
}

/**
 * What an ICC profile (ICC.1:2010) says. A matrix profile whose curves and colourants are ones that Shale knows is honoured as
 * them; of any other the name alone is told.
 */
export function readProfile(bytes: Buffer): Profile {
  try {
    const tags = tagsOf(bytes);
    const grey = tags.get('kTRC');
    const transfers = (grey ? [grey] : ['rTRC', 'gTRC', 'bTRC'].map((name) => tags.get(name))).map((tag) =>
      transferOf(curveOf(tag)),
    );
    const name = textOf(tags.get('desc'));
    // A profile with tables beside its matrix means the tables.
    if (tags.has('A2B0') || transfers.some((one) => one !== transfers[0])) return { name };
    return { name, transfer: transfers[0], primaries: grey ? undefined : primariesOf(tags), grey: grey !== undefined };
  } catch (error) {
    if (error instanceof RangeError) return { name: 'that is damaged' };
    throw error;
  }
}

/** A profile as facts have it: the curve and the primaries where both are known, else its name, which nothing is done by. */
export function profileFacts(profile: Profile | undefined): { transfer?: string; primaries?: string } {
  if (!profile) return {};
  const { name, transfer, primaries, grey } = profile;
  const says = `profile "${name}"`;
  // Grey has no primaries.
  return { transfer: transfer ?? says, primaries: grey && transfer ? undefined : (primaries ?? says) };
}
