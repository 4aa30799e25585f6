import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { Fragment, useState } from 'react';
import { GroupedVirtuoso, Virtuoso } from 'react-virtuoso';
import type { RenameRow, RenameView } from '@shale/contract';
import { namesTogether, useRenameRowsQuery, type RowsShown } from '../../api/api.ts';
import { difference, type Piece } from '../../names/difference.ts';
import { Chip } from '../../pieces/Chip.tsx';
import { plural, printCount } from '../../pieces/words.ts';
import { scrolledTable } from '../../pieces/scrolled.tsx';

const rowHeight = 26;
const columns = 'minmax(0, 1fr) 30px minmax(0, 1fr) 150px';
/** Sources beyond which no headings are drawn. */
const headings = 2000;

/** What is worth saying of a row in a few words. */
const relationWords: Record<RenameRow['relation'], string> = {
  same: 'as it is',
  new: '',
  overlap: 'moves up',
  swap: 'changes places',
  case: 'capitals only',
};
const faultWords: Record<RenameRow['fault'], string> = {
  none: '',
  collision: 'duplicate',
  taken: 'name is taken',
  'differs-in-case': 'differs in case only',
  'empty-name': 'no name',
  'hidden-name': 'hidden',
  'unfit-character': 'unfit character',
  'reserved-name': 'reserved on other systems',
  'name-too-long': 'too long',
};

/** A name with the pieces marked that only it has: what goes is struck, what comes stands on a ground of its own. */
function Marked({ pieces, comes, fault }: { pieces: readonly Piece[]; comes: boolean; fault?: boolean }) {
  const { tokens } = useTheme();
  const come = {
    textDecoration: 'none',
    background: fault ? tokens.faultWash : tokens.actWash,
    color: fault ? tokens.fault : tokens.act,
    fontWeight: 650,
    borderRadius: 3,
    padding: '1px 0',
  };
  return pieces.map(({ text, own }, at) => {
    if (!own) return <Fragment key={at}>{text}</Fragment>;
    return comes ? (
      <ins key={at} style={come}>
        {text}
      </ins>
    ) : (
      <del key={at} style={{ color: tokens.soft }}>
        {text}
      </del>
    );
  });
}

function Line({ row }: { row: RenameRow }) {
  const [was, is] = difference(row.from, row.to);
  const fault = row.fault !== 'none';
  return (
    <Box
      role="row"
      aria-rowindex={row.row + 1}
      sx={{
        display: 'grid',
        gridTemplateColumns: columns,
        alignItems: 'center',
        height: rowHeight,
        px: 1.75,
        color: row.relation === 'same' ? 'text.secondary' : 'text.primary',
        '& > .mono': { fontSize: 13, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'pre' },
      }}
    >
      <span role="cell" className="mono" title={row.from}>
        <Marked pieces={was} comes={false} />
      </span>
      <Box component="span" aria-hidden sx={{ color: 'text.secondary' }}>
        {row.relation === 'same' ? '' : '→'}
      </Box>
      <span role="cell" className="mono" title={row.to}>
        <Marked pieces={is} comes fault={fault} />
      </span>
      <Box
        role="cell"
        sx={{
          fontSize: 12.5,
          color: fault ? 'error.main' : 'text.secondary',
          fontWeight: fault ? 600 : 400,
          whiteSpace: 'nowrap',
        }}
      >
        {fault ? faultWords[row.fault] : relationWords[row.relation]}
      </Box>
    </Box>
  );
}

function LineAt({ digest, show, index }: { digest: string; show: RowsShown; index: number }) {
  const page = Math.floor(index / namesTogether);
  const { data } = useRenameRowsQuery({ digest, show, page });
  const row = data?.rows[index - page * namesTogether];
  return row ? <Line row={row} /> : <Box sx={{ height: rowHeight }} />;
}

