import { statfs } from 'node:fs/promises';
import { problemOf, type Problem } from '@shale/core';
import type { HealthPart, ServerSample } from '@shale/contract';
import type { Events } from './events.ts';
import { log } from './log.ts';
import type { Pools } from './pools.ts';
import { setAway } from './store/away.ts';
import type { Store } from './store/store.ts';

/** How often it is looked, and how long the database may take to answer, in milliseconds. */
const lookEvery = 2000;
const answerLimit = 2000;

/** A database that lives and does not answer for this long is ended, and started again, in milliseconds. */
const patience = 30_000;

/** Ten minutes of samples. */
const samplesKept = 300;

/** Room below which a disk counts as full, in bytes: a journal and the database need some to go on. */
const leastRoom = 8 << 20;

/** Processes of a pool that may end in a row, none having done a task, before it is told. */
const mostLost = 3;

const mebibytes = (bytes: number): string => `${Math.round(bytes / 2 ** 20).toLocaleString('en-GB')} MiB`;

/** One thing that was looked at, and what is wrong with it. */
interface Looked extends HealthPart {
  problem?: Problem;
}

/** Whether all that the server stands on is there: asked every two seconds and by `/api/health`, told to open pages when it changes. */
export class Condition {
  private troubles: Problem[] = [];
  private timer: NodeJS.Timeout | undefined;
  private awaySince: number | undefined;
  /** Of the last ten minutes. */
  readonly samples: ServerSample[] = [];
  private writtenBefore = 0;

  constructor(
    private readonly store: Store,
    /** Folders of Shale's own data; they may lie on several disks. */
    private readonly folders: readonly string[],
    private readonly pools: Pools,
    private readonly events: Events,
    /** Called when the database is back after it was away. */
    private readonly onBack: () => void,
    /** Ends a database that does not answer, which starts it again. */
    private readonly replaceDatabase: () => void = () => undefined,
    /** Results that jobs wrote since the start. */
    private readonly written: () => number = () => 0,
  ) {}

  begin(): void {
    this.timer = setInterval(() => {
      this.sample();
      void this.look();
    }, lookEvery);
  }

  private sample(): void {
    const pools = Object.values(this.pools).map((pool) => pool.condition);
    const written = this.written();
    this.samples.push({
      at: Date.now(),
      rate: Math.max(0, written - this.writtenBefore) / (lookEvery / 1000),
      memory: pools.flatMap(({ processes }) => processes).reduce((sum, { memory }) => sum + memory, 0),
      waiting: pools.reduce((sum, { waiting }) => sum + waiting, 0),
    });
    this.writtenBefore = written;
    if (this.samples.length > samplesKept) this.samples.shift();
  }

  close(): void {
    clearInterval(this.timer);
  }

  /** Each thing that was looked at, and all that is wrong now. */
  async look(): Promise<{ parts: HealthPart[]; problems: Problem[] }> {
    const looked = [await this.database(), this.workers(), ...(await Promise.all(this.folders.map(roomOf)))];
    const found = looked.flatMap(({ problem }) => problem ?? []);
    // Several folders may lie on one full disk: told once.
    const problems = found.filter(({ code }, at) => found.findIndex((one) => one.code === code) === at);
    this.notice(problems);
    return { parts: looked.map(({ name, ok, says }) => ({ name, ok, says })), problems };
  }

  private notice(problems: Problem[]): void {
    const codes = (list: Problem[]) => list.map(({ code }) => code).join();
    const before = this.troubles;
    this.troubles = problems;
    if (codes(before) === codes(problems)) return;
    for (const { code, fact } of problems) log('warning', `condition: ${code}: ${fact}`);
    if (problems.length === 0) log('info', 'condition: all is whole again');
    this.events.send({ type: 'condition', problems });
    const isAway = (list: Problem[]) => list.some(({ code }) => code === 'database-away');
    if (isAway(before) && !isAway(problems)) this.onBack();
  }

  private async database(): Promise<Looked> {
    const began = performance.now();
    try {
      await this.store.ping(answerLimit);
      this.awaySince = undefined;
      setAway(false);
      return { name: 'database', ok: true, says: `answers in ${Math.ceil(performance.now() - began)} ms` };
    } catch (error) {
      setAway(true);
      this.awaySince ??= Date.now();
      if (Date.now() - this.awaySince > patience) {
        this.awaySince = undefined;
        log('error', 'database: it lives and does not answer; it is ended and started again');
        this.replaceDatabase();
      }
      return { name: 'database', ok: false, says: 'does not answer', problem: problemOf(error) };
    }
  }

  private workers(): Looked {
    const all = Object.entries(this.pools);
    const failing = all.filter(([, pool]) => pool.condition.lost >= mostLost).map(([name]) => name);
    const processes = all.flatMap(([, pool]) => pool.condition.processes);
    const tasks = processes.reduce((sum, one) => sum + one.tasks.length, 0);
    const says = `${processes.length} processes, ${tasks} tasks at work`;
    if (failing.length === 0) return { name: 'workers', ok: true, says };
    return {
      name: 'workers',
      ok: false,
      says,
      problem: {
        code: 'workers-failing',
        fact: `Processes for ${failing.join(' and ')} keep ending before they have done anything.`,
        wayOut: 'Check the log and the free memory of this machine; then start Shale again.',
      },
    };
  }
}

async function roomOf(folder: string): Promise<Looked> {
  const name = `disk of ${folder}`;
  const disk = await statfs(folder).catch(() => undefined);
  if (!disk) return { name, ok: true, says: 'does not tell its room' };
  const free = disk.bavail * disk.bsize;
  const says = `${mebibytes(free)} free`;
  if (free >= leastRoom) return { name, ok: true, says };
  return {
    name,
    ok: false,
    says,
    problem: {
      code: 'disk-full',
      fact: `The disk that holds Shale’s own data has ${Math.floor(free / 1024).toLocaleString('en-GB')} KiB left (${folder}).`,
      wayOut: 'Free some space on it. Files are safe; stopped jobs continue when you press Continue.',
      subject: folder,
    },
  };
}
