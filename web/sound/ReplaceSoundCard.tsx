import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { plural, planSwap, printBytes, soundSwapSchema, type Problem } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useReplaceSoundMutation } from '../api/sounds.ts';
import { Card } from '../pieces/Card.tsx';
import { ProblemNote } from '../pieces/Notes.tsx';
import { tried } from '../pieces/tried.ts';
import type { SoundUnder } from './useUnder.ts';
import { stemOf, useWhere } from './useWhere.tsx';

/** Writes a clip with the sound that is heard with it, moved as it is heard; its pictures are not coded again. */
export function ReplaceSoundCard({
  clip,
  other,
  under,
}: {
  clip: ListedSource;
  other: ListedSource;
  under: SoundUnder;
}) {
  const [replace, { data: receipt, error, isLoading, reset }] = useReplaceSoundMutation();
  const { where, fields } = useWhere(stemOf(clip.name), reset);
  const { from, later, stream } = under;
  const swap = soundSwapSchema.parse({ delay: { num: 0 - from.num, den: from.den }, later });
  const { value: plan, fault } = tried(() => planSwap(clip.name, [other.name], swap, null));
  return (
    <Card title="Write the clip with this sound">
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1.5 }}>{fields}</Box>
      <Typography sx={{ mt: 1.5, fontSize: 13.5 }} data-testid="replace-plan">
        {plan ? plan.sentence : fault}
      </Typography>
      {isLoading && <LinearProgress aria-label="Writing the clip" sx={{ height: 3, mt: 1 }} />}
      <Button
        size="small"
        variant="contained"
        sx={{ mt: 1.5 }}
        disabled={!plan || !where || isLoading}
        onClick={() =>
          where &&
          void replace({
            source: clip.id,
            body: { sounds: [{ source: other.id, stream }], swap, into: where, stem: null },
          })
        }
      >
        Write the clip
      </Button>
      {error !== undefined && <ProblemNote problem={error as Problem} />}
      {receipt && (
        <Typography role="status" data-testid="sound-replaced" sx={{ mt: 1.5, fontSize: 13 }}>
          {`${receipt.folder}/${receipt.name}: ${printBytes(receipt.bytes)}. Read back: ${plural(receipt.pictures, 'picture')}, each the clip’s own.`}
        </Typography>
      )}
    </Card>
  );
}
