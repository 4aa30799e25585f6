import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useEffect, useMemo, useState } from 'react';
import { Link } from 'react-router';
import { hasFrames, ownOf, placeOfFrame, sentenceOf, type Plan, type Problem, type Spec } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useMarkersQuery, useRootsQuery, useStartingSpecQuery } from '../../api/api.ts';
import { ReceiverCard } from '../../names/ReceiverCard.tsx';
import { LossesCard } from '../../pieces/LossesCard.tsx';
import { EmptyPage, Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { plural } from '../../pieces/words.ts';
import { Sentence } from '../../sentence/Sentence.tsx';
import { FrameStrip } from '../../stage/FrameStrip.tsx';
import { frameChosen } from '../../stage/state.ts';
import { useStageFrame } from '../../stage/useStageFrame.ts';
import { store, useAppDispatch } from '../../state/store.ts';
import { manyOpened } from '../../state/view.ts';
import { stripOf } from '../../strip/model.ts';
import { useChosen } from '../useChosen.ts';
import { editorFor } from './editors.tsx';
import { Looked, type Look } from './Looked.tsx';
import { PictureCard, type Step } from './picture/PictureCard.tsx';
import { PlanCard } from './PlanCard.tsx';
import { ProofCard } from './ProofCard.tsx';
import { StartShelf } from './StartShelf.tsx';
import { SpecShelf } from './SpecShelf.tsx';
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
        Choose a source on Intake: here you say in a sentence what is to come out of it, and see every file before one
        is written.
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
  const { plan, error } = planned;
  if (plan) return <Planned {...{ source, start, spec, change, changeFormat, plan, planned }} />;
  if (!error) return <Loading what="Working the plan out" />;
  return (
    <Box sx={{ p: 3 }}>
      <ProblemNote problem={error} action={<Button onClick={() => change(start)}>Begin anew</Button>} />
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
  const { receiver, breaches, conform } = useMeant(source, spec, plan);
  const proof = useProof(source, spec);
  const [look, setLook] = useState<Look>('source');
  const [showsPicture, setShowsPicture] = useState(false);
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
    if (!toTry.includes(store.getState().stage.frames[source.id] ?? NaN)) go(toTry[0]!);
  };
  const { target, measured, runError } = planned;
  const isBegun = Object.keys(ownOf(start, spec)).length > 0;
  const problems = [look === 'proof' ? undefined : proof.problem, runError, planned.error, ...plan.problems];
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateRows: 'auto minmax(0, 1fr) auto',
        height: '100%',
        p: '18px 24px 14px',
        rowGap: 1.75,
      }}
    >
      <Box sx={{ minWidth: 0 }}>
        <Sentence
          parts={sentenceOf(plan, receiver && { name: receiver.name, trips: (breaches ?? []).length > 0 })}
          editor={(control, close) => editorFor(control, { source, plan, spec, roots, change, changeFormat, close })}
          onPress={(control) => {
            if (control !== 'picture') return false;
            setShowsPicture(true);
            document.getElementById('picture')?.querySelector('button')?.focus();
            return true;
          }}
        />
        {isBegun ? null : <StartShelf start={start} onTake={change} />}
      </Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) 424px', gap: 2.5, minHeight: 0 }}>
        <Looked
          {...{ source, spec, change, look }}
          rested={planned.rested}
          crops={showsPicture && step === 'crop'}
          onLook={setLook}
        />
        <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5, minHeight: 0, overflowY: 'auto' }}>
          {problems.map((problem) => problem && <ProblemNote key={problem.code} problem={problem} />)}
          {target?.problem && !runError && (
            <ProblemNote
              problem={target.problem}
              action={
                target.free !== null && (
                  <Button
                    size="small"
                    onClick={() => change({ ...spec, into: { ...spec.into, folder: target.free } })}
                    sx={{ whiteSpace: 'nowrap' }}
                  >
                    Use {target.free}
                  </Button>
                )
              }
            />
          )}
          {look === 'proof' && <ProofCard source={source} plan={plan} proof={proof} onGo={go} />}
          <LossesCard
            plan={plan}
            measured={measured}
            measuring={planned.measuring}
            problem={planned.measureError}
            onMeasureAll={planned.measureAll}
          />
          <PictureCard
            {...{ source, spec, change }}
            shown={showsPicture}
            onShow={setShowsPicture}
            open={step}
            onOpen={openStep}
          />
          <PlanCard
            {...{ source, plan, measured }}
            replaces={target?.problem ? 0 : (target?.taken ?? 0)}
            room={target?.room ?? null}
          />
          <ReceiverCard meant={{ source: source.id }} breaches={breaches} onMend={(some) => change(conform(some))} />
          <SpecShelf spec={spec} onTake={change} />
        </Box>
      </Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) auto', gap: 3, alignItems: 'center' }}>
        {hasFrames(source) ? <FrameStrip source={source} model={strip} height={44} /> : <Box />}
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Button
            variant="outlined"
            size="large"
            disabled={toTry.length === 0 || proof.making}
            onClick={() => void tryFrames()}
          >
            Try {plural(toTry.length, 'frame')}
          </Button>
          {planned.layers.length > 0 && (
            <Button variant="outlined" size="large" disabled={!planned.mayRun} onClick={() => void planned.runLayers()}>
              Run all {planned.layers.length + 1} layers
            </Button>
          )}
          <Button variant="contained" size="large" disabled={!planned.mayRun} onClick={() => void planned.run()}>
            Run {plural(plan.frames, 'frame')}
          </Button>
        </Box>
      </Box>
    </Box>
  );
}
