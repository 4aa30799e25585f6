import type { JobPriority, JobState } from '@shale/contract';

export const stateWords: Record<JobState, string> = {
  queued: 'Waiting',
  running: 'Running',
  stopped: 'Stopped',
  incomplete: 'Incomplete',
  done: 'Done',
  cancelled: 'Cancelled',
};

export const priorityWords: Record<JobPriority, string> = {
  first: 'Before other jobs',
  normal: 'In turn',
  last: 'After other jobs',
};
