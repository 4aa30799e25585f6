import type { Problem } from '../errors.ts';
import { markerColourSchema, type MarkerColour } from '../spec/marker.ts';

/** A cut of an edit list: what of a reel stands where. Frames are whole; ends are not included. */
export interface EditEvent {
  /** The line, or the place, in the file that it is at, for messages. */
  at: string;
  /** The name of what it takes: a reel, a clip's name, a file. */
  reel: string;
  /** Another name that the file gives it, where it gives one. */
  clip?: string;
  /** Frames of the reel as its own timecode counts them from 00:00:00:00. */
  source: { from: number; to: number };
  /** Frames of the result, counted the same way. */
  record: { from: number; to: number };
}

/** A marker of an edit list, on the result's time. */
export interface EditMarker {
  at: string;
  /** A frame of the result, counted from 00:00:00:00. */
  frame: number;
  length: number;
  name: string;
  note: string;
  colour: MarkerColour;
}

/** An edit list as it was read: what could be, and what could not and why. */
export interface EditList {
  title: string;
  events: EditEvent[];
  markers: EditMarker[];
  /** Lines that are broken, things that are not carried. */
  problems: Problem[];
}

/** Colours as other programs name them, as ours. */
const colourNames: Record<string, MarkerColour> = {
  green: 'verdigris',
  cyan: 'verdigris',
  teal: 'verdigris',
  mint: 'verdigris',
  yellow: 'ochre',
  lemon: 'ochre',
  orange: 'copper',
  cocoa: 'copper',
  brown: 'copper',
  sand: 'copper',
  red: 'cinnabar',
  rose: 'cinnabar',
  pink: 'plum',
  magenta: 'plum',
  purple: 'plum',
  fuchsia: 'plum',
  violet: 'plum',
  lavender: 'plum',
  blue: 'slate',
  sky: 'slate',
  black: 'slate',
  grey: 'slate',
  gray: 'slate',
  olive: 'moss',
  lime: 'moss',
  white: 'chalk',
  cream: 'chalk',
};

/** A marker colour by its name, ours or a common word; undefined where it is neither. */
export function colourNamed(name: string): MarkerColour | undefined {
  const word = name.trim().toLowerCase();
  return markerColourSchema.safeParse(word).data ?? colourNames[word];
}

/** Events that stand on each other in the result. */
export function overlaps(events: readonly EditEvent[]): Problem[] {
  const sorted = [...events].sort((a, b) => a.record.from - b.record.from);
  const problems: Problem[] = [];
  sorted.forEach((event, at) => {
    const before = sorted[at - 1];
    if (before && event.record.from < before.record.to)
      problems.push({
        code: 'edit-overlap',
        fact: `${event.at} begins at frame ${event.record.from} of the result, where ${before.at} is not over (${before.record.to}).`,
        wayOut: 'Import a list with one track, its events one after another.',
        subject: event.at,
      });
  });
  return problems;
}
