import { readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { beginnings, ratesOf, soundCodecOf, type Plan } from '@shale/core';
import { writeWave, type WantedSound } from '@shale/media';
import { flush, flushFolder, publish, sha256, writeError } from './files.ts';
import { temporaryName, type Places } from './frame.ts';
import { nothingExpected, type Expected } from './stamps.ts';
import { holdTarget } from './target.ts';

/** Where a plan's sound lies on this machine. */
export const soundPath = ({ sound }: Plan, places: Places): string =>
  join(sound!.own ? places.source : places.sound!, sound!.file);

/** Where in its clip a plan's first picture lies, in seconds; 0 where the sound is not the clip's own. */
function beginning({ source, declaration, spec, sound, ...plan }: Plan): { num: number; den: number } {
  const at = plan.runs.find(({ kind }) => kind !== 'missing' && kind !== 'title')?.from;
  const { pictures } = ratesOf(source, declaration, spec);
  if (!sound?.own || at === undefined || !pictures) return { num: 0, den: 1 };
  const { clip } = source.facts ?? {};
  if (clip?.variable && clip.runs && spec.clip.fields === 'keep')
    return { num: beginnings(clip.runs)[at]! * clip.base.num, den: clip.base.den };
  return { num: at * pictures.den, den: pictures.num };
}

/** Pictures before the first one that say what follows. */
export const titleCount = ({ runs }: Pick<Plan, 'runs'>): number =>
  runs.reduce((sum, { kind, count }) => (kind === 'title' ? sum + count : sum), 0);

/** The part of a sound that goes with so many results, from the plan's first on. */
function partOf(plan: Plan, places: Places, frames: number): Omit<WantedSound, 'encoder' | 'bitrate'> {
  const start = beginning(plan);
  const rate = plan.rate!;
  // What is seen before the first picture is silent.
  const { offset: later, stream, depth } = plan.spec.sound;
  const offset = later + titleCount(plan);
  return {
    path: soundPath(plan, places),
    ...{ stream, depth },
    from: { num: start.num * rate.num - offset * rate.den * start.den, den: start.den * rate.num },
    length: { num: frames * rate.den, den: rate.num },
  };
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
