import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MuiLink from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { memo, useMemo, useRef, type KeyboardEvent } from 'react';
import { Virtuoso, type VirtuosoHandle } from 'react-virtuoso';
import { hasFrames, type Problem } from '@shale/core';
import type { ListedSource, PlannedPart, TriedPart } from '@shale/contract';
import { useSomeSourcesQuery } from '../../../api/api.ts';
import { Chip } from '../../../pieces/Chip.tsx';
import { Mark } from '../../../pieces/State.tsx';
import { printCount } from '../../../pieces/words.ts';
import { CoverageStrip } from '../../../strip/CoverageStrip.tsx';
import { stripOf } from '../../../strip/model.ts';
import { countsOf, needOf, type Mend, type Need, type Needs } from './needs.ts';
import { triedWords, type Tried, type useTried } from './useTried.ts';

/** Height of a row in pixels. */
const rowHeight = 38;

/** Sources that are fetched together. */
export const fetchedTogether = 60;

/** Which of the sources are shown. */
export const shownKinds = ['all', 'ready', 'needs', 'differ'] as const;
export type Shown = (typeof shownKinds)[number];

/** The place among all ids of those that are shown. */
export function shownAmong(
  ids: readonly string[],
  bySource: ReadonlyMap<string, PlannedPart[]>,
  shown: Shown,
): number[] {
  const holds = (id: string): boolean => {
    const parts = bySource.get(id) ?? [];
    if (shown === 'all') return true;
    if (shown === 'differ') return parts.some(({ differs }) => differs);
    const waits = parts.length === 0 || parts.some(({ problems }) => problems.length > 0);
    return shown === 'needs' ? waits : !waits;
  };
  return ids.flatMap((id, at) => (holds(id) ? at : []));
}

interface Props {
  ids: readonly string[];
  bySource: ReadonlyMap<string, PlannedPart[]>;
  needs: Needs;
  tried: ReturnType<typeof useTried>;
  chosen: string;
  shown: Shown;
  onShown: (shown: Shown) => void;
  onChoose: (id: string) => void;
  onMend: (mend: Mend) => void;
}

/** The sources of a batch: what comes of each, what it needs, and what mends that. */
export function SourceList({ ids, bySource, needs, tried, chosen, shown, onShown, onChoose, onMend }: Props) {
  const list = useRef<VirtuosoHandle>(null);
  const counts = useMemo(
    () =>
      Object.fromEntries(shownKinds.map((kind) => [kind, shownAmong(ids, bySource, kind).length])) as Record<
        Shown,
        number
      >,
    [ids, bySource],
  );
  const places = useMemo(() => shownAmong(ids, bySource, shown), [ids, bySource, shown]);
  const told = triedWords(tried);
  const words: Record<Shown, string> = {
    all: `All ${printCount(counts.all)}`,
    ready: `Ready ${printCount(counts.ready)}`,
    needs: `Waiting ${printCount(counts.needs)}`,
    differ: `Different ${printCount(counts.differ)}`,
  };
  const onKey = (event: KeyboardEvent) => {
    const at = places.findIndex((place) => ids[place] === chosen);
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 10, PageUp: -10, Home: -places.length, End: places.length }[
      event.key
    ];
    if (step === undefined || places.length === 0) return;
    event.preventDefault();
    const next = Math.min(places.length - 1, Math.max(0, at + step));
    onChoose(ids[places[next]!]!);
    list.current?.scrollIntoView({ index: next });
  };
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: 'minmax(0, 1fr)',
        gridTemplateRows: 'auto minmax(0, 1fr)',
        bgcolor: 'background.paper',
        border: 1,
        borderColor: 'divider',
        borderRadius: '6px',
        minHeight: 0,
        overflow: 'hidden',
      }}
    >
      <Box
        role="group"
        aria-label="Show"
        sx={{ display: 'flex', gap: 1, alignItems: 'center', p: '8px 10px', borderBottom: 1, borderColor: 'divider' }}
      >
        {shownKinds
          .filter((kind) => kind === 'all' || kind === shown || counts[kind] > 0)
          .map((kind) => (
            <Chip key={kind} on={shown === kind} onClick={() => onShown(kind)}>
              {words[kind]}
            </Chip>
          ))}
        <Box sx={{ ml: 'auto', display: 'flex', alignItems: 'center', gap: 1, minWidth: 0 }}>
          {told && (
            <Typography
              noWrap
              role="status"
              sx={{ fontSize: 13, color: told.isWell ? 'text.secondary' : 'error.main' }}
            >
              {told.words}
            </Typography>
          )}
          {tried.isRunning ? (
            <Button size="small" onClick={tried.stop}>
              Stop
            </Button>
          ) : (
            <Button
              size="small"
              onClick={() => void tried.run()}
              title="Makes one frame of each, reads it back and keeps nothing"
              sx={{ whiteSpace: 'nowrap' }}
            >
              Try one of each
            </Button>
          )}
        </Box>
      </Box>
      <Box
        role="listbox"
        aria-label="Sources to convert"
        tabIndex={0}
        aria-activedescendant={`many-${chosen}`}
        onKeyDown={onKey}
        sx={{ minHeight: 0, '&:focus-visible': { outlineOffset: -2 } }}
      >
        <Virtuoso
          ref={list}
          totalCount={places.length}
          fixedItemHeight={rowHeight}
          increaseViewportBy={rowHeight * 4}
          itemContent={(index) => (
            <RowAt
              {...{ ids, bySource, needs, chosen, onChoose, onMend }}
              tried={tried.bySource}
              place={places[index]!}
            />
          )}
        />
      </Box>
    </Box>
  );
}

