import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { useNavigate } from 'react-router';
import { Virtuoso, type VirtuosoHandle } from 'react-virtuoso';
import { useRootsQuery, useScanRootMutation, useSourcesQuery } from '../../api/api.ts';
import { EmptyPage, Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { needsLook, plural, printAge, printBytes, printCount } from '../../pieces/words.ts';
import { sourceChosen } from '../../state/view.ts';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { filters, liesIn, type FilterName } from './filters.ts';
import { RootList, type Place } from './RootList.tsx';
import { columns, rowHeight, SourceRow } from './SourceRow.tsx';

/** The time, renewed often enough for "2 minutes ago". */
function useNow(): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 20_000);
    return () => clearInterval(timer);
  }, []);
  return now;
}

/** What arrived: the sources that the scans found, and what is wrong with them. */
export function IntakePage() {
  const { data: roots, error: rootsError } = useRootsQuery();
  const { data: sources, error } = useSourcesQuery();
  const [scanRoot] = useScanRootMutation();
  const chosen = useAppSelector((state) => state.view.source);
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const now = useNow();
  const [placeAsked, setPlace] = useState<Place | null>(null);
  const [filter, setFilter] = useState<FilterName>('all');
  const list = useRef<VirtuosoHandle>(null);

  const place = placeAsked ?? { root: roots?.[0]?.id ?? '', folder: '' };
  const here = useMemo(
    () => (sources ?? []).filter((source) => source.root === place.root && liesIn(source, place.folder)),
    [sources, place.root, place.folder],
  );
  const shown = useMemo(() => here.filter(filters[filter].keeps), [here, filter]);
  const selected = shown.find(({ id }) => id === chosen);
  const root = roots?.find(({ id }) => id === place.root);

  if (error || rootsError) return <Box sx={{ p: 3 }}>{<ProblemNote problem={(error ?? rootsError)! as never} />}</Box>;
  if (!roots || !sources) return <Loading what="Reading what the scans found" />;

  const select = (id: string) => dispatch(sourceChosen(id));
  const open = (id: string) => {
    select(id);
    void navigate(`/inspect/${id}`);
  };
  const onKey = (event: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 8, PageUp: -8, Home: -shown.length, End: shown.length }[
      event.key
    ];
    if (event.key === 'Enter' && selected) return open(selected.id);
    if (step === undefined || shown.length === 0) return;
    event.preventDefault();
    const at = selected ? shown.indexOf(selected) : -1;
    const next = Math.min(shown.length - 1, Math.max(0, at + step));
    select(shown[next]!.id);
    list.current?.scrollIntoView({ index: next });
  };
  const convertible = selected && (selected.kind === 'sequence' || selected.kind === 'still');
  const doubtful = here.filter(needsLook).length;

  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '212px minmax(0, 1fr)', height: '100%' }}>
      <RootList roots={roots} sources={sources} place={place} onChoose={setPlace} />
      <Box
        sx={{
          display: 'grid',
          gridTemplateRows: 'auto auto minmax(0, 1fr)',
          p: '20px 24px',
          minWidth: 0,
          minHeight: 0,
        }}
      >
        <Box sx={{ display: 'flex', alignItems: 'end', gap: 1.5, mb: 1.75 }}>
          <Box sx={{ minWidth: 0 }}>
            <Typography variant="h1">
              {plural(here.length, 'source')}
              {doubtful > 0 ? `, ${printCount(doubtful)} ${doubtful === 1 ? 'needs' : 'need'} a look` : ''}
            </Typography>
            <Typography noWrap sx={{ color: 'text.secondary' }} title={root?.path}>
              {root?.name}
              {root?.scanning
                ? ', scanning now'
                : root?.scanned
                  ? `, scanned ${printAge(root.scanned, now)}`
                  : ''}: {plural(root?.files ?? 0, 'file')}, {printBytes(root?.bytes ?? 0)}
            </Typography>
          </Box>
          <Box sx={{ ml: 'auto', display: 'flex', gap: 1 }}>
            <Button variant="text" onClick={() => void scanRoot(place.root)} disabled={root?.scanning}>
              Scan again
            </Button>
            <Button variant="outlined" disabled={!selected} onClick={() => selected && open(selected.id)}>
              Inspect
            </Button>
            <Button
              variant="contained"
              disabled={!convertible}
              onClick={() => void navigate(`/convert/${selected!.id}`)}
            >
              Convert 1 source
            </Button>
          </Box>
        </Box>
        <Box role="group" aria-label="Filters" sx={{ display: 'flex', gap: 1, mb: 1.5, flexWrap: 'wrap' }}>
          {(Object.keys(filters) as FilterName[]).map((name) => (
            <ButtonBase
              key={name}
              aria-pressed={filter === name}
              onClick={() => setFilter(name)}
              sx={{
                fontFamily: 'inherit',
                fontSize: 14,
                border: 1,
                borderColor: filter === name ? 'text.primary' : 'divider',
                borderRadius: '20px',
                p: '3px 12px',
                bgcolor: 'background.paper',
                color: filter === name ? 'text.primary' : 'text.secondary',
                fontWeight: filter === name ? 600 : 400,
              }}
            >
              {filters[name].words} {printCount(here.filter(filters[name].keeps).length)}
            </ButtonBase>
          ))}
        </Box>
        <Box
          sx={{
            display: 'grid',
            gridTemplateRows: 'auto auto minmax(0, 1fr)',
            border: 1,
            borderColor: 'divider',
            borderRadius: '6px',
            bgcolor: 'background.paper',
            overflow: 'hidden',
            minHeight: 0,
            maxHeight: '100%',
            alignSelf: 'start',
            height: shown.length > 0 && !root?.problem ? Math.min(shown.length * rowHeight + 36, 100_000) : 360,
          }}
        >
          <Box
            sx={{
              display: 'grid',
              gridTemplateColumns: columns,
              borderBottom: 1,
              borderColor: 'divider',
              fontSize: 12.5,
              fontWeight: 600,
              color: 'text.secondary',
              '& > span': { p: '8px 10px' },
            }}
          >
            <span />
            <span>Source</span>
            <span>Coverage</span>
            <span>Taken as</span>
            <span>Findings</span>
          </Box>
          <Box sx={{ height: 0, position: 'relative', zIndex: 1 }}>
            {root?.scanning && <LinearProgress sx={{ height: 2 }} aria-label="Scanning" />}
          </Box>
          {root?.problem ? (
            <Box sx={{ p: 2 }}>
              <ProblemNote problem={root.problem} />
            </Box>
          ) : shown.length === 0 ? (
            <EmptyPage
              title={
                here.length > 0
                  ? `No source is filtered as "${filters[filter].words}"`
                  : root?.scanning
                    ? 'Looking through the folder'
                    : root?.writable
                      ? 'Nothing written yet'
                      : 'No footage here'
              }
              action={
                here.length > 0 ? (
                  <Button variant="outlined" onClick={() => setFilter('all')}>
                    Show all {printCount(here.length)}
                  </Button>
                ) : place.root !== roots[0]!.id ? (
                  <Button variant="outlined" onClick={() => setPlace({ root: roots[0]!.id, folder: '' })}>
                    Go to {roots[0]!.name}
                  </Button>
                ) : undefined
              }
            >
              {here.length > 0
                ? 'The other sources are still there.'
                : root?.writable
                  ? 'Choose a source, press Convert, and what comes out is listed here.'
                  : `Put numbered frames, clips or sounds into ${root?.path ?? 'the folder'} and press "Scan again".`}
            </EmptyPage>
          ) : (
            <Box
              role="listbox"
              aria-label="Sources"
              tabIndex={0}
              aria-activedescendant={selected && `source-${selected.id}`}
              onKeyDown={onKey}
              sx={{ minHeight: 0, '&:focus-visible': { outlineOffset: -2 } }}
            >
              <Virtuoso
                ref={list}
                data={shown}
                fixedItemHeight={rowHeight}
                computeItemKey={(_, source) => source.id}
                itemContent={(_, source) => (
                  <SourceRow source={source} selected={source.id === chosen} onSelect={select} onOpen={open} />
                )}
              />
            </Box>
          )}
        </Box>
      </Box>
    </Box>
  );
}
