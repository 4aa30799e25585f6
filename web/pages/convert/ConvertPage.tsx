import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useMemo, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import {
  breachesOf,
  conformSpec,
  formatRules,
  hasFrames,
  heldPlan,
  sentenceOf,
  specMend,
  stemOf,
  withFormat,
  type Format,
  type LookView,
  type Problem,
  type Spec,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import {
  takenVersion,
  useMarkersQuery,
  useMeasureQuery,
  usePlanQuery,
  useRootsQuery,
  useStartingSpecQuery,
  useStartJobMutation,
  useTargetQuery,
} from '../../api/api.ts';
import { EmptyPage, Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { Segments } from '../../pieces/Segments.tsx';
import { plural } from '../../pieces/words.ts';
import { ReceiverCard, useReceiver } from '../../names/ReceiverCard.tsx';
import { Sentence } from '../../sentence/Sentence.tsx';
import type { Place } from '../../stage/place.ts';
import { FrameStrip } from '../../stage/FrameStrip.tsx';
import { Stage } from '../../stage/Stage.tsx';
import { StageControls } from '../../stage/StageControls.tsx';
import { frameChosen } from '../../stage/state.ts';
import { store, useAppDispatch } from '../../state/store.ts';
import { stripOf } from '../../strip/model.ts';
import { useChosen } from '../useChosen.ts';
import { useRested } from '../../pieces/useRested.ts';
import { editorFor } from './editors.tsx';
import { freeAfter } from './free.ts';
import { keepSpec, keptSpec } from '../../state/keptSpec.ts';
import { LossesCard } from '../../pieces/LossesCard.tsx';
import { PlanCard } from './PlanCard.tsx';
import { ProofCard } from './ProofCard.tsx';
import { framesToTry, proofKey, useProof } from './useProof.ts';
import { CropOverlay } from './picture/CropOverlay.tsx';
import { PictureCard, type Step } from './picture/PictureCard.tsx';
import { ResultView } from './picture/ResultView.tsx';
import { SpecShelf } from './SpecShelf.tsx';

/** What the stage may show: the source, what becomes of the frame, or the source against frames that were really made. */
const looks: readonly (readonly ['source' | 'proof' | LookView, string])[] = [
  ['source', 'Source'],
  ['result', 'Result'],
  ['matte', 'Matte'],
  ['status', 'Opacity zones'],
  ['losses', 'Losses'],
  ['proof', 'Proof'],
];

const toIntake = (
  <Button component={Link} to="/intake" variant="contained">
    Go to Intake
  </Button>
);

/** What is wanted of a source, said in a sentence, worked out, run. */
export function ConvertPage() {
  const { id, data: source, error } = useChosen();
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
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const { data: roots = [] } = useRootsQuery();
  const [spec, setSpec] = useState<Spec>(() => keptSpec(source.id) ?? start);
  const [measuresAll, setMeasuresAll] = useState(false);
  const [run, { error: runError, isLoading: starting, reset }] = useStartJobMutation();
  // What is wanted of the pixels, whatever the format that is being tried can hold of it.
  const [free, setFree] = useState(() =>
    // A page that was loaded anew does not know what was wanted before: what the source has, then.
    formatRules[spec.write.format].alpha ? spec.write : { ...spec.write, alpha: start.write.alpha },
  );
  const change = (next: Spec, wanted = freeAfter(free, spec.write, next.write)) => {
    setFree(wanted);
    setSpec(next);
    setMeasuresAll(false);
    reset();
    keepSpec(source.id, next);
  };
  const changeFormat = (format: Format) => change(withFormat(spec, format, free), free);
  const { currentData: fresh, data: plan = fresh, error } = usePlanQuery({ source: source.id, spec });
  const rested = useRested(spec, 500);
  const works = plan !== undefined && plan.problems.length === 0;
  const { currentData: target } = useTargetQuery({ source: source.id, spec: rested }, { skip: !works });
  const runs = works && !(target?.problem && rested === spec);
  const measure = useMeasureQuery(
    { source: source.id, spec: rested, frames: measuresAll ? 'all' : 'sample' },
    { skip: !works },
  );
  const receiver = useReceiver({ source: source.id });
  const proof = useProof(source, spec);
  const [view, setView] = useState<(typeof looks)[number][0]>('source');
  const [worksShown, setWorksShown] = useState(false);
  const [step, setStep] = useState<Step | null>(null);
  // A crop is drawn over the source; a key is set by its result.
  const openStep = (next: Step | null) => {
    setStep(next);
    if (next === 'crop') setView('source');
  };
  const { data: marked } = useMarkersQuery(source.id);
  const strip = useMemo(() => ({ ...stripOf(source), markers: marked?.markers }), [source, marked]);

  if (!plan)
    return error ? (
      <Box sx={{ p: 3 }}>
        <ProblemNote problem={error as Problem} action={<Button onClick={() => change(start)}>Begin anew</Button>} />
      </Box>
    ) : (
      <Loading what="Working the plan out" />
    );
  const rate = source.declaration.rate.value;
  const rootPath = roots.find(({ id }) => id === plan.into.root)?.path ?? '';
  const breaches =
    receiver &&
    breachesOf(heldPlan(plan, rootPath), receiver.receiver).map((breach) => ({
      ...breach,
      mend: specMend(breach, receiver.receiver),
    }));
  const press = async () => {
    // What was thought of it goes along: the receipt holds it against what came.
    const estimate = measured && rested === spec ? { bytes: measured.bytes, seconds: measured.seconds } : undefined;
    const job = await run({ source: source.id, spec, ...(estimate ? { estimate } : {}) });
    if ('data' in job) void navigate('/jobs');
  };
  const problems = [
    ...(proof.problem && view !== 'proof' ? [proof.problem] : []),
    ...(runError ? [runError as Problem] : []),
    ...(error ? [error as Problem] : []),
    ...plan.problems,
  ];
  const measured = works ? measure.currentData : undefined;
  const version = takenVersion(source);
  const go = (frame: number) => dispatch(frameChosen({ source: source.id, frame }));
  const toTry = framesToTry(plan);
  // What stops a run need not stop a proof, which lies in a folder of its own.
  const mayTry = toTry.length > 0;
  const tryFrames = async () => {
    if (!(await proof.make(toTry))) return;
    setView('proof');
    if (!toTry.includes(store.getState().stage.frames[source.id] ?? NaN)) go(toTry[0]!);
  };
  const { picture } = spec;
  // Turned, the picture on the stage is not the one that is cropped; numbers serve then.
  const crops = worksShown && step === 'crop' && picture.turn === 0 && picture.flip === 'none' && source.facts;
  const cropOver = (place: Place) => (
    <CropOverlay
      place={place}
      size={source.facts!}
      crop={picture.crop}
      onCrop={(crop) => change({ ...spec, picture: { ...picture, crop } })}
    />
  );
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
      <Sentence
        parts={sentenceOf(
          plan,
          receiver && { name: receiver.receiver.name, trips: breaches !== undefined && breaches.length > 0 },
        )}
        editor={(control, close) => editorFor(control, { source, plan, spec, roots, change, changeFormat, close })}
        onPress={(control) => {
          if (control !== 'picture') return false;
          setWorksShown(true);
          document.getElementById('picture')?.querySelector('button')?.focus();
          return true;
        }}
      />
      <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) 424px', gap: 2.5, minHeight: 0 }}>
        <Box sx={{ display: 'grid', gridTemplateRows: 'minmax(0, 1fr) auto', rowGap: 0.75, minHeight: 0 }}>
          <Box sx={{ position: 'relative', display: 'grid', minHeight: 0 }}>
            {view === 'source' || view === 'proof' ? (
              <Stage
                source={source}
                rate={rate}
                over={crops && view === 'source' ? cropOver : undefined}
                against={view === 'proof' ? proofKey(source.id) : undefined}
                label={view === 'proof' ? 'Source' : undefined}
                otherLabel="Proof"
                headRoom={36}
                noPartner="This frame is not proved yet"
              />
            ) : (
              <ResultView source={source} spec={rested} view={view} version={version} />
            )}
            <Box sx={{ position: 'absolute', right: 10, top: 10 }}>
              <Segments label="Look at" value={view} options={looks} onChoose={setView} />
            </Box>
          </Box>
          <StageControls source={source} rate={rate} looks={view === 'source' || view === 'proof'} />
        </Box>
        <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1.5, minHeight: 0, overflowY: 'auto' }}>
          {problems.map((problem) => (
            <ProblemNote key={problem.code} problem={problem} />
          ))}
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
          {view === 'proof' && <ProofCard source={source} plan={plan} proof={proof} onGo={go} />}
          <LossesCard
            plan={plan}
            measured={measured}
            measuring={measure.isFetching}
            problem={measure.error as Problem | undefined}
            onMeasureAll={() => setMeasuresAll(true)}
          />
          <PictureCard
            source={source}
            spec={spec}
            change={change}
            shown={worksShown}
            onShow={setWorksShown}
            open={step}
            onOpen={openStep}
          />
          <PlanCard
            source={source}
            plan={plan}
            measured={measured}
            replaces={target?.problem ? 0 : (target?.taken ?? 0)}
          />
          <ReceiverCard
            meant={{ source: source.id }}
            breaches={breaches}
            onMend={(some) => receiver && change(conformSpec(spec, receiver.receiver, some, stemOf(plan.into.pattern)))}
          />
          <SpecShelf spec={spec} onTake={change} />
        </Box>
      </Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) auto', gap: 3, alignItems: 'center' }}>
        {hasFrames(source) ? <FrameStrip source={source} model={strip} height={44} /> : <Box />}
        <Box sx={{ display: 'flex', gap: 1 }}>
          <Button variant="outlined" size="large" disabled={!mayTry || proof.making} onClick={() => void tryFrames()}>
            Try {plural(toTry.length, 'frame')}
          </Button>
          <Button variant="contained" size="large" disabled={!runs || starting} onClick={() => void press()}>
            Run {plural(plan.frames, 'frame')}
          </Button>
        </Box>
      </Box>
    </Box>
  );
}
