import { mkdir } from 'node:fs/promises';
import { resolve } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import pLimit from 'p-limit';
import {
  isBeingWritten,
  breachesOf,
  collisionsAmong,
  conformSpec,
  declare,
  digestOfMaking,
  exactBytes,
  digestOfPlan,
  folderApart,
  heldPlan,
  isVideoFormat,
  lossSentence,
  makePlan,
  ofLayer,
  plural,
  printRate,
  printSentence,
  rowCount,
  rowsOf,
  sentenceOf,
  ShaleError,
  someOf,
  stemOf,
  type Given,
  type Plan,
  type Problem,
  type Receipt,
  type Receiver,
  type Source,
  type Spec,
  type WrittenVideo,
} from '@shale/core';
import {
  existingProblem,
  namesStanding,
  preflight,
  takenNames,
  Together,
  type Places,
  type Seat,
  type Standing,
} from '@shale/engine';
import { Bar } from './bar.ts';
import { fitted, othersOf, readEdit } from './beside.ts';
import { carryPlan } from './carry.ts';
import { findMany, sourceFor, type Found } from './found.ts';
import { madeBefore } from './made.ts';
import { fitsContent, placeOf, readSpecs, specOf, wordOf, type ConvertOptions } from './options.ts';
import { receiverOf } from './rename.ts';
import { refuse, refused, tell, type Session } from './session.ts';

/** A plan that the command line is to carry out. */
interface Part {
  plan: Plan;
  places: Places;
  problems: Problem[];
  /** What of it is there already, where only what is new is made. */
  standing?: Standing;
  /** Whether its source is still being written. */
  isGrowing: boolean;
}

/** Sources that are carried out at once, each in all its outputs: they share the processes. */
const atOnce = 3;

/** How long it is waited between two looks at sources that are watched, in milliseconds. */
const watchEvery = 2000;

function printPlan({ out }: Session, plan: Plan, json: boolean | undefined): void {
  if (json) out(`${JSON.stringify(plan, null, 2)}\n`);
  else {
    out(`${printSentence(sentenceOf(plan))}\n${lossSentence(plan.losses)}\n`);
    for (const row of rowsOf(plan, 0, rowCount(plan)))
      out(`${row.from ?? 'missing'} -> ${row.kind === 'missing' ? 'left out' : row.to}\n`);
  }
}

/** Jobs of this process so far: each marks its temporary files. */
let jobs = 0;

/**
 * Converts what is named and prints a receipt for each; with `dry` the plans. Nothing is written where anything of it cannot run,
 * unless that is to be left out.
 * @returns the gravest exit code
 */
export async function convertCommand(
  named: readonly string[],
  options: ConvertOptions,
  session: Session,
): Promise<number> {
  if (options.watch) return watch(named, options, session);
  return convertOnce(named, options, session);
}

async function convertOnce(named: readonly string[], options: ConvertOptions, session: Session): Promise<number> {
  const parts = await partsFor(named, options, session);
  if ('code' in parts) return parts.code;
  if (options.dry) {
    for (const { plan } of parts) printPlan(session, plan, options.json);
    return refuseAll(parts, session) ?? 0;
  }
  const ready = parts.filter(({ problems }) => problems.length === 0);
  const code = refuseAll(parts, session);
  if (code !== undefined && (!options.skip || ready.length === 0)) return code;
  return Math.max(await run(ready, options, session), code === undefined ? 0 : 1);
}

/** Tells what cannot run, each once. @returns the exit code where there is any */
function refuseAll(parts: readonly Part[], session: Session): number | undefined {
  const stopped = parts.filter(({ problems }) => problems.length > 0);
  if (stopped.length === 0) return undefined;
  return refuse(
    session,
    ...stopped.map(({ plan, problems: [first] }) =>
      parts.length > 1 ? { ...first!, fact: `${placeSaid(plan)}: ${first!.fact}` } : first!,
    ),
  );
}

const placeSaid = ({ source: { folder, name } }: Plan): string => (folder === '' ? name : `${folder}/${name}`);

