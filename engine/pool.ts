import { fork, type ChildProcess } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { ShaleError, type Problem } from '@shale/core';
import type { Tasks } from './tasks.ts';

export type ToWorker =
  | { kind: 'task'; id: number; task: keyof Tasks; input: unknown; plan?: number }
  | { kind: 'cancel'; id: number }
  // A plan for the tasks that name it, which come without: it may be as large as many of them together.
  | { kind: 'plan'; id: number; plan: unknown }
  | { kind: 'forget'; id: number };
export type FromWorker =
  | { kind: 'ready' }
  | { kind: 'event'; id: number; event: unknown }
  | { kind: 'done'; id: number; output: unknown }
  | { kind: 'error'; id: number; problem: Problem };

interface Waiting {
  message: Extract<ToWorker, { kind: 'task' }>;
  resolve: (output: unknown) => void;
  reject: (error: Error) => void;
  onEvent: (event: unknown) => void;
  signal?: AbortSignal;
  /** Takes the listener of the signal away, which is there while the task is at work. */
  unlisten?: () => void;
}

interface Worker {
  child: ChildProcess;
  /** Plans that it holds, the one that was not asked for longest first. */
  plans: number[];
  /** Tasks at work in it, by id. */
  busy: Map<number, Waiting>;
}

/** Plans that a process holds. */
const plansHeld = 3;

/** Tasks that a process of a working pool takes at once. */
export const spansPerProcess = 2;

/** A bundled worker where one is at hand: it starts several times quicker than its sources through the transpiler. */
const bundled = process.env.SHALE_WORKER;
const workerFile = bundled ?? fileURLToPath(new URL('./worker.ts', import.meta.url));

/** Processes that do codec work, a few tasks each at a time: a crash inside a codec costs those, never the server. */
export class WorkerPool {
  private readonly workers: Worker[] = [];
  private readonly queue: Waiting[] = [];
  private lastId = 0;
  /** A number for each plan, by the very object. */
  private readonly plans = new WeakMap<object, number>();
  private lastPlan = 0;
  private closed = false;

  constructor(
    private readonly size: number,
    private readonly env: Record<string, string> = {},
    /** Tasks that one process works on at once: one decodes or encodes while another calculates. */
    private readonly together = 1,
  ) {}

  /**
   * Runs a task on the next free process.
   * @throws ShaleError what the task refused; `worker-crashed` where its process ended
   */
  run<K extends keyof Tasks>(
    task: K,
    input: Tasks[K]['in'],
    options: { onEvent?: (event: Tasks[K]['event']) => void; signal?: AbortSignal; first?: boolean } = {},
  ): Promise<Tasks[K]['out']> {
    if (this.closed) return Promise.reject(gone());
    return new Promise((resolve, reject) => {
      this.lastId += 1;
      const waiting: Waiting = {
        message: { kind: 'task', id: this.lastId, task, input },
        resolve: resolve as (output: unknown) => void,
        reject,
        onEvent: (options.onEvent ?? (() => undefined)) as (event: unknown) => void,
        signal: options.signal,
      };
      if (options.first) this.queue.unshift(waiting);
      else this.queue.push(waiting);
      this.dispatch();
    });
  }

  /** Starts the processes ahead of the first task. */
  warm(): void {
    while (this.workers.length < this.size) this.start();
  }

  /** Tasks that are in work at once at the most. */
  get capacity(): number {
    return this.size * this.together;
  }

  /** How many there may be. */
  get processes(): number {
    return this.size;
  }

  /** Process ids, for tests that kill one. */
  get pids(): number[] {
    return this.workers.flatMap(({ child }) => child.pid ?? []);
  }

  async close(): Promise<void> {
    this.closed = true;
    for (const waiting of this.queue.splice(0)) waiting.reject(gone());
    await Promise.all(
      this.workers.map(
        ({ child }) =>
          new Promise<void>((resolve) => {
            if (child.exitCode !== null || child.signalCode !== null) return resolve();
            child.once('exit', () => resolve());
            child.kill('SIGKILL');
          }),
      ),
    );
  }

  private start(): Worker {
    const child = fork(workerFile, [], {
      execArgv: bundled ? [] : ['--import', import.meta.resolve('tsx')],
      env: { ...process.env, UV_THREADPOOL_SIZE: '4', ...this.env },
      serialization: 'advanced',
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    });
    const worker: Worker = { child, plans: [], busy: new Map() };
    child.on('message', (message: FromWorker) => this.receive(worker, message));
    child.once('exit', () => this.lose(worker));
    child.once('error', () => this.lose(worker));
    this.workers.push(worker);
    return worker;
  }

  private dispatch(): void {
    while (this.queue.length > 0 && !this.closed) {
      if (this.queue[0]!.signal?.aborted) {
        this.queue.shift()!.reject(gone());
        continue;
      }
      const free = this.freeWorker();
      if (!free) return;
      const waiting = this.queue.shift()!;
      free.busy.set(waiting.message.id, waiting);
      const { signal, message } = waiting;
      const cancel = () => this.send(free, { kind: 'cancel', id: message.id });
      signal?.addEventListener('abort', cancel);
      waiting.unlisten = () => signal?.removeEventListener('abort', cancel);
      this.send(free, this.withPlan(free, message));
    }
  }

  /** The process with the least to do, a new one while there may be more; undefined where all have enough. */
  private freeWorker(): Worker | undefined {
    const [least] = [...this.workers].sort((a, b) => a.busy.size - b.busy.size);
    if (least && least.busy.size === 0) return least;
    if (this.workers.length < this.size) return this.start();
    return least && least.busy.size < this.together ? least : undefined;
  }

  private receive(worker: Worker, message: FromWorker): void {
    const task = message.kind === 'ready' ? undefined : worker.busy.get(message.id);
    if (message.kind === 'ready' || !task) return;
    if (message.kind === 'event') {
      task.onEvent(message.event);
      return;
    }
    this.settle(worker, task, () =>
      message.kind === 'done' ? task.resolve(message.output) : task.reject(new ShaleError(message.problem)),
    );
    this.dispatch();
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
    task.unlisten?.();
    how();
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
    for (const task of [...worker.busy.values()]) this.settle(worker, task, () => task.reject(gone()));
    this.dispatch();
  }
}

const gone = (): ShaleError =>
  new ShaleError({
    code: 'worker-crashed',
    fact: 'The process that did the work ended in the middle of it.',
    wayOut: 'It is started again by itself; a frame that ends it twice is left out and named.',
  });
