import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useEffect, useState } from 'react';
import type { Problem } from '@shale/core';
import { useMadeByQuery } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { ProblemNote } from '../../pieces/Notes.tsx';
import { Segments } from '../../pieces/Segments.tsx';
import { useOther } from '../../stage/against.ts';
import { CompareModes } from '../../stage/cards/CompareModes.tsx';
import { Numbers } from '../../stage/cards/CompareCard.tsx';
import { FrameStrip } from '../../stage/FrameStrip.tsx';
import { Stage } from '../../stage/Stage.tsx';
import { StageControls } from '../../stage/StageControls.tsx';
import { heldAgainst } from '../../stage/state.ts';
import { useAppDispatch } from '../../state/store.ts';
import { WeightCard } from '../../pieces/WeightCard.tsx';
import type { StripModel } from '../../strip/model.ts';

const shows = [
  ['result', 'Result'],
  ['both', 'Result and source'],
] as const;

/** What a job wrote, looked at: alone, or held against what it was made of. */
export function ResultStage({ job, strip }: { job: string; strip: StripModel }) {
  const dispatch = useAppDispatch();
  const { currentData, error } = useMadeByQuery(job);
  const [show, setShow] = useState<'result' | 'both'>('result');
  const [weighs, setWeighs] = useState(false);
  const key = `results of ${job}`;
  const source = currentData?.source;
  useEffect(() => {
    if (!currentData?.source) return;
    const alignment = { by: 'plan' as const, runs: currentData.runs, back: true };
    dispatch(heldAgainst({ key, against: { id: currentData.source.id, alignment, rate: null } }));
  }, [dispatch, key, currentData]);
  if (error) return <ProblemNote problem={error as Problem} />;
  // The room that it takes is kept, so that nothing moves when it comes.
  if (!currentData) return <Box sx={{ height: 593, mb: 2 }} aria-label="Reading the results" />;
  const { made } = currentData;
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateRows: { xs: '260px auto auto', md: '400px auto auto' },
        gridTemplateColumns: 'minmax(0, 1fr)',
        rowGap: 1,
        mb: 2,
      }}
    >
      <Stage
        source={made}
        rate={made.declaration.rate.value}
        label={show === 'both' ? 'Result' : undefined}
        against={show === 'both' ? key : undefined}
        otherLabel="Source"
      />
      <FrameStrip source={made} model={strip} height={40} />
      <StageControls source={made} rate={made.declaration.rate.value} />
      <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center', flexWrap: 'wrap' }}>
        {source ? (
          <Segments label="Look at" value={show} options={shows} onChoose={setShow} />
        ) : (
          <Typography sx={{ fontSize: 13, color: 'text.secondary' }}>
            Its source no longer exists: only the result is shown.
          </Typography>
        )}
        {show === 'both' && source && <CompareModes />}
        {!weighs && (
          <Button size="small" sx={{ ml: 'auto' }} onClick={() => setWeighs(true)}>
            Measure its playback weight
          </Button>
        )}
      </Box>
      {show === 'both' && <ResultNumbers source={made} held={key} />}
      {weighs && <WeightCard source={made} />}
    </Box>
  );
}

type Made = Parameters<typeof Stage>[0]['source'];

function ResultNumbers({ source, held }: { source: Made; held: string }) {
  const other = useOther(source, held, true);
  return other && <Card title="Result against source">{<Numbers source={source} other={other} />}</Card>;
}