interface RowAtProps extends Pick<Props, 'ids' | 'bySource' | 'needs' | 'chosen' | 'onChoose' | 'onMend'> {
  tried: Tried['bySource'];
  /** Among all ids. */
  place: number;
}

/** A row, wherever it is: sources are fetched by stretches of the list. */
function RowAt({ ids, place, bySource, tried, needs, chosen, onChoose, onMend }: RowAtProps) {
  const from = Math.floor(place / fetchedTogether) * fetchedTogether;
  const { data } = useSomeSourcesQuery(useMemo(() => ids.slice(from, from + fetchedTogether), [ids, from]));
  const id = ids[place]!;
  const source = data?.find((one) => one.id === id);
  const parts = bySource.get(id);
  const need = useMemo(() => (parts ? needOf(parts, needs) : undefined), [parts, needs]);
  if (!source) return <Box sx={{ height: rowHeight, borderBottom: 1, borderColor: 'divider' }} />;
  return <Row {...{ source, parts, need, onChoose, onMend }} tried={tried.get(id)} isChosen={id === chosen} />;
}

interface RowProps {
  source: ListedSource;
  parts: PlannedPart[] | undefined;
  need: Need | undefined;
  /** What trying one result of it showed. */
  tried: TriedPart[] | undefined;
  isChosen: boolean;
  onChoose: (id: string) => void;
  onMend: (mend: Mend) => void;
}

const Row = memo(function Row({ source, parts, need, tried, isChosen, onChoose, onMend }: RowProps) {
  const failed = tried?.find(({ problem }) => problem)?.problem;
  const { tokens } = useTheme();
  const differs = parts?.some((part) => part.differs) ?? false;
  const leaf = source.folder.split('/').pop()!;
  return (
    <Box
      role="option"
      id={`many-${source.id}`}
      aria-selected={isChosen}
      onClick={() => onChoose(source.id)}
      sx={{
        display: 'grid',
        gridTemplateColumns: '22px minmax(110px, 176px) minmax(0, 1fr) auto',
        gap: 1,
        alignItems: 'center',
        height: rowHeight,
        px: 1.25,
        borderBottom: 1,
        borderColor: 'divider',
        cursor: 'default',
        bgcolor: isChosen ? tokens.actWash : undefined,
        boxShadow: isChosen ? `inset 3px 0 0 ${tokens.act}` : 'none',
      }}
    >
      <Mark severity={failed ? 'fault' : (need?.severity ?? 'note')} />
      <Typography noWrap sx={{ fontSize: 13.5 }} title={`${source.folder}/${source.name}`}>
        <b>{leaf || source.name}</b>{' '}
        <Box component="span" sx={{ color: 'text.secondary' }}>
          {leaf ? source.name.replace(/[._-]*#+.*$/, '') : ''}
        </Box>
      </Typography>
      <RowWords {...{ source, parts, need, failed }} />
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', justifyContent: 'flex-end' }}>
        {differs && (
          <Box
            component="span"
            sx={{
              fontSize: 12,
              border: 1,
              borderColor: 'divider',
              borderRadius: '9px',
              px: 0.75,
              color: 'text.secondary',
            }}
          >
            different
          </Box>
        )}
        {need?.mend ? (
          <MuiLink
            component="button"
            onClick={(event) => {
              event.stopPropagation();
              onMend(need.mend!.mend);
            }}
            sx={{ fontSize: 13, fontWeight: 600, fontFamily: 'inherit', whiteSpace: 'nowrap' }}
          >
            {need.mend.words}
          </MuiLink>
        ) : (
          <Box component="span" className="mono" sx={{ fontSize: 13, color: 'text.secondary', whiteSpace: 'nowrap' }}>
            {parts && countsOf(parts)}
          </Box>
        )}
      </Box>
    </Box>
  );
});

interface WordsProps extends Pick<RowProps, 'source' | 'parts' | 'need'> {
  /** What trying one result of it showed. */
  failed: Problem | null | undefined;
}

/** The strip of a source, with what is to be said of it; where it waits, that alone. */
function RowWords({ source, parts, need, failed }: WordsProps) {
  const strip = useMemo(() => stripOf(source), [source]);
  if (need?.stops)
    return (
      <Typography noWrap title={parts?.flatMap(({ problems }) => problems)[0]?.fact ?? need.why} sx={{ minWidth: 0 }}>
        <Box component="span" sx={{ fontSize: 13, color: need.severity === 'fault' ? 'error.main' : 'warning.main' }}>
          {need.words}
        </Box>
      </Typography>
    );
  return (
    <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', minWidth: 0 }}>
      <Box sx={{ flex: 1, minWidth: 60 }}>{hasFrames(source) && <CoverageStrip model={strip} height={20} />}</Box>
      {failed ? (
        <Typography noWrap title={failed.fact} sx={{ fontSize: 13, color: 'error.main', maxWidth: '60%' }}>
          {failed.fact}
        </Typography>
      ) : (
        need && (
          <Box
            component="span"
            title={need.why}
            sx={{
              fontSize: 13,
              color: `${need.severity === 'fault' ? 'error' : 'warning'}.main`,
              whiteSpace: 'nowrap',
            }}
          >
            {need.words}
          </Box>
        )
      )}
    </Box>
  );
}
