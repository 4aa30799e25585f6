import Box from '@mui/material/Box';
import { useState } from 'react';
import {
  alphaOutSchema,
  alphaOutWords,
  formatRules,
  formatSchema,
  damagedPolicySchema,
  damagedWords,
  missingPolicySchema,
  missingWords,
  parseSpec,
  parseTemplate,
  sampleWords,
  primariesSchema,
  primariesWords,
  transferSchema,
  transferWords,
  withFormat,
  type Problem,
  type Spec,
} from '@shale/core';
import { CompressionFields } from '../../pieces/CompressionFields.tsx';
import { EditForm } from './EditForm.tsx';
import { Choice, Pair, Text, Whole } from '../../pieces/slimFields.tsx';

interface Props {
  spec: Spec;
  onSave: (spec: Spec) => Promise<boolean>;
  onLeave: () => void;
  problem?: Problem;
}

const words = <T extends string>(options: readonly T[], say: (option: T) => string) =>
  options.map((option) => [option, say(option)] as const);

/** A saved spec, field by field; without a source there is no sentence to press. */
export function SpecForm({ spec, onSave, onLeave, problem }: Props) {
  const [draft, setDraft] = useState(spec);
  const { write, names, into } = draft;
  const set = (part: Partial<Spec>) => setDraft({ ...draft, ...part });
  const setWrite = (part: Partial<Spec['write']>) => set({ write: { ...write, ...part } });
  const setNames = (part: Partial<Spec['names']>) => set({ names: { ...names, ...part } });
  const rules = formatRules[write.format];
  const save = () => {
    parseTemplate(draft.names.template);
    return onSave(parseSpec(draft));
  };
  return (
    <EditForm label="Fields of the spec" onSave={save} onLeave={onLeave} problem={problem}>
      <Box sx={{ display: 'grid', gap: 1.75, maxWidth: 620 }}>
        <Pair>
          <Choice
            label="Format"
            value={write.format}
            options={words(formatSchema.options, (one) => formatRules[one].words)}
            onSay={(format) => setDraft(withFormat(draft, format))}
          />
          <Choice
            label="Depth"
            value={write.sample}
            options={words(rules.samples, sampleWords)}
            onSay={(sample) => setWrite({ sample })}
          />
        </Pair>
        <Pair>
          <Choice
            label="Alpha"
            value={write.alpha}
            options={words(
              alphaOutSchema.options.filter((kind) => kind === 'none' || kind === 'matte' || rules.alpha),
              (one) => alphaOutWords[one],
            )}
            onSay={(alpha) => setWrite({ alpha })}
          />
          <Choice
            label="Transfer"
            value={write.transfer}
            options={words(transferSchema.options, (one) => transferWords[one])}
            onSay={(transfer) => setWrite({ transfer })}
          />
        </Pair>
        <Pair>
          <Choice
            label="Primaries"
            value={write.primaries ?? ''}
            options={[['', "the source's"], ...words(primariesSchema.options, (one) => primariesWords[one])]}
            onSay={(primaries) => setWrite({ primaries: primaries === '' ? null : primaries })}
          />
          <Choice
            label="If a frame is missing"
            value={draft.missing}
            options={words(missingPolicySchema.options, (one) => missingWords[one])}
            onSay={(missing) => set({ missing })}
          />
        </Pair>
        <Choice
          label="If a frame is damaged"
          value={draft.damaged}
          options={words(damagedPolicySchema.options, (one) => damagedWords[one])}
          onSay={(damaged) => set({ damaged })}
        />
        <CompressionFields write={write} set={setWrite} />
        <Pair>
          <Text label="Names" mono value={names.template} onSay={(template) => setNames({ template })} />
          <Text
            label="Stem"
            mono
            value={names.stem ?? ''}
            placeholder="the source's"
            onSay={(stem) => setNames({ stem: stem === '' ? null : stem })}
          />
        </Pair>
        <Pair>
          <Whole
            label="First number"
            value={names.first}
            placeholder="the source's"
            onSay={(first) => setNames({ first })}
          />
          <Text label="Frames" mono value={draft.frames} onSay={(frames) => set({ frames })} />
        </Pair>
        <Pair>
          <Text
            label="Folder"
            mono
            value={into.folder ?? ''}
            placeholder="the stem"
            onSay={(folder) => set({ into: { ...into, folder: folder === '' ? null : folder } })}
          />
          <Choice
            label="Names that exist"
            value={draft.existing}
            options={[
              ['refuse', 'stop the run'],
              ['replace', 'are replaced'],
            ]}
            onSay={(existing) => set({ existing })}
          />
        </Pair>
      </Box>
    </EditForm>
  );
}
