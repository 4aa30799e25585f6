import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useCallback, useMemo, useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { batchOf, hasFrames, isConvertible, type Problem } from '@shale/core';
import type { ListedSource, Overview, Root } from '@shale/contract';
import {
  api,
  useFoldersQuery,
  useKeepSelectionMutation,
  useOverviewQuery,
  useRootsQuery,
  useScanRootMutation,
  useSourcePageQuery,
  useSourceQuery,
  useStopScanMutation,
  useStartChecksMutation,
  type ListWanted,
} from '../../api/api.ts';
import { EmptyPage, Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { plural, printCount } from '../../pieces/words.ts';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { namingBegun } from '../../state/naming.ts';
import { keepBatch } from '../../state/keptBatch.ts';
import { manyOpened, sourceChosen, wishMeant } from '../../state/view.ts';
import { DeclareDialog } from './DeclareDialog.tsx';
import { FindingsPopover } from './FindingsPopover.tsx';
import { isListed, isNarrowed, readList, wide, writeList } from './filters.ts';
import { MeantNote } from './MeantNote.tsx';
import { Narrowing } from './Narrowing.tsx';
import { RootList } from './RootList.tsx';
import { ScanNotes, ScanWords } from './ScanWords.tsx';
import { columns, rowHeight } from './SourceRow.tsx';
import { groupHeight, isHeaded, SourceTable } from './SourceTable.tsx';

/** What arrived: the sources that the scans found, and what is wrong with them. */
export function IntakePage() {
  const { data: roots, error } = useRootsQuery();
  const { data: folders = [] } = useFoldersQuery();
  const [params, setParams] = useSearchParams();
  // A scan tells of its roots all the while: the list is another one only where the address or the first root is.
  const first = roots?.[0]?.id ?? '';
  const wanted = useMemo(() => readList(params, first), [params, first]);
  const { currentData, error: listError } = useOverviewQuery(
    { filter: wanted.filter, sort: wanted.sort },
    { skip: !roots },
  );
  // A list and its counts belong together: until those of the next are there, the one before stays whole.
  const [shown, setShown] = useState<{ wanted: ListWanted; overview: Overview }>();
  if (currentData && (shown?.wanted !== wanted || shown.overview !== currentData))
    setShown({ wanted, overview: currentData });
  // Asked for along with the overview: the first rows need not wait for it.
  useSourcePageQuery({ ...wanted, page: 0 }, { skip: !roots });
  if (error ?? listError) return <Box sx={{ p: 3 }}>{<ProblemNote problem={(error ?? listError) as Problem} />}</Box>;
  if (!roots || !shown) return <Loading what="Reading the sources" />;
  const change = (next: ListWanted) => setParams(writeList(next), { replace: true });
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: '212px minmax(0, 1fr)' },
        height: { xs: 'auto', md: '100%' },
      }}
    >
      <RootList
        roots={roots}
        folders={folders}
        place={{ root: wanted.filter.root!, folder: wanted.filter.folder ?? '' }}
        onChoose={({ root, folder }) =>
          setParams(writeList({ ...wanted, filter: { root, folder: folder || undefined } }))
        }
      />
      <List roots={roots} root={roots.find(({ id }) => id === shown.wanted.filter.root)} {...shown} change={change} />
    </Box>
  );
}

interface ListProps {
  roots: Root[];
  root: Root | undefined;
  wanted: ListWanted;
  overview: Overview;
  change: (wanted: ListWanted) => void;
}

function List(props: ListProps) {
  const { root, wanted, overview, change } = props;
  const dispatch = useAppDispatch();
  const selected = useSelected(wanted);
  const { chosen, marked, setMarked, targets, current, open } = selected;
  const [declaring, setDeclaring] = useState<string[] | null>(null);
  const [looking, setLooking] = useState<{ source: ListedSource; at: HTMLElement } | null>(null);
  const choose = useCallback((source: ListedSource) => void dispatch(sourceChosen(source.id)), [dispatch]);
  const findings = useCallback((source: ListedSource, at: HTMLElement) => setLooking({ source, at }), []);
  const { total } = overview;
  const headings = isHeaded(overview, wanted) ? overview.groups.length : 0;
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateRows: 'auto auto auto minmax(0, 1fr)',
        // A long line of a scan is cut off and does not push the buttons out.
        gridTemplateColumns: 'minmax(0, 1fr)',
        p: '20px 24px',
        minWidth: 0,
        minHeight: 0,
      }}
    >
      <ListHead {...props} selected={selected} onDeclare={() => setDeclaring(targets)} />
      <Narrowing wanted={wanted} overview={overview} onChange={change} />
      <Box>
        <MeantNote />
        {root && <ScanNotes root={root} />}
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
          maxHeight: { xs: '70vh', md: '100%' },
          minHeight: { xs: 280, md: 0 },
          overflowX: { xs: 'auto', md: 'hidden' },
          alignSelf: 'start',
          height: total > 0 ? Math.min(total * rowHeight + headings * groupHeight + 37, 100_000) : 340,
        }}
      >
        <ColumnNames marked={marked.size} />
        <Box sx={{ height: 0, position: 'relative', zIndex: 2 }}>{root?.scanning && <ScanBar {...root} />}</Box>
        {total > 0 ? (
          <SourceTable
            {...{ wanted, overview, chosen, marked }}
            alone={marked.size === 0 ? (current?.id ?? null) : null}
            onChoose={choose}
            onMark={setMarked}
            onMarkAll={() => void selected.markAll()}
            onOpen={open}
            onTask={(task, ids) => (task === 'declare' ? setDeclaring(ids) : void selected[task](ids))}
            onFindings={findings}
          />
        ) : root?.problem ? (
          <Box sx={{ p: 2 }}>
            <ProblemNote problem={root.problem} />
          </Box>
        ) : (
          <NothingHere {...props} />
        )}
      </Box>
      {declaring && (
        <DeclareDialog
          ids={declaring}
          first={declaring.length === 1 && current?.id === declaring[0] ? current : null}
          root={root}
          folder={wanted.filter.folder ?? ''}
          onClose={() => setDeclaring(null)}
        />
      )}
      <FindingsPopover looking={looking} onClose={() => setLooking(null)} onOpen={open} />
    </Box>
  );
}

