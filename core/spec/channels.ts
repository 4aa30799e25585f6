import { z } from 'zod';
import { beside, type Beside } from '../pixels/picture.ts';

/** A channel's name as OpenEXR takes it: a layer's name and a dot may stand before it. */
const channelName = z
  .string()
  .min(1)
  .max(255)
  .regex(/^[^\0-\x1f]+$/);

/**
 * The channels of the result, one by one: each sample as it is in the file, under a name of its own. Those of a file's further parts have
 * the part's name and a dot before theirs. None: the picture is written.
 */
export const channelsSchema = z
  .array(
    z
      .object({
        as: channelName,
        from: channelName,
        /** The sequence that it is taken from, by the same frame number; null for the source itself. */
        of: beside.strict().nullable().default(null),
      })
      .strict(),
  )
  .max(256)
  .default([]);
export type CarriedChannels = z.output<typeof channelsSchema>;

const keyOf = ({ root, folder, name }: Beside): string => `${root}\0${folder}\0${name}`;

/** The sequences that channels are taken from beside the source, each once, in their order. */
export function joinedIn(channels: CarriedChannels): Beside[] {
  const joined = new Map<string, Beside>();
  for (const { of } of channels) if (of) joined.set(keyOf(of), of);
  return [...joined.values()];
}

/** Which of {@link joinedIn} a channel is of; -1 for the source. */
export const placeOf = (channels: CarriedChannels, of: Beside | null): number =>
  of ? joinedIn(channels).findIndex((one) => keyOf(one) === keyOf(of)) : -1;
