import type { Facts } from '../numbering/source.ts';
import { isFloat } from '../pixels/image.ts';
import { primariesWords, transferWords, type Primaries, type Transfer } from './declaration.ts';
import { formatRules, type Format } from './formats.ts';
import type { Spec } from './schema.ts';

/** What a format's files can say beside their samples. */
interface Told {
  /** Curves and primaries that a file can name; `profile` for all but a film's log curve, `usual` for sRGB with BT.709 alone. */
  colour: 'profile' | 'usual' | 'linear' | { transfers: readonly Transfer[]; primaries: readonly Primaries[] };
  rate?: boolean;
  timecode?: boolean;
  pixelAspect?: boolean;
  /** Whether attributes of OpenEXR are kept. */
  attributes?: boolean;
}

const all: readonly Primaries[] = ['bt709', 'p3', 'bt2020', 'acescg'];

/** Videos name curve and primaries by the codes of ITU-T H.273, which has none for a film's log curve nor for AP1. */
const film: Told = {
  colour: { transfers: ['srgb', 'linear', 'bt709', 'gamma-2.2'], primaries: ['bt709', 'p3', 'bt2020'] },
  rate: true,
  timecode: true,
  pixelAspect: true,
};

/** By format; docs/formats.md has the same as a table. */
export const told: Record<Format, Told> = {
  png: { colour: 'profile', pixelAspect: true },
  tiff: { colour: 'profile', pixelAspect: true },
  jpeg: { colour: 'profile', pixelAspect: true },
  tga: { colour: 'usual' },
  exr: {
    colour: { transfers: ['linear'], primaries: all },
    rate: true,
    timecode: true,
    pixelAspect: true,
    attributes: true,
  },
  dpx: {
    colour: { transfers: ['film-log', 'linear', 'bt709'], primaries: ['bt709'] },
    rate: true,
    timecode: true,
    pixelAspect: true,
  },
  webp: { colour: 'usual' },
  jxl: { colour: 'usual' },
  bmp: { colour: 'usual' },
  pnm: { colour: 'usual' },
  pam: { colour: 'usual' },
  pfm: { colour: 'linear' },
  h264: film,
  h265: film,
  prores422: film,
  prores4444: film,
  vp9: { ...film, timecode: false },
  av1: { ...film, timecode: false },
  ffv1: film,
  pngmov: film,
};

/**
 * What of curve and primaries a result's file cannot say, so that whoever opens it will take it for something else; undefined
 * where it says them, or where they are what is taken anyway.
 */
export function unsaidColour({ format, sample, transfer }: Spec['write'], primaries: Primaries): string | undefined {
  const { colour } = told[format];
  const usualCurve = isFloat(sample) ? 'linear' : 'srgb';
  const unsaid = [
    ...(saysTransfer(colour, transfer, usualCurve) ? [] : [transferWords[transfer]]),
    ...(saysPrimaries(colour, primaries) ? [] : [primariesWords[primaries]]),
  ];
  return unsaid.length === 0 ? undefined : `${formatRules[format].words} cannot say ${unsaid.join(' and ')}`;
}

function saysTransfer(colour: Told['colour'], transfer: Transfer, usual: Transfer): boolean {
  if (typeof colour === 'object') return colour.transfers.includes(transfer);
  if (colour === 'profile') return transfer !== 'film-log';
  return transfer === (colour === 'linear' ? 'linear' : usual);
}

const saysPrimaries = (colour: Told['colour'], primaries: Primaries): boolean =>
  colour === 'profile' || primaries === 'bt709' || (typeof colour === 'object' && colour.primaries.includes(primaries));

/** What a source's files say and a result's cannot, by its names. */
export function droppedFacts(facts: Facts, format: Format): string[] {
  const keeps = told[format];
  return [
    ...(facts.rate && !keeps.rate ? ['frame rate'] : []),
    ...(facts.timecode && !keeps.timecode ? ['timecode'] : []),
    ...(facts.pixelAspect && !keeps.pixelAspect ? ['pixel aspect'] : []),
  ];
}
