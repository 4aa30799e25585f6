import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { codePreview, displayed, makePreview, readStill } from '@shale/media';
import {
  alphaPicture,
  boxAround,
  contentBox,
  lookAtResult,
  lossPicture,
  orient,
  rowCount,
  rowsOf,
  ShaleError,
  statusPicture,
  untouched,
  type Box,
  type Image,
  type LookView,
  type Picture,
  type Plan,
  type PlanRow,
} from '@shale/core';
import { pictureOfClip } from './clips.ts';
import { FrameMaker, readRow, type Places } from './frame.ts';

/** What is asked for of one frame. */
interface Asked {
  plan: Plan;
  places: Places;
  sourceFrame: number;
  view: LookView;
  /** The most pixels across. */
  width: number;
}

/** One frame of a plan worked for looking at, coded. @throws ShaleError where the frame cannot be read or is not of the plan */
export async function pictureOf({ plan, places, sourceFrame, view, width }: Asked): Promise<Uint8Array> {
  const row = rowsOf(plan, 0, rowCount(plan)).find(
    (one) => one.sourceFrame === sourceFrame && one.shot === 0 && one.from !== undefined,
  );
  const { recipe } = plan;
  const carries = plan.spec.channels.length > 0;
  const made = row && (carries || !recipe ? copying(plan) : recipe);
  if (!made) {
    throw new ShaleError({
      code: 'no-such-frame',
      fact: `Frame ${sourceFrame} is not in the plan.`,
      wayOut: 'Choose an existing frame of the plan.',
    });
  }
  // What is outside of what is shown is kept in the file; here it is not looked at.
  const shown: Plan = plan.window === 'kept' ? { ...plan, window: 'display' } : plan;
  const source = carries ? await carriedPicture(plan, places, row) : await readRow(shown, places, row);
  const { image, marks } = lookAtResult(source, made, await new FrameMaker(plan, places, 'look').others(row));
  const taken = {
    alpha: made.to.alpha === 'premultiplied' ? ('premultiplied' as const) : ('straight' as const),
    transfer: made.to.alpha === 'matte' ? ('srgb' as const) : made.to.transfer,
    primaries: made.to.primaries,
    matte: null,
  };
  switch (view) {
    case 'result':
      return makePreview(image, taken, width, 'quick');
    case 'matte':
      return makePreview(alphaPicture(image), { ...taken, transfer: 'srgb' }, width, 'quick');
    case 'status':
      return codePreview(statusPicture(image, width), width, 'quick');
    case 'losses':
      return codePreview(lossPicture(displayed(image, taken, 'none'), marks, width), width, 'quick');
  }
}

/** The recipe of a plan that copies bytes: everything stays. */
function copying({ declaration, spec }: Plan) {
  const { alpha, transfer, primaries } = declaration;
  if (alpha.value === null || transfer.value === null) return undefined;
  const colours = primaries.value ?? 'bt709';
  return {
    from: {
      alpha: alpha.value,
      transfer: transfer.value,
      primaries: colours,
      pixelAspect: { num: 1, den: 1 },
      matte: null,
    },
    under: null,
    picture: untouched,
    to: {
      alpha: spec.write.alpha,
      transfer: spec.write.transfer,
      primaries: colours,
      sample: spec.write.sample,
      matte: null,
    },
  };
}

/** The picture of a result whose channels are carried over one by one. */
async function carriedPicture(plan: Plan, places: Places, row: PlanRow): Promise<Image> {
  const folder = await mkdtemp(join(tmpdir(), 'shale-look-'));
  try {
    const path = join(folder, 'look.exr');
    await new FrameMaker({ ...plan, spec: { ...plan.spec, readBack: false } }, places, 'look').carryTo(path, row);
    return await readStill(path);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** The box around all that is not clear, over some files, once turned and flipped as a picture is to be. */
export async function contentOf({
  files,
  picture,
}: {
  files: { path: string; picture: number; clip: boolean }[];
  picture: Picture;
}): Promise<Box | null> {
  let box: Box | undefined;
  for (const { path, picture: at, clip } of files) {
    const image = await (clip
      ? pictureOfClip(path, at, { layer: picture.layer })
      : readStill(path, { layer: picture.layer, window: picture.window === 'data' ? 'data' : 'display', picture: at }));
    box = boxAround(box, contentBox(orient(image, picture)));
  }
  return box ?? null;
}
