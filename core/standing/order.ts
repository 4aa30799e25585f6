import { z } from 'zod';
import { mostOutputs } from '../batch/batch.ts';
import { gapsIn } from '../numbering/gaps.ts';
import {
  coverageCount,
  coverageOf,
  covers,
  framesOf,
  parseCoverage,
  printCoverage,
  type Coverage,
} from '../numbering/ranges.ts';
import { isBeingWritten, sourceSchema, type Source } from '../numbering/source.ts';
import { expressionOf } from '../numbering/wildcard.ts';
import type { Declaration } from '../spec/declaration.ts';
import { specSchema } from '../spec/schema.ts';
import { rateFraction } from '../timing/rate.ts';

/** Frames that can be waited for at the most. */
const mostAwaited = 200_000;

function isRanges(text: string): boolean {
  if (text === '') return true;
  try {
    return coverageCount(parseCoverage(text)) <= mostAwaited;
  } catch {
    return false;
  }
}

/** What a source has to be for a standing order to take it. */
export const fitsSchema = z
  .object({
    /** Any kind that has pictures where none is said. */
    kinds: z
      .array(sourceSchema.shape.kind.exclude(['sound']))
      .max(3)
      .default([]),
    /** A name with wildcards: `*` is any text, `?` any character; any name where it is empty. */
    name: z.string().max(200).default(''),
    /** A declared rate as a fraction; any, or none, where it is null. */
    rate: z
      .string()
      .regex(/^\d{1,8}(\/\d{1,8})?$/, 'a rate is a fraction, as 24 or 24000/1001')
      .nullable()
      .default(null),
    /** Frames that have to be there before it begins, as ranges: `1-48`. */
    frames: z
      .string()
      .max(400)
      .default('')
      .refine(
        isRanges,
        `write frames as 1-60, single frames as 37; ${mostAwaited.toLocaleString('en-GB')} at the most`,
      ),
    /** Whether a sequence with gaps is waited with until they are filled, or taken as it is. */
    gaps: z.enum(['wait', 'take']).default('wait'),
  })
  .strict();
export type Fits = z.infer<typeof fitsSchema>;

/** A batch that begins by itself, whenever a source that fits is whole and quiet. A plain value: it survives JSON. */
export const standingOrderSchema = z
  .object({
    version: z.literal(1),
    name: z.string().trim().min(1).max(80),
    /** The folder that is watched, with all below it: a root, and the way below it. */
    root: z.string().min(1).max(40),
    folder: z.string().max(2000),
    fits: fitsSchema,
    outputs: z.array(specSchema).min(1).max(mostOutputs),
  })
  .strict();
export type StandingOrder = z.infer<typeof standingOrderSchema>;

/** What comes of a look at a source: it may begin, it is waited with, it is left for good or until it changes. */
export type Look = { is: 'ready' } | { is: 'unfit' } | { is: 'waits' | 'left'; why: string };

/** Whether a folder is the watched one, or below it. */
const isWatched = ({ folder }: StandingOrder, of: string): boolean =>
  folder === '' || of === folder || of.startsWith(`${folder}/`);

/**
 * What a standing order makes of a source before anything is planned. One that does not fit is nothing that it speaks of; where only
 * its rate is not declared, that is told, since a word would make it fit.
 */
export function lookAt(order: StandingOrder, source: Source, declaration: Declaration): Look {
  const { kinds, name, rate, frames, gaps } = order.fits;
  if (source.kind === 'sound' || !isWatched(order, source.folder)) return { is: 'unfit' };
  if (kinds.length > 0 && !kinds.includes(source.kind)) return { is: 'unfit' };
  if (name !== '' && !expressionOf(name).test(source.name)) return { is: 'unfit' };
  const declared = declaration.rate.value;
  if (rate !== null && declared && rateFraction(declared) !== rate) return { is: 'unfit' };
  if (isBeingWritten(source)) return { is: 'waits', why: 'it is still being written' };
  if (rate !== null && !declared) return { is: 'left', why: 'its rate is not declared' };
  if (source.kind === 'sequence') {
    const absent = absentOf(source.coverage, frames);
    if (absent.length > 0) return { is: 'waits', why: `${framesSaid(absent)} not there yet` };
    const missing = gapsIn(source.coverage);
    if (gaps === 'wait' && missing.length > 0) return { is: 'waits', why: `${framesSaid(missing)} missing` };
  }
  const [fault] = source.findings.filter(({ severity, setAside }) => severity === 'fault' && setAside === undefined);
  const isGap = fault?.code === 'missing-frames';
  return fault && !(isGap && gaps === 'take') ? { is: 'waits', why: fault.sentence } : { is: 'ready' };
}

const framesSaid = (coverage: Coverage): string =>
  `${coverageCount(coverage) === 1 ? 'frame' : 'frames'} ${printCoverage(coverage)} ${coverageCount(coverage) === 1 ? 'is' : 'are'}`;

/** Frames of some ranges that a source does not have. */
function absentOf(coverage: Coverage, ranges: string): Coverage {
  if (ranges === '') return [];
  return coverageOf([...framesOf(parseCoverage(ranges))].filter((frame) => !covers(coverage, frame)));
}
