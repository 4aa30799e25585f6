import {
  givenUp,
  givenWords,
  isAnimationFormat,
  makePlan,
  modelledLoss,
  printBytes,
  problemOf,
  ShaleError,
  solveLimit,
  usualMovable,
  type Given,
  type Plan,
  type Problem,
  type Source,
} from '@shale/core';
import type { Places } from '@shale/engine';
import type { Session } from './session.ts';

/** `150,000 bytes`: limits are told to the byte. */
const exactly = (bytes: number): string => `${bytes.toLocaleString('en-GB')} bytes`;

const units: Record<string, number> = { '': 1, b: 1, k: 1000, kb: 1000, kib: 1024, m: 1e6, mb: 1e6, mib: 1 << 20 };

/** Bytes as `--limit` says them: `256KB` (of 1,000), `256KiB` (of 1,024), `1.5MB`, `500000`. @throws ShaleError `bad-option` */
export function bytesOf(text: string): number {
  const [, amount, unit = ''] = /^(\d+(?:\.\d+)?)\s*([kmib]*)$/i.exec(text.trim()) ?? [];
  const size = units[unit.toLowerCase()];
  const bytes = Math.floor(Number(amount) * (size ?? NaN));
  if (bytes >= 1 && bytes <= 1e12) return bytes;
  throw new ShaleError({
    code: 'bad-option',
    fact: `--limit ${text} is not known.`,
    wayOut: 'Write bytes, as 500000, 256KB, 256KiB or 1.5MB.',
    subject: 'limit',
  });
}

/** A plan whose file is within a limit, or why there is none. */
export interface Limited {
  plan: Plan;
  problem?: Problem;
}

/**
 * Gives up of a small moving picture what has to be for its file to be within a limit: size, and colours or quality with it. Every try
 * is a whole encode, thrown away.
 */
export async function withinLimit(
  plan: Plan,
  source: Source,
  others: Given,
  limit: number,
  places: Places,
  session: Session,
  isTold: boolean,
): Promise<Limited> {
  const { write, video } = plan.spec;
  if (!isAnimationFormat(write.format))
    throw new ShaleError({
      code: 'bad-option',
      fact: `--limit goes with small moving pictures, and ${write.format} is none.`,
      wayOut: 'Write gif, apng or webpanim, or leave --limit out.',
      subject: 'limit',
    });
  if (plan.problems.length > 0 || !source.facts) return { plan };
  const movable = usualMovable(write, video);
  const aspect = plan.declaration.pixelAspect.value ?? undefined;
  const specAt = (given: number) => givenUp(plan.spec, source.facts!, aspect, movable, given);
  const planAt = (given: number) => makePlan(plan.root, source, plan.declaration, specAt(given), others);
  const results = Array.from({ length: plan.frames }, (_, at) => at);
  const name = plan.into.kind === 'video' ? plan.into.file : source.name;
  try {
    const { best, tries, cannot } = await solveLimit({
      // Bytes are told as a mean of all pictures.
      limit: limit - Math.ceil(plan.frames / 2),
      settings: (given) => JSON.stringify(specAt(given)),
      modelled: modelledLoss(plan.spec, movable),
      encode: async (given) => {
        const tried = planAt(given);
        const { bytes, problems } = await session.pool.run('measure', { plan: tried, places, results });
        if (problems[0]) throw new ShaleError(problems[0]);
        const total = bytes * plan.frames;
        const gave = givenWords(tried.spec, plan.spec) || 'nothing given up';
        if (isTold) session.err(`${name}: ${printBytes(total)}, ${gave}\n`);
        return total;
      },
    });
    if (best) return { plan: planAt(best.given) };
    const nearest = tries.reduce((least, one) => (one.bytes < least.bytes ? one : least));
    return {
      plan,
      problem: {
        code: 'limit-not-reached',
        fact: `${name} ${cannot ? 'cannot be' : 'was not brought'} within ${exactly(limit)}: with ${givenWords(specAt(nearest.given), plan.spec) || 'nothing given up'} it has ${exactly(nearest.bytes)}.`,
        wayOut: `Raise the limit to ${exactly(nearest.bytes + plan.frames)}, take fewer frames, or another format.`,
        subject: 'limit',
      },
    };
  } catch (error) {
    return { plan, problem: problemOf(error) };
  }
}
