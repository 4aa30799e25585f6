import Autocomplete from '@mui/material/Autocomplete';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { batchOf, printSentence, sentenceOfBatch, type Problem, type Spec, type StandingOrder } from '@shale/core';
import type { StandingView } from '@shale/contract';
import {
  useChangeStandingMutation,
  useFoldersQuery,
  useRootsQuery,
  useSetStandingMutation,
  useSpecsQuery,
  useTryStandingMutation,
} from '../api/api.ts';
import { ProblemNote } from '../pieces/Notes.tsx';
import { Segments } from '../pieces/Segments.tsx';
import { Text } from '../pieces/slimFields.tsx';
import { DecisionLine } from './DecisionLine.tsx';
import { anyFits, countWords, kindWords, rateTyped } from './orderWords.ts';

const kinds = ['sequence', 'clip', 'still'] as const;

/** What a form begins with: an order that is changed, or what of one is known. */
export type Begun = Partial<Omit<StandingOrder, 'outputs'>> & { outputs: readonly Spec[] };

interface FormProps {
  begun: Begun;
  /** The order that is changed; a new one is set where none is given. */
  changes?: StandingView;
  onSet: (order: StandingView) => void;
  onClose: () => void;
}

/** A standing order said, tried without running, and set. */
export function OrderForm({ begun, changes, onSet, onClose }: FormProps) {
  const { data: roots = [] } = useRootsQuery();
  const { data: folders = [] } = useFoldersQuery();
  const { data: saved = [] } = useSpecsQuery();
  const [name, setName] = useState(begun.name ?? '');
  const [root, setRoot] = useState(begun.root ?? '');
  const [folder, setFolder] = useState(begun.folder ?? '');
  const [fits, setFits] = useState(begun.fits ?? anyFits);
  const [rate, setRate] = useState(fits.rate ?? '');
  const [outputs, setOutputs] = useState<readonly Spec[]>(begun.outputs);
  const [earlier, setEarlier] = useState<'make' | 'leave'>('make');
  const [set, { error: notSet, isLoading: setting }] = useSetStandingMutation();
  const [change, { error: notChanged, isLoading: changing }] = useChangeStandingMutation();
  const [tryIt, { data: trial, error: notTried, isLoading: trying, reset }] = useTryStandingMutation();
  const typed = rateTyped(rate);
  const rootId = root || (roots[0]?.id ?? '');
  const order: StandingOrder = {
    ...{ version: 1, name: name.trim(), root: rootId, folder: folder.trim().replace(/^\/+|\/+$/g, '') },
    fits: { ...fits, rate: typed ?? null },
    outputs: [...outputs],
  };
  const isSaid = order.name !== '' && outputs.length > 0 && typed !== undefined;
  const error = notSet ?? notChanged ?? notTried;
  /** What was tried is told of what is said now alone. */
  const say =
    <T,>(into: (value: T) => void) =>
    (value: T) => {
      reset();
      into(value);
    };
  const submit = async () => {
    const { id, edition } = changes ?? {};
    const answer =
      id === undefined ? await set({ order, earlier }) : await change({ standing: id, edition: edition!, order });
    if ('data' in answer && answer.data) onSet(answer.data);
  };
  const below = folders.filter((one) => one.root === rootId && one.folder !== '').map((one) => one.folder);
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md" aria-labelledby="order-form">
      <DialogTitle id="order-form">{changes ? 'Change the standing order' : 'Set a standing order'}</DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 1.75, alignContent: 'start' }}>
        <Typography sx={{ fontSize: 14, color: 'text.secondary' }}>
          Converts every source in this folder once it is complete. Only missing or changed results are made; existing
          files are never replaced.
        </Typography>
        <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 200px 1.4fr', gap: 1.5, pt: 1 }}>
          <Text label="Name" value={name} placeholder="Renders of the lines" onSay={say(setName)} />
          <TextField
            select
            label="Root"
            value={rootId}
            onChange={({ target }) => say(setRoot)(target.value)}
            sx={{ '& .MuiInputBase-input': { py: '6px', fontSize: 13.5 } }}
          >
            {roots.map(({ id, name: rootName }) => (
              <MenuItem key={id} value={id}>
                {rootName}
              </MenuItem>
            ))}
          </TextField>
          <Autocomplete
            freeSolo
            options={below}
            inputValue={folder}
            onInputChange={(_, value, why) => {
              if (why !== 'reset') say(setFolder)(value);
            }}
            renderInput={(field) => (
              <TextField
                {...field}
                label="Folder and everything below"
                placeholder="the whole root"
                sx={{
                  '& .MuiInputBase-root': { p: '0 !important' },
                  '& .MuiInputBase-input': { p: '6px 14px !important', fontSize: 13.5 },
                }}
                slotProps={{
                  ...field.slotProps,
                  htmlInput: { ...field.slotProps.htmlInput, className: 'mono', spellCheck: false },
                  inputLabel: { ...field.slotProps.inputLabel, shrink: true },
                }}
              />
            )}
          />
        </Box>
        <Box
          role="group"
          aria-label="Matching sources"
          sx={{ display: 'flex', flexWrap: 'wrap', alignItems: 'center' }}
        >
          {kinds.map((kind) => (
            <FormControlLabel
              key={kind}
              control={
                <Checkbox
                  size="small"
                  checked={fits.kinds.length === 0 || fits.kinds.includes(kind)}
                  onChange={(_, on) => {
                    const now = fits.kinds.length === 0 ? kinds : fits.kinds;
                    const next = kinds.filter((one) => (one === kind ? on : now.includes(one)));
                    say(setFits)({ ...fits, kinds: next.length === kinds.length ? [] : next });
                  }}
                />
              }
              label={kindWords[kind]}
            />
          ))}
          <FormControlLabel
            control={
              <Checkbox
                size="small"
                checked={fits.gaps === 'take'}
                onChange={(_, on) => say(setFits)({ ...fits, gaps: on ? 'take' : 'wait' })}
              />
            }
            label="including gaps"
          />
        </Box>
        <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr 1fr', gap: 1.5 }}>
          <Text
            label="Named"
            mono
            value={fits.name}
            placeholder="line_*.exr; any name"
            onSay={(text) => say(setFits)({ ...fits, name: text })}
          />
          <Text
            label="Rate"
            mono
            value={rate}
            placeholder="24; any rate"
            error={typed === undefined}
            onSay={say(setRate)}
          />
          <Text
            label="Required frames"
            mono
            value={fits.frames}
            placeholder="1-48; any frames"
            onSay={(text) => say(setFits)({ ...fits, frames: text.trim() })}
          />
        </Box>
        <Outputs {...{ outputs, saved }} onSay={say(setOutputs)} />
        {!changes && (
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5 }}>
            <Typography sx={{ fontSize: 14 }}>Existing sources are</Typography>
            <Segments
              label="Existing sources"
              value={earlier}
              options={[
                ['make', 'converted too'],
                ['leave', 'left until they change'],
              ]}
              onChoose={setEarlier}
            />
          </Box>
        )}
        {error && <ProblemNote problem={error as Problem} />}
        {trial && (
          <Box role="status" aria-label="What it would do now">
            <Typography sx={{ fontWeight: 600, mb: 0.5 }}>Now: {countWords(trial, 'would be made')}</Typography>
            <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0, maxHeight: 190, overflowY: 'auto' }}>
              {trial.decisions.map((one) => (
                <DecisionLine key={one.source?.id ?? one.words} decision={one} />
              ))}
            </Box>
          </Box>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          variant="outlined"
          disabled={!isSaid || trying}
          onClick={() => void tryIt({ order, ...(changes ? { changes: changes.id } : {}) })}
        >
          Test without running
        </Button>
        <Button variant="contained" disabled={!isSaid || setting || changing} onClick={() => void submit()}>
          {changes ? 'Change it' : 'Set it'}
        </Button>
      </DialogActions>
    </Dialog>
  );
}

