import Box from '@mui/material/Box';
import pLimit from 'p-limit';
import { useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent, type MouseEvent } from 'react';
import { GroupedVirtuoso, Virtuoso, type GroupedVirtuosoHandle, type VirtuosoHandle } from 'react-virtuoso';
import type { ListedSource, Overview } from '@shale/contract';
import { api, pageRows, useSourcePageQuery, type ListWanted } from '../../api/api.ts';
import { plural } from '../../pieces/words.ts';
import { scrolled } from '../../pieces/scrolled.tsx';
import { useAppDispatch } from '../../state/store.ts';
import { EmptyRow, rowHeight, SourceRow } from './SourceRow.tsx';

/** Height of a folder's heading. */
export const groupHeight = 25;

/** Whether folders are worth a heading: not where all that is listed lies in the one that is looked at. */
export const isHeaded = ({ groups }: Overview, { filter }: ListWanted): boolean =>
  groups.length > 1 || (groups.length === 1 && groups[0]!.folder !== (filter.folder ?? ''));

/** Pages of a range that are asked for at once. */
const pagesAtOnce = 4;

/** What is done with the selected sources by a key of the list. */
const tasks: Partial<Record<string, ListTask>> = { c: 'convert', r: 'rename', d: 'declare' };
export type ListTask = 'convert' | 'rename' | 'declare';

interface Props {
  wanted: ListWanted;
  overview: Overview;
  /** The source that Inspect and Convert open. */
  chosen: string | null;
  marked: ReadonlySet<string>;
  /** The listed source that buttons act on while none is marked. */
  alone: string | null;
  onChoose: (source: ListedSource) => void;
  onMark: (marked: ReadonlySet<string>) => void;
  onMarkAll: () => void;
  onOpen: (id: string) => void;
  /** @param ids what is marked, or else where the keyboard is */
  onTask: (task: ListTask, ids: string[]) => void;
  onFindings: (source: ListedSource, at: HTMLElement) => void;
}

/** A row of the list, wherever it is: its page is fetched once for all its rows. */
function RowAt({
  index,
  wanted,
  row,
}: {
  index: number;
  wanted: ListWanted;
  row: (source: ListedSource, index: number) => React.ReactNode;
}) {
  const page = Math.floor(index / pageRows);
  const { data } = useSourcePageQuery({ ...wanted, page });
  const source = data?.[index - page * pageRows];
  return source ? row(source, index) : <EmptyRow />;
}

