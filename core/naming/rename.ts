import { problemOf, ShaleError, type Problem } from '../errors.ts';
import { groupNames } from '../numbering/group.ts';
import { frameDigits, frameName, printPattern, type Pattern } from '../numbering/pattern.ts';
import { coverageOf, printCoverage, type FrameRange } from '../numbering/ranges.ts';
import { isBeingWritten, type Source } from '../numbering/source.ts';
import { nameFault } from './names.ts';
import { digitsFor, numbersOf, renumber, stepOf } from './numbers.ts';
import { replacer, splitName, splitParts, textWork, type NameParts } from './parts.ts';
import { relate } from './relate.ts';
import type { NameGroup, NamingGround, RenamePlan, ToName } from './renamePlan.ts';
import type { NameRule, NamingSpec, RuleOf } from './rules.ts';
import { fillTemplate, parseTemplate, type NameValues, type Slot } from './template.ts';
import { nameValues } from './values.ts';

/** A file whose name is not the pattern's. */
interface OddFile {
  prefix: string;
  suffix: string;
  /** Digits that its own name has. */
  digits: number;
}

/** The last run of digits in a name that says this number. */
function ownRun(name: string, frame: number): { at: number; length: number } | undefined {
  let found: { at: number; length: number } | undefined;
  for (const match of name.matchAll(/\d+/g))
    if (Number(match[0]) === Math.abs(frame)) found = { at: match.index, length: match[0].length };
  return found;
}

/** Names of a source in order of their numbers, with those that are written otherwise taken apart by themselves. */
function filesOf(source: Source, numbers: Float64Array): { names: string[]; odd: Map<number, OddFile> } {
  const pattern = source.pattern!;
  const irregular = new Map(source.irregular.map(({ frame, name }) => [frame, name]));
  const odd = new Map<number, OddFile>();
  const names = Array.from(numbers, (frame, at) => {
    const other = irregular.get(frame);
    if (other === undefined) return frameName(pattern, frame);
    const run = ownRun(other, frame);
    odd.set(at, {
      prefix: run ? other.slice(0, frame < 0 ? run.at - 1 : run.at) : pattern.prefix,
      suffix: run ? other.slice(run.at + run.length) : pattern.suffix,
      digits: run?.length ?? pattern.padding,
    });
    return other;
  });
  return { names, odd };
}

type Work = (parts: NameParts) => NameParts;

/** Characters that a name may have between two rules: far more than any that a disk takes, and few enough to work on. */
const longestBetween = 2000;

/** Refuses names that grow from rule to rule: each could make them a hundred times as long as the one before. */
function refuseGrowth(length: number, index: number, name: string): void {
  if (length <= longestBetween) return;
  throw new ShaleError({
    code: 'name-too-long',
    fact: `Rule ${index + 1} makes a name of ${length.toLocaleString('en-GB')} characters out of ${name}; a file system takes 255 bytes.`,
    wayOut: 'Replace with shorter text, or trim first.',
    subject: `rules.${index}`,
  });
}

/** The stack made ready: what each rule does, and which replacing rules have found something. */
class Stack {
  readonly works: { index: number; rule: NameRule; work?: Work; whole?: (text: string) => string }[] = [];
  readonly template?: ReturnType<typeof parseTemplate>;
  readonly numbering: RuleOf<'number'>[];
  readonly spells: boolean;
  readonly hits = new Set<number>();
  readonly before: string | null;

  constructor(spec: NamingSpec, problems: Problem[]) {
    const rules = spec.rules.map((rule, index) => ({ rule, index })).filter(({ rule }) => rule.on);
    for (const { rule, index } of rules) {
      try {
        if (rule.kind === 'template') this.template = parseTemplate(rule.template);
        const whole = rule.kind === 'replace' && rule.where === 'whole' ? replacer(rule) : undefined;
        this.works.push({ index, rule, work: textWork(rule), whole });
      } catch (error) {
        problems.push(problemOf(error));
      }
    }
    this.numbering = rules.flatMap(({ rule }) => (rule.kind === 'number' ? [rule] : []));
    this.spells = rules.some(({ rule }) => rule.kind === 'spelling');
    this.before = this.numbering.reduce<string | null>((before, rule) => rule.before ?? before, null);
  }

