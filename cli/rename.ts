import { randomBytes } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { basename, dirname, join, resolve } from 'node:path';
import {
  breachesOf,
  conformNaming,
  declare,
  faultCodes,
  heldRename,
  namingSentence,
  namingSpecSchema,
  oneOfFile,
  parseRate,
  receiverFileSchema,
  receiverSchema,
  relationKinds,
  ShaleError,
  shippedReceivers,
  strictRead,
  type NameRuleInput,
  type NamingSpec,
  type Receiver,
  type RenamePlan,
  type ToName,
} from '@shale/core';
import {
  carryOutRename,
  dayOf,
  openStrictly,
  planDigest,
  planOnDisk,
  planUndo,
  readRecord,
  realDisk,
  recoverRenames,
  workOf,
  type WorkerPool,
} from '@shale/engine';
import { findSource } from './found.ts';
import { refuse, refused, tell, type Session } from './session.ts';

export interface RenameOptions {
  rules?: string;
  /** Which of a file of several. */
  named?: string;
  template?: string;
  first?: string;
  step?: string;
  digits?: string;
  closeGaps?: boolean;
  separator?: string;
  find?: string;
  with?: string;
  expression?: boolean;
  case?: string;
  plain?: boolean;
  rate?: string;
  copy?: boolean;
  link?: boolean;
  move?: boolean;
  into?: string;
  join?: boolean;
  receiver?: string;
  go?: boolean;
  json?: boolean;
}

/** The whole machine as one root: a script names its folders by their paths. */
const machine = { id: '/', path: '/' };

const refuseOption = (option: string, fact: string): ShaleError =>
  new ShaleError({
    code: 'bad-option',
    fact,
    wayOut: 'shale rename --help lists what each option takes.',
    subject: option,
  });

async function readJson(path: string): Promise<unknown> {
  const text = await readFile(path, 'utf8').catch(() => {
    throw refuseOption(path, `There is no file ${path}.`);
  });
  try {
    return JSON.parse(text) as unknown;
  } catch (error) {
    throw refuseOption(path, `${path} is not JSON: ${(error as Error).message}.`);
  }
}

/** A receiver by the id of a shipped one, or from a file. */
export async function receiverOf(name: string): Promise<Receiver> {
  const shipped = shippedReceivers[name];
  if (shipped) return shipped;
  if (!name.endsWith('.json'))
    throw refuseOption(
      'receiver',
      `There is no receiver "${name}"; built-in receivers are ${Object.keys(shippedReceivers).join(', ')}.`,
    );
  const value = await readJson(name);
  const file = receiverFileSchema.safeParse(value);
  const one = file.success ? file.data.receivers[0] : receiverSchema.safeParse(value).data;
  if (one) return one;
  throw refuseOption('receiver', `${name} has no receiver.`);
}

const whole = (option: string, text: string): number => {
  if (/^-?\d{1,9}$/.test(text)) return Number(text);
  throw refuseOption(option, `--${option} ${text} is not a whole number.`);
};

/** The naming spec that options and a file of rules give together: the file's rules come first. */
async function specOf(options: RenameOptions): Promise<NamingSpec> {
  const given =
    options.rules === undefined
      ? {}
      : (oneOfFile(await readJson(options.rules), 'names', options.rules, options.named) as Partial<NamingSpec>);
  const rules = [...(given.rules ?? []), ...rulesOf(options)];
  const mode = options.copy ? 'copy' : options.link ? 'link' : options.move || options.into ? 'move' : given.mode;
  const folder = options.into === undefined ? given.into?.folder : resolve(options.into);
  const parsed = namingSpecSchema.safeParse({
    version: 1,
    ...given,
    rules,
    mode,
    into: { folder: folder ?? null },
    join: options.join ?? given.join,
  });
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  throw refuseOption(
    issue!.path.join('.'),
    `The naming rules' field "${issue!.path.join('.')}" does not fit: ${issue!.message}.`,
  );
}

/** The rules that options give, in the order in which they apply. */
function rulesOf(options: RenameOptions): NameRuleInput[] {
  const rules: NameRuleInput[] = [];
  if (options.find !== undefined)
    rules.push({
      kind: 'replace',
      find: options.find,
      with: options.with ?? '',
      as: options.expression ? 'expression' : 'text',
    });
  if (options.plain) rules.push({ kind: 'characters' });
  if (options.case !== undefined) rules.push({ kind: 'case', to: options.case as 'lower' });
  const { first, step, digits, closeGaps, separator } = options;
  if (first !== undefined || step !== undefined || digits !== undefined || closeGaps || separator !== undefined) {
    rules.push({
      kind: 'number',
      first: first === undefined ? null : whole('first', first),
      step: step === undefined ? null : whole('step', step),
      digits: digits === undefined ? null : digits === 'auto' ? 'auto' : whole('digits', digits),
      gaps: closeGaps ? 'close' : 'keep',
      before: (separator ?? null) as '.' | null,
    });
  }
  if (options.template !== undefined) rules.push({ kind: 'template', template: options.template });
  return rules;
}

