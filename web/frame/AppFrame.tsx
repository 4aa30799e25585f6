import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import { useTheme } from '@mui/material/styles';
import { Suspense, useEffect, useState } from 'react';
import { NavLink, Outlet, useLocation } from 'react-router';
import { useBatchesQuery, useHealthQuery, useJobsQuery } from '../api/api.ts';
import { useLive } from '../api/live.ts';
import { Loading, ProblemBox } from '../pieces/Notes.tsx';
import { batchNeedsLook, needsLook } from '../pages/jobs/troubles.ts';
import { State } from '../pieces/State.tsx';
import { isTypedInto } from '../pieces/typing.ts';
import { plural, progressOf } from '../pieces/words.ts';
import { schemeSwitched } from '../state/view.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { mono } from '../theme/theme.ts';
import { FindBox } from './FindBox.tsx';
import { KeySheet } from './KeySheet.tsx';
import { Notices } from './Notices.tsx';
import { pages } from './pages.tsx';
import { Rescue } from './Rescue.tsx';

/** What stands in the head. */
const named = pages.filter(({ name }) => name !== undefined);

function Strata() {
  const { tokens } = useTheme();
  return (
    <svg width="26" height="24" viewBox="0 0 26 24" aria-hidden>
      <path d="M1 6Q7 2 13 5T25 5V8Q18 9 12 8T1 9Z" fill={tokens.ink} />
      <path d="M1 12Q8 10 13 12T25 11V15Q18 15 12 15T1 15Z" fill={tokens.act} />
      <path d="M1 18Q8 17 13 18.5T25 18V21Q18 23 12 22T1 22Z" fill={tokens.soft} />
    </svg>
  );
}

/** How the running job stands, on every page. */
function RunningNow({ connected }: { connected: boolean }) {
  const { tokens } = useTheme();
  const { data: jobs = [] } = useJobsQuery();
  const { data: batches = [] } = useBatchesQuery();
  const seen = useAppSelector((state) => state.view.seen);
  const all = [
    ...batches.map((batch) => ({ ...batch, asks: batchNeedsLook(batch), ...batch.frames })),
    ...jobs.map((one) => ({ id: one.id, state: one.state, asks: needsLook(one), ...progressOf(one) })),
  ];
  const troubles = all.filter(({ id, asks }) => asks && !seen.includes(id)).length;
  const job = all.find(({ state }) => state === 'running');
  const waiting = all.filter(({ state }) => state === 'queued').length;
  const { done, of } = job ?? { done: 0, of: 0 };
  // What rests half done is told in every tab, for as long as it does.
  const stopped = all.filter(({ state }) => state === 'stopped').length;
  const rests = waiting > 0 ? `${waiting} waiting` : stopped > 0 ? `${stopped} stopped` : 'idle';
  const words = !connected ? 'no connection' : job ? `${done}/${of}` : rests;
  const share = job ? done / Math.max(1, of) : 0;
  return (
    <Box
      component={NavLink}
      to="/jobs"
      aria-label={`Jobs: ${words}${troubles > 0 ? `, ${troubles} stopped or incomplete` : ''}`}
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 1.25,
        color: connected ? 'text.secondary' : 'error.main',
        textDecoration: 'none',
      }}
    >
      <Box component="span" className="mono" sx={{ fontSize: 13, minWidth: '9ch', textAlign: 'right' }}>
        {words}
      </Box>
      {troubles > 0 && <State severity="fault">{`${plural(troubles, 'job')} stopped or incomplete`}</State>}
      {/* Its room is kept while nothing runs, so that the head does not move when something begins. */}
      <Box
        sx={{ width: { xs: 48, md: 120 }, height: 6, borderRadius: 3, bgcolor: 'divider', overflow: 'hidden' }}
        style={{ visibility: job ? 'visible' : 'hidden' }}
      >
        <Box
          sx={{ height: '100%', bgcolor: tokens.act, transformOrigin: 'left', width: '100%' }}
          style={{ transform: `scaleX(${share})` }}
        />
      </Box>
    </Box>
  );
}

/** The server speaks of what this page does not know. */
const outdatedPage = {
  code: 'page-outdated',
  fact: 'Shale was updated since this page was opened: it may be out of date.',
  wayOut: 'Reload it. Your work is kept.',
};

/** What is wrong with Shale itself, on every page. */
function Trouble({ outdated }: { outdated: boolean }) {
  const { data } = useHealthQuery();
  return (
    <Box sx={{ display: 'grid', gap: 1, px: 3, '&:not(:empty)': { pt: 1.5 } }}>
      {outdated && (
        <ProblemBox problem={outdatedPage} action={<Button onClick={() => location.reload()}>Reload</Button>} />
      )}
      {data?.problems.map((problem) => (
        <ProblemBox key={problem.code} problem={problem} />
      ))}
    </Box>
  );
}

/** Presses the button of the page that says by `aria-keyshortcuts` that a key is its own. */
function pressByKey(event: KeyboardEvent): void {
  if (!event.ctrlKey && !event.metaKey) return;
  const keys = { Enter: 'Control+Enter', z: 'Control+Z' }[event.key];
  if (!keys || (keys === 'Control+Z' && isTypedInto(event.target)) || document.querySelector('[role=dialog]')) return;
  const button = document.querySelector<HTMLButtonElement>(`main button[aria-keyshortcuts="${keys}"]:enabled`);
  if (!button) return;
  event.preventDefault();
  button.click();
}

