import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import type { Problem } from '@shale/core';
import type { BatchView, Job } from '@shale/contract';
import {
  useBatchesQuery,
  useJobsQuery,
  useOlderBatchesQuery,
  useOlderJobsQuery,
  useOrderJobMutation,
} from '../../api/api.ts';
import { EmptyPage, Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { SortableList } from '../../pieces/SortableList.tsx';
import { plural } from '../../pieces/words.ts';
import { useAppDispatch } from '../../state/store.ts';
import { troublesSeen } from '../../state/view.ts';
import { JobCard } from './JobCard.tsx';
import { BatchCard } from './BatchCard.tsx';
import { askToTell, batchNeedsLook, mayTell, needsLook } from './troubles.ts';

/** Jobs of one answer of the server; a shorter one is the last. */
const together = 200;

/** Jobs that wait, in the order in which they begin; another order by hand. */
function Waiting({ jobs }: { jobs: Job[] }) {
  const [order] = useOrderJobMutation();
  const put = (items: Job[]) => {
    const moved = items.find((job, at) => jobs[at] !== job && jobs.indexOf(job) !== at + 1) ?? items[0];
    const at = moved ? items.indexOf(moved) : -1;
    if (moved) void order({ job: moved.id, before: items[at + 1]?.id ?? null });
  };
  return (
    <Box sx={{ mb: 2 }}>
      <Typography variant="h2" sx={{ mb: 1 }}>
        Waiting, in this order
      </Typography>
      <SortableList
        label="Waiting jobs"
        items={jobs}
        idOf={({ id }) => id}
        wordsOf={({ sourceName }) => sourceName}
        onOrder={put}
      >
        {(job) => (
          <Typography noWrap sx={{ lineHeight: '30px', fontSize: 14 }}>
            <span className="mono">{job.sourceName}</span> to{' '}
            <span className="mono">{`${job.into.root}/${job.into.folder}`}</span>
          </Typography>
        )}
      </SortableList>
    </Box>
  );
}

/** Jobs and batches in one list, the newest first, each as its card. */
function Cards({ jobs, batches }: { jobs: readonly Job[]; batches: readonly BatchView[] }) {
  const all = [
    ...jobs.map((job) => ({ created: job.created, card: <JobCard key={job.id} job={job} /> })),
    ...batches.map((batch) => ({ created: batch.created, card: <BatchCard key={batch.id} batch={batch} /> })),
  ];
  return <>{all.sort((a, b) => Date.parse(b.created) - Date.parse(a.created)).map(({ card }) => card)}</>;
}

/** The time before which older ones are asked for: of the list that was cut off, the last; undefined where none was. */
function cutAt(...lists: readonly (readonly { created: string }[])[]): number | undefined {
  const cut = lists.filter(({ length }) => length >= together).map((list) => Date.parse(list.at(-1)!.created));
  return cut.length > 0 ? Math.max(...cut) : undefined;
}

const since = <T extends { created: string }>(list: readonly T[], cut: number | undefined): T[] =>
  list.filter(({ created }) => cut === undefined || Date.parse(created) >= cut);

/** Jobs of before, one answer of the server at a time. */
function Older({ before }: { before: number }) {
  const { data: jobs, error } = useOlderJobsQuery(before);
  const { data: batches } = useOlderBatchesQuery(before);
  const [more, setMore] = useState(false);
  if (error) return <ProblemNote problem={error as Problem} />;
  if (!jobs || !batches) return <Loading what="Reading older jobs" />;
  const cut = cutAt(jobs, batches);
  return (
    <>
      <Cards jobs={since(jobs, cut)} batches={since(batches, cut)} />
      {cut !== undefined && !more && <Button onClick={() => setMore(true)}>Older jobs</Button>}
      {cut !== undefined && more && <Older before={cut} />}
    </>
  );
}

const rank: Record<Job['priority'], number> = { first: 0, normal: 1, last: 2 };

/** Plans being carried out, the newest first. */
export function JobsPage() {
  const { data: jobs, error } = useJobsQuery();
  const { data: batches } = useBatchesQuery();
  const dispatch = useAppDispatch();
  const [older, setOlder] = useState(false);
  const [tells, setTells] = useState(mayTell());
  // What is on this page was looked at.
  useEffect(() => {
    if (jobs && batches)
      dispatch(troublesSeen([...jobs.filter(needsLook), ...batches.filter(batchNeedsLook)].map(({ id }) => id)));
  }, [jobs, batches, dispatch]);
  if (error)
    return (
      <Box sx={{ p: 3 }}>
        <ProblemNote problem={error as Problem} />
      </Box>
    );
  if (!jobs || !batches) return <Loading what="Reading the jobs" />;
  if (jobs.length + batches.length === 0) {
    return (
      <EmptyPage
        title="No job has run yet"
        action={
          <Box sx={{ display: 'flex', gap: 1, justifyContent: 'center' }}>
            <Button component={Link} to="/intake" variant="contained">
              Go to Intake
            </Button>
            <Button component={Link} to="/jobs/standing">
              Standing orders
            </Button>
            <Button component={Link} to="/server">
              Server status
            </Button>
          </Box>
        }
      >
        Choose a source, set up the conversion on Convert, and press Run. The job appears here with its progress; it can
        be stopped and continued.
      </EmptyPage>
    );
  }
  const running = [...jobs, ...batches].filter(({ state }) => state === 'running' || state === 'queued').length;
  const cut = cutAt(jobs, batches);
  const waiting = jobs
    .filter(({ state }) => state === 'queued')
    .sort((a, b) => rank[a.priority] - rank[b.priority] || a.place - b.place);
  return (
    <Box sx={{ p: { xs: 1.5, md: '20px 24px' }, height: { xs: 'auto', md: '100%' }, overflowY: 'auto' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 2, mb: 2 }}>
        <Typography variant="h1">
          {running > 0
            ? `${plural(running, 'job')} at work`
            : `${plural(jobs.length + batches.length, 'job')}, none at work`}
        </Typography>
        <Button size="small" component={Link} to="/jobs/standing" sx={{ ml: 'auto' }}>
          Standing orders
        </Button>
        <Button size="small" component={Link} to="/server">
          Server status
        </Button>
        {tells === 'ask' && (
          <Button size="small" onClick={() => void askToTell().then(setTells)}>
            Notify me when a job ends
          </Button>
        )}
      </Box>
      {waiting.length > 1 && <Waiting jobs={waiting} />}
      <Cards jobs={since(jobs, cut)} batches={since(batches, cut)} />
      {cut !== undefined && !older && <Button onClick={() => setOlder(true)}>Older jobs</Button>}
      {cut !== undefined && older && <Older before={cut} />}
    </Box>
  );
}
