import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { memo, useState } from 'react';
import { Link } from 'react-router';
import type { Problem } from '@shale/core';
import type { BatchView } from '@shale/contract';
import {
  batchJobsTogether,
  useBatchJobsQuery,
  useCancelBatchMutation,
  useContinueBatchMutation,
  useOrderBatchMutation,
  useStopBatchMutation,
} from '../../api/api.ts';
import { ProblemNote } from '../../pieces/Notes.tsx';
import { State } from '../../pieces/State.tsx';
import { plural, printBytes, printCount, printLeft } from '../../pieces/words.ts';
import { stateWords } from './jobWords.ts';
import { ProgressBar } from './ProgressBar.tsx';
import { Turn } from './Turn.tsx';

function BatchState({ batch }: { batch: BatchView }) {
  const { state, files, refused, troubles } = batch;
  if (state === 'incomplete')
    return (
      <State severity="fault">
        {files.failed > 0
          ? `Incomplete: ${plural(files.failed, 'file')} failed`
          : `Incomplete: ${plural(refused.length, 'part')} refused`}
      </State>
    );
  if (state === 'stopped' && troubles.length > 0) return <State severity="fault">Stopped by an error</State>;
  if (state === 'stopped' || state === 'cancelled') return <State severity="doubt">{stateWords[state]}</State>;
  return <State severity="note">{stateWords[state]}</State>;
}

/** How quickly it goes; said too where that cannot be known yet. */
function paceOf({ state, secondsLeft, workSeconds }: BatchView): string {
  if (state === 'running' || state === 'queued')
    return secondsLeft === null ? 'time left unknown' : `${printLeft(secondsLeft)} left`;
  return workSeconds > 0 ? `${printLeft(workSeconds)} of work` : '';
}

/** The jobs of a batch, a part at a time: each with what is done of it. */
function JobsOf({ batch }: { batch: BatchView }) {
  const [page, setPage] = useState(0);
  const { data: jobs, error } = useBatchJobsQuery({ batch: batch.id, page });
  if (error) return <ProblemNote problem={error as Problem} />;
  const pages = Math.ceil(batch.jobs / batchJobsTogether);
  return (
    <Box sx={{ mt: 1.25, pt: 1, borderTop: 1, borderColor: 'divider' }}>
      <Box component="ul" aria-label="Jobs of this batch" sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {(jobs ?? []).map((job) => (
          <Box
            component="li"
            key={job.id}
            data-testid="batch-job"
            sx={{
              display: 'grid',
              gridTemplateColumns: 'minmax(0, 1fr) minmax(0, 1fr) 150px 110px',
              gap: 1.5,
              alignItems: 'center',
              fontSize: 13,
              minHeight: 28,
            }}
          >
            <Typography className="mono" noWrap sx={{ fontSize: 13 }} title={job.sourceName}>
              {job.sourceName}
            </Typography>
            <Typography className="mono" noWrap sx={{ fontSize: 13, color: 'text.secondary' }}>
              {job.into.folder ? `${job.into.folder}/` : ''}
              {job.into.pattern}
            </Typography>
            <span>
              {job.problem || job.failed > 0 ? (
                <State severity="fault" clips>
                  {job.problem?.fact ?? `${printCount(job.failed)} failed`}
                </State>
              ) : (
                stateWords[job.state]
              )}
            </span>
            <Box component="span" className="mono" sx={{ textAlign: 'right' }}>
              {job.video ? `${job.video.done}/${job.video.of}` : `${job.written}/${job.total}`}
            </Box>
          </Box>
        ))}
      </Box>
      {pages > 1 && (
        <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', mt: 0.5 }}>
          <Button size="small" disabled={page === 0} onClick={() => setPage(page - 1)}>
            Previous
          </Button>
          <Typography sx={{ fontSize: 13 }}>
            {printCount(page * batchJobsTogether + 1)} to{' '}
            {printCount(Math.min(batch.jobs, (page + 1) * batchJobsTogether))} of {printCount(batch.jobs)}
          </Typography>
          <Button size="small" disabled={page + 1 >= pages} onClick={() => setPage(page + 1)}>
            Next
          </Button>
        </Box>
      )}
    </Box>
  );
}