/** What buttons act on: marked rows, or else the chosen one, however it came to be chosen. */
function useSelected(wanted: ListWanted) {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const chosen = useAppSelector((state) => state.view.source);
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set());
  const one = marked.size === 1 ? [...marked][0]! : marked.size === 0 ? chosen : null;
  const { currentData: only = null } = useSourceQuery(one ?? '', { skip: !one });
  const current = only && (marked.size === 1 || isListed(only, wanted.filter)) ? only : null;
  const targets = marked.size > 0 ? [...marked] : current ? [current.id] : [];
  const [keep] = useKeepSelectionMutation();
  const go = useCallback(
    (page: 'inspect' | 'convert', id: string) => {
      dispatch(sourceChosen(id));
      if (page === 'convert') dispatch(manyOpened(null));
      void navigate(`/${page}/${id}`);
    },
    [dispatch, navigate],
  );
  const open = useCallback((id: string) => go('inspect', id), [go]);
  const meant = useAppSelector((state) => state.view.meant);
  const convert = async (ids = targets) => {
    if (ids.length === 1 && !meant) return go('convert', ids[0]!);
    const kept = await keep(ids);
    if (!('data' in kept) || !kept.data) return;
    if (meant) {
      keepBatch(kept.data.id, { batch: batchOf(...meant.outputs), makes: 'all' });
      dispatch(wishMeant(null));
    }
    void navigate(`/convert/many/${kept.data.id}`);
  };
  const rename = (ids = targets) => {
    dispatch(namingBegun({ sources: ids }));
    void navigate('/rename');
  };
  const markAll = async () => {
    const ids = await dispatch(api.endpoints.sourceIds.initiate(wanted.filter, { forceRefetch: true })).unwrap();
    setMarked(new Set(ids));
  };
  return {
    chosen,
    marked,
    setMarked,
    current,
    targets,
    open,
    convert,
    rename,
    markAll,
  };
}

/** What all of some sources are, as far as the list has shown them: `sequence`, or `source` where they differ. */
function useKindOf(ids: readonly string[]): string {
  return useAppSelector((state) => {
    const kinds = new Map<string, string>();
    for (const { endpointName, data } of Object.values(state.api.queries).flatMap((query) => query ?? []))
      if (endpointName === 'sourcePage') for (const { id, kind } of (data ?? []) as ListedSource[]) kinds.set(id, kind);
    const first = ids[0] === undefined ? undefined : kinds.get(ids[0]);
    return first !== undefined && ids.every((id) => kinds.get(id) === first) ? first : 'source';
  });
}

interface HeadProps extends ListProps {
  selected: ReturnType<typeof useSelected>;
  onDeclare: () => void;
}

