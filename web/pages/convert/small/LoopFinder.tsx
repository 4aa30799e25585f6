import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState } from 'react';
import type { CleanLoop, Problem, Spec } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { takenVersion } from '../../../api/api.ts';
import { useFindLoopsMutation } from '../../../api/searches.ts';
import { ProblemNote } from '../../../pieces/Notes.tsx';
import { plural } from '../../../pieces/words.ts';

/** How much a seam is seen, beside what a usual step moves. */
function seamSaid({ seam, step }: CleanLoop): string {
  if (seam < 0.05) return 'the seam is invisible: both frames match';
  const share = step > 0 ? seam / step : Infinity;
  return share <= 1
    ? 'the seam moves no more than a normal step'
    : `the seam moves as far as ${share.toFixed(1)} steps`;
}

interface Props {
  source: ListedSource;
  spec: Spec;
  change: (spec: Spec) => void;
}

/** Looks for stretches that can be played again and again, shows the frames at their seams, and takes one by a press. */
export function LoopFinder({ source, spec, change }: Props) {
  const [find, { data, error, isLoading }] = useFindLoopsMutation();
  const [isOpen, setOpen] = useState(false);
  const look = () => {
    setOpen(true);
    void find({ source: source.id, least: 8 });
  };
  if (!isOpen)
    return (
      <Button size="small" onClick={look} sx={{ justifySelf: 'start' }}>
        Find a clean loop
      </Button>
    );
  const picture = (frame: number) => (
    <Box
      component="img"
      src={`/api/sources/${source.id}/frames/${frame}/preview?width=160&v=${encodeURIComponent(takenVersion(source))}`}
      alt={`Frame ${frame}`}
      sx={{ width: 96, borderRadius: '3px', bgcolor: 'action.hover' }}
    />
  );
  return (
    <Box component="section" aria-label="Clean loops" sx={{ display: 'grid', gap: 1 }}>
      {isLoading && <Box sx={{ fontSize: 13, color: 'text.secondary' }}>Comparing all frames with each other.</Box>}
      {error && <ProblemNote problem={error as Problem} />}
      {data?.loops.length === 0 && <Box sx={{ fontSize: 13 }}>Too few frames for a loop.</Box>}
      {data?.loops.map((loop) => {
        const frames = `${loop.first}-${loop.last}`;
        const isTaken = spec.frames === frames;
        return (
          <Box
            key={frames}
            data-testid="loop"
            sx={{
              display: 'grid',
              gridTemplateColumns: 'auto auto 1fr auto',
              gap: 1,
              alignItems: 'center',
              fontSize: 13,
            }}
          >
            {picture(loop.last)}
            {picture(loop.first)}
            <span>
              Frames {loop.last} and {loop.first}: {seamSaid(loop)}; {plural(loop.last - loop.first + 1, 'frame')}
            </span>
            <Button size="small" disabled={isTaken} onClick={() => change({ ...spec, frames })}>
              {isTaken ? 'taken' : `Take ${frames}`}
            </Button>
          </Box>
        );
      })}
    </Box>
  );
}
