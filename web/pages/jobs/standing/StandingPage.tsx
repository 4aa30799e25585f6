import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import type { Problem } from '@shale/core';
import type { StandingView } from '@shale/contract';
import {
  usePauseStandingMutation,
  useRemoveStandingMutation,
  useRootsQuery,
  useStandingLogQuery,
  useStandingQuery,
} from '../../../api/api.ts';
import { EmptyPage, Loading, ProblemNote } from '../../../pieces/Notes.tsx';
import { State } from '../../../pieces/State.tsx';
import { plural } from '../../../pieces/words.ts';
import { DecisionLine } from '../../../standing/DecisionLine.tsx';
import { OrderForm } from '../../../standing/OrderForm.tsx';
import { countWords, watchedWords } from '../../../standing/orderWords.ts';

function OrderState({ order }: { order: StandingView }) {
  if (order.paused) return <State severity="doubt">Paused</State>;
  if (order.problem) return <State severity="fault">Its folder is missing</State>;
  return <State severity="note">Watching</State>;
}

/** Batches that begin by themselves: which there are, and what each decided. */
export function StandingPage() {
  const { standing } = useParams();
  const navigate = useNavigate();
  const { data: orders, error } = useStandingQuery();
  const [isSetting, setSetting] = useState(false);
  if (error)
    return (
      <Box sx={{ p: 3 }}>
        <ProblemNote problem={error as Problem} />
      </Box>
    );
  if (!orders) return <Loading what="Reading the standing orders" />;
  const form = isSetting && (
    <OrderForm
      begun={{ outputs: [] }}
      onSet={({ id }) => {
        setSetting(false);
        void navigate(`/jobs/standing/${id}`);
      }}
      onClose={() => setSetting(false)}
    />
  );
  const button = (
    <Button variant="contained" onClick={() => setSetting(true)}>
      Set a standing order
    </Button>
  );
  if (orders.length === 0)
    return (
      <>
        <EmptyPage title="No standing order" action={button}>
          A standing order watches a folder and converts every new source there once it is complete. Select sources on
          Intake, set up the conversion on Convert, and press Keep doing this.
        </EmptyPage>
        {form}
      </>
    );
  const chosen = orders.find(({ id }) => id === standing) ?? orders[0]!;
  return (
    <Box
      sx={{
        p: '20px 24px 12px',
        height: { xs: 'auto', md: '100%' },
        display: 'grid',
        gridTemplateRows: { xs: 'auto', md: 'auto minmax(0, 1fr)' },
        gridTemplateColumns: 'minmax(0, 1fr)',
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 2, mb: 2 }}>
        <Typography variant="h1">{plural(orders.length, 'standing order')}</Typography>
        <Button size="small" component={Link} to="/jobs" sx={{ ml: 'auto' }}>
          All jobs
        </Button>
        {button}
      </Box>
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(220px, 320px) minmax(0, 1fr)' },
          gap: 3,
          minHeight: 0,
        }}
      >
        <Box component="nav" aria-label="Standing orders" sx={{ overflowY: 'auto' }}>
          {orders.map((order) => (
            <ButtonBase
              key={order.id}
              component={Link}
              to={`/jobs/standing/${order.id}`}
              aria-current={order.id === chosen.id ? 'page' : undefined}
              sx={{
                display: 'block',
                width: '100%',
                textAlign: 'left',
                p: '9px 12px',
                mb: 0.75,
                borderRadius: '6px',
                border: 1,
                borderColor: order.id === chosen.id ? 'primary.main' : 'divider',
                bgcolor: 'background.paper',
                color: 'text.primary',
              }}
            >
              <Box sx={{ display: 'flex', gap: 1, alignItems: 'baseline' }}>
                <Typography noWrap sx={{ fontWeight: 600, flex: 1 }}>
                  {order.order.name}
                </Typography>
                <OrderState order={order} />
              </Box>
              <Typography noWrap sx={{ fontSize: 13, color: 'text.secondary' }}>
                {countWords(order)}
              </Typography>
            </ButtonBase>
          ))}
        </Box>
        <Chosen key={chosen.id} view={chosen} />
      </Box>
      {form}
    </Box>
  );
}

