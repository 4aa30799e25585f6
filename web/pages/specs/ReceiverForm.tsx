import Box from '@mui/material/Box';
import FormControlLabel from '@mui/material/FormControlLabel';
import Switch from '@mui/material/Switch';
import Typography from '@mui/material/Typography';
import { useState, type ReactNode } from 'react';
import {
  alphaWords,
  declaredTransferSchema,
  formatWords,
  parseRate,
  printRate,
  receiverSchema,
  sampleSchema,
  sampleWords,
  separatorWords,
  ShaleError,
  stills,
  transferWords,
  type Problem,
  type Receiver,
} from '@shale/core';
import { EditForm } from './EditForm.tsx';
import { Choice, Pair, Several, Text, Whole } from '../../pieces/slimFields.tsx';

/** Formats of still pictures by their ids. */
const formats = Object.keys(stills);
const any = 'any';
const mebi = 1 << 20;

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Box
      component="fieldset"
      sx={{ border: 0, p: 0, m: 0, display: 'grid', gap: 1.5, minWidth: 0, alignContent: 'start' }}
    >
      <Typography component="legend" variant="h2" sx={{ mb: 1.25, p: 0 }}>
        {title}
      </Typography>
      {children}
    </Box>
  );
}

interface Props {
  receiver: Receiver;
  onSave: (receiver: Receiver) => Promise<boolean>;
  onLeave: () => void;
  problem?: Problem;
}

/** Every rule of a receiver as a field; one that is left empty asks for nothing. */
export function ReceiverForm({ receiver, onSave, onLeave, problem }: Props) {
  const [draft, setDraft] = useState(receiver);
  const [rates, setRates] = useState(
    (receiver.rates ?? []).map((rate) => printRate(rate).replace(' fps', '')).join(', '),
  );
  const set = (part: Partial<Receiver>) => setDraft({ ...draft, ...part });
  const yes = (label: string, field: 'unbroken' | 'alone' | 'byName') => (
    <FormControlLabel
      sx={{ ml: 0, gap: 1 }}
      control={<Switch size="small" checked={draft[field]} onChange={(_, on) => set({ [field]: on })} />}
      label={<span style={{ fontSize: 13.5 }}>{label}</span>}
    />
  );
  const save = () => {
    const said = rates
      .split(',')
      .map((text) => text.trim())
      .filter(Boolean)
      .map(parseRate);
    const parsed = receiverSchema.safeParse({ ...draft, rates: said.length > 0 ? said : null });
    if (parsed.success) return onSave(parsed.data);
    const [issue] = parsed.error.issues;
    throw new ShaleError({
      code: 'bad-receiver',
      fact: `The field "${issue!.path.join('.')}" does not fit: ${issue!.message}.`,
      wayOut: 'Correct it.',
    });
  };
  return (
    <EditForm label="Rules of the receiver" onSave={save} onLeave={onLeave} problem={problem}>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(2, minmax(0, 1fr))', gap: 4 }}>
        <Part title="Names">
          <Text label="Called" value={draft.name} onSay={(name) => set({ name })} />
          <Text label="What it stands for" value={draft.about} onSay={(about) => set({ about })} />
          <Pair>
            <Choice
              label="Characters"
              value={draft.characters}
              options={[
                ['any', 'any'],
                ['ascii', 'plain ASCII'],
                ['plain', 'letters and digits'],
              ]}
              onSay={(characters) => set({ characters })}
            />
            <Text
              label="Allowed beside letters"
              mono
              value={draft.keep}
              placeholder="nothing"
              onSay={(keep) => set({ keep })}
            />
          </Pair>
          <Pair>
            <Choice
              label="Before the number"
              value={draft.separator ?? any}
              options={[
                [any, 'any'],
                ...(['.', '_', '-', ' ', ''] as const).map((one) => [one, separatorWords(one)] as const),
              ]}
              onSay={(separator) => set({ separator: separator === any ? null : separator })}
            />
            <Choice
              label="Letters"
              value={draft.letters ?? any}
              options={[
                [any, 'small or capital'],
                ['lower', 'small'],
                ['upper', 'capital'],
              ]}
              onSay={(letters) => set({ letters: letters === any ? null : letters })}
            />
          </Pair>
          <Pair>
            <Whole label="Digits, exactly" value={draft.digits} placeholder="any" onSay={(digits) => set({ digits })} />
            <Whole label="First number" value={draft.first} placeholder="any" onSay={(first) => set({ first })} />
          </Pair>
          <Pair>
            <Whole
              label="Characters of a name"
              value={draft.nameLength}
              placeholder="any"
              onSay={(nameLength) => set({ nameLength })}
            />
            <Whole
              label="Characters of a path"
              value={draft.pathLength}
              placeholder="any"
              onSay={(pathLength) => set({ pathLength })}
            />
          </Pair>
          {yes('No number may be missing', 'unbroken')}
          {yes('Plays files in the order of their names', 'byName')}
          {yes('Takes every picture of the folder', 'alone')}
        </Part>
        <Part title="Pictures and time">
          <Several
            label="Formats"
            value={draft.formats}
            options={formats.map((id) => [id, formatWords(id)] as const)}
            onSay={(said) => set({ formats: said })}
          />
          <Several
            label="Depths"
            value={draft.samples}
            options={sampleSchema.options.map((sample) => [sample, sampleWords(sample)] as const)}
            onSay={(samples) => set({ samples })}
          />
          <Several
            label="Alpha"
            value={draft.alpha}
            options={(['none', 'straight', 'premultiplied'] as const).map((kind) => [kind, alphaWords[kind]] as const)}
            onSay={(alpha) => set({ alpha })}
          />
          <Several
            label="Transfers"
            value={draft.transfers}
            options={declaredTransferSchema.options.map((one) => [one, transferWords[one]] as const)}
            onSay={(transfers) => set({ transfers })}
          />
          <Pair>
            <Whole
              label="Pixels across, at most"
              value={draft.maxWidth}
              placeholder="any"
              onSay={(maxWidth) => set({ maxWidth })}
            />
            <Whole
              label="Pixels down, at most"
              value={draft.maxHeight}
              placeholder="any"
              onSay={(maxHeight) => set({ maxHeight })}
            />
          </Pair>
          <Pair>
            <Whole
              label="Sides are multiples of"
              value={draft.multipleOf}
              placeholder="any"
              onSay={(multipleOf) => set({ multipleOf })}
            />
            <Text label="Rates" mono value={rates} placeholder="any, as 24, 23.976" onSay={setRates} />
          </Pair>
          <Pair>
            <Whole
              label="MiB of a frame, at most"
              value={draft.frameBytes === null ? null : Math.round(draft.frameBytes / mebi)}
              placeholder="any"
              onSay={(size) => set({ frameBytes: size === null || size === 0 ? null : size * mebi })}
            />
            <Whole
              label="MiB of all, at most"
              value={draft.totalBytes === null ? null : Math.round(draft.totalBytes / mebi)}
              placeholder="any"
              onSay={(size) => set({ totalBytes: size === null || size === 0 ? null : size * mebi })}
            />
          </Pair>
        </Part>
      </Box>
    </EditForm>
  );
}
