import { isVideoFormat, stillWrites, writeSettings, type SettingName, type Setting, type Spec } from '@shale/core';
import { Decimal } from './numberFields.tsx';
import { Choice, Pair, Whole } from './slimFields.tsx';

type Write = Spec['write'];

interface Props {
  write: Write;
  set: (part: Partial<Write>) => void;
}

/** The settings by which a format compresses: those that its record names, none for one that has none. */
export function CompressionFields({ write, set }: Props) {
  if (isVideoFormat(write.format)) return null;
  const names = stillWrites(write.format).settings?.(write) ?? [];
  if (names.length === 0) return null;
  const fields = names.map((name) => <SettingField key={name} name={name} write={write} set={set} />);
  return fields.length === 1 ? fields[0]! : <Pair>{fields}</Pair>;
}

/** One setting, asked for as its record says. */
function SettingField({ name, write, set }: Props & { name: SettingName }) {
  const { label, form, schema }: Setting = writeSettings[name];
  // Read by its own schema: what does not fit is not taken.
  const say = (value: unknown) => {
    const read = schema.safeParse(value);
    if (read.success) set({ [name]: read.data });
  };
  const value = write[name];
  switch (form.kind) {
    case 'choice':
      return (
        <Choice
          label={label}
          value={String(value)}
          options={Object.entries(form.words)}
          onSay={(said) => say(typeof value === 'number' ? Number(said) : said)}
        />
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
    case 'whole':
      return <Whole label={label} value={Number(value)} onSay={say} />;
    case 'decimal':
      return <Decimal label={label} value={Number(value)} least={form.least} most={form.most} onSay={say} />;
  }
}
