import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { Link } from 'react-router';
import { parseRate, rateFraction, type Problem, type Rate } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useDeclareManyMutation } from '../../../api/api.ts';
import { ProblemNote } from '../../../pieces/Notes.tsx';
import { plural, printCount } from '../../../pieces/words.ts';
import { refusal } from '../videoEditors.tsx';

interface Props {
  control: 'source' | 'rate';
  ids: readonly string[];
  /** The first of them. */
  sources: readonly ListedSource[];
  /** What most of them play at. */
  rate: Rate;
  /** Ids of those without a rate. */
  undeclared: readonly string[];
}

/** What is said of many sources at once: which they are, and at which rate they play. */
export function ManyEditor({ control, ids, sources, rate, undeclared }: Props) {
  if (control === 'rate') return <RateForMany {...{ ids, rate, undeclared }} />;
  const shown = sources.slice(0, 8);
  return (
    <Box sx={{ display: 'grid', gap: 1.5, justifyItems: 'start' }}>
      <Box>
        {shown.map(({ id, folder, name }) => (
          <Typography key={id} className="mono" sx={{ fontSize: 13 }}>
            {folder ? `${folder}/` : ''}
            {name}
          </Typography>
        ))}
        {ids.length > shown.length && (
          <Typography sx={{ fontSize: 13 }}>and {printCount(ids.length - shown.length)} more</Typography>
        )}
      </Box>
      <Button component={Link} to="/intake" variant="outlined">
        Select others on Intake
      </Button>
    </Box>
  );
}

function RateForMany({ ids, rate, undeclared }: Pick<Props, 'ids' | 'rate' | 'undeclared'>) {
  const [text, setText] = useState(rateFraction(rate));
  const [declare, { error, isLoading }] = useDeclareManyMutation();
  const wrong = refusal(() => parseRate(text));
  const say = (sources: readonly string[]) => void declare({ sources: [...sources], set: { rate: parseRate(text) } });
  return (
    <Box sx={{ display: 'grid', gap: 1.5, justifyItems: 'start' }}>
      <TextField
        autoFocus
        label="Rate, frames a second"
        value={text}
        error={wrong !== undefined}
        helperText={wrong ?? 'Such as 24, 23.976 or 30000/1001.'}
        onChange={({ target }) => setText(target.value)}
      />
      <Box sx={{ display: 'flex', gap: 1 }}>
        {undeclared.length > 0 && (
          <Button variant="contained" disabled={wrong !== undefined || isLoading} onClick={() => say(undeclared)}>
            Declare for {printCount(undeclared.length)} without
          </Button>
        )}
        <Button variant="outlined" disabled={wrong !== undefined || isLoading} onClick={() => say(ids)}>
          Declare for all {plural(ids.length, 'source')}
        </Button>
      </Box>
      {error && <ProblemNote problem={error as Problem} />}
    </Box>
  );
}