/** Every source in every spec, with what stands in its way. */
async function partsFor(
  named: readonly string[],
  options: ConvertOptions,
  session: Session,
): Promise<Part[] | { code: number }> {
  const { pool } = session;
  const specs = await readSpecs(options);
  const receiver = options.receiver === undefined ? undefined : await receiverOf(options.receiver);
  if (options.edit !== undefined) {
    if (named.length !== 1 || specs.length !== 1 || !specs[0])
      throw new ShaleError({
        code: 'bad-option',
        fact: '--edit takes one folder and one spec.',
        wayOut: 'Name the folder of its sources, and give --spec once.',
        subject: 'edit',
      });
    const edit = await readEdit(resolve(named[0]!), specs[0], { edit: options.edit, word: wordOf(options) }, session);
    if ('code' in edit) return edit;
    const source = await sourceFor(edit.spec, edit.folder, edit.name, pool);
    const found = { root: edit.folder, held: edit.folder.split('/').pop()!, source };
    return [await partOf(found, edit.spec, options, receiver, [found], session)];
  }
  const found = await findMany(named, pool);
  const parts: Part[] = [];
  for (const one of found) {
    const layers = options.everyLayer ? [null, ...(one.source.facts?.layers ?? [])] : [undefined];
    for (const spec of specs.filter((spec) => !isLeftOut(one, spec, options)))
      for (const layer of layers) parts.push(await partOf(one, spec, options, receiver, found, session, layer));
  }
  for (const [at, problem] of collisionsAmong(parts)) parts[at]!.problems.push(problem);
  const left = found.filter((one) => specs.some((spec) => isLeftOut(one, spec, options)));
  if (left.length > 0) tell(session, stillsLeft(left));
  if (parts.length === 0) return { code: refused };
  return parts;
}

/** Whether a still that a folder holds beside what moves is no source of a video: one of it alone is seldom meant. */
const isLeftOut = ({ isSwept, source }: Found, spec: Spec | undefined, { format }: ConvertOptions): boolean =>
  isSwept === true &&
  source.kind === 'still' &&
  isVideoFormat((format ?? spec!.write.format) as Spec['write']['format']);

const stillsLeft = (left: readonly Found[]): Problem => ({
  code: 'stills-left-out',
  fact: `${plural(left.length, 'still')} ${left.length === 1 ? 'is' : 'are'} not made into a video: ${someOf(left.map(({ source }) => source.name))}.`,
  wayOut: 'Name a still itself, or with wildcards in quotes, to make a video of it.',
  subject: left[0]!.source.name,
});

/** @param layer in place of the spec's, into a name that has it: `{stem}_{layer}` where the spec's template names none */
async function partOf(
  one: Found,
  given: Spec | undefined,
  options: ConvertOptions,
  receiver: Receiver | undefined,
  all: readonly Found[],
  session: Session,
  layer?: string | null,
): Promise<Part> {
  const { pool } = session;
  const { root, held, frames } = one;
  const declaration = declare(one.source, wordOf(options));
  const told = specOf(given, one.source, declaration, options);
  const wanted = layer === undefined ? told : ofLayer(told, layer);
  const into = intoOf(wanted, one.source, options, all);
  const spec = { ...wanted, into, ...(frames !== undefined && wanted.frames === 'all' ? { frames } : {}) };
  const source = await wholeSource(one, spec, pool);
  const others = { ...(await othersOf(source, declaration, spec, root, options.markers, pool)), folder: held };
  const whole = kept(makePlan(root, source, declaration, spec, others), source, others, receiver, session);
  const fits = options.fitContent || fitsContent(options.crop);
  const plan = fits ? await fitted(whole, source, others, pool, options.crop === 'centred') : whole;
  const places = placesOf(plan);
  const standing = options.onlyNew ? await standingOf(plan, places, session) : undefined;
  const stands = namesStanding(standing);
  const taken = await takenNames(plan, places.target);
  const exists = existingProblem(plan, { ...taken, names: taken.names.filter((name) => !stands.has(name)) });
  return {
    plan,
    places,
    problems: [...plan.problems, ...(exists ? [exists] : [])],
    ...(standing ? { standing } : {}),
    isGrowing: isBeingWritten(source),
  };
}

