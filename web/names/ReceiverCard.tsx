import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { Link as RouterLink } from 'react-router';
import { receiverSentences, type Breach, type Receiver } from '@shale/core';
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
      <MenuItem value="">None: any names will do</MenuItem>
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
  /** What it would load, in a sentence. */
  loads?: string;
  /** Where what has no mend here is mended. */
  elsewhere?: string;
  onMend: (breaches: Breach[]) => void;
}

/** What the tool that reads next would trip over, each with the mend that one press applies. */
export function ReceiverCard({ meant, breaches, loads, elsewhere = 'Not mended here.', onMend }: Props) {
  const chosen = useReceiver(meant);
  // What would make copies of files that were to be renamed is never one of all: it is asked for by itself.
  const mendable = (breaches ?? []).filter(({ mend, rule }) => mend && !(meant === 'names' && rule === 'alone'));
  return (
    <Card title="For which receiver" sx={{ flex: 'none' }}>
      <ReceiverChoice meant={meant} />
      {chosen && breaches && (
        <Box sx={{ mt: 1.25 }}>
          {breaches.length === 0 ? (
            <State severity="note">Keeps all of its {plural(receiverSentences(chosen.receiver).length, 'rule')}</State>
          ) : (
            <Box
              component="ul"
              aria-label="Breaches"
              sx={{ listStyle: 'none', m: 0, p: 0, display: 'grid', gap: 0.75 }}
            >
              {breaches.slice(0, 20).map((breach, index) => (
                <Box
                  component="li"
                  key={`${breach.rule}-${index}`}
                  data-testid="breach"
                  sx={{ display: 'grid', gridTemplateColumns: '12px minmax(0, 1fr)', gap: 1, alignItems: 'start' }}
                >
                  <Box sx={{ pt: '1px' }}>
                    <Mark severity={breach.unknown ? 'doubt' : 'fault'} />
                  </Box>
                  <Box sx={{ fontSize: 13, overflowWrap: 'anywhere' }}>
                    {breach.sentence}{' '}
                    {breach.mend ? (
                      <Link
                        component="button"
                        sx={{ fontSize: 13, fontFamily: 'inherit', verticalAlign: 'baseline', textAlign: 'left' }}
                        onClick={() => onMend([breach])}
                      >
                        {breach.mend}
                      </Link>
                    ) : (
                      <Box component="span" sx={{ color: 'text.secondary' }}>
                        {breach.unknown ? 'Declare it on Inspect.' : elsewhere}
                      </Box>
                    )}
                  </Box>
                </Box>
              ))}
            </Box>
          )}
          {breaches.length > 20 && (
            <Typography sx={{ fontSize: 13, color: 'text.secondary', mt: 0.5 }}>
              and {breaches.length - 20} more
            </Typography>
          )}
          {mendable.length > 1 && (
            <Button size="small" variant="outlined" sx={{ mt: 1.25 }} onClick={() => onMend(mendable)}>
              Mend all {mendable.length}
            </Button>
          )}
          {loads && (
            <Typography data-testid="loads" sx={{ fontSize: 13, color: 'text.secondary', mt: 1 }}>
              By these names: {loads}
            </Typography>
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