  /** @throws ShaleError `name-too-long` where a rule makes names grow without end */
  text(parts: NameParts, name: string): NameParts {
    return this.works.reduce((before, { work, index, rule }) => {
      if (!work) return before;
      const after = work(before);
      refuseGrowth(after.stem.length + after.tail.length + after.ext.length, index, name);
      if (
        rule.kind === 'replace' &&
        (after.stem !== before.stem || after.tail !== before.tail || after.ext !== before.ext)
      )
        this.hits.add(index);
      return after;
    }, parts);
  }

  /** @throws ShaleError `name-too-long` */
  whole(name: string): string {
    const dot = name.lastIndexOf('.');
    let base = dot > 0 ? name.slice(0, dot) : name;
    const ending = dot > 0 ? name.slice(dot) : '';
    for (const { whole, index } of this.works) {
      if (!whole) continue;
      const after = whole(base);
      refuseGrowth(after.length, index, name);
      if (after !== base) this.hits.add(index);
      base = after;
    }
    return base + ending;
  }

  get hasWhole(): boolean {
    return this.works.some(({ whole }) => whole);
  }

  /** Replacing rules that found nothing in any name. */
  idle(): number[] {
    return this.works.flatMap(({ index, rule }) => (rule.kind === 'replace' && !this.hits.has(index) ? [index] : []));
  }
}

/** The new numbers of every source; none for a file without a number, unless all are joined. */
function numberAll(items: readonly ToName[], stack: Stack, join: boolean): (Float64Array | undefined)[] {
  const implicit: RuleOf<'number'> = {
    kind: 'number',
    on: true,
    first: null,
    step: null,
    gaps: 'keep',
    digits: null,
    before: null,
  };
  const rules = join && stack.numbering.length === 0 ? [implicit] : stack.numbering;
  const numbers = items.map(({ source }) =>
    source.pattern ? numbersOf(source.coverage) : join ? new Float64Array(1) : undefined,
  );
  const steps = items.map(({ source }) => (source.pattern ? stepOf(source.coverage) : 1));
  for (const rule of rules) {
    let next: number | undefined;
    numbers.forEach((list, at) => {
      if (!list || list.length === 0) return;
      const first = (join ? next : undefined) ?? rule.first ?? list[0]!;
      const wide = rule.step ?? (rule.gaps === 'close' ? 1 : steps[at]!);
      numbers[at] = renumber(list, rule, steps[at]!, first);
      steps[at] = wide;
      next = numbers[at][list.length - 1]! + wide;
    });
  }
  return numbers;
}

/**
 * Works every new name out. Pure; what forbids the run is listed, never thrown.
 * @param items sources of one root, in the order in which they are counted and joined
 */
