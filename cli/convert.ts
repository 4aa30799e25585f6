import { mkdir, readFile } from 'node:fs/promises';
import { basename, dirname, resolve } from 'node:path';
import {
  alphaKindSchema,
  askedOthers,
  declare,
  declaredTransferSchema,
  frameName,
  hasFrames,
  holdsOf,
  isVideo,
  joinedIn,
  listKind,
  lossSentence,
  loneNumber,
  makePlan,
  markersFrom,
  ofLayer,
  oneOfFile,
  parsePattern,
  parseRate,
  parseSpec,
  primariesSchema,
  printPattern,
  printSentence,
  printRate,
  resultsOf,
  rowCount,
  rowsOf,
  sentenceOf,
  ShaleError,
  shotsFrom,
  type Declaration,
  type WrittenVideo,
  type Given,
  type Marker,
  type Pattern,
  type Plan,
  type Role,
  type Source,
  type Spec,
  type Word,
} from '@shale/core';
import {
  checkSource,
  existingProblem,
  findCadence,
  pictureOf,
  preflight,
  readSequence,
  momentNow,
  readOne,
  scanFolders,
  takenNames,
  type Checked,
  type WorkerPool,
} from '@shale/engine';
import { carryPlan } from './carry.ts';
import { refuse, tell, type Session } from './session.ts';

export interface ConvertOptions {
  spec: string;
  /** Which of a file of several specs. */
  named?: string;
  out: string;
  rate?: string;
  alpha?: string;
  transfer?: string;
  primaries?: string;
  /** The main picture and every layer, each as a sequence of its own. */
  everyLayer?: boolean;
  /** Crops to all that is not clear in any frame. */
  fitContent?: boolean;
  /** An edit list whose cuts follow one another, of sources in and below the folder that is named. */
  edit?: string;
  /** An edit list or a table, for stills at markers. */
  markers?: string;
  dry?: boolean;
  json?: boolean;
}

async function readSpec(path: string, named: string | undefined): Promise<unknown> {
  const text = await readFile(path, 'utf8').catch(() => {
    throw new ShaleError({
      code: 'spec-not-found',
      fact: `There is no spec ${path}.`,
      wayOut: 'Name a JSON file; docs/specs.md shows one.',
      subject: path,
    });
  });
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw new ShaleError({
      code: 'bad-spec',
      fact: `${path} is not JSON: ${(error as Error).message}.`,
      wayOut: 'Correct it; docs/specs.md shows one.',
      subject: path,
    });
  }
  return oneOfFile(value, 'specs', path, named);
}

function choice<T extends string>(
  schema: { safeParse(value: unknown): { success: boolean; data?: T }; options: readonly T[] },
  option: string,
  value: string | undefined,
): T | undefined {
  if (value === undefined) return undefined;
  const parsed = schema.safeParse(value);
  if (parsed.success) return parsed.data;
  throw new ShaleError({
    code: 'bad-option',
    fact: `--${option} ${value} is not known.`,
    wayOut: `Write one of ${schema.options.join(', ')}.`,
    subject: option,
  });
}

function wordOf(options: ConvertOptions): Word {
  const word: Word = {};
  if (options.rate !== undefined) word.rate = parseRate(options.rate);
  const alpha = choice(alphaKindSchema, 'alpha', options.alpha);
  const transfer = choice(declaredTransferSchema, 'transfer', options.transfer);
  const primaries = choice(primariesSchema, 'primaries', options.primaries);
  return { ...word, ...(alpha && { alpha }), ...(transfer && { transfer }), ...(primaries && { primaries }) };
}

/**
 * A source of a folder: a file by its own name, also one of a sequence, or a sequence by its pattern.
 * @throws ShaleError `source-not-found` naming what is there
 */
