import type { ChildProcess } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { ShaleError } from '@shale/core';
import { forkWorker } from './forkWorker.mjs';
import { gone, replaced } from './lost.ts';
import { lower } from './lower.ts';
import type { FromWorker, ToWorker } from './messages.ts';
import { FairQueue, type InQueue } from './queue.ts';
import type { Tasks } from './tasks.ts';

interface Waiting extends InQueue {
  message: Extract<ToWorker, { kind: 'task' }>;
  resolve: (output: unknown) => void;
  reject: (error: Error) => void;
  onEvent: (event: unknown) => void;
  signal?: AbortSignal;
  /** Takes the listener of the signal away. */
  unlisten: () => void;
  /** Tasks that go to the same process with it, and do not count there. */
  companions: Waiting[];
  /** The turn in which it was begun: one for all of a company. */
  turn: number;
  /** How often it was begun, or will have been at its next turn. */
  tries: number;
  /** Ends its process where it does not stop when it is told to. */
  overdue?: NodeJS.Timeout;
}

interface Worker {
  child: ChildProcess;
  /** Plans that it holds, the one that was not asked for longest first. */
  plans: number[];
  /** Tasks at work in it, by id. */
  busy: Map<number, Waiting>;
  /** Bytes, as it told last. */
  memory: number;
  /** It has told that it is there. */
  ready: boolean;
  /** Gets nothing more to do, and ends once it has nothing. */
  leaving: boolean;
  /** It was ended on purpose: what it had in work is no fault of that. */
  replaced: boolean;
}

/** What a pool is made of. */
export interface PoolOptions {
  /** Of its processes. */
  env?: Record<string, string>;
  /** How far they stand back behind others, 0 to 19. */
  nice?: number;
  /** Tasks that one process works on at once: one decodes or encodes while another calculates. */
  together?: number;
  /** Memory above which a process gets no further task and gives way to a new one, bytes. */
  ceiling?: number;
}

/** How one asks a pool. */
export interface AskOptions<Event> {
  onEvent?: (event: Event) => void;
  /** A task that does not stop within two seconds after this is aborted loses its process. */
  signal?: AbortSignal;
  /** Somebody looks and waits: goes first, and the newest of what an asker wants before the rest. */
  first?: boolean;
  /** On whose behalf: askers take turns. */
  asker?: unknown;
  /** What goes before others whatever turn it is: smaller first. */
  rank?: number;
}

/** Plans that a process holds: two companies of the outputs of a batch need so many. */
const plansHeld = 26;

/** Tasks that a process of a working pool takes at once. */
export const spansPerProcess = 2;

/** Tasks that look, and leave nothing half done: where their process ends they are begun again on another. */
const repeated: ReadonlySet<keyof Tasks> = new Set(['stamps', 'media', 'results', 'hashes', 'wave', 'names']);

/** How often such a task is begun at the most. */
const mostTries = 3;

/** How long a task may take to stop, in milliseconds. */
const stopLimit = 2000;

const megabyte = 2 ** 20;

/** Memory that a process may hold at the most between tasks; a picture of 8K in floats takes half of it. */
const usualCeiling = Number(process.env.SHALE_WORKER_MEMORY ?? 1024) * megabyte;

/** What an idle process may keep, and how long it is idle before the rest is given back, in milliseconds. */
const idleMemory = 192 * megabyte;
const idleAfter = 15_000;

/** A bundled worker where one is at hand: it starts several times quicker than its sources through the transpiler. */
const bundled = process.env.SHALE_WORKER;
const workerFile = bundled ?? fileURLToPath(new URL('./worker.ts', import.meta.url));

/** How a pool is. */
export interface PoolCondition {
  processes: {
    pid: number;
    tasks: (keyof Tasks)[];
    /** Bytes, as it told last. */
    memory: number;
  }[];
  /** Tasks that wait. */
  waiting: number;
  /** Processes that ended in a row, at work or before they were there, none having done a task. */
  lost: number;
}

/** Processes that do codec work, a few tasks each at a time: a crash inside a codec costs those, never the server. */
export class WorkerPool {
  private readonly workers: Worker[] = [];
  private readonly queue = new FairQueue<Waiting>();
  private lastId = 0;
  /** A number for each plan, by the very object. */
  private readonly plans = new WeakMap<object, number>();
  private lastPlan = 0;
  private closed = false;
  /** Tasks that are asked for together at this moment. */
  private meeting: Waiting[] | undefined;
  private lastTurn = 0;
  private readonly atOnce: number;
  private readonly ceiling: number;
  private resting: NodeJS.Timeout | undefined;
  private lost = 0;
  private stays = false;

  constructor(
    private readonly size: number,
    private readonly options: PoolOptions = {},
  ) {
    this.atOnce = options.together ?? 1;
    this.ceiling = options.ceiling ?? usualCeiling;
  }

