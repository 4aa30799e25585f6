import type { BatchView, Job } from '@shale/contract';
import { plural, printCount } from '../../pieces/words.ts';

/** Whether a job came to rest in a way that a person should see: it stopped by itself, or frames failed. */
export const needsLook = ({ state, problem }: Job): boolean => state === 'incomplete' || problem !== null;

/** Whether a batch came to rest in a way that a person should see. */
export const batchNeedsLook = ({ state, troubles }: BatchView): boolean =>
  state === 'incomplete' || (state === 'stopped' && troubles.length > 0);

/** What the end of a batch is told as. */
export function endOfBatch(batch: BatchView): { sentence: string; severity: 'note' | 'doubt' } | undefined {
  const { state, files, troubles } = batch;
  const name = plural(batch.sources, 'source');
  if (state === 'stopped' && troubles[0])
    return { severity: 'doubt', sentence: `${name}: ${troubles[0].name} stopped. ${troubles[0].problem.fact}` };
  if (state === 'incomplete')
    return {
      severity: 'doubt',
      sentence: `${name}: ${plural(files.failed, 'file')} failed, ${printCount(files.written)} written.`,
    };
  return state === 'done'
    ? { severity: 'note', sentence: `${name}: ${plural(files.written, 'file')} written.` }
    : undefined;
}

/** What the end of a job is told as. */
export function endOf(job: Job): { sentence: string; severity: 'note' | 'doubt' } | undefined {
  const name = job.sourceName;
  if (job.problem) return { severity: 'doubt', sentence: `${name} stopped: ${job.problem.fact}` };
  if (job.state === 'incomplete')
    return { severity: 'doubt', sentence: `${name}: ${plural(job.failed, 'frame')} failed, ${job.written} written.` };
  if (job.state === 'done') return { severity: 'note', sentence: `${name}: ${plural(job.written, 'file')} written.` };
  return undefined;
}

/** Whether the browser shows messages of ours outside of the page: yes, no, or to be asked. */
export function mayTell(): 'yes' | 'no' | 'ask' {
  if (typeof Notification === 'undefined' || Notification.permission === 'denied') return 'no';
  return Notification.permission === 'granted' ? 'yes' : 'ask';
}

/** Asks the person for that. */
export async function askToTell(): Promise<'yes' | 'no' | 'ask'> {
  await Notification.requestPermission();
  return mayTell();
}

/** Tells the end of a job outside of the page, where that is allowed and the page is not looked at. */
export function tellOutside(sentence: string): void {
  if (mayTell() === 'yes' && document.hidden) new Notification('Shale', { body: sentence });
}
