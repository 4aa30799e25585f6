import type { Difference } from '@shale/core';
import { exrAddon, type ExrPart } from '../exr/addon.ts';
import { pixelAddon } from '../pixels/addon.ts';
import { nameOfFile } from '../heldFiles.ts';
import { inPart, layoutAttributes } from './exr.ts';
import { fileError } from './index.ts';
import type { WriteSettings } from './format.ts';

/** A channel of a file under a name of its own. */
export interface CarriedChannel {
  path: string;
  from: string;
  as: string;
}

/** Where a channel is, by the name that {@link storedNames} gives it. @throws Error where there is none */
function placeIn(parts: readonly ExrPart[], wanted: string): { part: number; from: string } {
  for (const [part, one] of parts.entries()) {
    const found = !one.deep && one.channels.find(({ name }) => inPart(one, part, name) === wanted);
    if (found) return { part, from: found.name };
  }
  throw new Error(`it has no channel ${wanted}`);
}

/**
 * Writes channels of some files as one file, each in its own kind of sample, with the windows and attributes of the first.
 * @returns how many samples of what is shown are read back other than they were, and by how much
 * @throws ShaleError naming the file that cannot be read
 */
export async function carryChannels(
  path: string,
  channels: readonly CarriedChannel[],
  { exrCompression, dwaLevel, effort }: Pick<WriteSettings, 'exrCompression' | 'dwaLevel' | 'effort'>,
  readsBack: boolean,
): Promise<Difference> {
  const parts = new Map<string, ExrPart[]>();
  const placed = [];
  for (const one of channels) {
    try {
      const known = parts.get(one.path) ?? (await exrAddon.readHeader(one.path));
      parts.set(one.path, known);
      placed.push({ path: one.path, as: one.as, ...placeIn(known, one.from) });
    } catch (error) {
      throw fileError(one.path, error);
    }
  }
  const first = parts.get(channels[0]!.path)![placed[0]!.part]!;
  const files = [...parts.keys()].map((one) => nameOfFile(one)).join(', ');
  await exrAddon
    .copyChannels({
      ...{ path, channels: placed, compression: exrCompression, dwaLevel, zipLevel: effort },
      attributes: first.attributes.filter(({ name }) => !layoutAttributes.has(name)),
    })
    .catch((error: unknown) => {
      throw fileError(
        channels[0]!.path,
        new Error(`carrying channels over from ${files}: ${(error as Error).message}`),
      );
    });
  const difference = { samples: 0, most: 0 };
  if (!readsBack) return difference;
  for (const { path: from, part, from: name, as } of placed) {
    const [before, after] = await Promise.all([
      exrAddon.readPixels(from, part, [name], true, false),
      exrAddon.readPixels(path, 0, [as], true, false),
    ]);
    const found = pixelAddon.compare(new Float32Array(before.data), new Float32Array(after.data), new Float64Array(0));
    difference.samples += found[0];
    difference.most = Math.max(difference.most, found[1]);
  }
  return difference;
}