  /**
   * Runs a task on the next free process.
   * @throws ShaleError what the task refused; `worker-crashed` where its process ended, `worker-replaced` where that was ended on
   * purpose and the task may be asked for again
   */
  run<K extends keyof Tasks>(
    task: K,
    input: Tasks[K]['in'],
    { onEvent, signal, first = false, asker, rank = first ? 0 : 1 }: AskOptions<Tasks[K]['event']> = {},
  ): Promise<Tasks[K]['out']> {
    if (this.closed || signal?.aborted) return Promise.reject(gone());
    return new Promise((resolve, reject) => {
      this.lastId += 1;
      const abort = () => this.abort(waiting);
      const waiting: Waiting = {
        message: { kind: 'task', id: this.lastId, task, input },
        resolve: resolve as (output: unknown) => void,
        reject,
        onEvent: (onEvent ?? (() => undefined)) as (event: unknown) => void,
        signal,
        unlisten: () => signal?.removeEventListener('abort', abort),
        asker,
        newest: first,
        rank,
        companions: [],
        turn: 0,
        tries: 1,
      };
      signal?.addEventListener('abort', abort);
      if (this.meeting) this.meeting.push(waiting);
      else {
        this.queue.add(waiting);
        this.dispatch();
      }
    });
  }

  /** Has all tasks that are asked for meanwhile go to one process, at once: they are made of the same, and count as one there. */
  together(ask: () => void): void {
    const meeting: Waiting[] = (this.meeting = []);
    try {
      ask();
    } finally {
      this.meeting = undefined;
    }
    this.add(meeting);
    this.dispatch();
  }

  private add([lead, ...companions]: Waiting[]): void {
    if (!lead) return;
    lead.companions = companions;
    this.queue.add(lead);
  }

  /** Starts the processes ahead of the first task, and from now on those that take the place of any that end. */
  warm(): void {
    this.stays = true;
    while (this.workers.length < this.size) this.start();
  }

  /** Tasks that are in work at once at the most. */
  get capacity(): number {
    return this.size * this.atOnce;
  }

  /** How many there may be. */
  get processes(): number {
    return this.size;
  }

  /** Process ids, for tests that kill one. */
  get pids(): number[] {
    return this.workers.flatMap(({ child }) => child.pid ?? []);
  }

  /** How it is, for whoever watches. */
  get condition(): PoolCondition {
    return {
      lost: this.lost,
      processes: this.workers.map(({ child, busy, memory }) => ({
        pid: child.pid ?? 0,
        tasks: [...busy.values()].map(({ message }) => message.task),
        memory,
      })),
      waiting: this.queue.length,
    };
  }

  async close(): Promise<void> {
    this.closed = true;
    clearTimeout(this.resting);
    for (const lead of this.queue.clear()) for (const waiting of [lead, ...lead.companions]) this.refuse(waiting);
    await Promise.all(this.workers.map((worker) => this.end(worker)));
  }

  private end({ child }: Worker): Promise<void> {
    return new Promise<void>((resolve) => {
      if (child.exitCode !== null || child.signalCode !== null) return resolve();
      child.once('exit', () => resolve());
      child.kill('SIGKILL');
    });
  }

  private start(): Worker {
    const child = forkWorker(workerFile, bundled ? [] : ['--import', import.meta.resolve('tsx')], this.options.env);
    lower(child, this.options.nice ?? 0);
    return this.hire(child);
  }

  /** Takes over processes that were started before there was a pool, as many as it may have. */
  takeOver(begun: readonly ChildProcess[]): void {
    for (const child of begun)
      if (this.workers.length < this.size && child.connected) {
        child.ref();
        child.channel?.ref();
        this.hire(child);
      } else child.disconnect();
  }

  private hire(child: ChildProcess): Worker {
    const worker: Worker = {
      child,
      plans: [],
      busy: new Map(),
      memory: 0,
      ready: false,
      leaving: false,
      replaced: false,
    };
    child.on('message', (message: FromWorker) => this.receive(worker, message));
    child.once('exit', () => this.lose(worker));
    child.once('error', () => this.lose(worker));
    this.workers.push(worker);
    return worker;
  }

  private dispatch(): void {
    while (this.queue.length > 0 && !this.closed) {
      const free = this.freeWorker();
      if (!free) return;
      const lead = this.queue.take()!;
      const all = [lead, ...lead.companions.splice(0)];
      const turn = (this.lastTurn += 1);
      const company = all.length > 1 ? { id: turn, size: all.length } : undefined;
      for (const waiting of all) {
        waiting.turn = turn;
        free.busy.set(waiting.message.id, waiting);
        this.send(free, { ...this.withPlan(free, waiting.message), ...(company ? { company } : {}) });
      }
    }
  }

  /** The process with the least to do, a new one while there may be more; undefined where all have enough. */
  private freeWorker(): Worker | undefined {
    const [least] = this.workers.filter(({ leaving }) => !leaving).sort((a, b) => loadOf(a) - loadOf(b));
    if (least && least.busy.size === 0) return least;
    if (this.workers.length < this.size) return this.start();
    return least && loadOf(least) < this.atOnce ? least : undefined;
  }

