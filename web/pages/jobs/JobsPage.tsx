import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { Link } from 'react-router';
import type { Problem } from '@shale/core';
import type { Job } from '@shale/contract';
import { useContinueJobMutation, useJobsQuery, useStopJobMutation } from '../../api/api.ts';
import { EmptyPage, Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { State } from '../../pieces/State.tsx';
import { plural, printBytes, printLeft, progressOf } from '../../pieces/words.ts';
import { CoverageStrip } from '../../strip/CoverageStrip.tsx';
import type { StripModel } from '../../strip/model.ts';

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
  if (job.problem) return <State severity="fault">Stopped by itself</State>;
  if (job.state === 'done' && job.failed > 0)
    return <State severity="fault">{plural(job.failed, 'frame')} failed</State>;
  if (job.state === 'stopped') return <State severity="doubt">Stopped</State>;
  const words = { queued: 'Waiting', running: 'Running', done: 'Done', stopped: 'Stopped' }[job.state];
  return <State severity="note">{words}</State>;
}

function JobCard({ job }: { job: Job }) {
  const { tokens } = useTheme();
  const [stop, { isLoading: stopping }] = useStopJobMutation();
  const [goOn, { error }] = useContinueJobMutation();
  const { video } = job;
  const { done: settled, of: total } = progressOf(job);
  const share = settled / Math.max(1, total);
  const pace =
    job.state === 'running' && job.rate !== null
      ? `${job.rate.toFixed(1)} frames/s, ${printLeft(job.secondsLeft ?? 0)} left`
      : '';
  const checking = video !== null && job.state === 'running' && video.done === video.of;
  const mayGoOn = job.state === 'stopped' || (job.state === 'done' && job.failed > 0);
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
      <Box sx={{ my: 1.25 }}>
        <CoverageStrip
          model={jobStrip(job)}
          height={24}
          label={video ? `${settled} of ${total} frames encoded` : `${job.written} of ${job.total} files written`}
        />
      </Box>
      <Box
        role="progressbar"
        aria-valuemin={0}
        aria-valuemax={total}
        aria-valuenow={settled}
        aria-label="Progress"
        sx={{ height: 6, borderRadius: 3, bgcolor: 'divider', overflow: 'hidden', mb: 1.25 }}
      >
        <Box
          sx={{
            height: '100%',
            bgcolor: job.failed > 0 || job.problem ? tokens.doubt : tokens.act,
            transformOrigin: 'left',
            transition: 'transform .2s linear',
          }}
          style={{ transform: `scaleX(${share})` }}
        />
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 2, minHeight: 36 }}>
        <Typography className="mono" sx={{ fontSize: 13 }} title={`${job.bytes.toLocaleString('en-GB')} bytes`}>
          {video ? `${settled}/${total} encoded` : `${job.written}/${job.total} written`}, {printBytes(job.bytes)}
        </Typography>
        <Typography sx={{ fontSize: 13, color: 'text.secondary' }}>
          {checking ? 'reading it back' : pace || (job.workSeconds > 0 ? `${printLeft(job.workSeconds)} of work` : '')}
        </Typography>
        <Box sx={{ ml: 'auto', display: 'flex', gap: 1 }}>
          {(job.state === 'running' || job.state === 'queued') && (
            <Button variant="outlined" size="small" disabled={stopping} onClick={() => void stop(job.id)}>
              Stop
            </Button>
          )}
          {mayGoOn && (
            <Button
              variant={job.state === 'stopped' ? 'contained' : 'outlined'}
              size="small"
              onClick={() => void goOn(job.id)}
            >
              {job.state === 'stopped' ? (video ? 'Begin again' : 'Continue') : 'Try the failed again'}
            </Button>
          )}
          {job.state === 'done' && (
            <Button component={Link} to={`/receipts/${job.id}`} variant="contained" size="small">
              Receipt
            </Button>
          )}
        </Box>
      </Box>
      {job.problem && <ProblemNote problem={job.problem} />}
      {error && <ProblemNote problem={error as Problem} />}
    </Box>
  );
}

/** Plans being carried out, the newest first. */
export function JobsPage() {
  const { data: jobs, error } = useJobsQuery();
  if (error)
    return (
      <Box sx={{ p: 3 }}>
        <ProblemNote problem={error as Problem} />
      </Box>
    );
  if (!jobs) return <Loading what="Reading the jobs" />;
  if (jobs.length === 0) {
    return (
      <EmptyPage
        title="No job has run yet"
        action={
          <Button component={Link} to="/intake" variant="contained">
            Go to Intake
          </Button>
        }
      >
        Choose a source, say what is wanted on Convert, and press Run. A job shows its frames here as they are written,
        can be stopped, and goes on where it was.
      </EmptyPage>
    );
  }
  const running = jobs.filter(({ state }) => state === 'running' || state === 'queued').length;
  return (
    <Box sx={{ p: '20px 24px', height: '100%', overflowY: 'auto' }}>
      <Typography variant="h1" sx={{ mb: 2 }}>
        {running > 0 ? `${plural(running, 'job')} at work` : `${plural(jobs.length, 'job')}, none at work`}
      </Typography>
      {jobs.map((job) => (
        <JobCard key={job.id} job={job} />
      ))}
    </Box>
  );
}
