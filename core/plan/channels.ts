import type { Problem } from '../errors.ts';
import { isVideo, type Source } from '../numbering/source.ts';
import { isUntouched } from '../pixels/picture.ts';
import { burnsText } from '../spec/burn.ts';
import { joinedIn, placeOf } from '../spec/channels.ts';
import type { Spec } from '../spec/schema.ts';
import { isPlainTime } from '../spec/time.ts';
import type { Staged } from './attempt.ts';
import { keptSource, type Other, type PlannedSource } from './others.ts';
import type { Loss } from './plan.ts';

/** A sequence whose channels go into those of the source, frame by frame. */
export interface PlannedJoined {
  root: string;
  source: PlannedSource;
}

/** The sequences of a plan's channels, and what forbids that they are carried over. */
export function planChannels(
  source: Source,
  spec: Spec,
  given: readonly (Other | undefined)[],
): Staged<PlannedJoined[]> {
  const { channels } = spec;
  const problems: Problem[] = [];
  if (channels.length === 0) return { value: [], problems };
  const add = (code: string, fact: string, wayOut: string) =>
    problems.push({ code, fact, wayOut, subject: 'channels' });
  if (spec.write.format !== 'exr')
    add('channels-need-exr', 'Only OpenEXR takes single channels.', 'Write OpenEXR, or use a layer as the picture.');
  const moved = !isUntouched(spec.picture) || !isPlainTime(spec.time) || burnsText(spec.burn) || spec.then.length > 0;
  if (moved || spec.missing === 'slate')
    add(
      'channels-alone',
      'Channels are copied unchanged: pictures and time cannot be changed in the same run, and there are no slates.',
      'Remove the other changes and make them in a second run.',
    );
  const names = channels.map(({ as }) => as);
  const twice = names.find((name, at) => names.indexOf(name) !== at);
  if (twice !== undefined) add('channel-twice', `Two channels have the name ${twice}.`, 'Give each a different name.');
  const joined = joinedIn(channels);
  joined.forEach((named, at) => {
    if (!given[at])
      add(
        'joined-not-found',
        `${named.name} in ${named.folder || 'the root itself'}, whose channels are used, is missing.`,
        'Scan again, or choose another source.',
      );
  });
  for (const [at, one] of [source, ...given.map((found) => found?.source)].entries()) {
    if (!one) continue;
    if (one.facts?.format !== 'exr' || isVideo(one)) {
      add(
        'channels-need-exr',
        `${one.name} is not OpenEXR, and channels are copied from OpenEXR only.`,
        'Convert it to OpenEXR first.',
      );
      continue;
    }
    const { width, height, stored = [] } = one.facts;
    const lacks = channels.find(({ from, of }) => placeOf(channels, of) === at - 1 && !stored.includes(from));
    if (lacks) {
      const some = `${stored.slice(0, 12).join(', ')}${stored.length > 12 ? ' and others' : ''}`;
      add('no-such-channel', `${one.name} has no channel ${lacks.from}.`, `It has ${some}.`);
    }
    if (source.facts && (width !== source.facts.width || height !== source.facts.height))
      add(
        'mixed-pictures',
        `${one.name} is ${width} x ${height}, and ${source.name} ${source.facts.width} x ${source.facts.height}.`,
        'Convert both to the same size first.',
      );
  }
  const value = joined.flatMap((_, at) => {
    const found = given[at];
    return found ? [{ root: found.root, source: keptSource(found.source) }] : [];
  });
  return { value, problems };
}

/** Channels of the source that do not go along, and a compression that changes samples. */
export function channelLosses({ facts }: Source, { channels, write }: Spec, lossy: string | undefined): Loss[] {
  if (channels.length === 0 || write.format !== 'exr') return [];
  const taken = new Set(channels.filter(({ of }) => !of).map(({ from }) => from));
  const left = (facts?.stored ?? []).filter((name) => !taken.has(name));
  const losses: Loss[] = [];
  if (lossy) losses.push({ code: 'lossy-format', severity: 'doubt', sentence: lossy, amount: 'all' });
  if (left.length > 0) {
    const some = `${left.slice(0, 6).join(', ')}${left.length > 6 ? ' ...' : ''}`;
    losses.push({
      code: 'channels-dropped',
      severity: 'doubt',
      sentence: `Channels that are left out: ${some}`,
      amount: String(left.length),
    });
  }
  return losses;
}