  private receive(worker: Worker, message: FromWorker): void {
    const task = message.kind === 'ready' ? undefined : worker.busy.get(message.id);
    if (message.kind === 'ready') worker.ready = true;
    if (message.kind === 'ready' || !task) return;
    if (message.kind === 'event') {
      task.onEvent(message.event);
      return;
    }
    worker.memory = message.memory;
    this.lost = 0;
    if (worker.memory > this.ceiling) worker.leaving = true;
    this.settle(worker, task, () =>
      message.kind === 'done' ? task.resolve(message.output) : task.reject(new ShaleError(message.problem)),
    );
    if (worker.leaving && worker.busy.size === 0) this.replace(worker);
    this.dispatch();
    this.restLater();
  }

  /** Whoever asked has gone: what waits is not begun; what is at work is told to stop, and loses its process where it does not. */
  private abort(task: Waiting): void {
    if (this.leaves(task)) {
      this.refuse(task);
      return;
    }
    const worker = this.workers.find(({ busy }) => busy.has(task.message.id));
    if (!worker) return;
    this.send(worker, { kind: 'cancel', id: task.message.id });
    task.overdue = setTimeout(() => this.replace(worker), stopLimit);
  }

  /** Takes a task out of the line; those that were to go with it stay. @returns whether it was in it */
  private leaves(task: Waiting): boolean {
    if (this.queue.remove(task)) {
      this.add(task.companions);
      return true;
    }
    const lead = this.queue.find(({ companions }) => companions.includes(task));
    if (!lead) return false;
    lead.companions.splice(lead.companions.indexOf(task), 1);
    return true;
  }

  /** Ends a process on purpose; the next task begins a new one. */
  private replace(worker: Worker): void {
    worker.leaving = true;
    worker.replaced = true;
    worker.child.kill('SIGKILL');
  }

  /** Ends idle processes that hold more than they need, once nothing has been asked for a while. */
  private restLater(): void {
    clearTimeout(this.resting);
    if (this.closed) return;
    this.resting = setTimeout(() => {
      for (const worker of this.workers) if (worker.busy.size === 0 && worker.memory > idleMemory) this.replace(worker);
    }, idleAfter);
    this.resting.unref();
  }

  /** A task without its plan, which goes to a process once for all tasks that have the same. */
  private withPlan(worker: Worker, message: Waiting['message']): Waiting['message'] {
    const { plan, ...rest } = message.input as { plan?: object };
    if (typeof plan !== 'object' || plan === null) return message;
    let id = this.plans.get(plan);
    if (id === undefined) this.plans.set(plan, (id = this.lastPlan += 1));
    const at = worker.plans.indexOf(id);
    if (at >= 0) worker.plans.splice(at, 1);
    else this.send(worker, { kind: 'plan', id, plan });
    worker.plans.push(id);
    if (worker.plans.length > plansHeld) this.send(worker, { kind: 'forget', id: worker.plans.shift()! });
    return { ...message, input: rest, plan: id };
  }

  /** The one way in which a task that was at work ends. */
  private settle(worker: Worker, task: Waiting, how: () => void): void {
    worker.busy.delete(task.message.id);
    clearTimeout(task.overdue);
    task.unlisten();
    how();
  }

  /** The one way in which a task that was not begun ends without an answer. */
  private refuse(task: Waiting): void {
    task.unlisten();
    task.reject(gone());
  }

  /** Sends to a process that may have ended a moment ago: it is lost then, with all that it had in work. */
  private send({ child }: Worker, message: ToWorker): void {
    // An error of the channel comes here; that the process is gone comes as its `exit`, which settles its tasks.
    if (child.connected) child.send(message, () => undefined);
  }

  private lose(worker: Worker): void {
    const at = this.workers.indexOf(worker);
    if (at < 0) return;
    this.workers.splice(at, 1);
    // One that ended while it had nothing to do did not fail at anything.
    if (!worker.replaced && !this.closed && (!worker.ready || worker.busy.size > 0)) this.lost += 1;
    for (const task of [...worker.busy.values()]) {
      const mayRepeat = repeated.has(task.message.task) && task.tries < mostTries;
      if (mayRepeat && !task.signal?.aborted && !this.closed) {
        task.tries += 1;
        this.queue.add(task);
      } else
        this.settle(worker, task, () => task.reject(worker.replaced && !task.signal?.aborted ? replaced() : gone()));
    }
    // What ends over and over is started where it is asked for only.
    if (this.stays && !this.closed && this.lost < mostTries) this.warm();
    this.dispatch();
  }
}

/** Tasks that a process has in work; those of a company count as one. */
const loadOf = ({ busy }: Worker): number => new Set([...busy.values()].map(({ turn }) => turn)).size;
