import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { memo, useState } from 'react';
import { Link } from 'react-router';
import { parseCoverage, type FrameRange, type Problem } from '@shale/core';
import type { Job, JobPriority } from '@shale/contract';
import {
  useCancelJobMutation,
  useContinueJobMutation,
  useJobLogQuery,
  useOrderJobMutation,
  useStopJobMutation,
} from '../../api/api.ts';
import { ProblemNote } from '../../pieces/Notes.tsx';
import { State } from '../../pieces/State.tsx';
import { plural, printBytes, printLeft, progressOf } from '../../pieces/words.ts';
import { CoverageStrip } from '../../strip/CoverageStrip.tsx';
import type { StripModel } from '../../strip/model.ts';
import { stateWords } from './jobWords.ts';
import { ProgressBar } from './ProgressBar.tsx';
import { Turn } from './Turn.tsx';

/** The strip of a job's results: written ones are cells, failed and left-out ones have a red foot, the rest is still to come. */
function jobStrip({ span, coverage, failedFrames, leftOut }: Job): StripModel {
  return {
    ...(span ?? { first: 0, last: 0 }),
    present: coverage,
    missing: [...failedFrames, ...leftOut],
    doubled: [],
    suspect: [],
    weights: [1],
  };
}

function JobState({ job }: { job: Job }) {
  if (job.problem) return <State severity="fault">Stopped by an error</State>;
  if (job.state === 'incomplete')
    return <State severity="fault">{`Incomplete: ${plural(job.failed, 'frame')} failed`}</State>;
  if (job.state === 'stopped' || job.state === 'cancelled')
    return <State severity="doubt">{stateWords[job.state]}</State>;
  return <State severity="note">{stateWords[job.state]}</State>;
}

/** How quickly it goes, and how long it will take; said too where that cannot be known yet. */
function paceOf(job: Job): string {
  if (job.state === 'stopped' && job.video && job.video.done > 0) return 'these stay, and the job continues after them';
  if (job.state !== 'running') return job.workSeconds > 0 ? `${printLeft(job.workSeconds)} of work` : '';
  if (job.video && job.video.done === job.video.of) return 'reading it back';
  if (job.rate === null || job.secondsLeft === null) return 'time left unknown';
  return `${job.rate.toFixed(1)} frames/s, ${printLeft(job.secondsLeft)} left`;
}

/** What happened to a job, the newest last. */
function JobLog({ job }: { job: Job }) {
  const { data, error } = useJobLogQuery({ job: job.id, state: job.state });
  if (error) return <ProblemNote problem={error as Problem} />;
  return (
    <Box
      component="ol"
      aria-label="What happened"
      sx={{ listStyle: 'none', m: 0, mt: 1.25, p: 0, pt: 1, borderTop: 1, borderColor: 'divider' }}
    >
      {(data ?? []).map(({ at, level, text }, index) => (
        <Box component="li" key={index} sx={{ display: 'flex', gap: 1.5, fontSize: 13, py: 0.25 }}>
          <time className="mono" dateTime={at}>
            {new Date(at).toLocaleTimeString('en-GB')}
          </time>
          {level === 'error' ? <State severity="fault">{text}</State> : <span>{text}</span>}
        </Box>
      ))}
      {data?.length === 0 && <Typography sx={{ fontSize: 13 }}>Nothing was recorded.</Typography>}
    </Box>
  );
}

/** Numbers of results to make once more. */
function MakeAgain({ onAgain }: { onAgain: (text: string) => void }) {
  const [text, setText] = useState('');
  const bad = text !== '' && !fits(text);
  return (
    <Box
      component="form"
      sx={{ display: 'flex', gap: 1, mt: 1.25, alignItems: 'start' }}
      onSubmit={(event) => {
        event.preventDefault();
        if (text !== '' && !bad) onAgain(text);
      }}
    >
      <TextField
        size="small"
        label="Frames to make again"
        placeholder="1001-1024"
        value={text}
        error={bad}
        helperText={bad ? 'Write numbers and ranges: 1001-1024,1030' : 'They replace what this job wrote.'}
        onChange={({ target }) => setText(target.value)}
      />
      <Button type="submit" variant="outlined" disabled={text === '' || bad}>
        Make again
      </Button>
    </Box>
  );
}

function fits(text: string): boolean {
  try {
    return parseCoverage(text).length > 0;
  } catch {
    return false;
  }
}

type Opened = 'log' | 'again' | null;

/** What can be done with a job. */
function useActs(job: Job) {
  const [stop, { isLoading: stopping }] = useStopJobMutation();
  const [cancel, { error: notCancelled }] = useCancelJobMutation();
  const [goOn, { error: notContinued, isLoading: continuing }] = useContinueJobMutation();
  const [order] = useOrderJobMutation();
  return {
    stop: () => void stop(job.id),
    cancel: () => void cancel(job.id),
    goOn: (more: { changed?: 'take'; again?: FrameRange[] } = {}) => goOn({ job: job.id, ...more }),
    order: (priority: JobPriority) => void order({ job: job.id, priority }),
    busy: stopping || continuing,
    error: (notContinued ?? notCancelled) as Problem | undefined,
  };
}

