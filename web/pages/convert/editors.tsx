import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import {
  endingOf,
  fileName,
  formatRules,
  formatSchema,
  isVideoFormat,
  nameValues,
  parseTemplate,
  printCoverage,
  printPattern,
  sampleWords,
  templatePattern,
  primariesSchema,
  primariesWords,
  transferSchema,
  transferWords,
  type Control,
  type Format,
  type Plan,
  type Spec,
} from '@shale/core';
import type { ListedSource, Root } from '@shale/contract';
import { OneOf, Typed } from '../../sentence/fields.tsx';
import { ReceiverChoice } from '../../names/ReceiverCard.tsx';
import { ColourField } from '../../pieces/numberFields.tsx';
import { Choice } from '../../pieces/slimFields.tsx';
import { CompressionFields } from '../../pieces/CompressionFields.tsx';
import { DeclarationCard } from '../../pieces/declaration/DeclarationCard.tsx';
import { ClipEditor, DamagedEditor, MissingEditor, refusal, SoundEditor, VideoEditor } from './videoEditors.tsx';
import { BurnEditor } from './BurnEditor.tsx';
import { ChannelsEditor } from './ChannelsEditor.tsx';
import { FramesEditor } from './FramesEditor.tsx';
import { ShotsEditor } from './ShotsEditor.tsx';
import { TimeEditor } from './time/TimeEditor.tsx';

interface Editing {
  source: ListedSource;
  plan: Plan;
  spec: Spec;
  roots: Root[];
  change: (spec: Spec) => void;
  /** Another format, with what was wanted before one that was tried could not hold it. */
  changeFormat: (format: Format) => void;
  close: () => void;
}

/** What opens under a pressed part of the sentence. */
export function editorFor(control: Control, editing: Editing): ReactNode {
  const { source } = editing;
  switch (control) {
    case 'source':
      return (
        <Box>
          <Typography sx={{ mb: 1.5 }}>{source.folder || 'the root itself'}</Typography>
          <Button component={Link} to="/intake" variant="outlined">
            Choose another on Intake
          </Button>
          {source.kind !== 'still' && (
            <Box sx={{ mt: 2.5 }}>
              <ShotsEditor {...editing} />
            </Box>
          )}
        </Box>
      );
    case 'shots':
      return <ShotsEditor {...editing} />;
    case 'time':
      return <TimeEditor {...editing} />;
    case 'burn':
      return <BurnEditor {...editing} />;
    case 'rate':
    case 'alpha':
    case 'transfer':
      return <DeclarationCard source={source} />;
    case 'frames':
      return <FramesEditor {...editing} />;
    case 'missing':
      return <MissingEditor {...editing} />;
    case 'damaged':
      return <DamagedEditor {...editing} />;
    case 'clip':
      return <ClipEditor {...editing} />;
    case 'video':
      return <VideoEditor {...editing} />;
    case 'sound':
      return <SoundEditor {...editing} />;
    case 'mixed':
      return <MixedEditor {...editing} />;
    case 'format':
      return <FormatEditor {...editing} />;
    case 'alphaOut':
      return <AlphaOutEditor {...editing} />;
    case 'name':
      return <NameEditor {...editing} />;
    case 'first':
      return <FirstEditor {...editing} />;
    // These are of a small moving picture, whose page has editors of its own.
    case 'size':
    case 'limit':
    case 'gives':
    case 'edge':
    case 'plays':
      return null;
    case 'receiver':
      return <ReceiverChoice meant={{ source: source.id }} />;
    case 'picture':
      return undefined;
    case 'into':
    case 'existing':
      return <IntoEditor {...editing} />;
  }
}

