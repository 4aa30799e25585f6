import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { groupedBy, someOf, type Problem, type Receiver } from '@shale/core';
import type { LoadedView } from '@shale/contract';
import {
  useAddReceiversMutation,
  useDeleteReceiverMutation,
  useDeleteSpecMutation,
  useDeleteStackMutation,
  usePutReceiverMutation,
  useReceivedQuery,
  useSaveSpecMutation,
  useSaveStackMutation,
  useSourceQuery,
} from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { ProblemNote } from '../../pieces/Notes.tsx';
import { plural } from '../../pieces/words.ts';
import { specChanged } from '../../state/naming.ts';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { Compared } from './Compared.tsx';
import { CompareWith } from './CompareWith.tsx';
import { download, fileName } from './files.ts';
import { ReceiverForm } from './ReceiverForm.tsx';
import { freeNameIn, handed, type Item } from './shelves.ts';
import { SpecForm } from './SpecForm.tsx';

/** One thing that is kept: read aloud, changed, copied, compared, handed out, taken away. */
export function Detail({ item, items }: { item: Item; items: readonly Item[] }) {
  const [edits, setEdits] = useState(false);
  const [compared, setCompared] = useState('');
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const [putReceiver, put] = usePutReceiverMutation();
  const [addReceivers, added] = useAddReceiversMutation();
  const [deleteReceiver, dropped] = useDeleteReceiverMutation();
  const [saveSpec, savedSpec] = useSaveSpecMutation();
  const [deleteSpec] = useDeleteSpecMutation();
  const [saveStack, savedStack] = useSaveStackMutation();
  const [deleteStack] = useDeleteStackMutation();
  const { receiver, spec, stack } = item;
  const other = items.find(({ kind, id }) => kind === item.kind && id === compared);
  const problem = [put, added, dropped, savedSpec, savedStack].map(({ error }) => error).find(Boolean) as
    Problem | undefined;

  const copy = async () => {
    const name = freeNameIn(item.name, items, item.kind);
    const made = receiver
      ? (await addReceivers({ shale: 'receivers', version: 1, receivers: [receiver.receiver] })).data?.[0]
      : spec
        ? (await saveSpec({ name, spec: spec.spec })).data
        : (await saveStack({ name, spec: stack!.spec })).data;
    if (made) void navigate(`/specs/${item.kind}/${made.id}`);
  };
  const remove = async () => {
    if (receiver) await deleteReceiver(receiver.id);
    else if (spec) await deleteSpec(spec.id);
    else await deleteStack(stack!.id);
    if (!receiver?.shipped) void navigate('/specs');
  };
  const edit = () => {
    if (!stack) return setEdits(true);
    dispatch(specChanged(stack.spec));
    void navigate('/rename');
  };
  const removable = receiver ? !receiver.shipped || receiver.changed : true;
  return (
    <>
      <Box sx={{ display: 'flex', alignItems: 'start', gap: 1, mb: 2 }}>
        <Box sx={{ minWidth: 0, mr: 'auto' }}>
          <Typography variant="h1" sx={{ overflowWrap: 'anywhere' }}>
            {item.name}
          </Typography>
          <Typography sx={{ color: 'text.secondary' }}>{receiver?.receiver.about || item.note}</Typography>
        </Box>
        {!edits && (
          <>
            <CompareWith item={item} items={items} value={other ? compared : ''} onChoose={setCompared} />
            <Button variant="outlined" onClick={() => void copy()}>
              Copy
            </Button>
            <Button variant="outlined" onClick={() => download(fileName(item.name), handed([item]))}>
              Export
            </Button>
            <Button
              variant="outlined"
              onClick={() => download(`${item.kind}.json`, handed(items.filter(({ kind }) => kind === item.kind)))}
            >
              Export all
            </Button>
            {removable && (
              <Button variant="outlined" color={receiver?.shipped ? 'primary' : 'error'} onClick={() => void remove()}>
                {receiver?.shipped ? 'Reset to built-in' : 'Remove'}
              </Button>
            )}
            <Button variant="contained" onClick={edit}>
              {stack ? 'Use in Rename' : 'Change'}
            </Button>
          </>
        )}
      </Box>
      {problem && !edits && <ProblemNote problem={problem} />}
      {edits && receiver ? (
        <ReceiverForm
          receiver={receiver.receiver}
          onSave={async (changed) => 'data' in (await putReceiver({ id: receiver.id, receiver: changed }))}
          onLeave={() => setEdits(false)}
          problem={put.error as Problem | undefined}
        />
      ) : edits && spec ? (
        <SpecForm
          spec={spec.spec}
          onSave={async (changed) => 'data' in (await saveSpec({ name: spec.name, spec: changed }))}
          onLeave={() => setEdits(false)}
          problem={savedSpec.error as Problem | undefined}
        />
      ) : other || !receiver ? (
        <Compared one={item} other={other} />
      ) : (
        <Rules item={item} receiver={receiver.receiver} />
      )}
    </>
  );
}

