import { mkdir } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { readStill } from '@shale/media';
import {
  comparePictures,
  makeConverter,
  resultsOf,
  ShaleError,
  type Comparison,
  type Plan,
  type PlanRow,
  type Taken,
  type Written,
} from '@shale/core';
import { FrameMaker, pictureOf, type Places } from './frame.ts';

/** What the results of a plan are taken to be. */
export function takenOfResults({ recipe, spec, declaration }: Plan): Taken {
  const { alpha, transfer } = spec.write;
  const matte = recipe?.to.matte ?? null;
  return {
    alpha: alpha === 'matte' ? 'none' : alpha === 'premultiplied' && matte ? 'on-colour' : alpha,
    transfer,
    primaries: recipe?.to.primaries ?? declaration.primaries.value ?? 'bt709',
    matte,
  };
}

/** The first result that is made of a source frame. @throws ShaleError `no-such-frame` */
function rowOf(plan: Plan, sourceFrame: number): { row: PlanRow; index: number } {
  const rows = resultsOf(plan, 0, plan.files);
  const index = rows.findIndex((row) => row.sourceFrame === sourceFrame);
  if (index >= 0) return { row: rows[index]!, index };
  throw new ShaleError({
    code: 'no-such-frame',
    fact: `Frame ${sourceFrame} is not of the plan.`,
    wayOut: 'Choose a frame that is there and is to be written.',
    subject: String(sourceFrame),
  });
}

/** Makes one result for real, as a run would: written, read back and compared, under its name in the folder of the proof. */
export async function makeProof(plan: Plan, places: Places, sourceFrame: number): Promise<Written> {
  const { row, index } = rowOf(plan, sourceFrame);
  await mkdir(dirname(join(places.target, row.to)), { recursive: true });
  return new FrameMaker({ ...plan, spec: { ...plan.spec, existing: 'replace' } }, places, 'proof').make(row, index);
}

/**
 * Compares a proof with what it would be if nothing were rounded or compressed: the same work in 32-bit floats, without dither.
 * @param made the written file, absolute
 */
export async function compareWithExact(
  plan: Plan,
  places: Places,
  sourceFrame: number,
  made: string,
): Promise<Comparison> {
  const { row } = rowOf(plan, sourceFrame);
  const taken = takenOfResults(plan);
  const source = await readStill(join(places.source, row.from!), {
    layer: plan.spec.picture.layer,
    picture: pictureOf(plan, row),
  });
  const result = await readStill(made);
  let exact = source;
  if (plan.recipe) {
    const { picture, to } = plan.recipe;
    const recipe = {
      ...plan.recipe,
      picture: { ...picture, dither: 'none' as const },
      to: { ...to, sample: 'f32' as const },
    };
    exact = makeConverter(recipe, source.sample)(source, await new FrameMaker(plan, places, 'exact').others(row)).image;
  }
  const found = comparePictures({ image: exact, taken }, { image: result, taken });
  if (found) return found;
  throw new ShaleError({
    code: 'read-back-failed',
    fact: `${basename(made)} is ${result.width} x ${result.height}, and the plan makes ${exact.width} x ${exact.height}.`,
    wayOut: 'Try the frame again.',
    subject: made,
  });
}
