import Box from '@mui/material/Box';
import { useEffect, useRef } from 'react';
import { Virtuoso, type VirtuosoHandle } from 'react-virtuoso';
import {
  frameParts,
  placeOfFrame,
  roomWanted,
  rowCount,
  rowsOf,
  shotSource,
  type Plan,
  type PlanRow,
} from '@shale/core';
import type { ListedSource, Measured } from '@shale/contract';
import { State } from '../../pieces/State.tsx';
import { useStageFrame } from '../../stage/useStageFrame.ts';
import { plural, printBytes } from '../../pieces/words.ts';
import { scrolledTable } from '../../pieces/scrolled.tsx';

const rowHeight = 24;

const base = (path: string) => path.slice(path.lastIndexOf('/') + 1);

/** The line of a plan that a frame of its source has, from 0. */
function lineOf(plan: Plan, frame: number): number | undefined {
  let before = 0;
  for (const run of plan.runs) {
    const at = run.shot || run.kind === 'title' ? undefined : placeOfFrame(run, frame);
    if (at !== undefined) return before + at;
    before += run.count;
  }
  return undefined;
}

/** Where a result comes from. */
function fromWords(plan: Plan, { kind, sourceFrame, from, mixed, shot }: PlanRow): string {
  if (kind === 'title') return 'a title';
  if (kind !== 'write') return `${sourceFrame} missing`;
  const isClip = shotSource(plan, shot).kind === 'clip';
  const one = (frame: number, path: string) => (isClip ? `picture ${frame}` : base(path));
  const first = one(sourceFrame, from!);
  if (!mixed) return shot > 0 && isClip ? `${base(from!)} ${sourceFrame}` : first;
  // Two file names have no room.
  if (mixed.how === 'lines') return `lines of ${sourceFrame} and ${mixed.frame}`;
  return `${sourceFrame} +${Math.round((mixed.weight * 100) / frameParts)}% of ${mixed.frame}`;
}

function toWords(plan: Plan, { kind, frame, to }: PlanRow): string {
  if (kind === 'missing') return plan.into.kind === 'video' ? 'closed up' : 'left out';
  const name = plan.into.kind === 'video' ? `frame ${frame}` : base(to);
  return kind === 'slate' ? `${name}, a slate` : name;
}

/** Every file, from and to, missing ones in their place; follows the frame on the stage. */
export function PlanTable({ source, plan }: { source: ListedSource; plan: Plan }) {
  const at = useStageFrame(source);
  const list = useRef<VirtuosoHandle>(null);
  const line = lineOf(plan, at);
  useEffect(() => {
    if (line !== undefined) list.current?.scrollToIndex({ index: line, align: 'center' });
  }, [line]);
  const total = rowCount(plan);
  return (
    <Box role="table" aria-label="Plan" sx={{ flex: 1, minHeight: 0 }}>
      <Virtuoso
        ref={list}
        components={scrolledTable}
        totalCount={total}
        fixedItemHeight={rowHeight}
        itemContent={(index) => {
          const [row] = rowsOf(plan, index, index + 1);
          if (!row) return <div />;
          const missing = row.kind === 'missing';
          return (
            <Box
              role="row"
              className="mono"
              sx={{
                display: 'grid',
                gridTemplateColumns: 'minmax(0, 1fr) 22px minmax(0, 1fr)',
                height: rowHeight,
                alignItems: 'center',
                fontSize: 12,
                px: 1,
                borderRadius: '3px',
                color: missing ? 'error.main' : 'text.primary',
                bgcolor: index === line ? 'action.selected' : undefined,
                '& > span': { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' },
              }}
            >
              <span role="cell">{fromWords(plan, row)}</span>
              <span aria-hidden>{missing ? '' : '→'}</span>
              <span role="cell" title={row.to}>
                {toWords(plan, row)}
              </span>
            </Box>
          );
        }}
      />
    </Box>
  );
}

/** What of a plan is worth a word before it is run: what it replaces, and what does not fit on the disk. */
export function PlanNotes({
  plan,
  measured,
  replaces,
  room,
}: {
  plan: Plan;
  measured?: Measured;
  /** Files that are there and will be replaced. */
  replaces: number;
  /** Bytes free where it writes, where that is known. */
  room: number | null;
}) {
  return (
    <>
      {replaces > 0 && (
        <State severity="doubt">
          {plural(replaces, 'file')} with {replaces === 1 ? 'this name is' : 'these names are'} there and will be
          replaced.
        </State>
      )}
      {measured && room !== null && roomWanted(plan, measured.bytes) > room && (
        <State severity="fault">
          The run needs about {printBytes(roomWanted(plan, measured.bytes))}, and {printBytes(room)} are free.
        </State>
      )}
    </>
  );
}
