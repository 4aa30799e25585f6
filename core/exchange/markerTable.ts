import Papa from 'papaparse';
import { problemOf, ShaleError } from '../errors.ts';
import type { Marker } from '../spec/marker.ts';
import type { Rate } from '../timing/rate.ts';
import { parseTimecode, printTimecode } from '../timing/timecode.ts';
import { colourNamed, type EditList } from './events.ts';

/** What heads a column may have, in any case; the first is what Shale writes. */
const heads: Record<'frame' | 'timecode' | 'length' | 'name' | 'note' | 'colour', readonly string[]> = {
  frame: ['frame', 'frame number', 'start frame', 'in frame'],
  timecode: ['timecode', 'tc', 'time code', 'start', 'in', 'start timecode', 'source in', 'record in'],
  length: ['length', 'duration', 'frames'],
  name: ['name', 'marker', 'title', 'marker name', 'label'],
  note: ['note', 'notes', 'comment', 'comments', 'description'],
  colour: ['colour', 'color'],
};
type Column = keyof typeof heads;

/**
 * Reads a table of markers with commas, semicolons or tabs between, and a first row that heads its columns. Frames count as the source
 * numbers them, timecode from 00:00:00:00.
 * @param rate in which timecode counts; without it only frames can be read
 * @throws ShaleError `bad-table` where no column says where the markers are
 */
export function readMarkerTable(text: string, rate: Rate | null): { list: EditList; by: 'frame' | 'timecode' } {
  const { data } = Papa.parse<string[]>(text.replace(/^\ufeff/, '').trim(), { skipEmptyLines: 'greedy' });
  const head = (data[0] ?? []).map((one) => one.trim().toLowerCase());
  const columns = Object.fromEntries(
    (Object.keys(heads) as Column[]).map((column) => [column, head.findIndex((one) => heads[column].includes(one))]),
  ) as Record<Column, number>;
  const by = columns.frame >= 0 ? 'frame' : 'timecode';
  if (columns[by] < 0)
    throw new ShaleError({
      code: 'bad-table',
      fact: `No column gives the position of the markers; the first row is "${(data[0] ?? []).join(', ').slice(0, 80)}".`,
      wayOut: 'Name the columns in the first row: frame or timecode; length, name, note and colour are optional.',
    });
  if (by === 'timecode' && !rate)
    throw new ShaleError({
      code: 'rate-not-declared',
      fact: 'The table counts in timecode, and nothing says at which rate.',
      wayOut: 'Declare the rate of the source.',
    });
  const list: EditList = { title: '', events: [], markers: [], problems: [] };
  data.slice(1).forEach((row, index) => {
    const at = `row ${index + 2}`;
    const cell = (column: Column): string => (columns[column] < 0 ? '' : (row[columns[column]] ?? '').trim());
    const say = (fact: string, wayOut: string) =>
      list.problems.push({ code: 'edit-line', fact: `${at}: ${fact}`, wayOut, subject: at });
    try {
      const frame = by === 'frame' ? wholeOf(cell('frame'), 'frame') : parseTimecode(cell('timecode'), rate!);
      const length = cell('length') === '' ? 1 : lengthOf(cell('length'), rate);
      if (length < 1) return say('its length is below 1.', 'Correct it.');
      const colour = cell('colour') === '' ? 'verdigris' : colourNamed(cell('colour'));
      if (!colour)
        say(`"${cell('colour')}" is not a known colour; verdigris is used.`, 'Use one of Shale’s marker colours.');
      list.markers.push({ at, frame, length, name: cell('name'), note: cell('note'), colour: colour ?? 'verdigris' });
    } catch (error) {
      if (!(error instanceof ShaleError)) throw error;
      const { fact, wayOut } = problemOf(error);
      say(fact, wayOut);
    }
  });
  return { list, by };
}

function wholeOf(text: string, what: string): number {
  if (/^-?\d{1,9}$/.test(text)) return Number(text);
  throw new ShaleError({
    code: 'edit-line',
    fact: `"${text}" is not a ${what} number.`,
    wayOut: 'Write a whole number.',
  });
}

/** Frames, or a duration as timecode. */
const lengthOf = (text: string, rate: Rate | null): number =>
  rate && text.includes(':') ? parseTimecode(text, rate) : wholeOf(text, 'frame');

/**
 * Writes markers as a table. Text that a spreadsheet would take for a formula is quoted against it.
 * @param first the source's first frame, at timecode `start`
 */
export function writeMarkerTable(
  markers: readonly Marker[],
  rate: Rate | null,
  { first, start }: { first: number; start: number },
): string {
  const code = (frame: number): string =>
    rate && frame - first + start >= 0 ? printTimecode(frame - first + start, rate) : '';
  const table = {
    fields: ['frame', 'timecode', 'length', 'name', 'note', 'colour'],
    data: markers.map(({ frame, length, name, note, colour }) => [frame, code(frame), length, name, note, colour]),
  };
  return `${Papa.unparse(table, { escapeFormulae: true, newline: '\n' })}\n`;
}
