import { noTally, summarise, tally, type Failure, type Plan, type Receipt, type Written } from '@shale/core';
import { carryOut, shaleVersion, type Places } from '@shale/engine';
import type { Session } from './session.ts';

/**
 * Carries a plan out, and looks at the end whether what was written is still there.
 * @param job marks the temporary files
 * @param shows whether a person watches the count
 * @throws ShaleError where nothing more can be made
 */
export async function carryPlan(
  plan: Plan,
  places: Places,
  job: string,
  shows: boolean,
  { pool, signal, err }: Session,
): Promise<Receipt> {
  const written: Written[] = [];
  const failed: Failure[] = [];
  const more: Partial<Pick<Receipt, 'sound' | 'sources' | 'shale'>> = { shale: shaleVersion };
  const started = new Date().toISOString();
  const start = performance.now();
  await carryOut({
    plan,
    places,
    job,
    pool,
    signal,
    onWritten: (one) => {
      written.push(one);
      if (shows) err(`\r${written.length}/${plan.files}`);
    },
    onFailed: (failure) => failed.push(failure),
    onVideo: ({ done, of }) => {
      if (shows) err(`\r${done}/${of}`);
    },
    onSound: (sound) => (more.sound = sound),
    onMedia: (sources) => (more.sources = sources),
  });
  if (shows) err('\n');
  const lost = signal.aborted ? [] : await pool.run('results', { plan, places, written });
  failed.push(...lost.map(({ failure }) => failure));
  const gone = new Set(lost.map(({ index }) => index));
  const sum = noTally();
  for (const one of written) if (!gone.has(one.index)) tally(sum, one);
  const times = { started, finished: new Date().toISOString(), workSeconds: (performance.now() - start) / 1000 };
  return summarise(
    plan,
    sum,
    failed.sort((a, b) => a.frame - b.frame),
    times,
    more,
  );
}
