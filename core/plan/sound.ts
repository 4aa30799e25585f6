import { z } from 'zod';
import type { FrameRange } from '../numbering/ranges.ts';
import { secondsSchema, type Source } from '../numbering/source.ts';
import type { Declaration } from '../spec/declaration.ts';
import type { Spec } from '../spec/schema.ts';
import { isPlainTime } from '../spec/time.ts';
import { compareRates } from '../timing/rate.ts';
import type { Problem } from '../errors.ts';
import { isVideoFormat } from '../formats/index.ts';
import { isAnimationFormat } from '../spec/video.ts';
import { plural } from '../words.ts';
import type { Staged } from './attempt.ts';

/** A sound as it was found. */
export interface GivenSound {
  root: string;
  source: Source;
}

/** What a plan keeps of a sound: a file below a root. */
export const plannedSoundSchema = z.object({
  root: z.string(),
  /** Below the root. */
  file: z.string(),
  /** Exact length, where the file says it. */
  seconds: secondsSchema.nullable(),
  /** Whether it is the sound of the clip itself: its first sample belongs to the clip's first picture. */
  own: z.boolean(),
  /** The name as which it is written beside stills; null where it is laid under a video. */
  as: z.string().nullable(),
});
export type PlannedSound = z.infer<typeof plannedSoundSchema>;

const pathOf = ({ folder, name }: Pick<Source, 'folder' | 'name'>): string =>
  folder === '' ? name : `${folder}/${name}`;

/** Whether a clip's own sound goes with what is taken of it: in one piece, at the clip's own pace. */
export function keepsTime(
  { facts }: Source,
  { rate }: Declaration,
  { clip, time, then }: Spec,
  chosen: readonly FrameRange[],
): boolean {
  const own = facts?.rate;
  if (chosen.length !== 1 || chosen[0]!.step !== 1 || then.length > 0 || !isPlainTime(time)) return false;
  if (time.rate && rate.value && compareRates(time.rate, rate.value) !== 0) return false;
  if (own && rate.value && compareRates(own, rate.value) !== 0) return false;
  return clip.timing === 'constant-rate' || facts?.clip?.variable !== true;
}

/** The sound of a plan, and what forbids its use. @param inTime whether the clip's own would go with its pictures */
export function planSound(
  source: Source,
  { sound, write }: Spec,
  given: GivenSound | undefined,
  stem: string,
  inTime: boolean,
): Staged<PlannedSound | null> {
  const { clip } = source.facts ?? {};
  const writesVideo = isVideoFormat(write.format);
  const none = { value: null, problems: [] };
  if (!writesVideo && !sound.beside) return none;
  if (sound.from === 'none' || isAnimationFormat(write.format)) return none;
  if (sound.from === 'own' || !writesVideo) {
    if (!clip?.sound || !inTime) return none;
    const problems = streamProblems(source.name, clip.sound.streams, sound.stream);
    const seconds = source.facts?.seconds ?? null;
    return {
      value: { root: '', file: pathOf(source), seconds, own: true, as: writesVideo ? null : `${stem}.wav` },
      problems,
    };
  }
  return laidUnder(sound.from, sound.stream, given);
}

/** A sound file, or a clip's sound, under a video. */
function laidUnder(
  { name, folder }: { name: string; folder: string },
  stream: number | null,
  given: GivenSound | undefined,
): Staged<PlannedSound | null> {
  const lacks = (code: string, fact: string, wayOut: string) => ({
    value: null,
    problems: [{ code, fact, wayOut, subject: 'sound' }],
  });
  if (!given)
    return lacks(
      'sound-not-found',
      `${name} in ${folder || 'the root itself'}, the chosen sound, is missing.`,
      'Scan again, or choose another.',
    );
  const heard = given.source.kind === 'sound' || given.source.facts?.clip?.sound !== undefined;
  if (!heard)
    return lacks('no-sound', `${name} holds no sound that can be read.`, 'Choose a sound file or a clip with sound.');
  const seconds = given.source.sound?.seconds ?? given.source.facts?.seconds ?? null;
  const problems = streamProblems(name, given.source.facts?.clip?.sound?.streams, stream);
  return { value: { root: given.root, file: pathOf(given.source), seconds, own: false, as: null }, problems };
}

/** A stream of sound that is asked for and is not there. */
function streamProblems(name: string, streams = 1, stream: number | null): Problem[] {
  if (stream === null || stream <= streams) return [];
  return [
    {
      code: 'no-such-stream',
      fact: `${name} holds ${plural(streams, 'stream')} of sound, but number ${stream} is asked for.`,
      wayOut: 'Choose an existing one: press the sound in the sentence.',
      subject: 'sound.stream',
    },
  ];
}
