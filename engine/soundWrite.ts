import { ShaleError, type SoundPlan, type SoundReceipt, type SwapPlan, type SwapReceipt } from '@shale/core';
import { swapSound, writeSounds } from '@shale/media';
import { gone } from './lost.ts';
import type { SoundFile } from './soundScan.ts';
import { publishFew, type Few } from './publishFew.ts';

type Into = Pick<Few, 'target' | 'folder' | 'job' | 'replaces'>;

/** A sound to be written, and the file that it is in. */
export interface SoundWork extends Into {
  plan: SoundPlan;
  path: string;
}

/** A clip that is to have other sound: its file, and those of the sounds. */
export interface SwapWork extends Into {
  plan: SwapPlan;
  path: string;
  sounds: SoundFile[];
}

const notSame = (name: string) =>
  new ShaleError({
    code: 'read-back-failed',
    fact: `${name}: what was read back is not what was written.`,
    wayOut: 'Check the disk, and write it again.',
    subject: name,
  });

/**
 * Writes a sound as its plan says, reads it back, and gives the files their names.
 * @throws ShaleError of what cannot be read or written; `read-back-failed` where a sample is not what was meant
 */
export async function convertSound({ plan, path, ...into }: SoundWork, signal: AbortSignal): Promise<SoundReceipt> {
  const names = plan.files.map(({ name }) => name);
  const { made, files } = await publishFew({ ...into, names, sources: [path] }, async (temporary) => {
    const written = await writeSounds(path, plan, temporary, signal);
    if (signal.aborted) throw gone();
    if (written.same === false) throw notSame(names[0]!);
    return written;
  });
  const { gain, held, clipped, same, facts } = made;
  const losses = [...plan.losses];
  if (held) losses.push(`The true peak keeps it at ${facts[0]!.loudness?.toFixed(1) ?? 'no'} LUFS.`);
  if (clipped > 0) losses.push(`${clipped.toLocaleString('en-GB')} samples beyond full scale were clipped.`);
  return {
    ...{ sentence: plan.sentence, losses, folder: into.folder, gain, clipped, same },
    files: files.map((file, at) => {
      const { samples, rate, channels, loudness, truePeaks } = facts[at]!;
      return { ...file, samples, rate, channels, loudness, truePeak: Math.max(...truePeaks) };
    }),
  };
}

/**
 * Writes a clip with other sound; its pictures are taken over as they are coded, and held against the clip's own.
 * @throws ShaleError of what cannot be read or written; `read-back-failed` where a picture is not the clip's
 */
export async function swapClipSound(
  { plan, path, sounds, ...into }: SwapWork,
  signal: AbortSignal,
): Promise<SwapReceipt> {
  const { container, codec, delay, later, bitrate, name, sentence } = plan;
  const encoder = codec === 'opus' ? 'libopus' : codec;
  const { made, files } = await publishFew(
    { ...into, names: [name], sources: [path, ...sounds.map((sound) => sound.path)] },
    async ([temporary]) => {
      const tracks = sounds.map((sound) => ({ ...sound, encoder, bitrate, delay, later }) as const);
      const swapped = await swapSound(path, container, tracks, temporary!, signal);
      if (signal.aborted) throw gone();
      if (!swapped.same) throw notSame(name);
      return swapped;
    },
  );
  const { pictures, left } = made;
  return { sentence, folder: into.folder, pictures, left, ...files[0]! };
}
