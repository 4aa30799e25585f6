import type { Problem } from '../errors.ts';
import { frameSpan, type Source } from '../numbering/source.ts';
import type { Declaration } from '../spec/declaration.ts';
import type { Marker } from '../spec/marker.ts';
import type { Rate } from '../timing/rate.ts';
import { parseTimecode } from '../timing/timecode.ts';
import { readEdl } from './edl.ts';
import type { EditList } from './events.ts';
import { readMarkerTable } from './markerTable.ts';
import { readOtio } from './otio.ts';

/** What an edit list or a table of markers is written in. */
export type ListKind = 'edl' | 'otio' | 'csv';

/** By the ending of its name. @returns undefined where it is none of them */
export function listKind(name: string): ListKind | undefined {
  const ending = /\.([^.]+)$/.exec(name)?.[1]?.toLowerCase();
  if (ending === 'edl' || ending === 'otio') return ending;
  return ending === 'csv' || ending === 'tsv' || ending === 'txt' ? 'csv' : undefined;
}

/** The frame, counted from 00:00:00:00, at which a source's own timecode begins; undefined where nothing says it. */
export function timecodeStart({ facts }: Pick<Source, 'facts'>, rate: Rate): number | undefined {
  if (!facts?.timecode) return undefined;
  try {
    return parseTimecode(facts.timecode, rate);
  } catch {
    return undefined;
  }
}

/** How times of a list become frames of a source. */
export type Anchor =
  /** The list's frames are the source's own numbers. */
  | 'frames'
  /** Timecode of the source: its first frame is at what its file says. */
  | 'timecode'
  /** The list's 00:00:00:00 (or first event) is the source's first frame. */
  | 'start';

/**
 * Markers of a list brought onto a source.
 * @param anchor what the list's times count from; where it is not said: frames of a table, else the source's own timecode if it has one,
 *   else its first frame, which is told
 */
export function markersFrom(
  text: string,
  kind: ListKind,
  source: Source,
  declaration: Declaration,
  anchor?: Anchor,
): { markers: Marker[]; problems: Problem[]; anchor: Anchor } {
  const rate = declaration.rate.value;
  const span = frameSpan(source.coverage);
  const first = span?.first ?? 0;
  if (!rate && kind !== 'csv')
    return {
      markers: [],
      anchor: 'start',
      problems: [
        {
          code: 'rate-not-declared',
          fact: `Nothing says the rate of ${source.name}, in which the list counts.`,
          wayOut: 'Declare its rate on Inspect.',
          subject: 'declaration.rate',
        },
      ],
    };
  const read =
    kind === 'csv'
      ? readMarkerTable(text, rate)
      : { list: kind === 'edl' ? readEdl(text, rate!) : readOtio(text, rate!), by: 'timecode' as const };
  const { list } = read;
  const start = rate ? timecodeStart(source, rate) : undefined;
  // An OTIO document counts from the beginning of its timeline.
  const counts =
    anchor ?? (read.by === 'frame' ? 'frames' : kind === 'otio' ? 'start' : start === undefined ? 'start' : 'timecode');
  const zero = counts === 'frames' ? 0 : counts === 'timecode' ? first - (start ?? 0) : first - beginning(list, kind);
  const problems = list.problems.filter(({ code }) => markerMatters(code, list));
  const markers: Marker[] = [];
  for (const { at, frame, length, name, note, colour } of list.markers) {
    const there = frame + zero;
    if (span && (there < span.first || there > span.last)) {
      problems.push({
        code: 'marker-outside',
        fact: `${at}: frame ${there} is outside; ${source.name} has ${span.first} to ${span.last}.`,
        wayOut: 'Set what the list counts from, or remove the marker from it.',
        subject: at,
      });
      continue;
    }
    const fits = span ? Math.min(length, span.last - there + 1) : length;
    markers.push({ frame: there, length: fits, name: name.slice(0, 200), note: note.slice(0, 4000), colour });
  }
  if (markers.length === 0 && problems.length === 0)
    problems.push({
      code: 'edit-empty',
      fact: 'The list has no markers.',
      wayOut: 'Check that its markers were exported: in an EDL they are comments that begin with "* LOC:".',
    });
  return { markers, problems, anchor: counts };
}

/** Where a list's result begins: its first event, on the hour as a rule; 00:00:00:00 where it has none. */
const beginning = ({ events }: EditList, kind: ListKind): number =>
  kind === 'otio' || events.length === 0 ? 0 : Math.min(...events.map(({ record }) => record.from));

/** What is wrong with cuts matters to markers only where there are none. */
const markerMatters = (code: string, { markers }: EditList): boolean =>
  markers.length === 0 || !/^edit-(transition|speed|sound|disabled|overlap|gap|tracks)$/.test(code);
