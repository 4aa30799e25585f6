import type { Facts } from '../numbering/source.ts';
import { isFloat } from '../pixels/image.ts';
import type { Primaries, Transfer } from '../pixels/colourNames.ts';
import { primariesWords, transferWords } from './declaration.ts';
import { writtenOf, type Format } from '../formats/index.ts';
import type { Told } from '../formats/record.ts';
import { formatRules } from './formats.ts';
import type { Spec } from './schema.ts';

/**
 * What of curve and primaries a result's file cannot say, so that whoever opens it will take it for something else; undefined
 * where it says them, or where they are what is taken anyway.
 */
export function unsaidColour({ format, sample, transfer }: Spec['write'], primaries: Primaries): string | undefined {
  const { colour } = writtenOf(format).told;
  const usualCurve = isFloat(sample) ? 'linear' : 'srgb';
  const unsaid = [
    ...(saysTransfer(colour, transfer, primaries, usualCurve) ? [] : [transferWords[transfer]]),
    ...(saysPrimaries(colour, primaries) ? [] : [primariesWords[primaries]]),
  ];
  return unsaid.length === 0 ? undefined : `${formatRules[format].words} cannot say ${unsaid.join(' and ')}`;
}

function saysTransfer(colour: Told['colour'], transfer: Transfer, primaries: Primaries, usual: Transfer): boolean {
  if (typeof colour === 'object') return colour.transfers.includes(transfer);
  // Curves of high dynamic range have no form in a profile, and code points only beside primaries that have one.
  if (transfer === 'pq' || transfer === 'hlg') return colour === 'points' && primaries !== 'acescg';
  if (colour === 'profile' || colour === 'points') return transfer !== 'film-log';
  return transfer === (colour === 'linear' ? 'linear' : usual);
}

const saysPrimaries = (colour: Told['colour'], primaries: Primaries): boolean =>
  colour === 'profile' ||
  colour === 'points' ||
  primaries === 'bt709' ||
  (typeof colour === 'object' && colour.primaries.includes(primaries));

/** What a source's files say and a result's cannot, by its names. */
export function droppedFacts(facts: Facts, format: Format): string[] {
  const keeps = writtenOf(format).told;
  return [
    ...(facts.rate && !keeps.rate ? ['frame rate'] : []),
    ...(facts.timecode && !keeps.timecode ? ['timecode'] : []),
    ...(facts.pixelAspect && !keeps.pixelAspect ? ['pixel aspect'] : []),
    ...droppedTexts(facts, keeps),
  ];
}

/** Texts that a format has no place for, by name; what wrote the file is not missed. */
function droppedTexts({ texts = [] }: Facts, { texts: kept = [] }: Told): string[] {
  if (kept === true) return [];
  const keeps = (name: string) => kept.some((one) => one.toLowerCase() === name.toLowerCase());
  return texts.map(([name]) => name).filter((name) => !keeps(name) && !/^(creator|software)$/i.test(name));
}
