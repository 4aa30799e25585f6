import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { frameCount, hasFrames, type Problem } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useCheckQuery, useStartChecksMutation, useStopCheckMutation } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { FindingList } from '../../pieces/FindingList.tsx';
import { ProblemNote } from '../../pieces/Notes.tsx';
import { plural, printCount } from '../../pieces/words.ts';

/** What is worth knowing about a source, with the frames it touches one press away. */
export function FindingsCard({ source, onGo }: { source: ListedSource; onGo: (frame: number) => void }) {
  return (
    <Card title="Findings">
      <FindingList source={source} onGo={onGo} />
      {source.kind !== 'sound' && <EveryFrame source={source} />}
    </Card>
  );
}

/** Headers alone tell little: all pictures decoded, before anyone relies on them. */
function EveryFrame({ source }: { source: ListedSource }) {
  const { data: check, error } = useCheckQuery(source.id);
  const [start, { error: refused }] = useStartChecksMutation();
  const [stop] = useStopCheckMutation();
  const running = check?.running === true;
  const { checked = 0 } = source;
  const total = hasFrames(source) ? frameCount(source) : 1;
  const all = checked >= total;
  const noun = hasFrames(source) ? 'frame' : 'picture';
  const words = running
    ? `${printCount(check.done)} of ${printCount(check.total)} decoded${check.damaged > 0 ? `, ${printCount(check.damaged)} damaged` : ''}`
    : checked === 0
      ? 'Only headers have been read so far.'
      : all
        ? `${total === 1 ? `The ${noun} was` : `All ${plural(total, noun)} were`} decoded.`
        : `${printCount(checked)} of ${plural(total, noun)} decoded; the others are new or have changed.`;
  const problem = (check?.problem ?? error ?? refused) as Problem | undefined;
  return (
    <Box sx={{ mt: 1.5, pt: 1.25, borderTop: 1, borderColor: 'divider' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5 }}>
        <Typography variant="body2" sx={{ color: 'text.secondary', flex: 1 }} aria-live="polite">
          {words}
        </Typography>
        {running ? (
          <Button size="small" variant="outlined" onClick={() => void stop(source.id)}>
            Stop check
          </Button>
        ) : (
          <Button size="small" variant="outlined" onClick={() => void start([source.id])}>
            {total === 1 ? `Check the ${noun}` : all ? `Check every ${noun} again` : `Check every ${noun}`}
          </Button>
        )}
      </Box>
      {running && (
        <LinearProgress
          sx={{ height: 2, mt: 1 }}
          aria-label={`Check of every ${noun}`}
          variant={check.total > 0 ? 'determinate' : 'indeterminate'}
          value={check.total > 0 ? (100 * check.done) / check.total : undefined}
        />
      )}
      {problem && <ProblemNote problem={problem} />}
    </Box>
  );
}
