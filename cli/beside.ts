import { readFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import {
  askedOthers,
  declare,
  holdsOf,
  isVideo,
  joinedIn,
  listKind,
  makePlan,
  markersFrom,
  resultsOf,
  ShaleError,
  shotsFrom,
  type Declaration,
  type Given,
  type Marker,
  type Plan,
  type Role,
  type Source,
  type Spec,
  type Word,
  centredBox,
  turnedSize,
} from '@shale/core';
import { findCadence, pictureOf, scanFolders, type WorkerPool } from '@shale/engine';
import { findSource, sourceFor } from './found.ts';
import { refuse, tell, type Session } from './session.ts';

/** The markers of a list for a source. @throws ShaleError where it cannot be read, or any of it does not fit */
async function readMarkers(path: string, source: Source, declaration: Declaration): Promise<Marker[]> {
  const kind = listKind(path);
  const text = await readFile(path, 'utf8').catch(() => undefined);
  if (!kind || text === undefined) {
    throw new ShaleError({
      code: 'list-unknown',
      fact: text === undefined ? `There is no ${path}.` : `${path} is not a list that Shale can read.`,
      wayOut: 'Name an edit list (.edl, .otio) or a table (.csv).',
      subject: path,
    });
  }
  const { markers, problems } = markersFrom(text, kind, source, declaration);
  if (problems[0]) throw new ShaleError(problems[0]);
  return markers;
}

/** Told, and no hindrance: the list is carried out all the same. */
const notes = new Set(['edit-no-timecode']);

/**
 * The cuts of an edit list as a spec: its first shot and those that follow.
 * @param root the folder in and below which its sources are
 * @returns an exit code where a cut does not fit: nothing of a list is left out in silence
 */
export async function readEdit(
  root: string,
  spec: Spec,
  options: { edit: string; word: Word },
  session: Session,
): Promise<{ spec: Spec; folder: string; name: string } | { code: number }> {
  const path = options.edit;
  const kind = listKind(path);
  const text = await readFile(path, 'utf8').catch(() => undefined);
  if (text === undefined || (kind !== 'edl' && kind !== 'otio'))
    throw new ShaleError({
      code: 'list-unknown',
      fact: text === undefined ? `There is no ${path}.` : `${path} is not an edit list that Shale can read.`,
      wayOut: 'Name an edit list (.edl, .otio).',
      subject: path,
    });
  const { word } = options;
  const among: { root: string; source: Source; declaration: Declaration }[] = [];
  for await (const { sources, unfinished } of scanFolders(root, session.pool))
    if (!unfinished) among.push(...sources.map((source) => ({ root, source, declaration: declare(source, word) })));
  const rate = word.rate ?? among.find(({ declaration }) => declaration.rate.value)?.declaration.rate.value;
  if (!rate)
    throw new ShaleError({
      code: 'rate-not-declared',
      fact: `Nothing gives the rate in which ${path} counts.`,
      wayOut: 'Give --rate.',
      subject: 'rate',
    });
  const { shots, problems } = shotsFrom(text, kind, rate, among);
  const hinders = problems.filter(({ code }) => !notes.has(code));
  if (hinders.length > 0) return { code: refuse(session, ...hinders) };
  tell(session, ...problems);
  const [first, ...then] = shots as [Spec['then'][number], ...Spec['then']];
  const { folder, name } = first.source;
  return { spec: { ...spec, frames: first.frames, then }, folder: resolve(root, folder), name };
}

/** The second sources that a spec names; their roots are folders, taken from that of the first source on. */
export async function othersOf(
  source: Source,
  declaration: Declaration,
  spec: Spec,
  folder: string,
  markers: string | undefined,
  pool: WorkerPool,
): Promise<Given> {
  const given: Given = {};
  const holds = async (root: string, of: Source) =>
    spec.time.undo === 'holds' ? holdsOf(await findCadence(root, of, pool)) : undefined;
  given.holds = await holds(folder, source);
  if (markers !== undefined) given.markers = await readMarkers(markers, source, declaration);
  for (const [role, { source: named }] of Object.entries(askedOthers(spec.picture))) {
    const root = resolve(folder, named.root, named.folder);
    const source = await findSource(root, named.name, pool);
    given[role as Role] = { root, source, declaration: declare(source) };
  }
  given.joined = await Promise.all(
    joinedIn(spec.channels).map(async (named) => {
      const root = resolve(folder, named.root, named.folder);
      const source = await findSource(root, named.name, pool);
      return { root, source, declaration: declare(source) };
    }),
  );
  given.shots = await Promise.all(
    spec.then.map(async ({ source: named }) => {
      const root = resolve(folder, named.root, named.folder);
      const source = await sourceFor(spec, root, named.name, pool);
      return { root, source, declaration: declare(source), holds: await holds(root, source) };
    }),
  );
  const { from } = spec.sound;
  if (typeof from !== 'string') {
    const root = resolve(folder, from.root, from.folder);
    given.sound = { root, source: { ...(await findSource(root, from.name, pool)), folder: '' } };
  }
  return given;
}

/** The plan with a crop around all that is not clear in any of its frames. @param isCentred whether its middle stays that of the frames @throws ShaleError where all is clear */
export async function fitted(
  plan: Plan,
  source: Source,
  others: Given,
  pool: WorkerPool,
  isCentred: boolean,
): Promise<Plan> {
  const files = resultsOf(plan, 0, plan.frames)
    .filter(({ from }) => from !== undefined)
    .map((row) => ({ path: resolve(plan.root, row.from!), picture: pictureOf(plan, row), clip: isVideo(plan.source) }));
  const box = await pool.run('content', { files, picture: { ...plan.spec.picture, crop: null } });
  if (!box) {
    throw new ShaleError({
      code: 'all-clear',
      fact: `All of ${source.name} is clear: there is no content to fit to.`,
      wayOut: 'Check its declared alpha, or remove --fit-content.',
      subject: source.name,
    });
  }
  const crop = isCentred && source.facts ? centredBox(box, turnedSize(source.facts, plan.spec.picture)) : box;
  const spec = { ...plan.spec, picture: { ...plan.spec.picture, crop } };
  return makePlan(plan.root, source, plan.declaration, spec, others);
}
