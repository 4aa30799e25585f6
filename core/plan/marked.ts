import type { Problem } from '../errors.ts';
import { foldName, nameFault, unfit } from '../naming/names.ts';
import { fillTemplate, parseTemplate, type NameValues } from '../naming/template.ts';
import { covers, type FrameRange } from '../numbering/ranges.ts';
import type { Staged } from './attempt.ts';
import { chosenMarkers, type Marked, type Marker, type Numbered } from '../spec/marker.ts';

/** Characters that no name may hold, one or more of them. */
const unfitOnes = new RegExp(`${unfit.source}+`, 'g');

/** Text as a part of a name: what some system does not take becomes a hyphen, blanks a low line. */
export const safeText = (text: string): string =>
  text
    .normalize('NFC')
    .trim()
    .replace(/\s+/g, '_')
    .replace(unfitOnes, '-')
    .replace(/^[.-]+|[.-]+$/g, '');

/** The stills of a source's markers: from which frames, and what forbids them. */
export function markedFrames(
  markers: readonly Marker[],
  rule: Marked,
  present: readonly FrameRange[],
  name: string,
): Staged<Numbered[]> {
  const problems: Problem[] = [];
  const all = chosenMarkers(markers, rule);
  const add = (code: string, fact: string, wayOut: string) => problems.push({ code, fact, wayOut, subject: 'marked' });
  if (markers.length === 0)
    add('no-markers', `${name} has no markers.`, 'Set some on Inspect, import an edit list, or choose frames.');
  else if (all.length === 0)
    add('no-markers', `None of the ${markers.length} markers of ${name} is chosen.`, 'Choose other colours or words.');
  const gone = all.filter(({ marker }) => !covers(present, marker.frame));
  if (gone.length > 0)
    add(
      'marker-without-frame',
      `${gone.length === 1 ? 'A marker is' : `${gone.length} markers are`} at a missing frame: ${listed(gone.map(({ marker }) => String(marker.frame)))}.`,
      'Move them on Inspect, or leave them out by their colour.',
    );
  return { value: all.filter(({ marker }) => covers(present, marker.frame)), problems };
}

const listed = (some: readonly string[]): string =>
  some.slice(0, 4).join(', ') + (some.length > 4 ? ` and ${some.length - 4} more` : '');

/**
 * A name for each still, by the template, without anything added to it.
 * @param first the number of the first result
 * @throws ShaleError `bad-template` for unknown fields
 */
export function markedNames(
  chosen: readonly Numbered[],
  template: string,
  values: NameValues & { stem: string },
  first: number,
): Staged<Record<string, string>> {
  const parts = parseTemplate(template);
  const names: Record<string, string> = {};
  const problems: Problem[] = [];
  const add = (code: string, fact: string, wayOut: string) =>
    problems.push({ code, fact, wayOut, subject: 'names.template' });
  const asks = (field: string) => parts.some((part) => typeof part !== 'string' && part.field === field);
  const holders = new Map<string, Numbered[]>();
  const empty: Numbered[] = [];
  chosen.forEach((one, at) => {
    const { marker, number } = one;
    const [name, note] = [safeText(marker.name), safeText(marker.note)];
    if ((asks('marker') && name === '') || (asks('note') && note === '')) empty.push(one);
    const filled = fillTemplate(parts, { ...values, marker: name, note, number }, values.stem);
    const made = filled
      .map((part) =>
        typeof part === 'string'
          ? part
          : String(part.slot === 'frame' ? marker.frame : at + 1).padStart(part.digits ?? 0, '0'),
      )
      .join('');
    names[first + at] = made;
    const key = foldName(made);
    holders.set(key, [...(holders.get(key) ?? []), one]);
  });
  if (empty.length > 0)
    add(
      'marker-without-name',
      `The template asks for the ${asks('marker') ? 'name' : 'note'} of each marker, but at ${empty.length === 1 ? 'frame' : 'frames'} ${listed(empty.map(({ marker }) => String(marker.frame)))} it is empty or cannot be a name.`,
      'Name them on Inspect, or add {number} or {frame} to the template.',
    );
  const doubled = [...holders.values()].filter((some) => some.length > 1);
  if (doubled.length > 0)
    add(
      'names-collide',
      `${doubled.length === 1 ? 'One name is' : `${doubled.length} names are`} the name of several markers: ${listed(doubled.map((some) => `"${some[0]!.marker.name || some[0]!.number}" at ${some.map(({ marker }) => marker.frame).join(' and ')}`))}.`,
      'Give them different names, or add {number} or {frame} to the template.',
    );
  const bad = Object.values(names).find((name) => nameFault(name));
  if (bad !== undefined && empty.length === 0)
    add('bad-template', `The name "${bad}" ${nameFault(bad)!.words}.`, 'Change the template or the marker.');
  return { value: names, problems };
}
