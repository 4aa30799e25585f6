import { exrAddon } from '@shale/media';
import { problemOf } from '@shale/core';
import { handlers } from './tasks.ts';
import type { FromWorker, ToWorker } from './messages.ts';

// A worker process: carries out what its pool asks, and ends when the pool's process does.
const running = new Map<number, AbortController>();
// A pool whose process was killed hears nothing any more; this one ends with it.
const send = (message: FromWorker) => process.connected && process.send?.(message, () => undefined);

exrAddon.setThreads(Number(process.env.SHALE_EXR_THREADS ?? 0));

/** Plans that tasks name by their number. */
const plans = new Map<number, unknown>();

process.on('message', (message: ToWorker) => {
  if (message.kind === 'plan') {
    plans.set(message.id, message.plan);
    return;
  }
  if (message.kind === 'forget') {
    plans.delete(message.id);
    return;
  }
  if (message.kind === 'cancel') {
    running.get(message.id)?.abort();
    return;
  }
  const { id, task, plan } = message;
  // Taken now: it may be forgotten while the task is at work.
  const own = plan === undefined ? message.input : { ...(message.input as object), plan: plans.get(plan) };
  const input = message.company ? { ...(own as object), company: message.company } : own;
  const controller = new AbortController();
  running.set(id, controller);
  const handler = handlers[task] as (
    input: unknown,
    onEvent: (event: unknown) => void,
    signal: AbortSignal,
  ) => Promise<unknown>;
  handler(input, (event) => send({ kind: 'event', id, event }), controller.signal)
    .then((output) => send({ kind: 'done', id, output, memory: process.memoryUsage.rss() }))
    .catch((error: unknown) =>
      send({ kind: 'error', id, problem: problemOf(error), memory: process.memoryUsage.rss() }),
    )
    .finally(() => running.delete(id));
});

process.on('disconnect', () => process.exit(0));
// Ctrl-C reaches the whole group; the pool's process decides when this one ends.
process.on('SIGINT', () => undefined);
send({ kind: 'ready' });