/** Every name as it is and as it will be, side by side, however many. */
export function NamesTable({ plan }: { plan: RenameView }) {
  const [wanted, setWanted] = useState<RowsShown | null>(null);
  const { counts, groups, digest } = plan;
  // What stands in the way is looked at first; a person's own choice stays.
  const show = wanted === 'faults' && counts.faults === 0 ? 'all' : (wanted ?? (counts.faults > 0 ? 'faults' : 'all'));
  const total = { all: counts.files, changed: counts.changed, faults: counts.faults }[show];
  const sizes = groups.map((group) => (show === 'all' ? group.count : group.changed));
  const headed = show !== 'faults' && groups.length > 1 && groups.length <= headings;
  const heads = groups.filter((_, at) => sizes[at]! > 0);
  return (
    <Box sx={{ display: 'grid', gridTemplateRows: 'auto auto minmax(0, 1fr)', minHeight: 0 }}>
      <Box sx={{ display: 'flex', gap: 1, mb: 1.25 }} role="group" aria-label="Names shown">
        <Chip on={show === 'all'} onClick={() => setWanted('all')}>
          All {printCount(counts.files)}
        </Chip>
        <Chip on={show === 'changed'} onClick={() => setWanted('changed')}>
          Changing {printCount(counts.changed)}
        </Chip>
        {counts.faults > 0 && (
          <Chip on={show === 'faults'} onClick={() => setWanted('faults')}>
            In the way {printCount(counts.faults)}
          </Chip>
        )}
      </Box>
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: columns,
          px: 1.75,
          py: 1,
          border: 1,
          borderColor: 'divider',
          borderRadius: '6px 6px 0 0',
          bgcolor: 'background.paper',
          fontSize: 12.5,
          fontWeight: 600,
          color: 'text.secondary',
        }}
      >
        <span>Now</span>
        <span />
        <span>Then</span>
        <span />
      </Box>
      <Box
        role="table"
        aria-label="Names before and after"
        aria-rowcount={total}
        sx={{
          border: 1,
          borderTop: 0,
          borderColor: 'divider',
          borderRadius: '0 0 6px 6px',
          bgcolor: 'background.paper',
          minHeight: 0,
          overflow: 'hidden',
        }}
      >
        {total === 0 ? (
          <Box sx={{ p: 3, color: 'text.secondary' }}>
            {counts.files === 0
              ? 'These names cannot be planned yet; see the reason below.'
              : 'No name changes by these rules.'}
          </Box>
        ) : headed ? (
          <GroupedVirtuoso
            key={show}
            components={scrolledTable}
            groupCounts={sizes.filter((size) => size > 0)}
            groupContent={(at) => {
              const { name, from, into, reads, count } = heads[at]!;
              return (
                <Box
                  sx={{
                    display: 'flex',
                    gap: 1.25,
                    px: 1.75,
                    height: 27,
                    alignItems: 'center',
                    bgcolor: 'background.default',
                    borderBlock: 1,
                    borderColor: 'divider',
                    fontSize: 12.5,
                    whiteSpace: 'nowrap',
                    overflow: 'hidden',
                  }}
                >
                  <Box component="span" className="mono" sx={{ fontWeight: 600 }}>
                    {name}
                  </Box>
                  <span>→</span>
                  <Box component="span" className="mono" sx={{ fontWeight: 600, color: 'primary.main' }}>
                    {from === into ? reads : `${into}/${reads}`}
                  </Box>
                  <Box component="span" sx={{ color: 'text.secondary', ml: 'auto' }}>
                    {plural(count, 'file')}
                  </Box>
                </Box>
              );
            }}
            itemContent={(index) => <LineAt digest={digest} show={show} index={index} />}
          />
        ) : (
          <Virtuoso
            key={show}
            components={scrolledTable}
            totalCount={total}
            fixedItemHeight={rowHeight}
            itemContent={(index) => <LineAt digest={digest} show={show} index={index} />}
          />
        )}
      </Box>
    </Box>
  );
}
