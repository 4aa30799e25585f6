import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Checkbox from '@mui/material/Checkbox';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { memo, useEffect, useMemo, useState, type MouseEvent } from 'react';
import { hasFrames, asksForLook, coverageCount, frameAt, printCoverage, printSeconds, sampleFrames } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { previewUrl } from '../../stage/frames.ts';
import { State } from '../../pieces/State.tsx';
import { changeWords, framesAndTime, isUndeclared, plural, printBytes, takenAs } from '../../pieces/words.ts';
import { CoverageStrip } from '../../strip/CoverageStrip.tsx';
import { stripOf } from '../../strip/model.ts';

/** Columns of the table: mark, picture, source, coverage, taken as, findings. */
export const columns = '34px 84px minmax(180px, 228px) minmax(140px, 1fr) 178px 184px';

/** Height of a row in pixels; the same for all, so that long tables scroll evenly. */
export const rowHeight = 59;

/** Frames that may stand for a source, the best first: one in the middle, then those that headers were read from. */
function posterFrames(source: ListedSource): number[] {
  if (source.kind !== 'sequence') return [0];
  const middle = frameAt(source.coverage, Math.floor(coverageCount(source.coverage) * 0.4))!;
  return [middle, ...sampleFrames(source.coverage, 3)];
}

/** How long a row must stand before its picture is asked for, in milliseconds: rows that scroll past ask for nothing. */
const stands = 120;

function SmallPreview({ source }: { source: ListedSource }) {
  const [tries, setTries] = useState(0);
  const [asks, setAsks] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setAsks(true), stands);
    return () => clearTimeout(timer);
  }, []);
  const frame = source.facts ? posterFrames(source)[tries] : undefined;
  return (
    <Box
      sx={{
        width: 72,
        height: 40,
        borderRadius: '3px',
        overflow: 'hidden',
        display: 'grid',
        placeItems: 'center',
        fontSize: 11,
        color: '#fff',
        background: 'repeating-conic-gradient(#767676 0 25%, #8c8c8c 0 50%) 0 0 / 8px 8px',
      }}
    >
      {frame !== undefined ? (
        asks && (
          <Box
            component="img"
            src={previewUrl(source, frame, 144)}
            alt=""
            decoding="async"
            onError={() => setTries(tries + 1)}
            sx={{ width: 72, height: 40, objectFit: 'contain', display: 'block' }}
          />
        )
      ) : source.kind === 'sound' ? (
        <svg viewBox="0 0 72 40" width="72" height="40" aria-hidden>
          <path
            d="M6 20h6M15 14v12M20 8v24M25 12v16M30 5v30M35 11v18M40 15v10M45 9v22M50 13v14M55 17v6M60 20h6"
            stroke="#f1efe8"
            strokeWidth="2.4"
            strokeLinecap="round"
          />
        </svg>
      ) : (
        'no picture'
      )}
    </Box>
  );
}

function Findings({ source, onOpen }: { source: ListedSource; onOpen: (at: HTMLElement) => void }) {
  const [first] = [...source.findings].sort((a, b) => Number(asksForLook(b)) - Number(asksForLook(a)));
  if (!first) {
    return isUndeclared(source) ? (
      <State severity="doubt">Rate not declared</State>
    ) : (
      <State severity="note">None</State>
    );
  }
  const more = source.findings.length - 1;
  const open = (event: MouseEvent<HTMLElement>) => {
    event.stopPropagation();
    onOpen(event.currentTarget);
  };
  return (
    <ButtonBase
      tabIndex={-1}
      onClick={open}
      onDoubleClick={(event) => event.stopPropagation()}
      aria-haspopup="dialog"
      title={source.findings.map(({ sentence }) => sentence).join('\n')}
      sx={{
        fontFamily: 'inherit',
        textAlign: 'left',
        display: 'block',
        maxWidth: '100%',
        borderRadius: '3px',
        '&:hover': { textDecoration: 'underline', textUnderlineOffset: 3 },
      }}
    >
      <State severity={first.setAside === undefined ? first.severity : 'note'} clips>
        {first.setAside === undefined ? first.short : `${first.short}, set aside`}
      </State>
      {more > 0 && (
        <Typography sx={{ fontSize: 12.5, color: 'text.secondary', pl: '18px' }}>
          and {plural(more, 'more', 'more')}
        </Typography>
      )}
    </ButtonBase>
  );
}

interface Props {
  source: ListedSource;
  index: number;
  /** The one that Inspect and Convert open. */
  chosen: boolean;
  marked: boolean;
  onPress: (index: number, source: ListedSource, event: MouseEvent) => void;
  onMark: (index: number, source: ListedSource) => void;
  onOpen: (id: string) => void;
  onFindings: (source: ListedSource, at: HTMLElement) => void;
}