/** An order with what it decided, the newest first. */
function Chosen({ view }: { view: StandingView }) {
  const { id, order, paused, problem, sentence } = view;
  const navigate = useNavigate();
  const { data: roots = [] } = useRootsQuery();
  const [before, setBefore] = useState<number[]>([]);
  const [isChanging, setChanging] = useState(false);
  const [isRemoving, setRemoving] = useState(false);
  const [pause, { error: notPaused }] = usePauseStandingMutation();
  const [remove, { error: notRemoved }] = useRemoveStandingMutation();
  const error = notPaused ?? notRemoved;
  const rootName = roots.find((root) => root.id === order.root)?.name;
  return (
    <Box
      component="section"
      aria-label={order.name}
      sx={{ minHeight: 0, display: 'grid', gridTemplateRows: 'auto auto minmax(0, 1fr)' }}
    >
      <Box>
        <Typography variant="h2">{order.name}</Typography>
        <Typography sx={{ mt: 0.5 }}>{watchedWords(order, rootName)}.</Typography>
        <Typography sx={{ color: 'text.secondary', fontSize: 14 }}>{sentence}</Typography>
      </Box>
      <Box sx={{ display: 'flex', gap: 1, my: 1.5, alignItems: 'center', flexWrap: 'wrap' }}>
        <Button variant="outlined" size="small" onClick={() => void pause({ standing: id, paused: !paused })}>
          {paused ? 'Resume' : 'Pause'}
        </Button>
        <Button size="small" onClick={() => setChanging(true)}>
          Edit or test
        </Button>
        {view.batch && (
          <Button size="small" component={Link} to={`/receipts/batch/${view.batch}`}>
            Last receipt
          </Button>
        )}
        {isRemoving ? (
          <>
            <Typography sx={{ fontSize: 14, ml: 1 }}>Everything it made stays. End it?</Typography>
            <Button
              size="small"
              color="error"
              variant="outlined"
              onClick={() =>
                void remove(id).then((done) => {
                  if (!('error' in done)) void navigate('/jobs/standing');
                })
              }
            >
              End it
            </Button>
            <Button size="small" onClick={() => setRemoving(false)}>
              Keep it
            </Button>
          </>
        ) : (
          <Button size="small" onClick={() => setRemoving(true)}>
            End this order
          </Button>
        )}
        {problem && <ProblemNote problem={{ code: 'folder-gone', fact: problem, wayOut: '' }} />}
        {error && <ProblemNote problem={error as Problem} />}
      </Box>
      <Box component="ol" aria-label="Decisions" sx={{ listStyle: 'none', m: 0, p: 0, overflowY: 'auto' }}>
        {[undefined, ...before].map((from) => (
          <LogPart
            key={from ?? 'first'}
            standing={id}
            before={from}
            isLast={from === before.at(-1)}
            onMore={(last) => setBefore([...before, last])}
          />
        ))}
      </Box>
      {isChanging && (
        <OrderForm begun={order} changes={view} onSet={() => setChanging(false)} onClose={() => setChanging(false)} />
      )}
    </Box>
  );
}

/** Lines of a log of one answer of the server. */
const together = 100;

function LogPart({
  standing,
  before,
  isLast,
  onMore,
}: {
  standing: string;
  before: number | undefined;
  isLast: boolean;
  onMore: (last: number) => void;
}) {
  const { data, error } = useStandingLogQuery({ standing, ...(before === undefined ? {} : { before }) });
  if (error) return <ProblemNote problem={error as Problem} />;
  if (!data) return <Loading what="Reading its decisions" />;
  return (
    <>
      {data.map((decision) => (
        <DecisionLine
          key={decision.id}
          decision={decision}
          when={new Date(decision.at).toLocaleString('en-GB', { dateStyle: 'short', timeStyle: 'medium' })}
          action={
            decision.kind === 'ended' &&
            decision.batch && (
              <Button size="small" component={Link} to={`/receipts/batch/${decision.batch}`} sx={{ py: 0 }}>
                Receipt
              </Button>
            )
          }
        />
      ))}
      {isLast && data.length === together && <Button onClick={() => onMore(data.at(-1)!.id)}>Older decisions</Button>}
    </>
  );
}
