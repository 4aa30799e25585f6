import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import { useState } from 'react';
import { formOf as howAsked, type Field, type FieldForm, type Floor } from '@shale/core';
import { Decimal } from './numberFields.tsx';
import { Choice, Several, Text, Whole } from './slimFields.tsx';

type FormOf<K extends FieldForm['kind']> = Extract<FieldForm, { kind: K }>;

interface Props<At> {
  field: Field<Field['schema'], At>;
  /** What the form knows beside the value. */
  at: At;
  value: unknown;
  /** Whether what was said before is wrong for a reason that the schema does not know. */
  error?: boolean;
  /** Told of what fits the field's schema, and of nothing else. */
  onSay: (value: unknown) => void;
  /** Told why a text cannot be read, and that it can be again: what was said before is still held then. */
  onFault?: (fault: unknown) => void;
}

/** One value, asked for as the record of its field says; nothing where the field does not apply. */
export function RecordField<At>({ field, at, value, error, onSay, onFault }: Props<At>) {
  const { applies, schema } = field;
  if (applies && !applies(at)) return null;
  const label = typeof field.label === 'function' ? field.label(at) : field.label;
  const form = howAsked(field, at);
  const say = (said: unknown) => {
    const read = schema.safeParse(said);
    if (read.success) onSay(read.data);
  };
  switch (form.kind) {
    case 'choice':
      return <OneOfWords {...{ label, form, value, say }} />;
    case 'several':
      return (
        <Several label={label} value={value as string[] | null} options={Object.entries(form.words)} onSay={say} />
      );
    case 'switch':
      return (
        <Choice
          label={label}
          value={value ? 'on' : 'off'}
          options={[
            ['on', form.on],
            ['off', form.off],
          ]}
          onSay={(said) => say(said === 'on')}
        />
      );
    case 'mark':
      return (
        <FormControlLabel
          sx={{ my: '-6px' }}
          control={<Checkbox size="small" checked={value === true} onChange={(_, on) => say(on)} />}
          label={<span style={{ fontSize: 13.5 }}>{label}</span>}
        />
      );
    case 'whole': {
      const { unit = 1, most = Infinity } = form;
      return (
        <Whole
          label={label}
          value={value === null ? null : Math.round(Number(value) / unit)}
          placeholder={form.none}
          onSay={(said) => (said === null || said <= most) && say(said === null ? null : said * unit)}
        />
      );
    }
    case 'floor':
      return <GivenUpTo label={label} value={value as Floor | null} say={say} />;
    case 'decimal':
      return <Decimal label={label} value={Number(value)} least={form.least} most={form.most} onSay={say} />;
    case 'text':
      return <Written {...{ label, form, value, error, say, onFault }} />;
  }
}

/** How far something may be given up, and how soon beside others; nothing keeps it. */
function GivenUpTo({ label, value, say }: { label: string; value: Floor | null; say: (said: unknown) => void }) {
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: value ? '1fr 76px' : '1fr', columnGap: 0.75 }}>
      <Whole
        label={label}
        value={value?.floor ?? null}
        placeholder="stays"
        onSay={(floor) => say(floor === null ? null : { weight: 1, ...value, floor })}
      />
      {value && (
        <Whole label="Weight" value={value.weight} onSay={(weight) => weight !== null && say({ ...value, weight })} />
      )}
    </Box>
  );
}

/** What stands for asking for nothing: no value is called so. */
const nothing = '\0';

interface Said<K extends FieldForm['kind']> {
  label: string;
  form: FormOf<K>;
  value: unknown;
  say: (said: unknown) => void;
}

function OneOfWords({ label, form, value, say }: Said<'choice'>) {
  const words = Object.entries(form.words);
  return (
    <Choice
      label={label}
      value={value === null ? nothing : String(value)}
      options={form.none === undefined ? words : [[nothing, form.none], ...words]}
      onSay={(said) => say(said === nothing ? null : typeof value === 'number' ? Number(said) : said)}
    />
  );
}

type WrittenProps = Said<'text'> & Pick<Props<unknown>, 'error' | 'onFault'>;

/** A text, or a value that is written as one: shown as it is typed, taken once it can be read. */
function Written({ label, form, value, error, say, onFault }: WrittenProps) {
  const print = form.print as ((value: unknown) => string) | undefined;
  const [typed, setTyped] = useState<string | null>(null);
  const [wrong, setWrong] = useState(false);
  const written = value === null ? '' : print ? print(value) : String(value);
  return (
    <Text
      label={label}
      mono={form.mono}
      value={print ? (typed ?? written) : written}
      placeholder={form.none}
      error={error || wrong}
      onSay={(text) => {
        setTyped(text);
        try {
          say(text.trim() === '' && form.nullable ? null : form.read ? form.read(text) : text);
          setWrong(false);
          onFault?.(undefined);
        } catch (fault) {
          setWrong(true);
          onFault?.(fault);
        }
      }}
    />
  );
}
