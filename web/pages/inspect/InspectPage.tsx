import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useMemo } from 'react';
import { asksForLook, hasFrames, isConvertible } from '@shale/core';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { Segments } from '../../pieces/Segments.tsx';
import { EmptyPage, Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { framesAndTime, takenAs } from '../../pieces/words.ts';
import { CompareCard } from '../../stage/cards/CompareCard.tsx';
import { ScopesCard } from '../../stage/cards/ScopesCard.tsx';
import { FrameStrip } from '../../stage/FrameStrip.tsx';
import { Stage } from '../../stage/Stage.tsx';
import { StageControls } from '../../stage/StageControls.tsx';
import { frameChosen } from '../../stage/state.ts';
import { useAppDispatch } from '../../state/store.ts';
import { namingBegun } from '../../state/naming.ts';
import { stripOf } from '../../strip/model.ts';
import type { ListedSource } from '@shale/contract';
import { useMarkersQuery } from '../../api/api.ts';
import { useChosen } from '../useChosen.ts';
import { CadenceCard } from './CadenceCard.tsx';
import { DeclarationCard } from '../../pieces/declaration/DeclarationCard.tsx';
import { FrameCard } from './FrameCard.tsx';
import { FrameNumberCard } from './FrameNumberCard.tsx';
import { HeldCard } from './HeldCard.tsx';
import { FactsCard } from './FactsCard.tsx';
import { MarkersCard } from './MarkersCard.tsx';
import { WeightCard } from '../../pieces/WeightCard.tsx';
import { FindingsCard } from './FindingsCard.tsx';
import { HeardCard, SoundCard } from './HeardCard.tsx';
import { SoundView } from './SoundView.tsx';
import { SoundLane } from '../../sound/SoundLane.tsx';
import { useSourceSound } from '../../sound/useSourceSound.ts';

/** What stands beside the picture. */
const sides = [
  ['taken', 'Taken as'],
  ['levels', 'Levels'],
  ['against', 'Against'],
  ['sound', 'Sound'],
  ['markers', 'Markers'],
  ['cadence', 'Cadence'],
  ['weight', 'Weight'],
] as const;

/** One source, looked at: played, stepped, declared. */
export function InspectPage() {
  const { id, data: source, error } = useChosen();
  if (!id) {
    return (
      <EmptyPage
        title="Nothing to look at yet"
        action={
          <Button component={Link} to="/intake" variant="contained">
            Go to Intake
          </Button>
        }
      >
        Choose a source on Intake to play it, step through it and declare it here.
      </EmptyPage>
    );
  }
  if (error)
    return (
      <Box sx={{ p: 3 }}>
        <ProblemNote
          problem={error as never}
          action={
            <Button component={Link} to="/intake">
              Go to Intake
            </Button>
          }
        />
      </Box>
    );
  if (!source) return <Loading what="Reading the source" />;
  return <Inspect key={source.id} source={source} />;
}

function Inspect({ source }: { source: ListedSource }) {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const { data: marked } = useMarkersQuery(source.id);
  const strip = useMemo(() => ({ ...stripOf(source), markers: marked?.markers }), [source, marked]);
  const [params, setParams] = useSearchParams();
  const side = sides.find(([name]) => name === params.get('beside'))?.[0] ?? 'taken';
  const setSide = (beside: typeof side) => setParams(beside === 'taken' ? {} : { beside }, { replace: true });
  const rate = source.declaration.rate.value;
  const taken = takenAs(source);
  const { sound } = useSourceSound(source, rate);
  const go = (frame: number) => dispatch(frameChosen({ source: source.id, frame }));
  // What is wrong goes before what is to be declared.
  const looks = source.findings.some(asksForLook);
  const convertible = isConvertible(source);
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateRows: 'auto minmax(0, 1fr)',
        height: { xs: 'auto', md: '100%' },
        gridTemplateColumns: 'minmax(0, 1fr)',
        p: '20px 24px 14px',
        rowGap: 1.75,
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'end', gap: 2 }}>
        <Box sx={{ minWidth: 0 }}>
          <Typography variant="h1" className="mono" noWrap sx={{ fontSize: 22 }}>
            {source.name}
          </Typography>
          <Typography sx={{ color: 'text.secondary' }}>
            {hasFrames(source)
              ? `${framesAndTime(source.coverage, rate)}, ${taken.undecided ? 'rate not declared' : taken.rate}`
              : source.kind}
            {taken.pixels && `, ${taken.pixels}`}
          </Typography>
        </Box>
        <Box sx={{ ml: 'auto', display: 'flex', gap: 1, alignItems: 'center' }}>
          <Button
            variant="outlined"
            onClick={() => {
              dispatch(namingBegun({ sources: [source.id] }));
              void navigate('/rename');
            }}
          >
            Rename
          </Button>
          {convertible && (
            <Button variant="contained" onClick={() => void navigate(`/convert/${source.id}`)}>
              Convert
            </Button>
          )}
        </Box>
      </Box>
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) 372px' },
          gap: 2.5,
          minHeight: 0,
        }}
      >
        <Box
          sx={{
            display: 'grid',
            gridTemplateRows: { xs: '300px auto auto', md: 'minmax(0, 1fr) auto auto' },
            gridTemplateColumns: 'minmax(0, 1fr)',
            rowGap: 1.25,
            minHeight: 0,
          }}
        >
          {source.kind === 'sound' ? (
            <SoundView source={source} />
          ) : (
            <Stage source={source} rate={rate} sound={sound} against={source.id} onMeasured={() => setSide('levels')} />
          )}
          <Box>
            {hasFrames(source) && <FrameStrip source={source} model={strip} height={40} />}
            {hasFrames(source) && sound && <SoundLane source={source} sound={sound} />}
          </Box>
          {source.kind !== 'sound' && <StageControls source={source} rate={rate} sounds={sound !== null} />}
        </Box>
        <Box sx={{ overflowY: 'auto', display: 'flex', flexDirection: 'column', gap: 1.5, minHeight: 0 }}>
          {source.kind !== 'sound' && (
            <Box sx={{ display: 'grid' }}>
              <Segments label="Beside the picture" value={side} options={sides} onChoose={setSide} />
            </Box>
          )}
          {side === 'levels' && (
            <>
              <ScopesCard source={source} />
              <FrameCard source={source} />
            </>
          )}
          {side === 'against' && <CompareCard source={source} />}
          {side === 'sound' && <HeardCard source={source} />}
          {side === 'weight' && <WeightCard source={source} />}
          {side === 'markers' && <MarkersCard source={source} onGo={go} />}
          {side === 'cadence' && <CadenceCard source={source} />}
          {side === 'taken' && (
            <>
              {looks && <FindingsCard source={source} onGo={go} />}
              {source.kind !== 'sound' && <DeclarationCard source={source} />}
              {!looks && <FindingsCard source={source} onGo={go} />}
              <FrameNumberCard source={source} />
              <HeldCard source={source} />
              <FactsCard source={source} />
              {source.kind === 'sound' && <SoundCard source={source} />}
            </>
          )}
        </Box>
      </Box>
    </Box>
  );
}
