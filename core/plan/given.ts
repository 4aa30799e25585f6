import type { Marker } from '../spec/marker.ts';
import type { GivenOthers, Other } from './others.ts';
import type { GivenSound } from './sound.ts';
import type { GivenHolds } from './timed.ts';

/** A source that follows another, as it was found. */
export interface GivenShot extends Other {
  holds?: GivenHolds;
}

/** What a spec asks for beside its source: pictures by what they are for, what is heard, shots that follow, what was found or marked. */
export interface Given extends GivenOthers {
  sound?: GivenSound;
  /** Those that channels are taken from, in the order of {@link joinedIn}. */
  joined?: readonly (Other | undefined)[];
  /** Those that follow, in the spec's order. */
  shots?: readonly (GivenShot | undefined)[];
  /** Which frames of the source repeat the one before, where the spec takes them out. */
  holds?: GivenHolds;
  /** Of the source, where the spec asks for stills at them. */
  markers?: readonly Marker[];
  /** What the folder that holds the source is called, where it is the root itself. */
  folder?: string;
}
