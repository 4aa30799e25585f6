import { isVideoFormat, stillWrites, writeSettings, type Spec } from '@shale/core';
import { RecordField } from './RecordField.tsx';
import { Pair } from './slimFields.tsx';

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
  const fields = names.map((name) => (
    <RecordField
      key={name}
      field={writeSettings[name]}
      at={undefined}
      value={write[name]}
      onSay={(value) => set({ [name]: value })}
    />
  ));
  return fields.length === 1 ? fields[0]! : <Pair>{fields}</Pair>;
}
