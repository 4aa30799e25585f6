import { boxAround, isVideo, resultsOf, type Box, type Plan } from '@shale/core';
import { pictureOf } from '@shale/engine';
import { insideRoot } from '../roots/paths.ts';
import type { House } from './house.ts';

/** Frames that a process reads before it is asked for something else. */
const chunk = 16;

/** The smallest box that holds all that is not clear, over every frame of a plan, worked out over all processes. */
export async function contentBoxOf(
  plan: Plan,
  { roots, pools }: House,
  signal: AbortSignal,
): Promise<{ box: Box | null; frames: number }> {
  const root = roots.config(plan.root).path;
  const files = await Promise.all(
    resultsOf(plan, 0, plan.frames)
      .filter(({ from }) => from !== undefined)
      .map(async (row) => ({
        path: await insideRoot(root, row.from!),
        picture: pictureOf(plan, row),
        clip: isVideo(plan.source),
      })),
  );
  const parts: (typeof files)[] = [];
  for (let at = 0; at < files.length; at += chunk) parts.push(files.slice(at, at + chunk));
  const boxes = await Promise.all(
    parts.map((part) => pools.trying.run('content', { files: part, picture: plan.spec.picture }, { signal })),
  );
  return {
    box: boxes.reduce<Box | undefined>((sum, box) => boxAround(sum, box ?? undefined), undefined) ?? null,
    frames: files.length,
  };
}
