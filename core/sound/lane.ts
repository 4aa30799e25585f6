import type { Rate } from '../timing/rate.ts';
import { soundShift, type Fraction } from './placed.ts';

/** A sound under a row of frames, as it is wanted. */
export interface Under {
  /** The source that the sound is in, and which of its streams, from 1; null for the one that a player would take. */
  source: string;
  stream: number | null;
  /** Where in the sound the first frame of the row begins, in seconds; below 0 it is not there yet. */
  from: Fraction;
  /** Samples by which it begins later still. */
  later: number;
}

/** The same in samples. */
export interface Lane {
  /** Samples a second, and all that there are. */
  rate: number;
  samples: number;
  /** The sample that is heard as the first frame begins; below 0 so many of silence go before. */
  start: number;
  /** Frames a second. */
  frames: Rate;
}

/** Brings a sound under frames to samples, as a conversion writes it. */
export const laneOf = (
  { from, later }: Pick<Under, 'from' | 'later'>,
  { rate, samples, begins }: { rate: number; samples: number; begins: number },
  frames: Rate,
): Lane => ({ rate, samples, frames, start: soundShift(from, begins + later / rate, rate) });

/** The sample that is heard as a frame begins. @param place of the frame in its row, from 0, whole or not */
export const sampleAt = ({ start, rate, frames: { num, den } }: Lane, place: number): number =>
  start + Math.round((place * den * rate) / num);

/** Samples from one on, so many; those before 0 and behind the end are silence. */
export interface Heard {
  from: number;
  count: number;
}

/** What is heard with a row of frames that is played around and around. @param count frames of the row @param place where it begins, from 0 */
export function* heardFrom(lane: Lane, first: number, count: number, place: number): Generator<Heard> {
  const { rate, frames } = lane;
  const samplesIn = (many: number) => Math.round((many * frames.den * rate) / frames.num);
  // Ends of rounds are brought to samples from the beginning of all, so that nothing adds up.
  for (let round = 0, done = 0; ; round += 1) {
    const end = samplesIn((round + 1) * count - place);
    yield { from: sampleAt(lane, first + (round === 0 ? place : 0)), count: end - done };
    done = end;
  }
}
