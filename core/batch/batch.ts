import { z } from 'zod';
import { specSchema, type Spec } from '../spec/schema.ts';
import { ownSchema, ownOf, withOwn, type Own } from './own.ts';

/** Outputs of a batch at the most. */
export const mostOutputs = 12;

/** Sources of a batch at the most. */
export const mostSources = 10_000;

/** What a source has otherwise than the rest, in one output. */
export const differenceSchema = z
  .object({
    /** Id of the source. */
    source: z.string().min(1).max(400),
    /** Which output, from 0. */
    output: z
      .int()
      .min(0)
      .max(mostOutputs - 1),
    own: ownSchema,
  })
  .strict();
export type Difference = z.infer<typeof differenceSchema>;

/** What is wanted of many sources at once: one spec or several, and where a source differs. A plain value: it survives JSON. */
export const batchSchema = z
  .object({
    version: z.literal(1),
    /** A source goes through each of them. */
    outputs: z.array(specSchema).min(1).max(mostOutputs),
    differences: z.array(differenceSchema).max(mostSources).default([]),
  })
  .strict();
export type Batch = z.infer<typeof batchSchema>;

/** A batch of one output, in which no source differs. */
export const batchOf = (...outputs: Spec[]): Batch => ({ version: 1, outputs, differences: [] });

const isOf = (source: string, output: number) => (one: Difference) => one.source === source && one.output === output;

/** Differences by source and output, worked out once for each list of them. */
const indexed = new WeakMap<readonly Difference[], Map<string, Own>>();

/** What a source has otherwise in an output; undefined where it is as the rest. */
export function ownIn({ differences }: Batch, source: string, output: number): Own | undefined {
  let index = indexed.get(differences);
  if (!index) {
    index = new Map(differences.map((one) => [`${one.output} ${one.source}`, one.own]));
    indexed.set(differences, index);
  }
  return index.get(`${output} ${source}`);
}

/** What is wanted of a source in an output. @throws ShaleError `bad-spec` where it differs in what a spec does not have */
export function specFor(batch: Batch, source: string, output: number): Spec {
  const own = ownIn(batch, source, output);
  const common = batch.outputs[output]!;
  return own ? withOwn(common, own) : common;
}

/** A batch in which all sources want something else of an output; what one has otherwise stays otherwise. */
export const withOutput = (batch: Batch, output: number, spec: Spec): Batch => ({
  ...batch,
  outputs: batch.outputs.map((one, at) => (at === output ? spec : one)),
});

/** A batch in which one source wants this of an output, whatever the rest want. */
export function withDifference(batch: Batch, source: string, output: number, wanted: Spec): Batch {
  const own = ownOf(batch.outputs[output]!, wanted);
  const rest = batch.differences.filter((one) => !isOf(source, output)(one));
  return { ...batch, differences: Object.keys(own).length === 0 ? rest : [...rest, { source, output, own }] };
}

/** A batch in which sources want what the rest want; in one output, or in all of them. */
export const withoutDifference = (batch: Batch, sources: readonly string[], output?: number): Batch => ({
  ...batch,
  differences: batch.differences.filter(
    (one) => !sources.includes(one.source) || (output !== undefined && one.output !== output),
  ),
});

/** A batch without one of its outputs; the last stays. */
export function withoutOutput(batch: Batch, output: number): Batch {
  if (batch.outputs.length === 1) return batch;
  return {
    ...batch,
    outputs: batch.outputs.filter((_, at) => at !== output),
    differences: batch.differences.flatMap((one) =>
      one.output === output ? [] : one.output > output ? { ...one, output: one.output - 1 } : one,
    ),
  };
}
