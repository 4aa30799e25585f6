import { problemOf, ShaleError, type Problem } from '../errors.ts';
import type { Marker } from '../spec/marker.ts';
import type { Rate } from '../timing/rate.ts';
import { mayDropFrames, parseTimecode, printTimecode } from '../timing/timecode.ts';
import { colourNamed, overlaps, type EditEvent, type EditList } from './events.ts';

/** An event: number, reel, track, transition with its length, and four timecodes. */
const eventLine = /^(\d{1,6})\s+(\S+)\s+(\S+)\s+([A-Z][A-Z0-9]*)(?:\s+(\d+))?\s+(\S+)\s+(\S+)\s+(\S+)\s+(\S+)$/i;
/** `* LOC: 01:00:02:00 RED name`, as several programs write markers into comments. */
const markerLine = /^\*\s*LOC:\s*(\S+)\s+(\S+)\s*(.*)$/i;

/**
 * Reads an edit decision list in the CMX 3600 form, as programs write it: `TITLE:`, `FCM:`, events, comments. What is of picture and cut
 * is taken; what cannot be is said by its line, and nothing is guessed.
 * @param rate in which its timecode counts, which the list itself does not say
 */
export function readEdl(text: string, rate: Rate): EditList {
  const list: EditList = { title: '', events: [], markers: [], problems: [] };
  let drop = false;
  let last: EditEvent | undefined;
  /** Whether the last event comes in by a transition: what it comes from is named beside it. */
  let blends = false;
  /** Lines of events that hold sound alone. */
  const heard: number[] = [];
  const say = (line: number, code: string, fact: string, wayOut: string) =>
    list.problems.push({ code, fact: `Line ${line}: ${fact}`, wayOut, subject: `line ${line}` });
  const time = (code: string): number =>
    parseTimecode(drop && mayDropFrames(rate) ? code.replace(/:(\d+)$/, ';$1') : code, rate);
  const takeEvent = (event: string[], number: number): void => {
    last = undefined;
    const [, , reel, track, kind, , a, b, c, d] = event;
    const transition = kind!.toUpperCase();
    if (!/^(V\d*|B|AA?\/V|VA?\d*)$/i.test(track!)) {
      heard.push(number);
      return;
    }
    const [from, to, start, end] = [a, b, c, d].map((code) => time(code!)) as [number, number, number, number];
    // A transition begins with what it comes from, which has no length of its own: the event behind it has the picture.
    if (to === from && end === start) return;
    if (end <= start || to <= from) {
      say(number, 'edit-range', `event ${event[1]} ends before it begins.`, 'Correct its timecodes.');
      return;
    }
    if (transition !== 'C')
      say(
        number,
        'edit-transition',
        `event ${event[1]} is a ${transition.startsWith('W') ? 'wipe' : transition === 'D' ? 'dissolve' : `transition "${transition}"`}; it becomes a cut.`,
        'Make the transition in the editing program.',
      );
    if (to - from !== end - start)
      say(
        number,
        'edit-speed',
        `event ${event[1]} takes ${to - from} frames for ${end - start}: its speed is changed, and changes of speed are not imported.`,
        'Retime the shot by a curve, or import a list without changes of speed.',
      );
    last = { at: `event ${event[1]}`, reel: reel!, source: { from, to }, record: { from: start, to: end } };
    blends = transition !== 'C';
    list.events.push(last);
  };
  text.split(/\r\n|\r|\n/).forEach((raw, index) => {
    const line = raw.trim();
    const number = index + 1;
    if (line === '') return;
    const title = /^TITLE:\s*(.*)$/i.exec(line);
    if (title) {
      list.title = title[1]!;
      return;
    }
    const mode = /^FCM:\s*(.*)$/i.exec(line);
    if (mode) {
      drop = /^DROP/i.test(mode[1]!);
      if (drop && !mayDropFrames(rate))
        say(
          number,
          'edit-rate',
          'the list counts in drop-frame, which this rate does not have.',
          'Set its rate to 29.97 or 59.94.',
        );
      return;
    }
    try {
      const event = eventLine.exec(line);
      if (event) {
        takeEvent([...event], number);
        return;
      }
      const name = /^\*\s*(FROM CLIP NAME|TO CLIP NAME|SOURCE FILE):\s*(.+)$/i.exec(line);
      if (name) {
        const isFrom = /^FROM/i.test(name[1]!);
        // Of a transition the event is what it goes to.
        if (last && (!/^(FROM|TO)/i.test(name[1]!) || isFrom !== blends)) last.clip = name[2]!.trim();
        return;
      }
      const marker = markerLine.exec(line);
      if (marker) {
        const [, code, colour, words] = marker as unknown as string[];
        const known = colourNamed(colour!);
        const { name: title, note } = split(known ? words! : `${colour} ${words}`);
        list.markers.push({
          at: `line ${number}`,
          frame: time(code!),
          length: 1,
          name: title,
          note,
          colour: known ?? 'verdigris',
        });
        return;
      }
      const speed = /^M2\s+\S+\s+(-?[\d.]+)/i.exec(line);
      if (speed) {
        // Frames a second at which the source plays: its own rate is no change.
        const own = [rate.num / rate.den, Math.round(rate.num / rate.den)];
        if (own.every((one) => Math.abs(Number(speed[1]) - one) > 0.05))
          say(
            number,
            'edit-speed',
            `a speed of ${speed[1]} frames a second is not imported.`,
            'Retime the shot by a curve.',
          );
        return;
      }
      // Comments and what else programs write between events.
      if (/^[*>-]|^(AUD|SPLIT|KEY)\b|\bREEL\b/i.test(line)) return;
      say(
        number,
        'edit-line',
        `"${line.slice(0, 60)}" is neither an event nor a comment.`,
        'Correct the line, or remove it.',
      );
    } catch (error) {
      if (!(error instanceof ShaleError)) throw error;
      const { fact, wayOut } = problemOf(error);
      say(number, 'edit-timecode', fact, wayOut);
    }
  });
  if (heard.length > 0)
    say(
      heard[0]!,
      'edit-sound',
      `${heard.length === 1 ? 'this event is' : `${heard.length} events, from this one on, are`} of sound alone and not carried.`,
      'Lay the sound under the video by itself.',
    );
  list.problems.push(...overlaps(list.events));
  if (list.events.length === 0 && list.markers.length === 0 && list.problems.length === 0) list.problems.push(noEvents);
  return list;
}