/** A receiver's rules as sentences, and what a tool that keeps them to the letter would load. */
function Rules({ item, receiver }: { item: Item; receiver: Receiver }) {
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) 330px' },
        gap: 3,
        alignItems: 'start',
      }}
    >
      <Box
        component="ol"
        aria-label={`Rules of ${receiver.name}`}
        sx={{ m: 0, p: 0, listStyle: 'none', fontSize: 17, lineHeight: 1.4 }}
      >
        {item.rows.length === 0 && (
          <Typography sx={{ color: 'text.secondary' }}>It accepts anything: no rules are set.</Typography>
        )}
        {item.rows.map(([label, sentence]) => (
          <Box
            component="li"
            key={label}
            sx={{
              display: 'grid',
              gridTemplateColumns: '150px minmax(0, 1fr)',
              py: 1,
              borderBottom: 1,
              borderColor: 'divider',
            }}
          >
            <Box component="span" sx={{ fontSize: 13, color: 'text.secondary', pt: '3px' }}>
              {label}
            </Box>
            <span>{sentence}</span>
          </Box>
        ))}
      </Box>
      <OpenedStrictly id={item.id} />
    </Box>
  );
}

/** Files that are left out for one reason, together. */
const byReason = (leftOut: LoadedView['leftOut']): { why: string; names: string[] }[] =>
  [...groupedBy(leftOut, ({ why }) => why)].map(([why, files]) => ({ why, names: files.map(({ name }) => name) }));

/** The folder of the source that was looked at last, opened as this receiver would. */
function OpenedStrictly({ id }: { id: string }) {
  const looked = useAppSelector((state) => state.view.source);
  const { data: source } = useSourceQuery(looked ?? '', { skip: !looked });
  const {
    data: loaded,
    error,
    isFetching,
  } = useReceivedQuery({ source: looked ?? '', receiver: id }, { skip: !source });
  return (
    <Card title={source ? `It opens ${source.folder || 'the root'}` : 'It opens a folder'}>
      {!source ? (
        <Typography sx={{ color: 'text.secondary' }}>
          Choose a source on Intake: see what a tool with these rules would load from its folder.
        </Typography>
      ) : error ? (
        <ProblemNote problem={error as Problem} />
      ) : !loaded || isFetching ? (
        <Typography sx={{ color: 'text.secondary' }}>Reading every header</Typography>
      ) : (
        <>
          <Typography data-testid="strictly" sx={{ fontWeight: 600 }}>
            {loaded.sentence}
          </Typography>
          {loaded.plays.length > 0 && (
            <Typography className="mono" sx={{ fontSize: 12.5, color: 'text.secondary', overflowWrap: 'anywhere' }}>
              {loaded.plays[0]} to {loaded.plays[loaded.plays.length - 1]}
            </Typography>
          )}
          {byReason(loaded.leftOut).map(({ why, names }) => (
            <Box key={why} sx={{ mt: 1, overflowWrap: 'anywhere' }}>
              <Typography sx={{ fontSize: 13 }}>
                Leaves {plural(names.length, 'file')} out: {why}.
              </Typography>
              <Typography className="mono" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
                {someOf(names)}
              </Typography>
            </Box>
          ))}
        </>
      )}
    </Card>
  );
}
