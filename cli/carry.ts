import { noTally, summarise, tally, type Failure, type Plan, type Receipt, type Written } from '@shale/core';
import { carryOut, shaleVersion, type Places, type Seat, type Stamps, type Standing } from '@shale/engine';
import type { Bar } from './bar.ts';
import { keepMade } from './made.ts';
import type { Session } from './session.ts';

/**
 * Carries a plan out, and looks at the end whether what was written is still there.
 * @param job marks the temporary files
 * @param seat its place among those that are made of the same pictures
 * @param standing what of it is there already and stays, and what is made again in place of what is there
 * @throws ShaleError where nothing more can be made
 */
export async function carryPlan(
  plan: Plan,
  places: Places,
  job: string,
  bar: Bar,
  { pool, signal, made }: Session,
  standing?: Standing,
  seat?: Seat,
): Promise<Receipt> {
  const written: Written[] = [...(standing?.kept ?? [])];
  let stamps: Stamps | undefined;
  let pictures = 0;
  const failed: Failure[] = [];
  const more: Partial<Pick<Receipt, 'sound' | 'sources' | 'shale' | 'kept'>> = { shale: shaleVersion };
  const started = new Date().toISOString();
  const start = performance.now();
  await carryOut({
    plan,
    places,
    job,
    pool,
    signal,
    ...(seat ? { seat } : {}),
    settled: new Set(written.map(({ index }) => index)),
    again: (standing?.again ?? []).map(({ index }) => index),
    ...(standing?.sound ? { soundBefore: standing.sound.sha256 } : {}),
    onStamps: (taken) => void (stamps = taken),
    onWritten: (one) => {
      written.push(one);
      if (plan.into.kind !== 'video') bar.add();
    },
    onFailed: (failure) => {
      failed.push(failure);
      if (plan.into.kind !== 'video') bar.add();
    },
    onVideo: ({ done }) => {
      bar.add(Math.max(0, done - pictures));
      pictures = Math.max(pictures, done);
    },
    onSound: (sound) => (more.sound = sound),
    onMedia: (sources) => (more.sources = sources),
  });
  const lost = signal.aborted ? [] : await pool.run('results', { plan, places, written });
  failed.push(...lost.map(({ failure }) => failure));
  const gone = new Set(lost.map(({ index }) => index));
  const sum = noTally();
  const still = written.filter(({ index }) => !gone.has(index));
  for (const one of still) tally(sum, one);
  await keepMade(made, {
    plan,
    written: still,
    media: more.sources ?? [],
    ...(stamps ? { stamps } : {}),
    ...(more.sound ? { sound: more.sound } : {}),
  });
  if (standing && standing.kept.length > 0) more.kept = standing.kept.length;
  const times = { started, finished: new Date().toISOString(), workSeconds: (performance.now() - start) / 1000 };
  return summarise(
    plan,
    sum,
    failed.sort((a, b) => a.frame - b.frame),
    times,
    more,
  );
}