async function itemsOf(patterns: readonly string[], options: RenameOptions, pool: WorkerPool): Promise<ToName[]> {
  const items: ToName[] = [];
  for (const pattern of patterns) {
    const folder = resolve(dirname(pattern));
    const found = await findSource(folder, basename(pattern), pool);
    const source = { ...found, folder: folder.slice(1) };
    const word = options.rate === undefined ? {} : { rate: parseRate(options.rate) };
    items.push({
      id: join(folder, source.name),
      source,
      declaration: declare(source, word),
      date: dayOf(source.modified),
    });
  }
  return items;
}

const at = (folder: string, name: string): string => `/${folder}${folder === '' ? '' : '/'}${name}`;

function planJson(plan: RenamePlan, more: object): object {
  const rows = plan.groups.flatMap(({ from, into, start, count }) =>
    Array.from({ length: count }, (_, place) => ({
      from: at(from, plan.from[start + place]!),
      to: at(into, plan.to[start + place]!),
      relation: relationKinds[plan.relation[start + place]!],
      fault: faultCodes[plan.fault[start + place]!],
    })),
  );
  return { ...more, counts: plan.counts, problems: plan.problems, doubts: plan.doubts, rows };
}

/** Works new names out and prints them; carries them out with `--go`. */
export async function renameCommand(patterns: string[], options: RenameOptions, session: Session): Promise<number> {
  const { pool, out, err, journals } = session;
  await recoverRenames(realDisk, journals);
  const items = await itemsOf(patterns, options, pool);
  let spec = await specOf(options);
  let plan = await planOnDisk(items, spec, machine, machine);
  let breaches: object[] = [];
  if (options.receiver !== undefined) {
    const receiver = await receiverOf(options.receiver);
    const held = () => heldRename(plan, items, '').flatMap((one) => breachesOf(one, receiver));
    spec = conformNaming(spec, receiver, held());
    plan = await planOnDisk(items, spec, machine, machine);
    breaches = held();
    for (const { name, sentence } of held()) err(`shale: ${receiver.name} breaks rules of ${name}: ${sentence}\n`);
    if (!options.json) err(`shale: ${receiver.name}: ${strictRead(plan.to, receiver).sentence}\n`);
  }
  const sentence = namingSentence(spec, plan.counts.changed, options.into ?? 'place');
  if (options.json && !options.go)
    out(`${JSON.stringify(planJson(plan, { sentence, digest: planDigest(plan), breaches }), null, 2)}\n`);
  else if (!options.json) {
    for (const { from, into, start, count } of plan.groups)
      for (let row = start; row < start + count; row += 1)
        if (plan.relation[row] !== 0) out(`${at(from, plan.from[row]!)} -> ${at(into, plan.to[row]!)}\n`);
  }
  tell(session, ...plan.problems, ...(options.json ? [] : plan.doubts));
  if (plan.problems.length > 0) return refused;
  if (!options.go) {
    if (!options.json) err(`shale: ${sentence} Nothing is renamed yet: add --go.\n`);
    return 0;
  }
  const id = randomBytes(6).toString('hex');
  const { head } = await carryOutRename(workOf(plan, id, machine, machine, sentence), {
    disk: realDisk,
    journals,
    signal: session.signal,
  });
  if (options.json) out(`${JSON.stringify(planJson(plan, { sentence, id, breaches }), null, 2)}\n`);
  else err(`shale: ${sentence} Done; shale undo ${head.id} reverses it.\n`);
  return 0;
}

/** Brings the old names of a rename back. */
export async function undoCommand(id: string, options: { rest?: boolean }, session: Session): Promise<number> {
  const { journals } = session;
  await recoverRenames(realDisk, journals);
  const record = /^[0-9a-z]{1,40}$/.test(id) ? await readRecord(realDisk, journals, id) : undefined;
  if (!record) {
    return refuse(session, {
      code: 'rename-not-found',
      fact: `There is no rename ${id}.`,
      wayOut: 'The id is printed when a rename is done, and is in History on the page.',
    });
  }
  const { work, left, problems } = await planUndo(
    record,
    realDisk,
    randomBytes(6).toString('hex'),
    options.rest === true,
  );
  if (problems.length > 0) return refuse(session, ...problems);
  await carryOutRename(work, { disk: realDisk, journals });
  session.err(
    `shale: ${work.rows.from.length} files have their old names again${left > 0 ? `, ${left} were left as they are` : ''}.\n`,
  );
  return 0;
}

/** Opens a folder strictly by a receiver's rules, and says what a tool with these would load. */
export async function receiveCommand(
  folder: string,
  options: { receiver: string; json?: boolean },
  { pool, out }: Session,
): Promise<number> {
  const loaded = await openStrictly(resolve(folder), await receiverOf(options.receiver), pool);
  if (options.json) out(`${JSON.stringify(loaded, null, 2)}\n`);
  else {
    for (const { name, why } of loaded.leftOut) out(`${name}: left out, ${why}\n`);
    out(`${loaded.sentence}\n`);
  }
  return loaded.plays.length > 0 && loaded.leftOut.length === 0 ? 0 : 1;
}
