import type { BatchView, Job, JobState } from '@shale/contract';
import type { BatchRow } from '../store/batches.ts';

/** What a batch's view needs of each of its jobs. */
export type Light = Pick<
  Job,
  | 'id'
  | 'source'
  | 'sourceName'
  | 'output'
  | 'state'
  | 'priority'
  | 'total'
  | 'written'
  | 'failed'
  | 'bytes'
  | 'workSeconds'
  | 'problem'
> & {
  into: string;
  /** Results, the pictures of a video among them. */
  done: number;
  of: number;
};

/** Troubles and folders that a view tells: the others are with the jobs themselves. */
const told = { troubles: 20, folders: 3 };

export function lightOf(job: Job): Light {
  const { id, source, sourceName, output, state, priority, total, written, failed, bytes, workSeconds, problem } = job;
  const { root, folder } = job.into;
  return {
    ...{ id, source, sourceName, output, state, priority, total, written, failed, bytes, workSeconds, problem },
    into: folder === '' ? root : `${root}/${folder}`,
    done: job.video ? job.video.done : written + failed,
    of: job.video ? job.video.of : total,
  };
}

/** The state of jobs together: what is at work goes before what rests, and what asks for a hand before what is done. */
export function stateOf(states: Partial<Record<JobState, number>>, isWhole: boolean): JobState {
  const first = (['running', 'queued', 'stopped', 'incomplete'] as const).find((state) => states[state]);
  if (first) return first;
  if (!states.done && states.cancelled) return 'cancelled';
  return isWhole ? 'done' : 'incomplete';
}

/** Many jobs told as one. @param rate results a second, where there are enough to say */
export function viewOf(
  row: BatchRow,
  lights: readonly Light[],
  rate: number | null,
  finished: string | null,
): BatchView {
  const states: Partial<Record<JobState, number>> = {};
  const sum = { written: 0, failed: 0, total: 0, done: 0, of: 0, bytes: 0, workSeconds: 0 };
  for (const one of lights) {
    states[one.state] = (states[one.state] ?? 0) + 1;
    for (const field of ['written', 'failed', 'total', 'done', 'of', 'bytes', 'workSeconds'] as const)
      sum[field] += one[field];
  }
  const state = stateOf(states, row.refused.length === 0);
  const isOpen = state === 'running' || state === 'queued';
  const open = lights.find(({ state: one }) => one === 'running' || one === 'queued');
  return {
    id: row.id,
    sentence: row.sentence,
    state,
    priority: open?.priority ?? 'normal',
    sources: new Set(lights.map(({ source }) => source)).size,
    outputs: row.batch.outputs.length,
    jobs: lights.length,
    states,
    files: { written: sum.written, failed: sum.failed, total: sum.total },
    frames: { done: sum.done, of: sum.of },
    bytes: sum.bytes,
    workSeconds: sum.workSeconds,
    secondsLeft: isOpen && rate !== null ? (sum.of - sum.done) / rate : null,
    standing: row.standing,
    into: [...new Set(lights.map(({ into }) => into))].slice(0, told.folders),
    refused: row.refused,
    troubles: lights
      .flatMap(({ id, sourceName, problem }) => (problem ? [{ job: id, name: sourceName, problem }] : []))
      .slice(0, told.troubles),
    created: new Date(row.created).toISOString(),
    finished: isOpen ? null : finished,
  };
}
