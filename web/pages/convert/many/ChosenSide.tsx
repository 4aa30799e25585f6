import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import {
  breachesOf,
  conformSpec,
  heldPlan,
  sentenceOf,
  specFor,
  specMend,
  stemOf,
  type Breach,
  type Plan,
  type Problem,
  type Spec,
} from '@shale/core';
import type { ListedSource, PlannedPart } from '@shale/contract';
import { useMeasureQuery, usePlanQuery, useRootsQuery } from '../../../api/api.ts';
import { ReceiverCard, useReceiver } from '../../../names/ReceiverCard.tsx';
import { LossesCard } from '../../../pieces/LossesCard.tsx';
import { Loading, ProblemNote } from '../../../pieces/Notes.tsx';
import { Segments } from '../../../pieces/Segments.tsx';
import { useRested } from '../../../pieces/useRested.ts';
import { plural, printCount } from '../../../pieces/words.ts';
import { Sentence } from '../../../sentence/Sentence.tsx';
import { editorFor } from '../editors.tsx';
import { Looked, type Look } from '../Looked.tsx';
import { PictureCard, type Step } from '../picture/PictureCard.tsx';
import { PlanTable } from '../PlanTable.tsx';
import { SidePanel } from '../SidePanel.tsx';
import type { useWish } from './useMany.ts';

/** What of the chosen source is looked at below the stage. */
export type Side = 'plan' | 'losses' | 'picture' | 'receiver' | 'own';

interface Props {
  source: ListedSource;
  parts: readonly PlannedPart[];
  wish: ReturnType<typeof useWish>;
  output: number;
  onOutput: (output: number) => void;
  side: Side;
  onSide: (side: Side) => void;
  /** By what the list of sources is called, for the receiver that is meant. */
  selection: string;
}

/** What is known of the chosen source in an output. */
function useChosenPart({ source, parts, wish: { batch }, output, selection }: Props, side: Side) {
  const spec = specFor(batch, source.id, output);
  const rested = useRested(spec, 500);
  const { currentData: fresh, data: plan = fresh, error } = usePlanQuery({ source: source.id, spec });
  const works = fresh !== undefined && fresh.problems.length === 0;
  const [all, setAll] = useState<Spec | null>(null);
  const asked = { source: source.id, spec: rested, frames: all === spec ? ('all' as const) : ('sample' as const) };
  const measure = useMeasureQuery(asked, { skip: side !== 'losses' || rested !== spec || !works });
  const { data: roots = [] } = useRootsQuery();
  const receiver = useReceiver({ source: selection })?.receiver;
  const part = parts.find((one) => one.output === output);
  const rootPath = roots.find(({ id }) => id === plan?.into.root)?.path ?? '';
  return {
    spec,
    rested,
    plan,
    roots,
    receiver,
    part,
    error: error as Problem | undefined,
    problems: part?.problems ?? plan?.problems ?? [],
    measured: rested === spec ? measure.currentData : undefined,
    measuring: measure.isFetching,
    measureError: measure.error as Problem | undefined,
    measureAll: () => setAll(spec),
    breaches:
      receiver && plan
        ? breachesOf(heldPlan(plan, rootPath), receiver).map((breach) => ({
            ...breach,
            mend: specMend(breach, receiver),
          }))
        : undefined,
  };
}
type ChosenPart = ReturnType<typeof useChosenPart>;