const noEvents: Problem = {
  code: 'edit-empty',
  fact: 'The list has no events and no markers.',
  wayOut: 'Check that it is an edit decision list in CMX 3600 form.',
};

/** A name, and what stands behind a bar as its note. */
function split(words: string): { name: string; note: string } {
  const [name, ...note] = words.split('|');
  return { name: name!.trim(), note: note.join('|').trim() };
}

/** A shot that a list is written of. */
export interface EditShot {
  /** The reel: a name without blanks. */
  reel: string;
  /** As a comment says it. */
  name: string;
  /** Frames of it as its timecode counts them; the end is not included. */
  from: number;
  to: number;
}

/** Reels have eight letters or digits in the CMX 3600 form; longer ones are read by all that is in use, and blanks by none. */
const reelName = (name: string): string => name.replace(/[^A-Za-z0-9_.-]+/g, '_').slice(0, 32) || 'AX';

/**
 * Writes shots one after another, and markers on the result, as an edit decision list in the CMX 3600 form.
 * @param start the frame that the result begins at, counted from 00:00:00:00
 * @param drop whether it counts in drop-frame
 */
export function writeEdl(
  title: string,
  shots: readonly EditShot[],
  rate: Rate,
  { start = 0, drop = false, markers = [] }: { start?: number; drop?: boolean; markers?: readonly Marker[] } = {},
): string {
  const code = (frame: number) => printTimecode(frame, rate, drop).replace(';', ':');
  const lines = [`TITLE: ${title}`, `FCM: ${drop && mayDropFrames(rate) ? 'DROP FRAME' : 'NON-DROP FRAME'}`, ''];
  let at = start;
  shots.forEach(({ reel, name, from, to }, index) => {
    const end = at + to - from;
    const times = [from, to, at, end].map(code).join(' ');
    lines.push(`${String(index + 1).padStart(3, '0')}  ${reelName(reel).padEnd(8)} V     C        ${times}`);
    lines.push(`* FROM CLIP NAME: ${name}`);
    for (const marker of markers) {
      if (start + marker.frame < at || start + marker.frame >= end) continue;
      const words = [marker.name, marker.note]
        .filter((one) => one !== '')
        .join(' | ')
        .replace(/[\r\n]+/g, ' ');
      lines.push(`* LOC: ${code(start + marker.frame)} ${marker.colour.toUpperCase()} ${words}`.trimEnd());
    }
    at = end;
  });
  return `${lines.join('\n')}\n`;
}
