import type { Batches } from './batches/batches.ts';
import type { UploadDesk } from './desk.ts';
import type { Events } from './events.ts';
import type { Intake } from './intake/intake.ts';
import type { Pools } from './pools.ts';
import type { Jobs } from './jobs/jobs.ts';
import type { MadeSources } from './made.ts';
import type { Previews } from './previews.ts';
import type { Renames } from './renames/renames.ts';
import type { Checks } from './roots/checks.ts';
import type { Roots } from './roots/roots.ts';
import type { Searches } from './searches.ts';
import type { Store } from './store/store.ts';

/** What planning and running stand on. */
export interface Workshop {
  store: Store;
  roots: Roots;
  checks: Checks;
  jobs: Jobs;
  batches: Batches;
  renames: Renames;
  intake: Intake;
  previews: Previews;
  made: MadeSources;
  searches: Searches;
  desk: UploadDesk;
  pools: Pools;
  events: Events;
  /** Processes that a job works with at once. */
  workers: number;
}
