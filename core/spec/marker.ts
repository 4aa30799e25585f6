import { z } from 'zod';

/** The colours of markers: of our own, each with a letter beside it, so that none is told by colour alone. */
export const markerColours = ['verdigris', 'ochre', 'cinnabar', 'slate', 'plum', 'moss', 'copper', 'chalk'] as const;
export const markerColourSchema = z.enum(markerColours);
export type MarkerColour = z.infer<typeof markerColourSchema>;

/** A place on a source that somebody has marked. */
export const markerSchema = z
  .object({
    /** A frame number of the source. */
    frame: z.int().min(-100_000_000).max(100_000_000),
    /** How many frames it lasts. */
    length: z.int().min(1).max(10_000_000).default(1),
    name: z.string().trim().max(200).default(''),
    note: z.string().trim().max(4000).default(''),
    colour: markerColourSchema.default('verdigris'),
  })
  .strict();
export type Marker = z.infer<typeof markerSchema>;

/** As many as a source may have. */
export const mostMarkers = 10_000;
export const markersSchema = z.array(markerSchema).max(mostMarkers);

/** Which markers of a source stills are made at. */
export const markedSchema = z
  .object({
    /** Of these colours; none names all. */
    colours: z.array(markerColourSchema).default([]),
    /** Whose name or note holds this, in any case. */
    text: z.string().max(200).default(''),
    /** The first of so many that are left, and then every so-manieth. */
    every: z.int().min(1).max(10_000).default(1),
  })
  .strict();
export type Marked = z.infer<typeof markedSchema>;

/** A rule in a few words: `every second marker of plum with "bell"`. */
export function markedWords({ colours, text, every }: Marked): string {
  const which = every === 1 ? 'at markers' : `at one of ${every} markers`;
  return [
    which,
    ...(colours.length > 0 ? [`of ${colours.join(' or ')}`] : []),
    ...(text.trim() ? [`with "${text.trim()}"`] : []),
  ].join(' ');
}

/** Markers in the order of their frames; of one frame in the order in which they were given. */
export const markersInOrder = (markers: readonly Marker[]): Marker[] => [...markers].sort((a, b) => a.frame - b.frame);

/** A marker and its number among all of its source, from 1. */
export interface Numbered {
  marker: Marker;
  number: number;
}

/** The markers that a rule chooses, in order. */
export function chosenMarkers(markers: readonly Marker[], { colours, text, every }: Marked): Numbered[] {
  const wanted = text.trim().toLowerCase();
  return markersInOrder(markers)
    .map((marker, at) => ({ marker, number: at + 1 }))
    .filter(
      ({ marker: { colour, name, note } }) =>
        (colours.length === 0 || colours.includes(colour)) &&
        (wanted === '' || name.toLowerCase().includes(wanted) || note.toLowerCase().includes(wanted)),
    )
    .filter((_, at) => at % every === 0);
}

/** What is wrong with a marker beside others, in words for its field; undefined where nothing is. @param span of the source */
export function markerFault(
  { frame, length }: Marker,
  span: { first: number; last: number } | undefined,
): string | undefined {
  if (!span) return undefined;
  if (frame < span.first || frame > span.last)
    return `Frame ${frame} is outside: the source has ${span.first} to ${span.last}.`;
  if (frame + length - 1 > span.last)
    return `It would end at frame ${frame + length - 1}, after the last, ${span.last}.`;
  return undefined;
}