/** What is open over the page: the search on Ctrl+K, the keys on `?`. */
function useOver(): [over: 'find' | 'keys' | null, say: (over: 'find' | 'keys' | null) => void] {
  const [over, setOver] = useState<'find' | 'keys' | null>(null);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() === 'k' && (event.ctrlKey || event.metaKey)) {
        event.preventDefault();
        setOver('find');
      } else if (event.key === '?' && !isTypedInto(event.target)) setOver('keys');
      else pressByKey(event);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  return [over, setOver];
}

/** A button of words in the head. */
const headWords = {
  fontSize: 14,
  fontFamily: 'inherit',
  color: 'text.secondary',
  px: 0.5,
  minHeight: 24,
  minWidth: 24,
  '&:hover': { color: 'text.primary' },
} as const;

/** The head of every page: where one is, what runs, the scheme. */
export function AppFrame() {
  const { tokens } = useTheme();
  const dispatch = useAppDispatch();
  const { scheme, source, many } = useAppSelector((state) => state.view);
  const { connected, outdated } = useLive();
  const { pathname } = useLocation();
  const [over, setOver] = useOver();
  const to = (path: string) => {
    if (path === '/convert' && source && pathname.startsWith('/convert/small')) return `/convert/small/${source}`;
    if (path === '/convert' && many) return `/convert/many/${many}`;
    return (path === '/inspect' || path === '/convert') && source ? `${path}/${source}` : path;
  };
  return (
    <Box
      sx={{
        display: 'grid',
        // On a small screen, or a zoomed one, the page itself scrolls.
        gridTemplateRows: { xs: 'auto auto minmax(0, auto)', md: '52px auto minmax(0, 1fr)' },
        gridTemplateColumns: 'minmax(0, 1fr)',
        height: { xs: 'auto', md: '100%' },
      }}
    >
      <Box
        component="a"
        href="#page"
        onClick={(event) => {
          event.preventDefault();
          document.getElementById('page')?.focus();
        }}
        sx={{
          position: 'absolute',
          left: 8,
          top: -60,
          zIndex: 'tooltip',
          p: 1.5,
          bgcolor: 'background.paper',
          color: 'text.primary',
          '&:focus': { top: 4 },
        }}
      >
        Skip to the page
      </Box>
      <Box
        component="header"
        sx={{
          display: 'flex',
          alignItems: 'stretch',
          flexWrap: { xs: 'wrap', md: 'nowrap' },
          columnGap: { xs: 2, md: 3.5 },
          px: { xs: 1.5, md: 3 },
          minHeight: 44,
          borderBottom: 1,
          borderColor: 'divider',
          bgcolor: 'background.paper',
        }}
      >
        <Box
          sx={{
            display: 'flex',
            alignItems: 'center',
            gap: 1.25,
            fontWeight: 700,
            fontSize: 19,
            letterSpacing: '-.01em',
            mr: 1,
          }}
        >
          <Strata />
          Shale
        </Box>
        <Box
          component="nav"
          aria-label="Pages"
          sx={{
            display: 'flex',
            columnGap: { xs: 1.75, md: 2.75 },
            flexWrap: { xs: 'wrap', md: 'nowrap' },
            minHeight: { xs: 36, md: 0 },
            order: { xs: 1, md: 0 },
            width: { xs: '100%', md: 'auto' },
          }}
        >
          {named.map(({ path, name, ahead }) => (
            <Box
              key={path}
              component={NavLink}
              to={to(path)}
              onPointerEnter={ahead}
              onFocus={ahead}
              sx={{
                display: 'flex',
                alignItems: 'center',
                color: 'text.secondary',
                textDecoration: 'none',
                borderBlock: '3px solid transparent',
                '&.active': { color: 'text.primary', fontWeight: 650, borderBottomColor: tokens.act },
                '&:hover': { color: 'text.primary' },
              }}
            >
              {name}
            </Box>
          ))}
        </Box>
        <Box sx={{ ml: 'auto', display: 'flex', alignItems: 'center', gap: 2 }}>
          <RunningNow connected={connected} />
          <ButtonBase
            onClick={() => setOver('find')}
            title="Find a source, a page or an action (Ctrl+K)"
            sx={headWords}
          >
            Find
          </ButtonBase>
          <ButtonBase onClick={() => setOver('keys')} title="All keys (?)" sx={headWords}>
            Keys
          </ButtonBase>
          <ButtonBase
            onClick={() => dispatch(schemeSwitched())}
            aria-label={`Colours: ${scheme === 'daylight' ? 'Daylight' : 'Basalt'}. Switch`}
            sx={headWords}
          >
            {scheme === 'daylight' ? 'Daylight' : 'Basalt'}
          </ButtonBase>
        </Box>
      </Box>
      <Trouble outdated={outdated} />
      <Box
        component="main"
        id="page"
        tabIndex={-1}
        sx={{ outline: 'none', minHeight: 0, minWidth: 0, fontFamily: 'inherit', '& .mono': { fontFamily: mono } }}
      >
        <Rescue page={pathname}>
          <Suspense fallback={<Loading what="Loading the page" />}>
            <Outlet />
          </Suspense>
        </Rescue>
      </Box>
      <Notices />
      {over === 'find' && <FindBox chosen={source} onClose={() => setOver(null)} />}
      {over === 'keys' && <KeySheet onClose={() => setOver(null)} />}
    </Box>
  );
}
