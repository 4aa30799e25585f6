import { randomUUID } from 'node:crypto';
import { setTimeout as wait } from 'node:timers/promises';
import { digestOfMaking, type Plan, type Written } from '@shale/core';
import type { Earlier } from '@shale/engine';
import { log } from '../log.ts';
import { patiently } from '../store/away.ts';
import type { JobRow, Store } from '../store/store.ts';
import { inOrder } from './carrying.ts';
import { Journal, type JournalLine } from './journal.ts';
import { JobLog } from './log.ts';
import { RunningJob } from './running.ts';

/** Jobs whose results may stand where only what is new is made. */
const lookedBack = 12;

/** How long an answer waits for the database to keep a job's state, in milliseconds; it is kept in any case. */
const keepWait = 2000;

/** What a job begins as. */
interface FreshJob extends Pick<JobRow, 'id' | 'source' | 'batch' | 'output' | 'created'> {
  plan: Plan;
  at: number;
}

/** What is kept of jobs: rows and plans in the database, journals and logs on the disk. */
export class JobRecords {
  /** States on their way to the database, one after another. */
  private kept: Promise<void> = Promise.resolve();

  constructor(
    private readonly store: Store,
    private readonly journals: string,
  ) {}

  /** A job that is to wait, of which nothing is kept yet. @param one its place among those that come together is `at` */
  fresh({ plan, at, ...one }: FreshJob): RunningJob {
    const row: JobRow = {
      ...one,
      plan: randomUUID(),
      state: 'queued',
      priority: 'normal',
      // Those that come together keep their order.
      place: one.created + at / 1000,
      view: null,
      workSeconds: 0,
      problem: null,
      started: null,
      finished: null,
      madeAs: digestOfMaking(plan),
    };
    return new RunningJob(row, plan, new Journal(this.journals, row.id), new JobLog(this.journals, row.id));
  }

  /** A job as its row, its plan and its journal say. */
  async load(row: JobRow): Promise<RunningJob> {
    const plan = await this.store.getPlan(row.plan);
    const journal = new Journal(this.journals, row.id);
    return new RunningJob(row, plan, journal, new JobLog(this.journals, row.id), await journal.read());
  }

  /** Begins the journal of a job with what is settled of it; nothing is written where that is nothing. */
  async begin(job: RunningJob, lines: readonly JournalLine[]): Promise<void> {
    if (lines.length === 0) return;
    await this.note(job, ...lines);
    job.settle(await job.journal.read());
  }

  /** Notes lines in the journal of a job that does not run. @throws ShaleError `disk-full` and its like */
  async note({ journal }: RunningJob, ...lines: JournalLine[]): Promise<void> {
    await journal.open();
    try {
      for (const line of lines) await journal.add(line);
    } finally {
      await journal.close();
    }
  }

  /** The files that a job wrote, in the plan's order. */
  async writtenBy(id: string): Promise<Written[]> {
    return inOrder((await new Journal(this.journals, id).read()).written.values());
  }

  /** What jobs at rest have made of a source in the same way as a plan would, the newest first. */
  async madeBefore(plan: Plan): Promise<Earlier[]> {
    const rows = await this.store.listMadeAs(digestOfMaking(plan), lookedBack);
    return Promise.all(
      rows.map(async (row) => {
        const journal = new Journal(this.journals, row.id);
        const [of, { written, media, sound }, stamps] = await Promise.all([
          this.store.getPlan(row.plan),
          journal.read(),
          journal.stamps(),
        ]);
        return {
          ...{ plan: of, written: inOrder(written.values()), media },
          ...(stamps ? { stamps } : {}),
          ...(sound ? { sound } : {}),
        };
      }),
    );
  }

  /**
   * Keeps a job's state in the database, however long that is away; returns once it is kept, or after a moment. The journal
   * knows what was written meanwhile.
   */
  async keep(job: RunningJob, isOver: () => boolean): Promise<void> {
    const { row } = job;
    const now = { ...row, view: row.state === 'running' || row.state === 'queued' ? null : job.view() };
    this.kept = this.kept
      .then(() => patiently(() => this.store.putJob(now), isOver))
      .catch((error: unknown) => log('error', `job ${row.id}: its state was not kept: ${String(error)}`));
    await Promise.race([this.kept, wait(keepWait, undefined, { ref: false })]);
  }

  /** Ends once all states are kept. */
  async close(): Promise<void> {
    await this.kept;
  }
}