function MixedEditor({ spec, change, plan }: Editing) {
  const frames = printCoverage(plan.differing);
  return (
    <Box sx={{ display: 'grid', gap: 1.5 }}>
      <OneOf
        label="If a picture differs from the others"
        value={spec.mixed}
        options={[
          { value: 'stop', words: 'Stop', note: 'Nothing is written until all match.' },
          { value: 'fit', words: 'Fit', note: 'Scaled to fit, centred, with the same channels.' },
          { value: 'leave-out', words: 'Leave it out', note: 'Its number stays unused in the result.' },
        ]}
        onChoose={(mixed) => change({ ...spec, mixed })}
      />
      <Button variant="outlined" onClick={() => change({ ...spec, frames, mixed: 'fit' })}>
        Only frames {frames.length > 24 ? 'that differ' : frames}
      </Button>
    </Box>
  );
}

function FormatEditor({ source, spec, change, changeFormat }: Editing) {
  const { write } = spec;
  const set = (part: Partial<Spec['write']>) => change({ ...spec, write: { ...write, ...part } });
  return (
    <Box sx={{ display: 'grid', gap: 2, pt: 0.75 }}>
      <Choice
        label="Format"
        value={write.format}
        options={formatSchema.options.map((format) => [format, formatRules[format].words])}
        onSay={changeFormat}
      />
      <Choice
        label="Depth"
        value={write.sample}
        options={formatRules[write.format].samples.map((sample) => [sample, sampleWords(sample)])}
        onSay={(sample) => set({ sample })}
      />
      <CompressionFields write={write} set={set} />
      {((write.format === 'exr' && source.facts?.format === 'exr') || spec.channels.length > 0) && (
        <ChannelsEditor {...{ source, spec, change }} />
      )}
    </Box>
  );
}

function AlphaOutEditor({ spec, change, source }: Editing) {
  const { write } = spec;
  const rules = formatRules[write.format];
  const set = (part: Partial<Spec['write']>) => change({ ...spec, write: { ...write, ...part } });
  return (
    <Box sx={{ display: 'grid', gap: 2 }}>
      <OneOf
        label="Alpha"
        value={write.alpha}
        options={[
          {
            value: 'straight',
            words: 'Straight',
            note: rules.alphaRule === 'straight' ? `As ${rules.words} defines it.` : undefined,
            disabled: !rules.alpha,
          },
          {
            value: 'premultiplied',
            words: 'Premultiplied on black',
            note: rules.alphaRule === 'premultiplied' ? `As ${rules.words} defines it.` : undefined,
            disabled: !rules.alpha,
          },
          {
            value: 'none',
            words: 'No alpha',
            note: source.facts?.hasAlpha ? 'The picture is laid over black or a chosen colour.' : undefined,
          },
          { value: 'matte', words: 'Alpha alone', note: 'As a grey picture.' },
        ]}
        onChoose={(alpha) => set({ alpha })}
      />
      {write.alpha === 'premultiplied' && (
        <Choice
          label="Transparent parts over"
          value={write.matte ? 'colour' : 'black'}
          options={[
            ['black', 'black'],
            ['colour', 'of a colour'],
          ]}
          onSay={(one) => set({ matte: one === 'colour' ? [1, 1, 1] : null })}
        />
      )}
      {write.alpha === 'premultiplied' && write.matte && (
        <ColourField label="Background colour" value={write.matte} onSay={(matte) => set({ matte })} />
      )}
      <Choice
        label="Transfer"
        value={write.transfer}
        options={transferSchema.options.map((one) => [one, transferWords[one]])}
        onSay={(transfer) => set({ transfer })}
      />
      <Choice
        label="Primaries"
        value={write.primaries ?? ''}
        options={[
          ['', "as the source's"],
          ...primariesSchema.options.map((one) => [one, primariesWords[one]] as const),
        ]}
        onSay={(primaries) => set({ primaries: primaries === '' ? null : primaries })}
      />
    </Box>
  );
}

