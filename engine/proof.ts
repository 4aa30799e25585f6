import { mkdir, readFile, rm } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { openMade, openMoving, readStill, usualSettings, writeStill } from '@shale/media';
import {
  asStills,
  comparePictures,
  isVideoFormat,
  makeConverter,
  maxCode,
  noCounts,
  resultsOf,
  ShaleError,
  type Comparison,
  type Image,
  type Plan,
  type PlanRow,
  type Taken,
  type Written,
} from '@shale/core';
import { sha256 } from './files.ts';
import { encodeRows, madeOf } from './encode.ts';
import { FrameMaker, readRow, type Places } from './frame.ts';

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
  const rows = resultsOf(plan, 0, plan.frames);
  const index = rows.findIndex((row) => row.sourceFrame === sourceFrame && row.shot === 0 && row.kind !== 'title');
  if (index >= 0) return { row: rows[index]!, index };
  throw new ShaleError({
    code: 'no-such-frame',
    fact: `Frame ${sourceFrame} is not in the plan.`,
    wayOut: 'Choose an existing frame of the plan.',
    subject: String(sourceFrame),
  });
}

/** Makes one result for real, as a run would: written, read back and compared, under its name in the folder of the proof. */
export async function makeProof(plan: Plan, places: Places, sourceFrame: number): Promise<Written> {
  const { row, index } = rowOf(plan, sourceFrame);
  if (isVideoFormat(plan.spec.write.format)) return makeSeen(plan, places, index);
  await mkdir(dirname(join(places.target, row.to)), { recursive: true });
  const maker = new FrameMaker({ ...plan, spec: { ...plan.spec, existing: 'replace' } }, places, 'proof');
  try {
    return await maker.make(row, index);
  } finally {
    await maker.close();
  }
}

/** Pictures that are encoded before the one that is proved, so that it is coded as in the run: most are coded by others. */
const before = 12;

/** A picture of a video as it will be seen: encoded with those around it, decoded again, kept as PNG. */
async function makeSeen(plan: Plan, places: Places, index: number): Promise<Written> {
  const start = Math.max(0, index - before);
  const rows = resultsOf(plan, start, Math.min(plan.frames, index + 3));
  const [still] = resultsOf(asStills(plan), index, index + 1);
  const final = join(places.target, still!.to);
  await mkdir(dirname(final), { recursive: true });
  const video = `${final}.video`;
  try {
    await rm(video, { force: true });
    const encoded = await encodeRows({ plan, places, rows, open: (settings) => openMoving(video, settings) });
    const reader = await openMade(video, madeOf(encoded!), rows.length);
    let image;
    try {
      image = await reader.picture(index - start);
    } finally {
      await reader.close();
    }
    await rm(final, { force: true });
    await writeStill(final, 'png', spread(image), {
      ...usualSettings,
      transfer: plan.spec.write.transfer,
      primaries: plan.recipe?.to.primaries ?? 'bt709',
    });
    const bytes = await readFile(final);
    const { frame, sourceFrame } = still!;
    return {
      index,
      frame,
      sourceFrame,
      name: basename(final),
      bytes: bytes.length,
      sha256: sha256(bytes),
      check: 'none',
      most: 0,
      counts: encoded?.counts ?? noCounts(),
      sources: encoded?.files ?? [],
    };
  } finally {
    await rm(video, { force: true });
  }
}

/** Samples of 10 and 12 bits over all 16, as PNG holds them. */
function spread(image: Image): Image {
  const most = maxCode(image.sample);
  if (image.sample === 'u8' || image.sample === 'u16' || most === undefined) return image;
  const data = new Uint16Array(image.data.length);
  for (let at = 0; at < data.length; at += 1) data[at] = Math.round((image.data[at]! * 65_535) / most);
  return { ...image, sample: 'u16', data };
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
  const source = await readRow(plan, places, row);
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