export function planRename(items: readonly ToName[], spec: NamingSpec, ground: NamingGround): RenamePlan {
  const problems: Problem[] = [];
  const stack = new Stack(spec, problems);
  const numbers = numberAll(items, stack, spec.join);
  const wanted = stack.numbering.reduce<'auto' | number | null>((digits, rule) => rule.digits ?? digits, null);
  const digits = wanted ?? (spec.join ? 'auto' : null);
  const joined = digits === 'auto' && spec.join ? digitsFor(numbers.flatMap((list) => list ?? [])) : 0;
  const regular = stack.numbering.length > 0 || spec.join || stack.template !== undefined;

  const plan = { groups: [] as NameGroup[], from: [] as string[], to: [] as string[] };
  let firstParts: NameParts | undefined;
  let counter = 0;
  items.forEach((item, place) => {
    const { source } = item;
    const own = source.pattern ? numbersOf(source.coverage) : undefined;
    const news = numbers[place];
    const { names, odd } = own ? filesOf(source, own) : { names: [source.name], odd: new Map<number, OddFile>() };
    const padding =
      digits === 'auto' ? joined || (news ? digitsFor([news]) : 1) : (digits ?? source.pattern?.padding ?? 1);
    const values = { ...nameValues(source, item.declaration), date: item.date };
    const partsOf = (prefix: string, suffix: string): NameParts => {
      const parts = stack.text(source.pattern ? splitParts(prefix, suffix) : splitName(source.name), source.name);
      firstParts ??= parts;
      return spec.join ? { ...parts, stem: firstParts.stem, gap: firstParts.gap, tail: firstParts.tail } : parts;
    };
    const filled = (parts: NameParts): (string | Slot)[] => {
      if (stack.template) {
        const { stem, tail, ext } = parts;
        return fillTemplate(stack.template, { ...values, stem: stem || 'frame', tail, ext }, source.name);
      }
      const ending = parts.tail + (parts.ext === '' ? '' : `.${parts.ext}`);
      const gap = stack.before ?? (spec.join && !source.pattern && parts.gap === '' ? '.' : parts.gap);
      return news ? [parts.stem + gap, { slot: 'frame' }, ending] : [parts.stem + ending];
    };
    const write = (form: readonly (string | Slot)[], at: number, width: number): string => {
      let name = '';
      for (const part of form) {
        if (typeof part === 'string') name += part;
        else if (part.slot === 'frame') name += news ? frameDigits(news[at]!, part.digits ?? width) : '';
        else name += String(part.slot === 'index' ? at + 1 : counter + at + 1).padStart(part.digits ?? 1, '0');
      }
      return stack.hasWhole ? stack.whole(name) : name;
    };
    try {
      const parts = partsOf(source.pattern?.prefix ?? '', source.pattern?.suffix ?? '');
      const form = filled(parts);
      if (!news && form.some((part) => typeof part !== 'string' && part.slot === 'frame')) {
        throw new ShaleError({
          code: 'no-number',
          fact: `The name asks for {frame}, and ${source.name} has no frame number.`,
          wayOut: 'Use {counter} instead, or join the sources under one numbering.',
          subject: source.name,
        });
      }
      const folderValues = { ...values, stem: parts.stem || 'frame', ext: parts.ext, tail: parts.tail };
      const into = folderOf(spec, source, folderValues, items);
      const to = names.map((_, at) => {
        const other = odd.get(at);
        if (!other) return write(form, at, padding);
        const spelled = stack.spells ? form : filled(partsOf(other.prefix, other.suffix));
        return write(spelled, at, regular ? padding : other.digits);
      });
      const reading = readingOf(stack.hasWhole ? undefined : form, news, padding, to);
      const start = plan.from.length;
      plan.groups.push({
        id: item.id,
        name: source.name,
        from: source.folder,
        into,
        start,
        count: to.length,
        changed: 0,
        ...reading,
      });
      for (let at = 0; at < to.length; at += 1) {
        plan.from.push(names[at]!);
        plan.to.push(to[at]!);
      }
      counter += names.length;
    } catch (error) {
      if (!(error instanceof ShaleError)) throw error;
      problems.push(problemOf(error));
    }
  });

  const idle = problems.some(({ code }) => code === 'bad-expression') ? [] : stack.idle();
  for (const index of idle) {
    const rule = spec.rules[index] as RuleOf<'replace'>;
    problems.push({
      code: 'matches-nothing',
      fact: `Rule ${index + 1} looks for "${rule.find}", which is in none of the names.`,
      wayOut: 'Correct it, or switch it off.',
      subject: `rules.${index}`,
    });
  }
  const related = relate(plan, spec.mode, ground);
  return {
    spec,
    root: ground.root,
    into: ground.into,
    ...plan,
    ...related.relations,
    // Where something is wrong, that nothing changes is no news.
    problems: onlyOnce([
      ...problems,
      ...related.problems.filter(({ code }) => problems.length === 0 || code !== 'nothing-changes'),
    ]),
    doubts: doubtsOf(items, spec),
    idle,
  };
}

