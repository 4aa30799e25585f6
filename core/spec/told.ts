import type { Facts } from '../numbering/source.ts';
import { isFloat } from '../pixels/image.ts';
import { primariesWords, transferWords, type Primaries, type Transfer } from './declaration.ts';
import { formatRules, type Format, type Spec } from './schema.ts';

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