/** How many there are, and what can be done with those that are selected. */
function ListHead({ root, wanted, overview, selected, onDeclare }: HeadProps) {
  const [scanRoot] = useScanRootMutation();
  const [stopScan] = useStopScanMutation();
  const [startChecks] = useStartChecksMutation();
  const { targets, current } = selected;
  const kind = useKindOf(targets);
  const { all, look } = overview.facets;
  const named = (verb: string) => (targets.length > 1 ? `${verb} ${printCount(targets.length)}` : verb);
  return (
    <Box sx={{ display: 'flex', flexWrap: { xs: 'wrap', md: 'nowrap' }, alignItems: 'end', gap: 1.5, mb: 1.75 }}>
      <Box sx={{ minWidth: 0 }}>
        <Typography variant="h1" noWrap>
          {plural(all, 'source')}
          {look > 0 ? `, ${printCount(look)} ${look === 1 ? 'needs' : 'need'} attention` : ''}
        </Typography>
        {root && <ScanWords root={root} folder={wanted.filter.folder ?? ''} />}
        {all > 0 && (
          <Typography sx={{ color: 'text.secondary' }}>
            {targets.length === 0
              ? 'Select a source, then press Convert.'
              : `${plural(targets.length, 'source')} chosen`}
          </Typography>
        )}
      </Box>
      <Box
        sx={{
          ml: { md: 'auto' },
          display: 'flex',
          flexWrap: { xs: 'wrap', md: 'nowrap' },
          flex: { md: 'none' },
          gap: 1,
          '& .MuiButton-root': { px: 1.25, minWidth: 0 },
        }}
      >
        {root?.scanning ? (
          <Button variant="text" onClick={() => void stopScan(root.id)}>
            Stop scanning
          </Button>
        ) : (
          <Button variant="text" onClick={() => root && void scanRoot(root.id)}>
            Scan again
          </Button>
        )}
        <Button
          variant="text"
          disabled={targets.length === 0}
          title="Decode every frame of the selected sources and list damaged ones"
          onClick={() => void startChecks(targets)}
        >
          {named('Check')}
        </Button>
        <Button variant="outlined" disabled={targets.length === 0} onClick={onDeclare}>
          {named('Declare')}
        </Button>
        <Button variant="outlined" disabled={targets.length === 0} onClick={() => selected.rename()}>
          {named('Rename')}
        </Button>
        <Button variant="outlined" disabled={!current} onClick={() => current && selected.open(current.id)}>
          Inspect
        </Button>
        <Button
          variant="outlined"
          disabled={targets.length > 1 || !current || !hasFrames(current)}
          title="A loop or a sticker within a size limit"
          component={Link}
          to={`/convert/small/${current?.id ?? ''}`}
        >
          Make small
        </Button>
        <Button
          variant="contained"
          disabled={targets.length === 0 || (targets.length === 1 && current !== null && !isConvertible(current))}
          onClick={() => void selected.convert()}
        >
          {targets.length === 0 ? 'Convert' : `Convert ${plural(targets.length, kind)}`}
        </Button>
      </Box>
    </Box>
  );
}

function ColumnNames({ marked }: { marked: number }) {
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: columns,
        borderBottom: 1,
        borderColor: 'divider',
        fontSize: 12.5,
        fontWeight: 600,
        color: 'text.secondary',
        '& > span': { p: '8px 12px 8px 0' },
      }}
    >
      <span />
      <span>{marked > 0 ? `${printCount(marked)} selected` : ''}</span>
      <span>Source</span>
      <span>Coverage</span>
      <span>Taken as</span>
      <span>Findings</span>
    </Box>
  );
}

/** How far a scan is; without end while that is not known. */
function ScanBar({ progress }: Root) {
  const share = progress && progress.total > 0 ? (100 * progress.done) / progress.total : undefined;
  return (
    <LinearProgress
      sx={{ height: 2 }}
      aria-label="Scanning"
      variant={share === undefined ? 'indeterminate' : 'determinate'}
      value={share}
    />
  );
}

/** A list with nothing in it says why, and what to do. */
function NothingHere({ roots, root, wanted, overview, change }: ListProps) {
  const { all } = overview.facets;
  const narrowed = isNarrowed(wanted.filter);
  if (all > 0 && narrowed) {
    return (
      <EmptyPage
        title="No matches"
        action={
          <Button variant="outlined" onClick={() => change({ ...wanted, filter: wide(wanted.filter) })}>
            Show all {printCount(all)}
          </Button>
        }
      >
        No source matches these filters.
      </EmptyPage>
    );
  }
  const elsewhere = root && root.id !== roots[0]!.id && (
    <Button variant="outlined" onClick={() => change({ ...wanted, filter: { root: roots[0]!.id } })}>
      Go to {roots[0]!.name}
    </Button>
  );
  const title = root?.scanning
    ? 'Looking through the folder'
    : root?.id === 'intake'
      ? 'Nothing uploaded yet'
      : root?.writable
        ? 'Nothing written yet'
        : 'No footage here';
  const drawn = root?.notes.find(({ code }) => code === 'being-drawn');
  if (drawn) return <EmptyPage title={drawn.fact.replace(/\.$/, '')}>{drawn.wayOut}</EmptyPage>;
  return (
    <EmptyPage title={title} action={elsewhere || undefined}>
      {root?.id === 'intake'
        ? 'Drop files or a whole folder on the field at the left. They are kept with their folders and their times.'
        : root?.writable
          ? 'Convert a source and the results are listed here.'
          : `Put numbered frames, clips or sounds into ${root?.path ?? 'the folder'}; they show up by themselves.`}
    </EmptyPage>
  );
}