function NameEditor({ spec, change, plan, source }: Editing) {
  const { names, video } = spec;
  const writesVideo = isVideoFormat(spec.write.format);
  const known = { ...nameValues(source, source.declaration, plan.rate), ext: endingOf(spec), tail: '' };
  const stem = plan.into.stem;
  const template = writesVideo ? video.name : names.template;
  const atMarkers = spec.frames === 'markers' && !writesVideo;
  const tryName = (text: string, as: string) =>
    refusal(() =>
      atMarkers ? parseTemplate(text) : (writesVideo ? fileName : templatePattern)(text, { ...known, stem: as }),
    );
  return (
    <Box sx={{ display: 'grid', gap: 1 }}>
      <Typed
        label="Stem"
        mono
        value={stem}
        help={writesVideo ? 'The text for {stem}.' : 'The text before the number.'}
        refuse={(text) => (text.trim() === '' ? 'A name needs a stem.' : tryName(template, text.trim()))}
        onSay={(text) => change({ ...spec, names: { ...names, stem: text.trim() } })}
      />
      <Typed
        label="Template"
        mono
        value={template}
        help={
          writesVideo
            ? '{stem}, {ext}, {version:2}, {rate}, {width}, {folder}.'
            : atMarkers
              ? '{marker}, {note}, {number:2}, {frame:4}, {stem}, {ext}; nothing else is added.'
              : '{stem}, {frame:4} for four digits or more, {ext}, {version:2}, {rate}, {width}, {folder}; #### works too.'
        }
        refuse={(text) => tryName(text, stem)}
        onSay={(text) =>
          change(
            writesVideo
              ? { ...spec, video: { ...video, name: text } }
              : { ...spec, names: { ...names, template: text } },
          )
        }
      />
      {plan.into.kind === 'sequence' && (
        <Typography sx={{ fontSize: 13, color: 'text.secondary' }}>
          Gives <span className="mono">{printPattern(plan.into.pattern)}</span>
        </Typography>
      )}
    </Box>
  );
}

function FirstEditor({ spec, change, plan }: Editing) {
  const { names } = spec;
  return (
    <Box>
      <Typed
        label="First number"
        mono
        value={String(plan.runs[0]?.to ?? 0)}
        help={names.closeUp ? 'The others follow in order.' : 'The others follow; gaps are kept.'}
        refuse={(text) => (/^\d{1,8}$/.test(text.trim()) ? undefined : 'A whole number, 0 or more.')}
        onSay={(text) => change({ ...spec, names: { ...spec.names, first: Number(text) } })}
      />
      <Button
        sx={{ mt: 1 }}
        disabled={spec.names.first === null}
        onClick={() => change({ ...spec, names: { ...spec.names, first: null } })}
      >
        Keep the source's numbers
      </Button>
      <FormControlLabel
        control={
          <Checkbox
            size="small"
            checked={names.closeUp}
            onChange={(_, closeUp) => change({ ...spec, names: { ...names, closeUp } })}
          />
        }
        label="Number without gaps"
      />
    </Box>
  );
}

function IntoEditor({ spec, change, plan, roots }: Editing) {
  const { into } = spec;
  return (
    <Box sx={{ display: 'grid', gap: 2 }}>
      <TextField
        select
        fullWidth
        label="Root"
        value={into.root}
        onChange={({ target }) => change({ ...spec, into: { ...into, root: target.value } })}
      >
        {roots
          .filter(({ writable }) => writable)
          .map(({ id, name }) => (
            <MenuItem key={id} value={id}>
              {name}
            </MenuItem>
          ))}
      </TextField>
      <Typed
        label="Folder"
        mono
        value={into.folder ?? plan.into.folder}
        help="Inside the root; created if missing. Fields such as {stem}_{rate}fps are filled in."
        onSay={(folder) => change({ ...spec, into: { ...into, folder: folder.trim() } })}
      />
      <OneOf
        label="If a name exists"
        value={spec.existing}
        options={[
          { value: 'refuse', words: 'Refuse to run', note: 'Existing files stay untouched.' },
          { value: 'replace', words: 'Replace the file', note: 'This cannot be undone.' },
        ]}
        onChoose={(existing) => change({ ...spec, existing })}
      />
    </Box>
  );
}