/** What can be done with a batch. */
function BatchActions({ batch, opened, onOpen }: { batch: BatchView; opened: boolean; onOpen: () => void }) {
  const [stop, { isLoading: stopping }] = useStopBatchMutation();
  const [cancel, { isLoading: cancelling }] = useCancelBatchMutation();
  const [goOn, { error, isLoading: continuing }] = useContinueBatchMutation();
  const [order] = useOrderBatchMutation();
  const { id, state, states } = batch;
  const busy = stopping || cancelling || continuing;
  const isOpen = state === 'running' || state === 'queued';
  const rests = (states.stopped ?? 0) + (states.incomplete ?? 0);
  const changed = batch.troubles.some(({ problem }) => problem.code === 'source-changed');
  return (
    <>
      <Box sx={{ ml: 'auto', display: 'flex', flexWrap: 'wrap', gap: 1, alignItems: 'center' }}>
        {isOpen && <Turn value={batch.priority} onChoose={(priority) => void order({ batch: id, priority })} />}
        <Button size="small" aria-expanded={opened} onClick={onOpen}>
          {opened ? 'Hide jobs' : `Show ${plural(batch.jobs, 'job')}`}
        </Button>
        {(isOpen || state === 'stopped') && (
          <Button size="small" disabled={busy} onClick={() => void cancel(id)}>
            Cancel
          </Button>
        )}
        {isOpen && (
          <Button variant="outlined" size="small" disabled={busy} onClick={() => void stop(id)}>
            Stop all
          </Button>
        )}
        {!isOpen && rests > 0 && changed && (
          <Button
            variant="outlined"
            size="small"
            disabled={busy}
            onClick={() => void goOn({ batch: id, changed: 'take' })}
          >
            Use changed files as they are
          </Button>
        )}
        {!isOpen && rests > 0 && (
          <Button
            variant={state === 'stopped' ? 'contained' : 'outlined'}
            size="small"
            disabled={busy}
            onClick={() => void goOn({ batch: id })}
          >
            {state === 'stopped' ? 'Continue' : 'Retry failed'}
          </Button>
        )}
        {(states.done ?? 0) + (states.incomplete ?? 0) > 0 && (
          <Button
            component={Link}
            to={`/receipts/batch/${id}`}
            variant={isOpen ? 'outlined' : 'contained'}
            size="small"
          >
            Receipt
          </Button>
        )}
      </Box>
      {error && (
        <Box sx={{ width: '100%' }}>
          <ProblemNote problem={error as Problem} />
        </Box>
      )}
    </>
  );
}

/** A batch as one card: how far all of it is, and what can be done with it. */
export const BatchCard = memo(function BatchCard({ batch }: { batch: BatchView }) {
  const [opened, setOpened] = useState(false);
  const { frames, files, into, refused, troubles } = batch;
  const hasTrouble = files.failed > 0 || troubles.length > 0;
  return (
    <Box
      component="article"
      aria-label={batch.sentence}
      data-testid="batch"
      data-state={batch.state}
      sx={{
        bgcolor: 'background.paper',
        border: 1,
        borderColor: 'divider',
        borderRadius: '6px',
        p: '14px 16px',
        mb: 1.5,
        contentVisibility: 'auto',
        containIntrinsicSize: 'auto 150px',
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'start', gap: 2 }}>
        <Box sx={{ minWidth: 0, flex: 1 }}>
          <Typography noWrap sx={{ fontWeight: 600 }}>
            {plural(batch.sources, 'source')}
            {batch.outputs > 1 && batch.jobs > batch.sources ? `, ${plural(batch.outputs, 'output')} each` : ''} to{' '}
            <span className="mono">{into.join(', ')}</span>
            {batch.jobs > into.length ? ' and more' : ''}
          </Typography>
          <Typography sx={{ fontSize: 13, color: 'text.secondary' }}>{batch.sentence}</Typography>
        </Box>
        {batch.standing && (
          <Button size="small" component={Link} to={`/jobs/standing/${batch.standing}`} sx={{ whiteSpace: 'nowrap' }}>
            From a standing order
          </Button>
        )}
        <BatchState batch={batch} />
      </Box>
      <ProgressBar done={frames.done} of={frames.of} hasTrouble={hasTrouble} />
      <Box sx={{ display: 'flex', alignItems: 'center', flexWrap: 'wrap', gap: 2, minHeight: 36 }}>
        <Typography className="mono" sx={{ fontSize: 13 }} title={`${batch.bytes.toLocaleString('en-GB')} bytes`}>
          {printCount(frames.done)}/{printCount(frames.of)} frames, {printBytes(batch.bytes)}
        </Typography>
        <Typography sx={{ fontSize: 13, color: 'text.secondary' }}>{paceOf(batch)}</Typography>
        <BatchActions batch={batch} opened={opened} onOpen={() => setOpened(!opened)} />
      </Box>
      {troubles.slice(0, 3).map(({ job, problem }) => (
        <ProblemNote key={job} problem={problem} />
      ))}
      {refused.slice(0, 3).map(({ name, output, problem }) => (
        <ProblemNote
          key={`${name} ${output}`}
          problem={{ ...problem, fact: `${name} did not start. ${problem.fact}` }}
        />
      ))}
      {opened && <JobsOf batch={batch} />}
    </Box>
  );
});
