import Typography from '@mui/material/Typography';
import type { Problem } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { takenVersion, useFrameFactsQuery } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { FactList } from '../../pieces/FactList.tsx';
import { ProblemNote } from '../../pieces/Notes.tsx';
import { State } from '../../pieces/State.tsx';
import { printBytes } from '../../pieces/words.ts';
import { isThere } from '../../stage/frames.ts';
import { useStageFrame } from '../../stage/useStageFrame.ts';
import { useAppSelector } from '../../state/store.ts';
import { useRested } from '../../pieces/useRested.ts';
import { factRows } from './FactsCard.tsx';

/** The file of the frame that the stage stands at, and what of it is not as in the rest of its source. */
export function FrameCard({ source }: { source: ListedSource }) {
  const playing = useAppSelector(({ stage }) => stage.playing);
  const frame = useRested(useStageFrame(source), 120);
  const there = isThere(source, frame);
  const asked = { source: source.id, frame, version: takenVersion(source) };
  const { data, error } = useFrameFactsQuery(asked, { skip: !there || playing });
  if (!there) return null;
  if (error) return <ProblemNote problem={error as Problem} />;
  const usual = new Map(source.facts ? factRows(source.facts) : []);
  const rows = data?.facts ? factRows(data.facts) : [];
  const unlike = rows.filter(([label, text]) => label !== 'Timecode' && usual.has(label) && usual.get(label) !== text);
  return (
    <Card title="This frame's file" sx={{ minHeight: 190 }}>
      {data && (
        <>
          <FactList
            rows={[
              ['Name', data.name],
              ['On disk', printBytes(data.bytes)],
              [
                'Changed',
                new Date(data.modified).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'medium' }),
              ],
              ...rows,
            ]}
          />
          {unlike.length > 0 && (
            <State severity="doubt">
              Different from the rest of its source: {unlike.map(([label]) => label.toLowerCase()).join(', ')}
            </State>
          )}
          {data.problem && <ProblemNote problem={data.problem} />}
        </>
      )}
      {!data && <Typography sx={{ color: 'text.secondary' }}>Reading its header.</Typography>}
    </Card>
  );
}
