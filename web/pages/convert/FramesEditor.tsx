import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState } from 'react';
import { frameSpan, isVideo, parseCoverage, printCoverage, type Plan, type Problem, type Spec } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useScenesMutation } from '../../api/api.ts';
import { ProblemNote } from '../../pieces/Notes.tsx';
import { Whole } from '../../pieces/slimFields.tsx';
import { Typed } from '../../sentence/fields.tsx';
import { useStageFrame } from '../../stage/useStageFrame.ts';
import { refusal } from './videoEditors.tsx';
import { MarkedFields } from './MarkedFields.tsx';

interface Props {
  source: ListedSource;
  plan: Plan;
  spec: Spec;
  change: (spec: Spec) => void;
}

/** Which frames: as ranges, from or to the one on the stage, every n-th, or where scenes begin. */
export function FramesEditor({ source, spec, change, plan }: Props) {
  const at = useStageFrame(source);
  const [every, setEvery] = useState<number | null>(null);
  // The field is made anew by a press, not by what is typed in it.
  const [presses, setPresses] = useState(0);
  const [findScenes, { isLoading, error }] = useScenesMutation();
  const span = frameSpan(plan.source.coverage) ?? { first: 0, last: 0 };
  const all = `${span.first}-${span.last}`;
  const atMarkers = spec.frames === 'markers';
  const said = spec.frames === 'all' || atMarkers ? all : spec.frames;
  const now = frameSpan(parseCoverageOr(said, span)) ?? span;
  const type = (frames: string) => change({ ...spec, frames: frames === all ? 'all' : frames });
  const set = (frames: string) => {
    type(frames);
    setPresses(presses + 1);
  };
  return (
    <Box sx={{ display: 'grid', gap: 1.5 }}>
      <Typed
        key={presses}
        label="Frames"
        mono
        value={said}
        help="Ranges as 1-60, single frames as 37, every second frame as 1-59x2, separated by commas."
        refuse={(text) => refusal(() => parseCoverage(text))}
        onSay={(text) => type(text.trim())}
      />
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button variant="outlined" onClick={() => set(range(at, Math.max(at, now.last)))}>
          From {at} on
        </Button>
        <Button variant="outlined" onClick={() => set(range(Math.min(at, now.first), at))}>
          Up to {at}
        </Button>
        <Button disabled={spec.frames === 'all'} onClick={() => set(all)}>
          All
        </Button>
      </Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr auto', gap: 1, alignItems: 'center' }}>
        <Whole label="Every nth frame" value={every} placeholder="5" onSay={setEvery} />
        <Button
          variant="outlined"
          disabled={every === null || every < 1}
          onClick={() => set(printCoverage(parseCoverage(`${now.first}-${now.last}x${every!}`)))}
        >
          Use these
        </Button>
      </Box>
      <MarkedFields source={source} spec={spec} change={change} />
      {isVideo(source) && (
        <Button
          variant="outlined"
          disabled={isLoading}
          onClick={() =>
            void findScenes({ source: source.id }).then((answer) => {
              if ('data' in answer && answer.data) set(answer.data.frames.join(','));
            })
          }
        >
          {isLoading ? 'Looking for scenes' : 'The first frame of each scene'}
        </Button>
      )}
      {error && <ProblemNote problem={error as Problem} />}
    </Box>
  );
}

const range = (first: number, last: number): string => (first === last ? `${first}` : `${first}-${last}`);

function parseCoverageOr(text: string, otherwise: { first: number; last: number }) {
  try {
    return parseCoverage(text);
  } catch {
    return [{ ...otherwise, step: 1 }];
  }
}
