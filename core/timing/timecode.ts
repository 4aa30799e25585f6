import { ShaleError } from '../errors.ts';
import { printRate, type Rate } from './rate.ts';

/** Whole frames that a timecode second counts: 30 for 30000/1001 (SMPTE ST 12-1, 5.2). */
export const nominalRate = (rate: Rate): number => Math.round(rate.num / rate.den);

/** Drop-frame counting is defined for 30000/1001 and 60000/1001 only (SMPTE ST 12-1, 5.2.2). */
export const mayDropFrames = (rate: Rate): boolean => rate.den === 1001 && (rate.num === 30_000 || rate.num === 60_000);

/** A number of at least two digits. */
const two = (value: number): string => (value < 10 ? `0${value}` : `${value}`);

/**
 * Timecode of a frame counted from 00:00:00:00, wrapping at 24 hours; `;` before the frames tells drop-frame.
 * Drop-frame skips the labels 0 and 1 (0 to 3 at 60) at every minute but each tenth (SMPTE ST 12-1, 5.2.2).
 * @param frame a whole number, 0 or more
 * @example printTimecode(1800, {num: 30000, den: 1001}, true) // '00:01:00;02'
 */
export function printTimecode(frame: number, rate: Rate, drop = false): string {
  const nominal = nominalRate(rate);
  const dropped = drop && mayDropFrames(rate) ? nominal / 15 : 0;
  const perMinute = nominal * 60 - dropped;
  const perTenMinutes = perMinute * 10 + dropped;
  const inDay = frame % (perTenMinutes * 144);
  let label = inDay;
  if (dropped > 0) {
    const tens = Math.floor(inDay / perTenMinutes);
    const rest = inDay % perTenMinutes;
    const minutes = rest < dropped ? 0 : Math.floor((rest - dropped) / perMinute);
    label = inDay + tens * 9 * dropped + minutes * dropped;
  }
  const seconds = Math.floor(label / nominal);
  const frames = two(label % nominal);
  const minutes = Math.floor(seconds / 60);
  const clock = `${two(Math.floor(minutes / 60))}:${two(minutes % 60)}:${two(seconds % 60)}`;
  return `${clock}${dropped > 0 ? ';' : ':'}${frames}`;
}

/** Hours, minutes, seconds, the mark before the frames, frames. */
const written = /^\s*(\d{1,2}):([0-5]?\d):([0-5]?\d)([:;.])(\d{1,3})\s*$/;

/**
 * The frame that a timecode names, counted from 00:00:00:00. `;` (or `.`) before the frames counts in drop-frame.
 * @throws ShaleError `bad-timecode` for what is none, for drop-frame at a rate without it, and for labels that drop-frame skips
 * @example parseTimecode('00:01:00;02', {num: 30000, den: 1001}) // 1800
 */
export function parseTimecode(text: string, rate: Rate): number {
  const nominal = nominalRate(rate);
  const match = written.exec(text);
  const hours = match ? +match[1]! : 24;
  const frames = match ? +match[5]! : 0;
  if (!match || hours > 23 || frames >= nominal)
    throw refuse(
      `"${text.trim()}" is not a timecode at ${printRate(rate)}.`,
      `Write hours, minutes, seconds and frames as 01:00:00:00; frames go from 0 to ${nominal - 1}.`,
    );
  const minutes = hours * 60 + +match[2]!;
  const seconds = +match[3]!;
  const whole = (minutes * 60 + seconds) * nominal + frames;
  if (match[4] === ':') return whole;
  if (!mayDropFrames(rate))
    throw refuse(`${printRate(rate)} has no drop-frame timecode.`, 'Write ":" before the frames.');
  const dropped = nominal / 15;
  if (seconds === 0 && frames < dropped && minutes % 10 !== 0)
    throw refuse(
      `Drop-frame counting skips ${text.trim()}.`,
      `The first label of that minute is ${match[1]}:${match[2]}:00;0${dropped}.`,
    );
  return whole - dropped * (minutes - Math.floor(minutes / 10));
}

/**
 * The timecode so many frames after another, or before it where they are below 0, past midnight where it has to be; drop-frame where that is.
 * @throws ShaleError `bad-timecode` as {@link parseTimecode} does
 */
export function timecodeAfter(timecode: string, frames: number, rate: Rate): string {
  const drop = /[;.]\d+$/.test(timecode);
  const day = parseTimecode(`23:59:59${drop ? ';' : ':'}${nominalRate(rate) - 1}`, rate) + 1;
  return printTimecode((((parseTimecode(timecode, rate) + frames) % day) + day) % day, rate, drop);
}

const refuse = (fact: string, wayOut: string): ShaleError =>
  new ShaleError({ code: 'bad-timecode', fact, wayOut, subject: 'timecode' });