/** One source of many: the stage, what comes of it in an output, and what it has otherwise than the rest. */
export function ChosenSide(props: Props) {
  const { source, parts, wish, output, onOutput, side, onSide } = props;
  const known = useChosenPart(props, side);
  const { spec, rested } = known;
  const [look, setLook] = useState<Look>('source');
  const [step, setStep] = useState<Step | null>(null);
  const change = (next: Spec) => wish.change(output, next);
  const openStep = (next: Step | null) => {
    setStep(next);
    if (next === 'crop') setLook('source');
  };
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: 'minmax(0, 1fr)',
        gridTemplateRows: 'minmax(180px, 1.1fr) minmax(0, 1fr)',
        rowGap: 1.25,
        minHeight: 0,
      }}
    >
      <Looked
        small
        {...{ source, spec, rested, look, change }}
        crops={side === 'picture' && step === 'crop'}
        onLook={setLook}
      />
      <SidePanel
        label="Notes on this source"
        tabs={tabsOf(known, parts)}
        value={side}
        onChoose={onSide}
        fills={side === 'plan'}
        aside={
          wish.batch.outputs.length > 1 && (
            <Segments
              label="Output"
              value={String(output)}
              options={wish.batch.outputs.map((_, at) => [String(at), String(at + 1)] as const)}
              onChoose={(next) => onOutput(Number(next))}
            />
          )
        }
        top={
          <>
            {known.problems.slice(0, 2).map((problem) => (
              <ProblemNote key={problem.code} problem={problem} />
            ))}
            {known.error && <ProblemNote problem={known.error} />}
          </>
        }
      >
        {side === 'picture' ? (
          <PictureCard
            {...{ source, spec, change }}
            shown
            onShow={() => onSide('plan')}
            open={step}
            onOpen={openStep}
          />
        ) : (
          <SideBody {...props} known={known} />
        )}
      </SidePanel>
    </Box>
  );
}

interface KnownProps extends Props {
  known: ChosenPart;
}

function tabsOf({ part, receiver }: ChosenPart, parts: readonly PlannedPart[]): [Side, string][] {
  const losses = part?.losses.length ?? 0;
  return [
    ['plan', part ? `Plan, ${part.into.isVideo ? 'one video' : plural(part.files, 'file')}` : 'Plan'],
    ['losses', losses > 0 ? `Losses, ${printCount(losses)}` : 'Losses'],
    ['picture', 'Picture'],
    ['receiver', receiver ? receiver.name : 'Receiver'],
    ['own', parts.some(({ differs }) => differs) ? 'This source, with its own settings' : 'This source'],
  ];
}

/** What of the source is told under the tab that is open. */
function SideBody(props: KnownProps) {
  const { source, side, selection, known, wish, output } = props;
  const { plan, receiver, measured, measuring, measureError, measureAll, breaches } = known;
  /** What mends a name by another stem is for this source; what a format or form of names is for all. */
  const mend = (some: readonly Breach[]) => {
    if (!receiver || !plan) return;
    const stem = plan.into.kind === 'sequence' ? stemOf(plan.into.pattern) : plan.into.stem;
    const common = wish.batch.outputs[output]!;
    const forAll = conformSpec(common, receiver, some, stem);
    if (forAll.names.stem === common.names.stem) wish.change(output, forAll);
    else wish.differ(source.id, output, conformSpec(known.spec, receiver, some, stem));
  };
  if (!plan) return known.error ? null : <Loading what="Working out the plan" />;
  if (side === 'plan') return <PlanTable source={source} plan={plan} />;
  if (side === 'losses')
    return <LossesCard {...{ plan, measured, measuring }} problem={measureError} onMeasureAll={measureAll} />;
  if (side === 'receiver') return <ReceiverCard meant={{ source: selection }} breaches={breaches} onMend={mend} />;
  return <OwnSettings {...props} plan={plan} />;
}

/** The sentence of this source alone: what is changed in it holds for no other. */
function OwnSettings({ source, parts, wish, output, onSide, known, plan }: KnownProps & { plan: Plan }) {
  const { spec, roots } = known;
  return (
    <Box sx={{ display: 'grid', gap: 1.5, justifyItems: 'start' }}>
      <Typography sx={{ fontSize: 13, color: 'text.secondary' }}>Changes here apply to this source only.</Typography>
      <Sentence
        size={16}
        tell={(whole) => sentenceOf(plan, undefined, whole)}
        editor={(control, close) =>
          editorFor(control, {
            ...{ source, plan, spec, roots, close },
            change: (next) => wish.differ(source.id, output, next),
            changeFormat: (format) => wish.differFormat(source.id, output, format),
          })
        }
        onPress={(control) => {
          if (control !== 'picture') return false;
          onSide('picture');
          return true;
        }}
      />
      {parts.some(({ differs }) => differs) && (
        <Button variant="outlined" size="small" onClick={() => wish.setBack([source.id])}>
          Use the common settings
        </Button>
      )}
    </Box>
  );
}
