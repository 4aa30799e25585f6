import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import visuallyHidden from '@mui/utils/visuallyHidden';
import Button from '@mui/material/Button';
import { useEffect, useMemo, useState } from 'react';
import { Link } from 'react-router';
import {
  hasFrames,
  isAnimationFormat,
  ownOf,
  placeOfFrame,
  sentenceOf,
  type Plan,
  type Problem,
  type Spec,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useMarkersQuery, useRootsQuery, useStartingSpecQuery } from '../../api/api.ts';
import { EmptyPage, Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { plural } from '../../pieces/words.ts';
import { Sentence } from '../../sentence/Sentence.tsx';
import { FrameStrip } from '../../stage/FrameStrip.tsx';
import { frameChosen } from '../../stage/state.ts';
import { useStageFrame } from '../../stage/useStageFrame.ts';
import { SoundLane } from '../../sound/SoundLane.tsx';
import { store, useAppDispatch } from '../../state/store.ts';
import { manyOpened } from '../../state/view.ts';
import { stripOf } from '../../strip/model.ts';
import { useChosen } from '../useChosen.ts';
import { ConvertSide, type Side } from './ConvertSide.tsx';
import { editorFor } from './editors.tsx';
import { Looked } from './Looked.tsx';
import { useLook } from './useLook.ts';
import type { Step } from './picture/PictureCard.tsx';
import { StartShelf } from './StartShelf.tsx';
import { useMeant, usePlanned, useSpec } from './useConvert.ts';
import { framesToTry, useProof } from './useProof.ts';

const toIntake = (
  <Button component={Link} to="/intake" variant="contained">
    Go to Intake
  </Button>
);

/** What is wanted of a source, said in a sentence, worked out, run. */
export function ConvertPage() {
  const { id, data: source, error } = useChosen();
  const dispatch = useAppDispatch();
  useEffect(() => {
    if (id) dispatch(manyOpened(null));
  }, [id, dispatch]);
  const { data: start, error: startError } = useStartingSpecQuery(id ?? '', { skip: !id });
  if (!id) {
    return (
      <EmptyPage title="Nothing to convert yet" action={toIntake}>
        Choose a source on Intake, describe the result in one sentence, and see every file before it is written.
      </EmptyPage>
    );
  }
  if (error ?? startError)
    return <Box sx={{ p: 3 }}>{<ProblemNote problem={(error ?? startError) as Problem} action={toIntake} />}</Box>;
  if (!source || !start) return <Loading what="Reading the source" />;
  return <Convert key={source.id} source={source} start={start} />;
}

function Convert({ source, start }: { source: ListedSource; start: Spec }) {
  const { spec, change, changeFormat } = useSpec(source, start);
  const planned = usePlanned(source, spec);
  const { plan, error, looks } = planned;
  // Once, so that what is found at the target does not push down what is read already.
  const [isOpen, setOpen] = useState(false);
  if (!isOpen && plan && !looks) setOpen(true);
  if (plan && isOpen) return <Planned {...{ source, start, spec, change, changeFormat, plan, planned }} />;
  if (!error) return <Loading what="Working out the plan" />;
  return (
    <Box sx={{ p: 3 }}>
      <ProblemNote problem={error} action={<Button onClick={() => change(start)}>Start over</Button>} />
    </Box>
  );
}

interface PlannedProps extends ReturnType<typeof useSpec> {
  source: ListedSource;
  /** What is wanted before anything is said. */
  start: Spec;
  plan: Plan;
  planned: ReturnType<typeof usePlanned>;
}

/** The page once there is a plan: its sentence, the stage, what is known of it, the run. */
function Planned({ source, start, spec, change, changeFormat, plan, planned }: PlannedProps) {
  const dispatch = useAppDispatch();
  const { data: roots = [] } = useRootsQuery();
  const { data: marked } = useMarkersQuery(source.id);
  const strip = useMemo(() => ({ ...stripOf(source), markers: marked?.markers }), [source, marked]);
  const meant = useMeant(source, spec, plan);
  const { receiver, breaches } = meant;
  const { row, look, setLook, timed, sound } = useLook(source, plan);
  // Moved by whole frames where it can be, by samples for the rest.
  const moveSound = (samples: number) => {
    const { rate, frames } = sound!.lane;
    const all = samples + spec.sound.later + Math.round((spec.sound.offset * frames.den * rate) / frames.num);
    const offset = Math.round((all * frames.num) / (rate * frames.den));
    const later = all - Math.round((offset * frames.den * rate) / frames.num);
    change({ ...spec, sound: { ...spec.sound, offset, later } });
  };
  const proof = useProof(source, spec);
  const [side, setSide] = useState<Side>('plan');
  const [step, setStep] = useState<Step | null>(null);
  // A crop is drawn over the source; a key is set by its result.
  const openStep = (next: Step | null) => {
    setStep(next);
    if (next === 'crop') setLook('source');
  };
  const go = (frame: number) => dispatch(frameChosen({ source: source.id, frame }));
  // What stops a run need not stop a proof, which lies in a folder of its own.
  // One frame says most, the one that is looked at; three show whether it holds over the shot.
  const all = framesToTry(plan);
  const at = useStageFrame(source);
  const isResult = plan.runs.some((run) => run.kind === 'write' && !run.shot && placeOfFrame(run, at) !== undefined);
  const toTry = proof.proof && !proof.isOld ? all : isResult ? [at] : all.slice(0, 1);
  const tryFrames = async () => {
    if (!(await proof.make(toTry))) return;
    setLook('proof');
    setSide('proof');
    if (!toTry.includes(store.getState().stage.frames[source.id] ?? NaN)) go(toTry[0]!);
  };
  const isBegun = Object.keys(ownOf(start, spec)).length > 0;
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateRows: { xs: 'auto', md: 'auto minmax(0, 1fr) auto' },
        gridTemplateColumns: 'minmax(0, 1fr)',
        height: { xs: 'auto', md: '100%' },
        p: '18px 24px 14px',
        rowGap: 1.75,
      }}
    >
      <Box sx={{ minWidth: 0 }}>
        <Typography variant="h1" sx={visuallyHidden}>
          Convert {source.name}
        </Typography>
        <Sentence
          tell={(whole) =>
            sentenceOf(plan, receiver && { name: receiver.name, trips: (breaches ?? []).length > 0 }, whole)
          }
          editor={(control, close) => editorFor(control, { source, plan, spec, roots, change, changeFormat, close })}
          onPress={(control) => {
            if (control !== 'picture') return false;
            setSide('picture');
            return true;
          }}
        />
        {isBegun ? null : <StartShelf start={start} onTake={change} />}
      </Box>
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) 424px' },
          gridTemplateRows: { xs: 'minmax(300px, auto) minmax(420px, auto)', md: 'minmax(0, 1fr)' },
          gap: 2.5,
          minHeight: 0,
        }}
      >
        <Looked
          {...{ source, spec, change, look, sound }}
          row={row && { source: row.source, rate: plan.rate ?? source.declaration.rate.value }}
          rested={planned.rested}
          crops={side === 'picture' && step === 'crop'}
          onLook={(next) => {
            setLook(next);
            if (next === 'proof') setSide('proof');
            else if (side === 'proof') setSide('plan');
          }}
        />
        <ConvertSide
          {...{ source, spec, change, plan, planned, meant, proof, side, step }}
          onSide={setSide}
          onStep={openStep}
          onGo={go}
        />
      </Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) auto', gap: 3, alignItems: 'center' }}>
        <Box sx={{ minWidth: 0 }}>
          {hasFrames(source) && (
            <FrameStrip source={timed?.source ?? source} model={timed?.strip ?? strip} height={sound ? 28 : 44} />
          )}
          {hasFrames(source) && sound && (
            <SoundLane
              source={timed?.source ?? source}
              sound={sound}
              height={32}
              onMove={plan.sound ? moveSound : undefined}
            />
          )}
        </Box>
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Button
            variant="outlined"
            size="large"
            disabled={toTry.length === 0 || proof.making}
            onClick={() => void tryFrames()}
          >
            Try {plural(toTry.length, 'frame')}
          </Button>
          {isAnimationFormat(spec.write.format) && (
            <Button component={Link} to={`/convert/small/${source.id}`} variant="outlined" size="large">
              See it move
            </Button>
          )}
          {planned.layers.length > 0 && (
            <Button variant="outlined" size="large" disabled={!planned.mayRun} onClick={() => void planned.runLayers()}>
              Run all {planned.layers.length + 1} layers
            </Button>
          )}
          <Button
            variant="contained"
            size="large"
            aria-keyshortcuts="Control+Enter"
            disabled={!planned.mayRun}
            onClick={() => void planned.run()}
          >
            Run {plural(plan.frames, 'frame')}
          </Button>
        </Box>
      </Box>
    </Box>
  );
}
