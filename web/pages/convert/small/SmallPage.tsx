import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import visuallyHidden from '@mui/utils/visuallyHidden';
import { useEffect } from 'react';
import { Link } from 'react-router';
import {
  besideName,
  isAnimationFormat,
  smallSentence,
  startingPoints,
  writtenAs,
  type Plan,
  type Problem,
  type Spec,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useRootsQuery, useStartingSpecQuery } from '../../../api/api.ts';
import { EmptyPage, Loading, ProblemNote } from '../../../pieces/Notes.tsx';
import { Sentence } from '../../../sentence/Sentence.tsx';
import { useChosen } from '../../useChosen.ts';
import { editorFor } from '../editors.tsx';
import { usePlanned, useSpec } from '../useConvert.ts';
import { smallEditorFor } from './editors.tsx';
import { SmallLook } from './SmallLook.tsx';
import { SmallTries } from './SmallTries.tsx';
import { useSmall } from './useSmall.ts';

const toIntake = (
  <Button component={Link} to="/intake" variant="contained">
    Go to Intake
  </Button>
);

/** A small moving picture as it will be: its bytes, its edges, and every try of the search within its limit. */
export function SmallPage() {
  const { id, data: source, error } = useChosen();
  const { data: start, error: startError } = useStartingSpecQuery(id ?? '', { skip: !id });
  if (!id)
    return (
      <EmptyPage title="Nothing to make small yet" action={toIntake}>
        Choose a source on Intake: make it a loop or a sticker within a size limit.
      </EmptyPage>
    );
  if (error ?? startError)
    return <Box sx={{ p: 3 }}>{<ProblemNote problem={(error ?? startError) as Problem} action={toIntake} />}</Box>;
  if (!source || !start) return <Loading what="Reading the source" />;
  return <Small key={source.id} source={source} start={start} />;
}

function Small({ source, start }: { source: ListedSource; start: Spec }) {
  const wanted = useSpec(source, start);
  const { spec, change } = wanted;
  const isSmall = isAnimationFormat(spec.write.format);
  useEffect(() => {
    if (!isSmall) change(startingPoints.small.of(spec));
    // oxlint-disable-next-line react/exhaustive-deps -- once, where something else was wanted before
  }, [isSmall]);
  const planned = usePlanned(source, spec, { measures: false });
  const { plan, error } = planned;
  if (plan && isSmall && isAnimationFormat(plan.spec.write.format))
    return <Planned {...{ source, planned, plan, ...wanted }} />;
  if (!error) return <Loading what="Working out the plan" />;
  return (
    <Box sx={{ p: 3 }}>
      <ProblemNote problem={error} action={<Button onClick={() => change(start)}>Start over</Button>} />
    </Box>
  );
}

interface PlannedProps extends ReturnType<typeof useSpec> {
  source: ListedSource;
  plan: Plan;
  planned: ReturnType<typeof usePlanned>;
}

function Planned({ source, spec, change, changeFormat, plan, planned }: PlannedProps) {
  const { data: roots = [] } = useRootsQuery();
  const small = useSmall(source, { spec, change }, plan, planned);
  const { search, one, meant, breaches, counter, handing } = small;
  const receiver = meant.receiver && { name: meant.receiver.name, trips: breaches.length > 0 };
  return (
    <Box
      sx={{
        ...{ display: 'grid', gap: 2.5, height: { xs: 'auto', md: '100%' } },
        gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(320px, 470px) minmax(0, 1fr)' },
        ...{ p: '16px 24px 14px', minHeight: 0 },
      }}
    >
      <SmallLook plan={plan} small={small} />
      <Box sx={{ display: 'grid', gridTemplateRows: 'auto minmax(0, 1fr) auto', rowGap: 1.5, minHeight: 0 }}>
        <Box>
          <Typography variant="h1" sx={visuallyHidden}>
            Small moving picture of {source.name}
          </Typography>
          <Sentence
            size={19}
            tell={() => smallSentence(plan, receiver)}
            editor={(control, close) =>
              smallEditorFor(control, { spec, change, changeFormat }) ??
              editorFor(control, { source, plan, spec, roots, change, changeFormat, close })
            }
          />
        </Box>
        <SmallTries {...{ source, spec, change, plan, planned, small }} />
        <Box sx={{ display: 'flex', gap: 1, justifyContent: 'flex-end', alignItems: 'center', flexWrap: 'wrap' }}>
          <Typography sx={{ fontSize: 13, color: 'text.secondary', mr: 'auto' }} className="mono">
            {[plan.into.root, plan.into.folder, writtenAs(plan.into)].filter(Boolean).join('/')}
            {besideName(plan) !== undefined && ` and ${besideName(plan)}`}
          </Typography>
          <Button component={Link} to={`/convert/${source.id}`} variant="outlined" size="large">
            All of Convert
          </Button>
          {counter && (
            <Button
              variant="outlined"
              size="large"
              disabled={!one || !search.isCurrent || handing.isHanding}
              onClick={handing.hand}
            >
              Hand to the upload desk
            </Button>
          )}
          <Button
            variant="contained"
            size="large"
            disabled={!planned.mayRun || !one || !search.isCurrent || small.isOver}
            onClick={() => void planned.run({ ...spec, video: { ...spec.video, given: one!.given } })}
          >
            Keep this one
          </Button>
        </Box>
      </Box>
    </Box>
  );
}
