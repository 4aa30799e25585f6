import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useRef, useState, type ReactNode } from 'react';
import {
  formOf,
  readWith,
  receiverNameFields,
  receiverPictureFields,
  receiverSchema,
  type Field,
  type FieldForm,
  type Problem,
  type Receiver,
} from '@shale/core';
import { RecordField } from '../../pieces/RecordField.tsx';
import { Pair, Text } from '../../pieces/slimFields.tsx';
import { EditForm } from './EditForm.tsx';

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

interface FieldsProps {
  of: Record<string, Field>;
  draft: Receiver;
  set: (part: object) => void;
  /** By field: why what is written in it cannot be read. */
  onFault: (name: string, fault: unknown) => void;
}

/** Fields two to a line; marks and lists, which are long, one to a line. */
function Fields({ of, draft, set, onFault }: FieldsProps) {
  const is =
    (kind: FieldForm['kind']) =>
    ([, field]: [string, Field]) =>
      formOf(field, undefined).kind === kind;
  const shown = ([name, field]: [string, Field]) => (
    <RecordField
      key={name}
      field={field}
      at={undefined}
      value={draft[name as keyof Receiver]}
      onSay={(value) => set({ [name]: value })}
      onFault={(fault) => onFault(name, fault)}
    />
  );
  const all = Object.entries(of);
  const [lists, marks] = [all.filter(is('several')), all.filter(is('mark'))];
  const short = all.filter((one) => !lists.includes(one) && !marks.includes(one));
  return (
    <>
      {lists.map(shown)}
      <Pair>{short.map(shown)}</Pair>
      {marks.map(shown)}
    </>
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
  const set = (part: Partial<Receiver>) => setDraft({ ...draft, ...part });
  const faults = useRef(new Map<string, unknown>());
  const note = (name: string, fault: unknown) =>
    fault === undefined ? faults.current.delete(name) : faults.current.set(name, fault);
  const save = () => {
    const [fault] = faults.current.values();
    if (fault instanceof Error) throw fault;
    return onSave(
      readWith(receiverSchema, draft, { code: 'bad-receiver', what: 'The receiver', wayOut: 'Correct it.' }),
    );
  };
  return (
    <EditForm label="Rules of the receiver" onSave={save} onLeave={onLeave} problem={problem}>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(2, minmax(0, 1fr))', gap: 4 }}>
        <Part title="Names">
          <Text label="Name" value={draft.name} onSay={(name) => set({ name })} />
          <Text label="Description" value={draft.about} onSay={(about) => set({ about })} />
          <Fields of={receiverNameFields} draft={draft} set={set} onFault={note} />
        </Part>
        <Part title="Pictures and time">
          <Fields of={receiverPictureFields} draft={draft} set={set} onFault={note} />
        </Part>
      </Box>
    </EditForm>
  );
}