export async function findSource(folder: string, name: string, pool: WorkerPool, checked?: Checked): Promise<Source> {
  const one = await readOne(folder, name, pool, checked);
  if (one) return one;
  const pattern = name.includes('#') || /%0?\d*d/.test(name) ? parsePattern(name) : undefined;
  const listed = (frameNumber?: number) =>
    pool.run('list', { root: folder, folder: '', moment: momentNow(), frameNumber });
  const { sequences, singles } = await listed();
  const named = ({ source }: { source: Source }) => source.name === printPattern(pattern!);
  // A pattern says itself which number counts the frames.
  const found = pattern && (sequences.find(named) ?? (await listed(placeOf(pattern))).sequences.find(named));
  if (found) return readSequence(folder, found, pool, checked);
  // A frame that stands alone is a still, and still fits its pattern.
  const alone = pattern && singles.names.find((file) => fits(file, pattern));
  const still = alone && (await readOne(folder, alone, pool, checked));
  if (still) return still;
  const names = [...sequences.map(({ source }) => source.name), ...singles.names];
  throw new ShaleError({
    code: 'source-not-found',
    fact: `${folder} holds no ${pattern ? printPattern(pattern) : name}; it holds ${names.slice(0, 5).join(', ') || 'no footage'}.`,
    wayOut: 'Name one of these, with one # per digit of the padding.',
    subject: name,
  });
}

/** {@link findSource}, every picture decoded where the spec treats damaged ones as missing. */
async function sourceFor({ damaged }: Spec, folder: string, name: string, pool: WorkerPool): Promise<Source> {
  const source = await findSource(folder, name, pool);
  if (damaged === 'fail' || !hasFrames(source)) return source;
  const checked: Checked = new Map();
  await checkSource(folder, source, pool, checked);
  return findSource(folder, name, pool, checked);
}

/** Which number of a name a pattern counts, 1 for the first. */
const placeOf = ({ prefix }: Pattern): number => (prefix.match(/\d+/g)?.length ?? 0) + 1;

const fits = (file: string, pattern: Pattern): boolean => {
  const number = loneNumber(file);
  return number !== undefined && frameName(pattern, number.frame) === file;
};

function printPlan({ out }: Session, plan: Plan, json: boolean | undefined): void {
  if (json) out(`${JSON.stringify(plan, null, 2)}\n`);
  else {
    out(`${printSentence(sentenceOf(plan))}\n${lossSentence(plan.losses)}\n`);
    for (const row of rowsOf(plan, 0, rowCount(plan)))
      out(`${row.from ?? 'missing'} -> ${row.kind === 'missing' ? 'left out' : row.to}\n`);
  }
}

