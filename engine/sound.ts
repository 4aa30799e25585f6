import { readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { soundCodecOf, soundPart, type Plan } from '@shale/core';
import { writeWave, type WantedSound } from '@shale/media';
import { flush, flushFolder, publish, sha256, writeError } from './files.ts';
import { temporaryName, type Places } from './frame.ts';
import { nothingExpected, type Expected } from './stamps.ts';
import { holdTarget } from './target.ts';

/** Where a plan's sound lies on this machine. */
export const soundPath = ({ sound }: Plan, places: Places): string =>
  join(sound!.own ? places.source : places.sound!, sound!.file);

/** The part of a plan's sound that goes with so many results, and where it lies. */
function partOf(plan: Plan, places: Places, frames: number): Omit<WantedSound, 'encoder' | 'bitrate'> {
  const { stream, depth } = plan.spec.sound;
  return { path: soundPath(plan, places), stream, depth, ...soundPart(plan, frames) };
}

/** The sound to lay under a video of so many pictures: moved by its offset, as long as they are. */
export function soundUnder(plan: Plan, places: Places, frames: number): WantedSound | undefined {
  const { sound, spec, rate } = plan;
  if (!sound || !rate) return undefined;
  const codec = soundCodecOf(spec.write.format, spec.video, spec.sound);
  return {
    ...partOf(plan, places, frames),
    encoder: codec === 'opus' ? 'libopus' : codec,
    bitrate: spec.sound.bitrate,
  };
}

/** A sound that was taken out beside stills. */
export interface WrittenSound {
  name: string;
  bytes: number;
  sha256: string;
}

/** SHA-256 of a file's bytes; undefined where there is none. */
const checksumOf = (path: string): Promise<string | undefined> => readFile(path).then(sha256, () => undefined);

/** Writes the sound that goes with a plan's stills as WAV beside them. @throws ShaleError of what cannot be read or written */
export async function makeWave({
  plan,
  places,
  job,
  expected = nothingExpected,
  before,
}: {
  plan: Plan;
  places: Places;
  job: string;
  expected?: Expected;
  /** Checksum of a sound that was written before: it takes the place of that, and of nothing else. */
  before?: string;
}): Promise<WrittenSound> {
  const name = plan.sound!.as!;
  const final = join(places.target, plan.into.folder, name);
  const folder = holdTarget(places.target, join(plan.into.folder, name), expected);
  const temporary = join(folder.path, temporaryName(job, 'sound'));
  try {
    await rm(temporary, { force: true });
    await writeWave(temporary, partOf(plan, places, plan.frames));
    await flush(temporary);
    const bytes = await readFile(temporary);
    const isOurs = before !== undefined && (await checksumOf(join(folder.path, name))) === before;
    await publish(temporary, join(folder.path, name), isOurs || plan.spec.existing === 'replace');
    await flushFolder(folder);
    return { name, bytes: bytes.length, sha256: sha256(bytes) };
  } catch (error) {
    await rm(temporary, { force: true });
    throw writeError(final, error);
  } finally {
    folder.close();
  }
}