interface ActionsProps {
  job: Job;
  opened: Opened;
  onOpen: (what: 'log' | 'again') => void;
  act: ReturnType<typeof useActs>;
}

function JobActions({ job, opened, onOpen, act }: ActionsProps) {
  const isOpen = job.state === 'running' || job.state === 'queued';
  const ended = job.state === 'done' || job.state === 'incomplete';
  const mayGoOn = job.state === 'stopped' || job.state === 'incomplete';
  return (
    <Box sx={{ ml: 'auto', display: 'flex', flexWrap: 'wrap', gap: 1, alignItems: 'center' }}>
      {isOpen && <Turn value={job.priority} onChoose={act.order} />}
      <Button size="small" aria-expanded={opened === 'log'} onClick={() => onOpen('log')}>
        Log
      </Button>
      {ended && !job.video && (
        <Button size="small" aria-expanded={opened === 'again'} onClick={() => onOpen('again')}>
          Redo some
        </Button>
      )}
      {(isOpen || job.state === 'stopped') && (
        <Button size="small" onClick={act.cancel}>
          Cancel
        </Button>
      )}
      {isOpen && (
        <Button variant="outlined" size="small" disabled={act.busy} onClick={act.stop}>
          Stop
        </Button>
      )}
      {mayGoOn && job.sourceChanged && (
        <Button variant="outlined" size="small" disabled={act.busy} onClick={() => void act.goOn({ changed: 'take' })}>
          Use changed files as they are
        </Button>
      )}
      {mayGoOn && (
        <Button
          variant={job.state === 'stopped' ? 'contained' : 'outlined'}
          size="small"
          disabled={act.busy}
          onClick={() => void act.goOn()}
        >
          {job.state === 'stopped' ? (job.video?.done === 0 ? 'Begin again' : 'Continue') : 'Retry failed'}
        </Button>
      )}
      {ended && (
        <Button component={Link} to={`/receipts/${job.id}`} variant="contained" size="small">
          Receipt
        </Button>
      )}
    </Box>
  );
}

/** One job: how far it is, and what can be done with it. Of hundreds only those that change are drawn again. */
export const JobCard = memo(function JobCard({ job }: { job: Job }) {
  const act = useActs(job);
  const [opened, setOpened] = useState<Opened>(null);
  const open = (what: 'log' | 'again') => setOpened(opened === what ? null : what);
  const { video } = job;
  const { done: settled, of: total } = progressOf(job);
  return (
    <Box
      component="article"
      aria-label={job.sentence}
      data-testid="job"
      data-state={job.state}
      sx={{
        bgcolor: 'background.paper',
        border: 1,
        borderColor: 'divider',
        borderRadius: '6px',
        p: '14px 16px',
        mb: 1.5,
        // Of hundreds only those in sight are laid out and painted.
        contentVisibility: 'auto',
        containIntrinsicSize: 'auto 176px',
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'start', gap: 2 }}>
        <Box sx={{ minWidth: 0, flex: 1 }}>
          <Typography noWrap sx={{ fontWeight: 600 }}>
            <span className="mono">{job.sourceName}</span> to{' '}
            <span className="mono">{`${job.into.root}/${job.into.folder ? `${job.into.folder}/` : ''}${job.into.pattern}`}</span>
          </Typography>
          <Typography sx={{ fontSize: 13, color: 'text.secondary' }}>{job.sentence}</Typography>
        </Box>
        <JobState job={job} />
      </Box>
      <Box sx={{ mt: 1.25 }}>
        <CoverageStrip
          model={jobStrip(job)}
          height={24}
          label={video ? `${settled} of ${total} frames encoded` : `${job.written} of ${job.total} files written`}
        />
      </Box>
      <ProgressBar done={settled} of={total} hasTrouble={job.failed > 0 || job.problem !== null} />
      <Box sx={{ display: 'flex', alignItems: 'center', flexWrap: 'wrap', gap: 2, minHeight: 36 }}>
        <Typography className="mono" sx={{ fontSize: 13 }} title={`${job.bytes.toLocaleString('en-GB')} bytes`}>
          {video ? `${settled}/${total} encoded` : `${job.written}/${job.total} written`}, {printBytes(job.bytes)}
        </Typography>
        <Typography sx={{ fontSize: 13, color: 'text.secondary' }}>{paceOf(job)}</Typography>
        <JobActions job={job} opened={opened} onOpen={open} act={act} />
      </Box>
      {job.problem && <ProblemNote problem={job.problem} />}
      {act.error && <ProblemNote problem={act.error} />}
      {opened === 'again' && (
        <MakeAgain onAgain={(text) => void act.goOn({ again: parseCoverage(text) }).then(() => setOpened(null))} />
      )}
      {opened === 'log' && <JobLog job={job} />}
    </Box>
  );
});