/** One source: picture, name and frames, core sample, what it is taken as, what is wrong. */
export const SourceRow = memo(function SourceRow(props: Props) {
  const { source, index, chosen, marked, onPress, onMark, onOpen, onFindings } = props;
  const { tokens } = useTheme();
  const taken = takenAs(source);
  const strip = useMemo(() => stripOf(source), [source]);
  const seconds = source.sound?.seconds ?? source.facts?.seconds;
  const below = hasFrames(source)
    ? framesAndTime(source.coverage, source.declaration.rate.value)
    : source.kind === 'sound'
      ? [seconds && printSeconds(seconds.num / seconds.den), source.sound?.more[0]?.[1]].filter(Boolean).join(', ')
      : source.facts
        ? `${source.facts.width} x ${source.facts.height}`
        : 'still';
  const change = changeWords(source);
  return (
    <Box
      role="row"
      id={`source-${source.id}`}
      aria-selected={chosen || marked}
      onClick={(event) => onPress(index, source, event)}
      onDoubleClick={() => onOpen(source.id)}
      sx={{
        display: 'grid',
        gridTemplateColumns: columns,
        alignItems: 'center',
        height: rowHeight,
        borderBottom: 1,
        borderColor: 'divider',
        cursor: 'default',
        userSelect: 'none',
        bgcolor: chosen || marked ? tokens.actWash : 'background.paper',
        boxShadow: chosen ? `inset 3px 0 0 ${tokens.act}` : 'none',
        '& > *': { pr: 1.5, minWidth: 0 },
      }}
    >
      <Box role="gridcell">
        <Checkbox
          size="small"
          tabIndex={-1}
          checked={marked}
          onClick={(event) => event.stopPropagation()}
          onChange={() => onMark(index, source)}
          slotProps={{ input: { 'aria-label': `Select ${source.name}` } }}
          sx={{ p: '4px', ml: '6px' }}
        />
      </Box>
      <Box role="gridcell">
        <SmallPreview source={source} />
      </Box>
      <Box role="gridcell">
        <Typography
          className="mono"
          noWrap
          title={`${source.folder}/${source.name}`}
          sx={{ fontWeight: 600, fontSize: 13.5 }}
        >
          {source.name}
        </Typography>
        <Typography
          noWrap
          sx={{ fontSize: 12.5, color: 'text.secondary' }}
          title={`${source.bytes.toLocaleString('en-GB')} bytes`}
        >
          <span className="mono">
            {source.kind === 'sequence' ? printCoverage(source.coverage).replaceAll(',', ', ') : source.kind}
          </span>
          , {printBytes(source.bytes)}
        </Typography>
      </Box>
      <Box role="gridcell">
        {hasFrames(source) ? <CoverageStrip model={strip} height={22} /> : <Box sx={{ height: 22 }} />}
        <Typography noWrap sx={{ fontSize: 12.5, color: 'text.secondary' }}>
          {below}
          {change && (
            <Box component="span" sx={{ color: tokens.act }}>
              {below && ', '}
              {change}
            </Box>
          )}
        </Typography>
      </Box>
      <Box role="gridcell">
        {hasFrames(source) && (
          <Typography noWrap sx={{ fontSize: 13.5 }}>
            <Box component="span" sx={{ fontWeight: 600, color: taken.undecided ? 'warning.main' : 'text.primary' }}>
              {taken.rate}
            </Box>{' '}
            <Box
              component="span"
              sx={{ fontSize: 12.5, color: 'text.secondary' }}
              title={source.declaration.rate.detail}
            >
              {taken.grounds}
            </Box>
          </Typography>
        )}
        <Typography noWrap sx={{ fontSize: 12.5, color: 'text.secondary' }}>
          {taken.pixels}
        </Typography>
      </Box>
      <Box role="gridcell">
        <Findings source={source} onOpen={(at) => onFindings(source, at)} />
      </Box>
    </Box>
  );
});

/** A row whose source is still on its way: of the same height, so that nothing moves. */
export function EmptyRow() {
  const { tokens } = useTheme();
  const bar = (width: string) => <Box sx={{ height: 12, width, borderRadius: '3px', bgcolor: tokens.rule }} />;
  return (
    <Box
      aria-hidden
      sx={{
        display: 'grid',
        gridTemplateColumns: columns,
        alignItems: 'center',
        height: rowHeight,
        borderBottom: 1,
        borderColor: 'divider',
        bgcolor: 'background.paper',
      }}
    >
      <span />
      <Box sx={{ width: 72, height: 40, borderRadius: '3px', bgcolor: tokens.rule }} />
      {bar('70%')}
      {bar('92%')}
      {bar('60%')}
      {bar('50%')}
    </Box>
  );
}