/** A source with every picture decoded where the spec treats damaged ones as missing. */
async function wholeSource({ root, source }: Found, spec: Spec, pool: Session['pool']): Promise<Source> {
  if (spec.damaged === 'fail') return source;
  const { folder, name } = source;
  return { ...(await sourceFor(spec, resolve(root, folder), name, pool)), folder };
}

/** Where results go: as `--out` says, and below it as the spec says; a folder for each of several sources where nothing keeps them apart. */
function intoOf(spec: Spec, { kind }: Source, { out }: ConvertOptions, all: readonly Found[]): Spec['into'] {
  const { into } = spec;
  if (out === undefined && !into.root.startsWith('/'))
    throw new ShaleError({
      code: 'bad-option',
      fact: 'No output folder is given.',
      wayOut: 'Give --out FOLDER.',
      subject: 'out',
    });
  const place = out === undefined ? { root: into.root, folder: '' } : placeOf(out);
  const isSaid = all.length === 1 || place.folder !== '' || into.folder !== null;
  const folder = [place.folder, into.folder ?? '', isSaid ? '' : apartFor(spec, kind, all)].filter(
    (step) => step !== '',
  );
  return { root: place.root, folder: folder.join('/') };
}

/** Numbered files go into a folder for each source; videos and stills only where their names would meet. */
function apartFor({ write, video }: Spec, kind: Source['kind'], all: readonly Found[]): string {
  const apart = folderApart(all.map(({ source, held }) => ({ name: source.name, folder: source.folder || held })));
  if (!isVideoFormat(write.format)) return apart ?? (kind === 'still' ? '' : '{stem}');
  return /\{(folder|path)/.test(video.name) ? '' : (apart ?? '');
}

/** A plan brought to what a receiver takes, as far as a press on the page would; what is left is told. */
function kept(plan: Plan, source: Source, others: Given, receiver: Receiver | undefined, session: Session): Plan {
  if (!receiver || plan.problems.length > 0) return plan;
  const { root, into } = plan;
  const breaches = breachesOf(heldPlan(plan, into.root), receiver);
  const stem = into.kind === 'sequence' ? stemOf(into.pattern) : into.stem;
  const next = makePlan(root, source, plan.declaration, conformSpec(plan.spec, receiver, breaches, stem), others);
  const left = breachesOf(heldPlan(next, into.root), receiver);
  for (const { sentence } of left) session.err(`shale: ${placeSaid(plan)}, for ${receiver.name}: ${sentence}\n`);
  return next;
}

const placesOf = (plan: Plan): Places => ({
  follows: true,
  source: plan.root,
  target: plan.into.root,
  others: Object.fromEntries(Object.entries(plan.others).map(([role, other]) => [role, other.root])),
  shots: plan.shots.map(({ root }) => root),
  joined: plan.joined.map(({ root }) => root),
  ...(plan.sound && !plan.sound.own ? { sound: plan.sound.root } : {}),
});

async function standingOf(plan: Plan, places: Places, { pool, made }: Session): Promise<Standing | undefined> {
  if (plan.problems.length > 0) return undefined;
  const earlier = await madeBefore(made, plan);
  return earlier.length === 0 ? undefined : pool.run('standing', { plan, places, earlier });
}

/** Carries parts out, a few at once. @returns the gravest exit code */
async function run(parts: readonly Part[], options: ConvertOptions, session: Session): Promise<number> {
  const isNew = ({ plan, standing }: Part) => (standing?.kept.length ?? 0) < plan.files;
  const open = parts.filter(isNew);
  const stays = parts.length - open.length;
  if (stays > 0 && !options.json) session.out(`${stays} of ${parts.length} are there already.\n`);
  const results = open.reduce((sum, { plan }) => sum + (plan.into.kind === 'video' ? plan.frames : plan.files), 0);
  const bar = new Bar(results, session.err, session.watched && options.json !== true);
  const side = pLimit(atOnce);
  const together = new Together(session.pool);
  const sources = new Map<string, Part[]>();
  for (const part of open) {
    const { root, source } = part.plan;
    const key = JSON.stringify([root, source.folder, source.name]);
    sources.set(key, [...(sources.get(key) ?? []), part]);
  }
  const runAll = (some: readonly Part[]) => {
    const seats = some.map(({ plan }) => together.join(plan));
    return Promise.all(
      some.map((part, at) =>
        runOne(part, bar, parts.length > 1, options, session, seats[at]).finally(() => seats[at]?.leave()),
      ),
    );
  };
  const codes = await Promise.all([...sources.values()].map((some) => side(() => runAll(some))));
  bar.end();
  return Math.max(0, ...codes.flat());
}

async function runOne(
  part: Part,
  bar: Bar,
  isOneOfMany: boolean,
  options: ConvertOptions,
  session: Session,
  seat?: Seat,
): Promise<number> {
  const { plan, places, standing } = part;
  if (session.signal.aborted) return 1;
  await mkdir(places.target, { recursive: true });
  const job = `cli${process.pid}-${(jobs += 1)}`;
  const [problem] = await preflight(plan, places, job, namesStanding(standing));
  if (problem) return refuse(session, problem);
  try {
    const receipt = await carryPlan(plan, places, job, bar, session, standing, seat);
    printReceipt(receipt, isOneOfMany, options, session);
    return receipt.written === receipt.planned ? 0 : 1;
  } catch (error) {
    if (!isOneOfMany || !(error instanceof ShaleError)) throw error;
    tell(session, { ...error, fact: `${placeSaid(plan)}: ${error.fact}` });
    return 1;
  }
}

function printReceipt(receipt: Receipt, isOneOfMany: boolean, { json }: ConvertOptions, { out }: Session): void {
  // One of many is a line, so that a script reads them as they come.
  if (json) return out(`${isOneOfMany ? JSON.stringify(receipt) : JSON.stringify(receipt, null, 2)}\n`);
  const before = receipt.kept ? `, ${receipt.kept} of them before` : '';
  out(
    `${receipt.sentence}\n${receipt.written} of ${receipt.planned} files written${before}, ${receipt.check.identical} read back identical.\n${receipt.video ? videoLine(receipt.video) : ''}`,
  );
  for (const { name, fact, wayOut } of receipt.failed) out(`${name}: ${fact} ${wayOut}\n`);
}

const videoLine = ({ frames, width, height, rate, format, psnr, kilobits, tries }: WrittenVideo): string =>
  `${frames} pictures, ${width} x ${height}, ${printRate(rate)}, ${format}${kilobits === null ? '' : `, ${kilobits.toLocaleString('en-GB')} kb/s`}${psnr === null ? '' : `, ${psnr.toFixed(1)} dB of what went in`}.\n${tries.map(({ bytes, words }) => `  ${exactBytes(bytes)}: ${words || 'nothing given up'}\n`).join('')}`;

/** Converts what comes, until it is stopped: whatever is whole and quiet, and only what is new of it. */
async function watch(named: readonly string[], options: ConvertOptions, session: Session): Promise<number> {
  const { signal, err } = session;
  /** What was told of each part last, and the plan with which it was run last: neither is done again until it is another. */
  const said = new Map<string, string>();
  const ran = new Map<string, string>();
  const say = (part: string, about: string, text: string) => {
    if (said.get(part) === text) return;
    said.set(part, text);
    err(`shale: ${about}: ${text}\n`);
  };
  let code = 0;
  while (!signal.aborted) {
    const parts = await partsFor(named, { ...options, onlyNew: true }, session).catch((error: unknown) => {
      if (!(error instanceof ShaleError)) throw error;
      say('', named.join(' '), `waits: ${error.fact}`);
      return [];
    });
    if ('code' in parts) return parts.code;
    const ready = parts.filter(({ plan, problems, standing, isGrowing }) => {
      const part = digestOfMaking(plan);
      if (isGrowing) say(part, placeSaid(plan), 'waits: still being written');
      else if (problems[0]) say(part, placeSaid(plan), `left: ${problems[0].fact}`);
      else {
        said.delete(part);
        const digest = digestOfPlan(plan);
        if ((standing?.kept.length ?? 0) === plan.files || ran.get(part) === digest) return false;
        ran.set(part, digest);
        return true;
      }
      return false;
    });
    if (ready.length > 0) code = Math.max(code, await run(ready, options, session));
    await wait(watchEvery, undefined, { signal }).catch(() => undefined);
  }
  return code;
}
