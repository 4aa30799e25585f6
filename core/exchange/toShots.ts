import { ShaleError, type Problem } from '../errors.ts';
import { groupedBy } from '../grouped.ts';
import { frameSpan, hasFrames, type Source } from '../numbering/source.ts';
import type { Declaration } from '../spec/declaration.ts';
import type { Shot } from '../spec/schema.ts';
import type { Rate } from '../timing/rate.ts';
import { readEdl } from './edl.ts';
import type { EditEvent, EditList } from './events.ts';
import { readOtio } from './otio.ts';
import { timecodeStart, type ListKind } from './toMarkers.ts';

/** A source that reels are looked for among. */
export interface Candidate {
  root: string;
  source: Source;
  declaration: Declaration;
}

/** A name as reels are told by: without folder, ending, numbers' place and case. */
const plain = (name: string): string =>
  name
    .slice(name.lastIndexOf('/') + 1)
    .replace(/\.(exr|png|tiff?|jpe?g|tga|dpx|webp|bmp|mov|mp4|mkv|webm|mxf|avi|gif|wav)$/i, '')
    .replace(/[._-]?(#+|%0?\d*d|\[\d+-\d+\])$/, '')
    .replace(/[^a-z0-9]+/gi, '_')
    .replace(/^_+|_+$/g, '')
    .toLowerCase();

/** Sources by what their names have in common with reels. */
const byName = (among: readonly Candidate[]): Map<string, Candidate[]> =>
  groupedBy(
    among.filter(({ source }) => hasFrames(source)),
    ({ source }) => plain(source.name),
  );

/** The sources that an event may mean: by the clip's name first, then by its reel. */
const sourcesOf = ({ clip, reel }: EditEvent, named: ReadonlyMap<string, Candidate[]>): Candidate[] =>
  (clip === undefined ? undefined : named.get(plain(clip))) ?? named.get(plain(reel)) ?? [];

/** The frames of an event as the source numbers them: by its timecode, or, where it has none, its first frame at 00:00:00:00. */
function framesOf(
  { source: taken }: EditEvent,
  { source, declaration }: Candidate,
  rate: Rate,
): { first: number; last: number; timed: boolean } {
  const start = timecodeStart(source, declaration.rate.value ?? rate);
  const zero = frameSpan(source.coverage)!.first - (start ?? 0);
  return { first: taken.from + zero, last: taken.to - 1 + zero, timed: start !== undefined };
}

/**
 * The cuts of an edit list as shots of sources. What names no source, several, or frames that it does not have is said, and left out.
 * @param rate in which the list counts
 * @throws ShaleError of a document that cannot be read at all
 */
export function shotsFrom(
  text: string,
  kind: Exclude<ListKind, 'csv'>,
  rate: Rate,
  among: readonly Candidate[],
): { title: string; shots: Shot[]; problems: Problem[] } {
  const list: EditList = kind === 'edl' ? readEdl(text, rate) : readOtio(text, rate);
  const { problems } = list;
  const shots: Shot[] = [];
  const unsaid = new Set<string>();
  const named = byName(among);
  for (const event of [...list.events].sort((a, b) => a.record.from - b.record.from)) {
    const say = (code: string, fact: string, wayOut: string) =>
      problems.push({ code, fact: `${event.at}: ${fact}`, wayOut, subject: event.at });
    const said = event.clip && event.clip !== event.reel ? `${event.clip} (reel ${event.reel})` : event.reel;
    const found = sourcesOf(event, named);
    if (found.length === 0) {
      say(
        'edit-reel-unknown',
        `no source is called ${said}.`,
        'Scan the root that holds it, or correct the reel in the list.',
      );
      continue;
    }
    if (found.length > 1) {
      const where = found.map(({ source }) => (source.folder ? `${source.folder}/${source.name}` : source.name));
      say(
        'edit-reel-unknown',
        `${said} may be ${where.slice(0, 3).join(' or ')}.`,
        'Give the sources names of their own, or narrow Intake to one folder.',
      );
      continue;
    }
    const [candidate] = found as [Candidate];
    const { first, last, timed } = framesOf(event, candidate, rate);
    if (!timed && !unsaid.has(candidate.source.name)) {
      unsaid.add(candidate.source.name);
      problems.push({
        code: 'edit-no-timecode',
        fact: `${candidate.source.name} has no timecode: its first frame is taken as 00:00:00:00.`,
        wayOut: 'Check that the list counts the same way.',
        subject: candidate.source.name,
      });
    }
    const span = frameSpan(candidate.source.coverage)!;
    if (first < span.first || last > span.last) {
      say(
        'edit-outside',
        `it takes frames ${first} to ${last} of ${candidate.source.name}, which has ${span.first} to ${span.last}.`,
        'Check that the source has the rate and timecode of the list.',
      );
      continue;
    }
    const { root, source } = candidate;
    shots.push({
      source: { root, folder: source.folder, name: source.name },
      frames: first === span.first && last === span.last ? 'all' : first === last ? `${first}` : `${first}-${last}`,
    });
  }
  if (list.events.length === 0 && problems.length === 0)
    throw new ShaleError({
      code: 'edit-empty',
      fact: 'The list has no cuts.',
      wayOut: 'Import a list with events on a picture track.',
    });
  return { title: list.title, shots, problems };
}
