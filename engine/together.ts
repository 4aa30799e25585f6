import { resultsOf, type Plan } from '@shale/core';
import type { WorkerPool } from './pool.ts';

/** How long a span waits for those of the others, in milliseconds; and for those of one that has not begun yet. */
const patience = { usual: 1000, first: 10_000 };

/** Spans that are made of the same pictures and wait for one another. */
interface Meeting {
  asks: Map<Seat, () => void>;
  timer: NodeJS.Timeout;
}

/** Jobs that are made of the same pictures of one source: their spans go to one process, which reads each picture once. */
class Table {
  readonly seats = new Set<Seat>();
  private readonly meetings = new Map<string, Meeting>();

  constructor(private readonly pool: WorkerPool) {}

  meet(seat: Seat, key: string, ask: () => Promise<void>, signal?: AbortSignal): Promise<void> {
    return new Promise<void>((done, fail) => {
      seat.asked.add(key);
      seat.isLate = false;
      const meeting = this.meetings.get(key) ?? this.call(key);
      const begin = () => {
        signal?.removeEventListener('abort', stop);
        void ask().then(done, fail);
      };
      // Whoever stops waits for nobody.
      const stop = () => {
        if (!meeting.asks.delete(seat)) return;
        begin();
        if (this.meetings.get(key) === meeting) this.look(key);
      };
      signal?.addEventListener('abort', stop);
      meeting.asks.set(seat, begin);
      this.look(key);
    });
  }

  private call(key: string): Meeting {
    const since = Date.now();
    const wait = () =>
      setTimeout(() => {
        const missed = [...this.seats].filter((seat) => !meeting.asks.has(seat));
        const mayStillBegin = missed.some(({ asked }) => asked.size === 0) && Date.now() - since < patience.first;
        if (mayStillBegin) {
          meeting.timer = wait();
          return;
        }
        // Whoever does not come is not waited for until he comes again.
        for (const seat of missed) seat.isLate = true;
        this.begin(key);
      }, patience.usual);
    const meeting: Meeting = { asks: new Map(), timer: wait() };
    this.meetings.set(key, meeting);
    return meeting;
  }

  /** Looks anew who is waited for: somebody came, or left. */
  lookAtAll(): void {
    for (const key of [...this.meetings.keys()]) this.look(key);
  }

  private look(key: string): void {
    const { asks } = this.meetings.get(key)!;
    const isMissed = (seat: Seat) => !asks.has(seat) && !seat.isLate && !seat.asked.has(key);
    if (![...this.seats].some(isMissed)) this.begin(key);
  }

  private begin(key: string): void {
    const meeting = this.meetings.get(key);
    if (!meeting) return;
    clearTimeout(meeting.timer);
    this.meetings.delete(key);
    this.pool.together(() => {
      for (const ask of meeting.asks.values()) ask();
    });
  }
}

/** A job's place among those that are made of the same pictures. */
export class Seat {
  /** Spans that it asked for. */
  readonly asked = new Set<string>();
  /** Whether the others do not wait for it at the moment. */
  isLate = false;

  constructor(
    private readonly table: Table,
    private readonly plan: Plan,
    private readonly left: () => void,
  ) {}

  /** Asks for a span once the others have come to the same pictures, or do not come. */
  meet(indices: readonly number[], ask: () => Promise<void>, signal?: AbortSignal): Promise<void> {
    const pictures = indices.flatMap((index) =>
      resultsOf(this.plan, index, index + 1).map(({ sourceFrame, from, mixed }) =>
        [from === undefined ? 'none' : sourceFrame, ...(mixed ? [mixed.frame] : [])].join('+'),
      ),
    );
    return this.table.meet(this, pictures.join(), ask, signal);
  }

  leave(): void {
    if (!this.table.seats.delete(this)) return;
    this.left();
    this.table.lookAtAll();
  }
}

/** Brings jobs together that are made of the same pictures while they run. */
export class Together {
  private readonly tables = new Map<string, Table>();

  constructor(private readonly pool: WorkerPool) {}

  /**
   * Takes a seat for a plan, which has to be left; undefined where nothing that it reads can be shared.
   * @param rank jobs of another rank do not hold it up
   */
  join(plan: Plan, rank = 0): Seat | undefined {
    if (plan.into.kind === 'video' || plan.copies || plan.spec.channels.length > 0 || plan.shots.length > 0)
      return undefined;
    const key = JSON.stringify([rank, plan.root, plan.source.folder, plan.source.name]);
    const table = this.tables.get(key) ?? new Table(this.pool);
    this.tables.set(key, table);
    const seat = new Seat(table, plan, () => {
      if (table.seats.size === 0) this.tables.delete(key);
    });
    table.seats.add(seat);
    return seat;
  }
}
