import { specFor, withDifference, withOutput, type Batch } from '../batch/batch.ts';
import type { Breach } from './breaches.ts';
import { conformSpec } from './conform.ts';
import type { Receiver } from './receiver.ts';

/** A part of a batch as far as a receiver asks of it. */
interface Held {
  source: string;
  output: number;
  into: {
    /** The stem that its plan has now. */
    stem: string;
  };
  breaches: readonly Breach[];
}

/**
 * A batch with what the breaches of its parts ask for: what a format, a size or the form of names asks for is said for all, a name by
 * another stem for its source alone.
 */
export function conformBatch(batch: Batch, receiver: Receiver, parts: readonly Held[]): Batch {
  let next = batch;
  for (const output of batch.outputs.keys()) {
    const broken = parts.filter((part) => part.output === output && part.breaches.length > 0);
    if (broken.length === 0) continue;
    const once = new Map(broken.flatMap(({ breaches }) => breaches.map((breach) => [breach.rule, breach] as const)));
    const common = batch.outputs[output]!;
    const forAll = conformSpec(common, receiver, [...once.values()], broken[0]!.into.stem);
    next = withOutput(next, output, { ...forAll, names: { ...forAll.names, stem: common.names.stem } });
    for (const { source, into, breaches } of broken) {
      const own = conformSpec(specFor(next, source, output), receiver, breaches, into.stem);
      next = withDifference(next, source, output, own);
    }
  }
  return next;
}
