import { useEffect, useState } from 'react';
import { cacheTags, eventSchema, type FrameCheck } from '@shale/contract';
import { plural, printCount } from '../pieces/words.ts';
import { store, useAppDispatch } from '../state/store.ts';
import { noticed, troubleGone, type Notice } from '../state/view.ts';
import { endOf, endOfBatch, tellOutside } from '../pages/jobs/troubles.ts';
import { api } from './api.ts';

function putById<T extends { id: string }>(list: T[], one: T): void {
  const at = list.findIndex(({ id }) => id === one.id);
  if (at < 0) list.unshift(one);
  else list[at] = one;
}

/** What a check of every frame came to, in a sentence. */
function endOfCheck({ name, done, total, damaged, problem }: FrameCheck): Pick<Notice, 'severity' | 'sentence'> {
  if (problem) return { severity: 'doubt', sentence: `${name} was not checked completely: ${problem.fact}` };
  if (damaged > 0)
    return { severity: 'doubt', sentence: `${name}: ${printCount(damaged)} of ${plural(done, 'frame')} damaged.` };
  return done < total
    ? {
        severity: 'note',
        sentence: `The check of ${name} was stopped after ${printCount(done)} of ${plural(total, 'frame')}.`,
      }
    : { severity: 'note', sentence: `${name}: ${plural(done, 'frame')} decoded, none is damaged.` };
}

/** Whether the server is there, and whether it is of the version that this page was made for. */
export interface Live {
  connected: boolean;
  outdated: boolean;
}

/** Keeps what is on screen true to the server's events. */
export function useLive(): Live {
  const dispatch = useAppDispatch();
  const [connected, setConnected] = useState(true);
  const [outdated, setOutdated] = useState(false);
  useEffect(() => {
    let stream: EventSource;
    let lost = false;
    let retry: ReturnType<typeof setTimeout>;
    const connect = () => {
      stream = new EventSource('/api/events');
      stream.onopen = () => {
        setConnected(true);
        if (lost) dispatch(api.util.invalidateTags([...cacheTags]));
        lost = false;
      };
      // A browser gives up on a server that refuses the connection: it is asked again by us, until it is back.
      stream.onerror = () => {
        lost = true;
        setConnected(false);
        stream.close();
        retry = setTimeout(connect, 1000);
      };
      stream.onmessage = take;
    };
    const take = ({ data }: MessageEvent<string>) => {
      const read = eventSchema.safeParse(JSON.parse(data));
      if (!read.success) {
        // Told in words that this page does not know: the server was started anew, as another version.
        setOutdated(true);
        return;
      }
      const event = read.data;
      // An answer that was on its way when the event came may be older than it: what has come to rest is asked for anew.
      if (event.type === 'batch') {
        const { batch } = event;
        dispatch(api.util.updateQueryData('batches', undefined, (batches) => putById(batches, batch)));
        dispatch(api.util.updateQueryData('batch', batch.id, () => batch));
        if (batch.state === 'queued' || batch.state === 'running') dispatch(troubleGone(batch.id));
        else {
          dispatch(api.util.invalidateTags(['Job', 'Receipt']));
          const end = endOfBatch(batch);
          if (end) {
            dispatch(noticed({ about: batch.id, kind: 'job', ...end }));
            tellOutside(end.sentence);
          }
        }
      } else if (event.type === 'job' && event.job.batch !== null) {
        // Its batch tells of it; whoever looks into the batch sees each.
        const { job } = event;
        for (const args of api.util.selectCachedArgsForQuery(store.getState(), 'batchJobs'))
          if (args.batch === job.batch)
            dispatch(
              api.util.updateQueryData('batchJobs', args, (jobs) => {
                const at = jobs.findIndex(({ id }) => id === job.id);
                if (at >= 0) jobs[at] = job;
              }),
            );
      } else if (event.type === 'job') {
        dispatch(api.util.updateQueryData('jobs', undefined, (jobs) => putById(jobs, event.job)));
        if (event.job.state === 'queued' || event.job.state === 'running') dispatch(troubleGone(event.job.id));
        else {
          dispatch(api.util.invalidateTags(['Job', 'Receipt']));
          const end = endOf(event.job);
          if (end) {
            dispatch(noticed({ about: event.job.id, kind: 'job', ...end }));
            tellOutside(end.sentence);
          }
        }
      } else if (event.type === 'standing') {
        const { standing } = event;
        dispatch(api.util.updateQueryData('standing', undefined, (orders) => putById(orders, standing)));
        dispatch(api.util.invalidateTags(['Standing']));
      } else if (event.type === 'rename') {
        dispatch(api.util.updateQueryData('renames', undefined, (renames) => putById(renames, event.rename)));
        if (event.rename.state !== 'running') dispatch(api.util.invalidateTags(['Rename']));
      } else if (event.type === 'root') {
        dispatch(api.util.updateQueryData('roots', undefined, (roots) => putById(roots, event.root)));
        if (!event.root.scanning) dispatch(api.util.invalidateTags(['Root']));
      } else if (event.type === 'check') {
        const { check } = event;
        dispatch(api.util.updateQueryData('check', check.source, () => check));
        if (!check.running) dispatch(noticed({ about: check.source, kind: 'source', ...endOfCheck(check) }));
      } else if (event.type === 'condition') {
        // What could not be answered meanwhile is asked for anew, also where another thing is still wrong.
        dispatch(api.util.invalidateTags([...cacheTags]));
      } else if (event.type === 'settled') {
        const { source: about, sentence, whole } = event;
        dispatch(noticed({ about, kind: 'source', sentence, severity: whole ? 'note' : 'doubt' }));
      } else dispatch(api.util.invalidateTags(['Source', 'Root', 'Markers']));
    };
    connect();
    return () => {
      clearTimeout(retry);
      stream.close();
    };
  }, [dispatch]);
  return { connected, outdated };
}
