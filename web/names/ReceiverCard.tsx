import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { Link as RouterLink } from 'react-router';
import type { RenameView } from '@shale/contract';
import { groupedBy, receiverSentences, someOf, type Breach, type Receiver } from '@shale/core';
import { useReceiversQuery } from '../api/api.ts';
import { Card } from '../pieces/Card.tsx';
import { Mark, State } from '../pieces/State.tsx';
import { plural } from '../pieces/words.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { receiverChosen } from '../state/naming.ts';
import { receiverMeant } from '../state/receivers.ts';

/** What a receiver is chosen for: a source by its id, or the names that are being given. */
export type MeantFor = { source: string } | 'names';

/** The receiver that is chosen for a source, or for the names; undefined where there is none. */
export function useReceiver(meant: MeantFor): { id: string; receiver: Receiver } | undefined {
  const chosen = useAppSelector((state) => (meant === 'names' ? state.naming.receiver : state.receivers[meant.source]));
  const { data: receivers = [] } = useReceiversQuery();
  const found = receivers.find(({ id }) => id === chosen);
  return found && { id: found.id, receiver: found.receiver };
}

/** Which tool reads next. */
export function ReceiverChoice({ meant }: { meant: MeantFor }) {
  const dispatch = useAppDispatch();
  const { data: receivers = [] } = useReceiversQuery();
  const chosen = useReceiver(meant);
  const choose = (receiver: string | null) =>
    dispatch(meant === 'names' ? receiverChosen(receiver) : receiverMeant({ source: meant.source, receiver }));
  return (
    <TextField
      select
      fullWidth
      label="Receiver"
      value={chosen?.id ?? ''}
      onChange={({ target }) => choose(target.value === '' ? null : target.value)}
      slotProps={{
        inputLabel: { shrink: true },
        select: { displayEmpty: true },
        htmlInput: { 'aria-label': 'Receiver' },
      }}
    >
      <MenuItem value="">None: any names are fine</MenuItem>
      {receivers.map(({ id, receiver }) => (
        <MenuItem key={id} value={id}>
          {receiver.name}
        </MenuItem>
      ))}
    </TextField>
  );
}

interface Props {
  meant: MeantFor;
  /** Undefined while they are worked out. */
  breaches: readonly (Breach & { mend?: string })[] | undefined;
  /** What it would load of which folders. */
  loads?: NonNullable<RenameView['held']>['loads'];
  /** Where what has no mend here is mended. */
  elsewhere?: string;
  onMend: (breaches: Breach[]) => void;
}

/** What the tool that reads next would trip over, each with the mend that one press applies. */
export function ReceiverCard({ meant, breaches, loads, elsewhere = 'Cannot be fixed here.', onMend }: Props) {
  const chosen = useReceiver(meant);
  // What would make copies of files that were to be renamed is never one of all: it is asked for by itself.
  const mendable = (breaches ?? []).filter(({ mend, rule }) => mend && !(meant === 'names' && rule === 'alone'));
  // What is said alike of several sources is said once, with their names.
  const groups = [...groupedBy(breaches ?? [], ({ rule, sentence }) => `${rule} ${sentence}`).values()];
  const several = new Set((breaches ?? []).map(({ name }) => name)).size > 1;
  return (
    <Card title="Receiver" sx={{ flex: 'none' }}>
      <ReceiverChoice meant={meant} />
      {chosen && breaches && (
        <Box sx={{ mt: 1.25 }}>
          {breaches.length === 0 ? (
            <State severity="note">
              Follows all of its {plural(receiverSentences(chosen.receiver).length, 'rule')}
            </State>
          ) : (
            <Box
              component="ul"
              aria-label="Breaches"
              sx={{ listStyle: 'none', m: 0, p: 0, display: 'grid', gap: 0.75 }}
            >
              {groups.slice(0, 20).map((group) => {
                const [breach] = group;
                return (
                  <Box
                    component="li"
                    key={`${breach!.rule} ${breach!.sentence}`}
                    data-testid="breach"
                    sx={{ display: 'grid', gridTemplateColumns: '12px minmax(0, 1fr)', gap: 1, alignItems: 'start' }}
                  >
                    <Box sx={{ pt: '1px' }}>
                      <Mark severity={breach!.unknown ? 'doubt' : 'fault'} />
                    </Box>
                    <Box sx={{ fontSize: 13, overflowWrap: 'anywhere' }}>
                      {several && (
                        <Box component="span" sx={{ fontWeight: 600 }}>
                          {someOf(group.map(({ name }) => name))}:{' '}
                        </Box>
                      )}
                      {breach!.sentence}{' '}
                      {breach!.mend ? (
                        <Link
                          component="button"
                          sx={{ fontSize: 13, fontFamily: 'inherit', verticalAlign: 'baseline', textAlign: 'left' }}
                          onClick={() => onMend(group)}
                        >
                          {breach!.mend}
                        </Link>
                      ) : (
                        <Box component="span" sx={{ color: 'text.secondary' }}>
                          {breach!.unknown ? 'Declare it on Inspect.' : elsewhere}
                        </Box>
                      )}
                    </Box>
                  </Box>
                );
              })}
            </Box>
          )}
          {groups.length > 20 && (
            <Typography sx={{ fontSize: 13, color: 'text.secondary', mt: 0.5 }}>
              and {groups.length - 20} more
            </Typography>
          )}
          {mendable.length > 1 && (
            <Button size="small" variant="outlined" sx={{ mt: 1.25 }} onClick={() => onMend(mendable)}>
              Fix all {mendable.length}
            </Button>
          )}
          {loads && (
            <Box data-testid="loads" sx={{ fontSize: 13, color: 'text.secondary', mt: 1, overflowWrap: 'anywhere' }}>
              By these names
              {loads.length === 1 && loads[0]!.folders.length === 1 ? ': ' : ', of each folder: '}
              {loads.slice(0, 8).map(({ sentence, folders }, index) => (
                <Box key={sentence} component={index === 0 && loads.length === 1 ? 'span' : 'div'}>
                  {loads.length > 1 && `${someOf(folders.map((folder) => folder || 'the root'))}: `}
                  {sentence}
                </Box>
              ))}
              {loads.length > 8 && <div>and {loads.length - 8} more</div>}
            </Box>
          )}
          <Link
            component={RouterLink}
            to={`/specs/receivers/${chosen.id}`}
            sx={{ fontSize: 13, display: 'inline-block', mt: 0.75 }}
          >
            Its rules
          </Link>
        </Box>
      )}
    </Card>
  );
}
