import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import type { Plan, Problem } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useExactnessQuery } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { ProblemNote } from '../../pieces/Notes.tsx';
import { Segments } from '../../pieces/Segments.tsx';
import { State } from '../../pieces/State.tsx';
import { plural, printBytes } from '../../pieces/words.ts';
import { useOther } from '../../stage/against.ts';
import { CompareModes } from '../../stage/cards/CompareModes.tsx';
import { Numbers, usePixelShown } from '../../stage/cards/CompareCard.tsx';
import { ComparisonNumbers } from '../../stage/cards/ComparisonNumbers.tsx';
import { useStageFrame } from '../../stage/useStageFrame.ts';
import { framesToTry, proofKey, type useProof } from './useProof.ts';

const against = [
  ['source', 'The source'],
  ['exact', 'The exact result'],
] as const;

interface Props {
  source: ListedSource;
  plan: Plan;
  proof: ReturnType<typeof useProof>;
  onGo: (frame: number) => void;
}

/** A few frames really made: which, how they compare with their source, and with what nothing was rounded of. */
export function ProofCard({ source, plan, proof: { proof, isOld, making, problem, make }, onGo }: Props) {
  const at = useStageFrame(source);
  const other = useOther(source, proofKey(source.id), proof !== null);
  const [what, setWhat] = useState<'source' | 'exact'>('source');
  const frames = proof?.frames ?? [];
  const mine = frames.find(({ sourceFrame }) => sourceFrame === at);
  const failed = proof?.problems.find(({ sourceFrame }) => sourceFrame === at);
  return (
    <Card
      title={proof ? `Proof: ${plural(frames.length, 'frame')} really made` : 'Proof'}
      aside={making ? 'making' : undefined}
    >
      <Box sx={{ display: 'grid', gap: 1.25 }}>
        {problem && <ProblemNote problem={problem} />}
        {isOld && (
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
            <State severity="doubt">Made with earlier settings</State>
            <Button size="small" disabled={making} onClick={() => void make(frames.map((one) => one.sourceFrame))}>
              Make again
            </Button>
          </Box>
        )}
        <CompareModes />
        <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.75 }} role="group" aria-label="Frames of the proof">
          {frames.map(({ sourceFrame }) => (
            <ButtonBase
              key={sourceFrame}
              aria-pressed={sourceFrame === at}
              onClick={() => onGo(sourceFrame)}
              className="mono"
              sx={{
                px: 1,
                py: 0.25,
                fontSize: 13,
                border: 1,
                borderColor: sourceFrame === at ? 'primary.main' : 'divider',
                color: sourceFrame === at ? 'primary.main' : 'text.primary',
                borderRadius: '4px',
              }}
            >
              {sourceFrame}
            </ButtonBase>
          ))}
          {!mine && (
            <Button size="small" disabled={making} onClick={() => void make([at])} sx={{ py: 0.25, px: 1 }}>
              Try frame {at}
            </Button>
          )}
          {!proof && (
            <Button
              size="small"
              disabled={making}
              onClick={() => void make(framesToTry(plan))}
              sx={{ py: 0.25, px: 1 }}
            >
              Try {framesToTry(plan).length} frames
            </Button>
          )}
        </Box>
        {failed && <ProblemNote problem={failed} />}
        {mine && (
          <Typography className="mono" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
            {mine.name}, {printBytes(mine.bytes)},{' '}
            {mine.check === 'identical'
              ? 'read back the same'
              : mine.check === 'differs'
                ? `read back, off by ${mine.most}`
                : 'not read back'}
          </Typography>
        )}
        {mine && (
          <>
            <Segments label="Compare with" value={what} options={against} onChoose={setWhat} />
            {what === 'source' && other && <Numbers source={source} other={other} />}
            {what === 'exact' && proof && <Exactness source={source} proof={proof.id} frame={at} />}
          </>
        )}
      </Box>
    </Card>
  );
}

/** What depth and format lose: the proof beside the same work in 32-bit floats. */
function Exactness({ source, proof, frame }: { source: ListedSource; proof: string; frame: number }) {
  const { currentData, error } = useExactnessQuery({ proof, frame });
  const go = usePixelShown(source.id);
  if (error) return <ProblemNote problem={error as Problem} />;
  const isInPlace = currentData?.width === source.facts?.width && currentData?.height === source.facts?.height;
  return (
    <Box sx={{ minHeight: 190 }}>
      {currentData ? (
        <ComparisonNumbers comparison={currentData} onGo={isInPlace ? go : undefined} />
      ) : (
        <Typography sx={{ color: 'text.secondary', fontSize: 13 }}>Comparing.</Typography>
      )}
      <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>
        The same conversion in 32-bit floats, without dither: the difference is what depth, clipping and format lose.
      </Typography>
    </Box>
  );
}