/** The markers of a list for a source. @throws ShaleError where it cannot be read, or any of it does not fit */
async function readMarkers(path: string, source: Source, declaration: Declaration): Promise<Marker[]> {
  const kind = listKind(path);
  const text = await readFile(path, 'utf8').catch(() => undefined);
  if (!kind || text === undefined) {
    throw new ShaleError({
      code: 'list-unknown',
      fact: text === undefined ? `There is no ${path}.` : `${path} is no list that Shale reads.`,
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
async function readEdit(
  root: string,
  spec: Spec,
  options: ConvertOptions,
  session: Session,
): Promise<{ spec: Spec; folder: string; name: string } | { code: number }> {
  const path = options.edit!;
  const kind = listKind(path);
  const text = await readFile(path, 'utf8').catch(() => undefined);
  if (text === undefined || (kind !== 'edl' && kind !== 'otio'))
    throw new ShaleError({
      code: 'list-unknown',
      fact: text === undefined ? `There is no ${path}.` : `${path} is not an edit list that Shale can read.`,
      wayOut: 'Name an edit list (.edl, .otio).',
      subject: path,
    });
  const word = wordOf(options);
  const among: { root: string; source: Source; declaration: Declaration }[] = [];
  for await (const { sources, unfinished } of scanFolders(root, session.pool))
    if (!unfinished) among.push(...sources.map((source) => ({ root, source, declaration: declare(source, word) })));
  const rate = word.rate ?? among.find(({ declaration }) => declaration.rate.value)?.declaration.rate.value;
  if (!rate)
    throw new ShaleError({
      code: 'rate-not-declared',
      fact: `Nothing says at which rate ${path} counts.`,
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
async function othersOf(
  source: Source,
  declaration: Declaration,
  spec: Spec,
  folder: string,
  { markers }: ConvertOptions,
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

/** The plan with a crop around all that is not clear in any of its frames. @throws ShaleError where all is clear */
async function fitted(plan: Plan, source: Source, others: Given, pool: WorkerPool): Promise<Plan> {
  const files = resultsOf(plan, 0, plan.frames)
    .filter(({ from }) => from !== undefined)
    .map((row) => ({ path: resolve(plan.root, row.from!), picture: pictureOf(plan, row), clip: isVideo(plan.source) }));
  const box = await pool.run('content', { files, picture: { ...plan.spec.picture, crop: null } });
  if (!box) {
    throw new ShaleError({
      code: 'all-clear',
      fact: `All of ${source.name} is clear: there is nothing to fit to.`,
      wayOut: 'See whether its alpha is what you think, or leave --fit-content out.',
      subject: source.name,
    });
  }
  const spec = { ...plan.spec, picture: { ...plan.spec.picture, crop: box } };
  return makePlan(plan.root, source, plan.declaration, spec, others);
}

/** Jobs of this process so far: each marks its temporary files. */
let jobs = 0;

/** Converts one sequence and prints the receipt; with every layer once for each. @returns the gravest exit code */
export async function convertCommand(pattern: string, options: ConvertOptions, session: Session): Promise<number> {
  if (!options.everyLayer) return convertOne(pattern, options, session);
  const { facts } = await findSource(resolve(dirname(pattern)), basename(pattern), session.pool);
  let code = 0;
  for (const layer of [null, ...(facts?.layers ?? [])])
    code = Math.max(code, await convertOne(pattern, options, session, layer));
  return code;
}

/** @param layer in place of the spec's, into a name that has it: `{stem}_{layer}` where the spec's template names none */
async function convertOne(
  pattern: string,
  options: ConvertOptions,
  session: Session,
  layer?: string | null,
): Promise<number> {
  const { pool, out } = session;
  const given = await readSpec(options.spec, options.named);
  const target = resolve(options.out);
  const told = parseSpec({ ...(given as object), into: { root: target, folder: '' } });
  const wanted = layer === undefined ? told : ofLayer(told, layer);
  const edit = options.edit === undefined ? undefined : await readEdit(resolve(pattern), wanted, options, session);
  if (edit && 'code' in edit) return edit.code;
  const spec = edit?.spec ?? wanted;
  const folder = edit?.folder ?? resolve(dirname(pattern));
  const source = await sourceFor(spec, folder, edit?.name ?? basename(pattern), pool);
  const declaration = declare(source, wordOf(options));
  const others = await othersOf(source, declaration, spec, folder, options, pool);
  const whole = makePlan(folder, source, declaration, spec, others);
  const plan = options.fitContent ? await fitted(whole, source, others, pool) : whole;
  if (options.dry) {
    printPlan(session, plan, options.json);
    const problem = plan.problems[0] ?? existingProblem(plan, await takenNames(plan, target));
    return problem ? refuse(session, problem) : 0;
  }
  const places = {
    follows: true,
    source: folder,
    target,
    others: Object.fromEntries(Object.entries(plan.others).map(([role, other]) => [role, other.root])),
    shots: plan.shots.map(({ root }) => root),
    joined: plan.joined.map(({ root }) => root),
    ...(plan.sound && !plan.sound.own ? { sound: plan.sound.root } : {}),
  };
  await mkdir(target, { recursive: true });
  const job = `cli${process.pid}-${(jobs += 1)}`;
  const [problem] = await preflight(plan, places, job);
  if (problem) return refuse(session, problem);

  const shows = session.watched && options.json !== true;
  const receipt = await carryPlan(plan, places, job, shows, session);
  if (options.json) out(`${JSON.stringify(receipt, null, 2)}\n`);
  else {
    out(
      `${receipt.sentence}\n${receipt.written} of ${receipt.planned} files written, ${receipt.check.identical} read back identical.\n${receipt.video ? videoLine(receipt.video) : ''}`,
    );
    for (const { name, fact, wayOut } of receipt.failed) out(`${name}: ${fact} ${wayOut}\n`);
  }
  return receipt.written === receipt.planned ? 0 : 1;
}

const videoLine = ({ frames, width, height, rate, format, psnr, kilobits }: WrittenVideo): string =>
  `${frames} pictures, ${width} x ${height}, ${printRate(rate)}, ${format}${kilobits === null ? '' : `, ${kilobits.toLocaleString('en-GB')} kb/s`}${psnr === null ? '' : `, ${psnr.toFixed(1)} dB of what went in`}.\n`;