/** The sources of a list, however many: only what is seen is fetched and drawn. Arrow keys, space and Ctrl+A work as in any list. */
export function SourceTable(props: Props) {
  const { wanted, overview, chosen, marked, alone, onChoose, onMark, onMarkAll, onOpen, onTask, onFindings } = props;
  const dispatch = useAppDispatch();
  const plain = useRef<VirtuosoHandle>(null);
  const grouped = useRef<GroupedVirtuosoHandle>(null);
  /** Where the keyboard stands, and where a range of marks began. */
  const at = useRef(-1);
  const anchor = useRef(0);
  const [cursor, setCursor] = useState<string | null>(chosen);
  const latest = useRef({ marked, wanted, alone });
  useEffect(() => {
    latest.current = { marked, wanted, alone };
  });
  useEffect(() => {
    at.current = -1;
  }, [wanted]);

  const fetchPage = useCallback(
    async (page: number): Promise<readonly ListedSource[]> => {
      const request = dispatch(api.endpoints.sourcePage.initiate({ ...latest.current.wanted, page }));
      const { data = [] } = await request;
      request.unsubscribe();
      return data;
    },
    [dispatch],
  );
  const fetchRow = useCallback(
    async (index: number): Promise<ListedSource | undefined> => {
      const page = Math.floor(index / pageRows);
      return (await fetchPage(page))[index - page * pageRows];
    },
    [fetchPage],
  );
  const idsBetween = useCallback(
    async (from: number, to: number): Promise<string[]> => {
      const [first, last] = [Math.min(from, to), Math.max(from, to)];
      const start = Math.floor(first / pageRows);
      const side = pLimit(pagesAtOnce);
      const pages = await Promise.all(
        Array.from({ length: Math.floor(last / pageRows) - start + 1 }, (_, at) => side(() => fetchPage(start + at))),
      );
      const from0 = start * pageRows;
      return pages
        .flat()
        .slice(first - from0, last - from0 + 1)
        .map(({ id }) => id);
    },
    [fetchPage],
  );

  const choose = useCallback(
    (index: number, source: ListedSource) => {
      at.current = index;
      setCursor(source.id);
      onChoose(source);
    },
    [onChoose],
  );
  const toggle = useCallback(
    (index: number, source: ListedSource) => {
      const { marked: before, alone: one } = latest.current;
      // The row that was chosen is selected as well as those that are marked.
      const next = new Set(before.size === 0 && one !== null ? [one] : before);
      if (before.size === 0 && one === source.id) next.add(one);
      else if (!next.delete(source.id)) next.add(source.id);
      at.current = index;
      anchor.current = index;
      onMark(next);
    },
    [onMark],
  );
  const press = useCallback(
    (index: number, source: ListedSource, event: MouseEvent) => {
      if (event.shiftKey) {
        void idsBetween(anchor.current, index).then((ids) => onMark(new Set([...latest.current.marked, ...ids])));
        at.current = index;
        return;
      }
      if (event.ctrlKey || event.metaKey) return toggle(index, source);
      anchor.current = index;
      onMark(new Set());
      choose(index, source);
    },
    [choose, toggle, idsBetween, onMark],
  );

  const scrollTo = (index: number) => {
    plain.current?.scrollIntoView({ index });
    grouped.current?.scrollIntoView({ index });
  };
  const onKey = (event: KeyboardEvent) => {
    const { total } = overview;
    if (total === 0) return;
    if (event.key === 'Enter' && cursor) return onOpen(cursor);
    const task = !event.ctrlKey && !event.metaKey && !event.altKey && tasks[event.key.toLowerCase()];
    const here = cursor ?? chosen;
    const ids = marked.size > 0 ? [...marked] : here ? [here] : [];
    if (task && ids.length > 0) return onTask(task, ids);
    if (event.key === 'Escape') return onMark(new Set());
    if (event.key.toLowerCase() === 'a' && (event.ctrlKey || event.metaKey)) {
      event.preventDefault();
      return onMarkAll();
    }
    if (event.key === ' ' && at.current >= 0) {
      event.preventDefault();
      void fetchRow(at.current).then((source) => source && toggle(at.current, source));
      return;
    }
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 8, PageUp: -8, Home: -total, End: total }[event.key];
    if (step === undefined) return;
    event.preventDefault();
    const next = Math.min(total - 1, Math.max(0, at.current + step));
    at.current = next;
    scrollTo(next);
    void fetchRow(next).then((source) => {
      if (!source || at.current !== next) return;
      setCursor(source.id);
      onChoose(source);
      if (event.shiftKey) void idsBetween(anchor.current, next).then((ids) => onMark(new Set(ids)));
      else anchor.current = next;
    });
  };

  const row = useCallback(
    (source: ListedSource, index: number) => (
      <SourceRow
        source={source}
        index={index}
        chosen={source.id === chosen}
        marked={marked.has(source.id)}
        onPress={press}
        onMark={toggle}
        onOpen={onOpen}
        onFindings={onFindings}
      />
    ),
    [chosen, marked, press, toggle, onOpen, onFindings],
  );
  const item = (index: number) => <RowAt index={index} wanted={wanted} row={row} />;
  const { groups, total } = overview;
  const headed = isHeaded(overview, wanted);
  const counts = useMemo(() => groups.map(({ count }) => count), [groups]);
  // One address a list: another list begins at its top.
  const key = JSON.stringify(wanted);
  return (
    <Box
      role="grid"
      aria-label="Sources"
      aria-multiselectable
      tabIndex={0}
      aria-activedescendant={cursor ? `source-${cursor}` : undefined}
      onKeyDown={onKey}
      sx={{ minHeight: 0, '&:focus-visible': { outlineOffset: -2 } }}
    >
      {headed ? (
        <GroupedVirtuoso
          key={key}
          ref={grouped}
          components={scrolled}
          groupCounts={counts}
          defaultItemHeight={rowHeight}
          increaseViewportBy={rowHeight * 4}
          groupContent={(group) => <FolderHead folder={groups[group]!.folder} count={groups[group]!.count} />}
          itemContent={item}
        />
      ) : (
        <Virtuoso
          key={key}
          ref={plain}
          components={scrolled}
          totalCount={total}
          fixedItemHeight={rowHeight}
          increaseViewportBy={rowHeight * 4}
          itemContent={item}
        />
      )}
    </Box>
  );
}

function FolderHead({ folder, count }: { folder: string; count: number }) {
  return (
    <Box
      sx={{
        height: groupHeight,
        display: 'flex',
        alignItems: 'center',
        gap: 1.25,
        px: 1.5,
        bgcolor: 'background.default',
        borderBottom: 1,
        borderColor: 'divider',
        fontSize: 12.5,
      }}
    >
      <Box
        component="span"
        className="mono"
        sx={{ fontWeight: 600, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}
      >
        {folder === '' ? 'in the root itself' : folder}
      </Box>
      <Box component="span" sx={{ color: 'text.secondary', whiteSpace: 'nowrap' }}>
        {plural(count, 'source')}
      </Box>
    </Box>
  );
}