/** The folder below the target root that a source's files go into. */
function folderOf(spec: NamingSpec, source: Source, values: NameValues, items: readonly ToName[]): string {
  const { folder } = spec.into;
  const stays = spec.join ? items[0]!.source.folder : source.folder;
  if (spec.mode === 'rename' || folder === null) return stays;
  const filled = fillTemplate(parseTemplate(folder), values, source.name);
  if (filled.some((part) => typeof part !== 'string')) {
    throw new ShaleError({
      code: 'bad-template',
      fact: `The folder "${folder}" asks for a number that differs from file to file.`,
      wayOut: 'Use frame, index and counter in the name only.',
      subject: 'into.folder',
    });
  }
  const whole = filled.join('');
  if (whole.startsWith('/')) {
    throw new ShaleError({
      code: 'bad-template',
      fact: `The folder "${whole}" begins with /, like a path from the top of the disk; files are written below a root.`,
      wayOut: `Write ${whole.replace(/^\/+/, '') || 'nothing, for the root itself'}; to write elsewhere, choose another root.`,
      subject: 'into.folder',
    });
  }
  const text = whole.replace(/\/+$/, '');
  const bad = text === '' ? undefined : text.split('/').map(nameFault).find(Boolean);
  if (bad) {
    throw new ShaleError({
      code: 'bad-template',
      fact: `The folder "${text}" has a step that ${bad.words}.`,
      wayOut: 'Write folders below the root with / between them, as plates/{stem}.',
      subject: 'into.folder',
    });
  }
  return text;
}

/** How new names read together. @param form undefined where a rule worked on whole names: they are looked at then */
function readingOf(
  form: readonly (string | Slot)[] | undefined,
  numbers: Float64Array | undefined,
  padding: number,
  names: readonly string[],
): Pick<NameGroup, 'reads' | 'pattern' | 'coverage'> {
  const told = (pattern: Pattern, coverage: FrameRange[]) => {
    const span = { first: coverage[0]!.first, last: coverage[coverage.length - 1]!.last, step: 1 };
    const text = names.length === 1 ? names[0]! : `${printPattern(pattern)} ${printCoverage([span])}`;
    return { reads: text, pattern, coverage };
  };
  if (form === undefined) {
    const found = names.length > 1 ? groupNames(names).sequences : [];
    if (found.length === 1 && found[0]!.frames.length === names.length)
      return told(found[0]!.pattern, found[0]!.coverage);
  } else {
    const slots = form.filter((part): part is Slot => typeof part !== 'string');
    if (numbers && slots.length === 1 && slots[0]!.slot === 'frame') {
      const at = form.findIndex((part) => typeof part !== 'string');
      const [before, after] = [form.slice(0, at), form.slice(at + 1)].map((texts) => texts.join('')) as [
        string,
        string,
      ];
      return told({ prefix: before, padding: slots[0]!.digits ?? padding, suffix: after }, coverageOf(numbers));
    }
  }
  const reads = names.length > 1 ? `${names[0]!} and ${names.length - 1} more` : (names[0] ?? '');
  return { reads, pattern: null, coverage: [] };
}

const onlyOnce = (problems: readonly Problem[]): Problem[] => [
  ...new Map(problems.map((problem) => [problem.code + problem.fact, problem])).values(),
];

function doubtsOf(items: readonly ToName[], spec: NamingSpec): Problem[] {
  const doubts: Problem[] = [];
  for (const { source } of items) {
    if (isBeingWritten(source)) {
      doubts.push({
        code: 'still-writing',
        fact: `${source.name} is still being written.`,
        wayOut: 'Wait until it is complete; the program that is writing may use the old names again.',
        subject: source.name,
      });
    }
    if (source.doubled.length > 0) {
      doubts.push({
        code: 'doubled-left',
        fact: `${source.doubled
          .map(({ name }) => name)
          .slice(0, 3)
          .join(', ')} of ${source.name} has the same number as another file, and keeps its name.`,
        wayOut: 'Check which of the two is right, and remove or rename the other.',
        subject: source.name,
      });
    }
  }
  const endings = new Set(items.map(({ source }) => splitName(source.name).ext.toLowerCase()));
  if (spec.join && endings.size > 1) {
    doubts.push({
      code: 'mixed-endings',
      fact: `The sources that are joined end in ${[...endings].join(', ')}: they get one numbering, but no program reads them as one sequence.`,
      wayOut: 'Convert them to one format first.',
    });
  }
  if (spec.mode === 'link') {
    doubts.push({
      code: 'links-share',
      fact: 'The old and the new name will be the same file: a program that changes one changes the other.',
      wayOut: 'Copy instead if the files may be edited.',
    });
  }
  return doubts;
}
