import Box from '@mui/material/Box';
import type { Breach, Plan, Spec } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { ReceiverCard } from '../../names/ReceiverCard.tsx';
import { LossesCard } from '../../pieces/LossesCard.tsx';
import { plural, printBytes, printLeft } from '../../pieces/words.ts';
import { PictureCard, type Step } from './picture/PictureCard.tsx';
import { PlanProblems } from './PlanProblems.tsx';
import { PlanNotes, PlanTable } from './PlanTable.tsx';
import { ProofCard } from './ProofCard.tsx';
import { SidePanel } from './SidePanel.tsx';
import { SpecShelf } from './SpecShelf.tsx';
import type { useMeant, usePlanned } from './useConvert.ts';
import type { useProof } from './useProof.ts';

/** What is told of a plan beside its stage, one thing at a time. */
export type Side = 'plan' | 'proof' | 'picture' | 'receiver' | 'specs';

interface Props {
  source: ListedSource;
  spec: Spec;
  change: (spec: Spec) => void;
  plan: Plan;
  planned: ReturnType<typeof usePlanned>;
  meant: ReturnType<typeof useMeant>;
  proof: ReturnType<typeof useProof>;
  side: Side;
  onSide: (side: Side) => void;
  step: Step | null;
  onStep: (step: Step | null) => void;
  onGo: (frame: number) => void;
}

/** What stands in the way, what is lost, and below it the plan, the proof, the picture, the receiver or saved specs. */
export function ConvertSide(props: Props) {
  const { source, spec, change, plan, planned, meant, proof, side, onSide, step, onStep, onGo } = props;
  const { receiver, breaches, conform } = meant;
  const { target, measured, runError } = planned;
  const problems = [side === 'proof' ? undefined : proof.problem, runError, planned.error, ...plan.problems];
  const files =
    plan.into.kind === 'video' ? `one video of ${plural(plan.frames, 'frame')}` : plural(plan.files, 'file');
  const about = measured ? `, about ${printBytes(measured.bytes)}, ${printLeft(measured.seconds)}` : '';
  const broken = breaches?.length ?? 0;
  const tabs: [Side, string][] = [
    ['plan', 'Plan'],
    ['proof', 'Proof'],
    ['picture', 'Picture'],
    ['receiver', receiver ? `Receiver${broken > 0 ? `, ${broken}` : ''}` : 'Receiver'],
    ['specs', 'Saved specs'],
  ];
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: 'minmax(0, 1fr)',
        gridTemplateRows: 'fit-content(56%) minmax(0, 1fr)',
        rowGap: 1.5,
        minHeight: 0,
      }}
    >
      <Box sx={{ display: 'grid', gap: 1.5, minHeight: 0, overflowY: 'auto', alignContent: 'start' }}>
        <PlanProblems
          {...{ source, spec, plan, change, target }}
          isRefused={runError !== undefined}
          problems={problems}
        />
        <LossesCard
          plan={plan}
          measured={measured}
          measuring={planned.measuring}
          isShort={side !== 'plan'}
          problem={planned.measureError}
          onMeasureAll={planned.measureAll}
        />
      </Box>
      <SidePanel label="Notes on this plan" tabs={tabs} value={side} onChoose={onSide} fills={side === 'plan'}>
        {side === 'plan' && (
          <Box sx={{ display: 'grid', gridTemplateRows: 'auto minmax(0, 1fr)', rowGap: 0.75, minHeight: 0 }}>
            <Box sx={{ display: 'grid', gap: 0.5, fontSize: 13 }}>
              <span data-testid="plan-sum">
                {files}
                {about}
              </span>
              <PlanNotes
                {...{ plan, measured }}
                replaces={target?.problem ? 0 : (target?.taken ?? 0)}
                room={target?.room ?? null}
              />
            </Box>
            <PlanTable source={source} plan={plan} />
          </Box>
        )}
        {side === 'proof' && <ProofCard source={source} plan={plan} proof={proof} onGo={onGo} />}
        {side === 'picture' && (
          <PictureCard {...{ source, spec, change }} shown onShow={() => onSide('plan')} open={step} onOpen={onStep} />
        )}
        {side === 'receiver' && (
          <ReceiverCard
            meant={{ source: source.id }}
            breaches={breaches}
            onMend={(some: Breach[]) => change(conform(some))}
          />
        )}
        {side === 'specs' && <SpecShelf source={source.id} spec={spec} onTake={change} />}
      </SidePanel>
    </Box>
  );
}