/** What is made of each source: as it was said on Convert, or saved specs. */
function Outputs({
  outputs,
  saved,
  onSay,
}: {
  outputs: readonly Spec[];
  saved: readonly { id: number; name: string; version: number; spec: Spec }[];
  onSay: (outputs: readonly Spec[]) => void;
}) {
  const text = (spec: Spec) => JSON.stringify(spec);
  const others = saved.filter(({ spec }) => !outputs.some((one) => text(one) === text(spec)));
  return (
    <Box role="group" aria-label="What is made" sx={{ display: 'grid', gap: 0.75 }}>
      {outputs.map((spec, at) => (
        <Box key={at} sx={{ display: 'flex', gap: 1.5, alignItems: 'start' }}>
          <Typography sx={{ fontSize: 14, flex: 1, minWidth: 0 }}>
            {saved.find((one) => text(one.spec) === text(spec))?.name ?? ''}{' '}
            {printSentence(sentenceOfBatch(batchOf(spec), 'each source'))}
          </Typography>
          <Button size="small" onClick={() => onSay(outputs.filter((_, place) => place !== at))}>
            Leave out
          </Button>
        </Box>
      ))}
      {others.length > 0 && (
        <TextField
          select
          size="small"
          value=""
          onChange={({ target }) => {
            const one = others.find(({ id }) => String(id) === target.value);
            if (one) onSay([...outputs, one.spec]);
          }}
          slotProps={{ select: { displayEmpty: true }, htmlInput: { 'aria-label': 'Add a saved spec' } }}
          sx={{ maxWidth: 320, '& .MuiInputBase-input': { py: '6px', fontSize: 13.5 } }}
        >
          <MenuItem value="">{outputs.length === 0 ? 'What is made: a saved spec' : 'Another saved spec'}</MenuItem>
          {others.map(({ id, name, version }) => (
            <MenuItem key={id} value={String(id)}>
              {name}, version {version}
            </MenuItem>
          ))}
        </TextField>
      )}
      {outputs.length === 0 && others.length === 0 && (
        <Typography sx={{ fontSize: 14 }}>
          Nothing is set up to be made. Select sources on Intake, set up the conversion on Convert, and press Keep doing
          this; or save a spec first.
        </Typography>
      )}
    </Box>
  );
}
