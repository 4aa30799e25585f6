import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { lossSentence, type Loss, type Plan, type Problem } from '@shale/core';
import type { Measured } from '@shale/contract';
import { Card } from './Card.tsx';
import { ProblemNote } from './Notes.tsx';
import { Mark, State } from './State.tsx';
import { plural } from './words.ts';

/** Losses as lines: mark, sentence, amount. */
export function LossLines({ losses }: { losses: readonly Loss[] }) {
  return (
    <Box component="ul" sx={{ display: 'grid', gap: 0.5, m: 0, p: 0, listStyle: 'none' }}>
      {losses.map(({ code, severity, sentence, amount }) => (
        <Box
          component="li"
          key={code}
          sx={{ display: 'grid', gridTemplateColumns: '12px minmax(0, 1fr) auto', gap: 1.25, alignItems: 'baseline' }}
        >
          <Mark severity={severity} />
          <span>{sentence}</span>
          <span className="mono" style={{ fontSize: 13 }}>
            {amount}
          </span>
        </Box>
      ))}
    </Box>
  );
}

const keepsRoom = ({ copies }: Plan, isShort: boolean) => (isShort || copies ? undefined : { minHeight: 172 });

interface Props {
  plan: Plan;
  measured?: Measured;
  measuring: boolean;
  /** The sentence alone: something else is looked at. */
  isShort?: boolean;
  problem?: Problem;
  onMeasureAll: () => void;
}

/** What the plan throws away: what its terms say, and what real frames showed. */
export function LossesCard({ plan, measured, measuring, isShort = false, problem, onMeasureAll }: Props) {
  const looked = measured?.frames.length ?? 0;
  const all = looked >= plan.frames;
  const losses = [...plan.losses, ...(measured?.losses ?? [])];
  const blank = measured?.problems.find(({ code }) => code === 'blank-end');
  const unread = (measured?.problems ?? []).filter(({ code }) => code !== 'blank-end');
  const isLossless = measured && losses.every(({ severity }) => severity === 'note');
  const title = measured
    ? `Losses, measured on ${all ? `all ${looked}` : `${looked} of ${plan.frames}`} frames`
    : 'Losses';
  const more = measured && !all && !plan.copies && (
    <Button size="small" sx={{ my: -0.5, mr: -1, px: 1, py: 0 }} onClick={onMeasureAll} disabled={measuring}>
      Measure all {plan.frames} frames
    </Button>
  );
  return (
    <Card
      title={title}
      aside={measuring ? 'measuring' : more}
      // Room for what measuring usually finds, so that nothing below moves once it comes.
      sx={keepsRoom(plan, isShort)}
    >
      {plan.copies && <State severity="note">No pixel changes: the files are copied byte for byte</State>}
      {!plan.copies && measured && (
        <Box data-testid="loss-sentence" sx={{ mb: 0.75 }}>
          {isLossless ? <State severity="note">Lossless</State> : lossSentence(losses)}
        </Box>
      )}
      {!isShort && <LossLines losses={losses} />}
      {blank && (
        <Box sx={{ mt: 1 }}>
          <State severity="doubt">
            {blank.fact} {blank.wayOut}
          </State>
        </Box>
      )}
      {unread.length > 0 && (
        <Typography sx={{ mt: 1, color: 'error.main', fontSize: 13 }}>
          {plural(unread.length, 'frame')} could not be read: {unread[0]!.fact}
        </Typography>
      )}
      {problem && <ProblemNote problem={problem} />}
    </Card>
  );
}
