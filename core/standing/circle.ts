import { isVideoFormat } from '../formats/index.ts';
import { literally } from '../numbering/wildcard.ts';
import type { Spec } from '../spec/schema.ts';
import { endingOf } from '../spec/video.ts';
import type { StandingOrder } from './order.ts';

/** Where a standing order reads and writes on the machine, whatever its roots are called. */
export interface OrderPlace {
  order: StandingOrder;
  /** The watched folder, absolute. */
  watched: string;
  /** The root that each output writes into, absolute, in the order of the outputs. */
  roots: readonly string[];
}

const stepsOf = (path: string): string[] => path.split('/').filter((step) => step !== '');

/** One step of a folder's template as an expression: a field is some text. */
const stepExpression = (step: string): RegExp =>
  new RegExp(
    `^${step
      .split(/\{[^}]*\}/)
      .map(literally)
      .join('.*')}$`,
  );

/** Whether what an output writes may lie in a folder or below it. */
function mayLieIn(folder: string, root: string, { into, write }: Spec): boolean {
  const template = into.folder ?? (isVideoFormat(write.format) ? '' : '{stem}');
  const written = [...stepsOf(root).map((step) => ({ step, isPlain: true }))];
  for (const step of stepsOf(template)) written.push({ step, isPlain: false });
  for (const [at, wanted] of stepsOf(folder).entries()) {
    const one = written[at];
    if (!one) return false;
    // The whole way to a source may have any number of steps.
    if (!one.isPlain && one.step.includes('{path}')) return true;
    if (one.isPlain ? one.step !== wanted : !stepExpression(one.step).test(wanted)) return false;
  }
  return true;
}

/** Whether an order would take what an output writes, as far as its kind and its ending tell. */
function mightTake({ fits }: StandingOrder, spec: Spec): boolean {
  const kind = isVideoFormat(spec.write.format) ? 'clip' : 'sequence';
  // Of a source of one frame a still comes.
  if (fits.kinds.length > 0 && !fits.kinds.includes(kind) && !(kind === 'sequence' && fits.kinds.includes('still')))
    return false;
  const ending = /\*(\.\w+)$|^[^*?]*(\.\w+)$/.exec(fits.name);
  const wanted = ending?.[1] ?? ending?.[2];
  return wanted === undefined || wanted.toLowerCase() === `.${endingOf(spec)}`.toLowerCase();
}

const feeds = (from: OrderPlace, to: OrderPlace): boolean =>
  from.order.outputs.some((spec, at) => mayLieIn(to.watched, from.roots[at]!, spec) && mightTake(to.order, spec));

/**
 * The way by which an order would be given its own results again: by itself, or through others that watch where it writes.
 * @returns the orders on that way, the first of them `first`; undefined where there is none
 */
export function circleThrough(first: OrderPlace, others: readonly OrderPlace[]): StandingOrder[] | undefined {
  const open: OrderPlace[][] = [[first]];
  const seen = new Set<OrderPlace>([first]);
  for (let way = open.shift(); way; way = open.shift()) {
    const last = way.at(-1)!;
    if (feeds(last, first)) return way.map(({ order }) => order);
    for (const next of others) {
      if (seen.has(next) || !feeds(last, next)) continue;
      seen.add(next);
      open.push([...way, next]);
    }
  }
  return undefined;
}
