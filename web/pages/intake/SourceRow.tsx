import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { memo, useMemo, useState } from 'react';
import { coverageCount, frameAt, printCoverage, printSeconds, sampleFrames, type Finding } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { previewUrl } from '../../api/api.ts';
import { State } from '../../pieces/State.tsx';
import { framesAndTime, hasTime, isUndeclared, plural, printBytes, takenAs } from '../../pieces/words.ts';
import { CoverageStrip } from '../../strip/CoverageStrip.tsx';
import { stripOf } from '../../strip/model.ts';

/** Columns of the table: picture, source, coverage, taken as, findings. */
export const columns = '92px minmax(190px, 232px) minmax(160px, 1fr) 190px 190px';

/** Height of a row in pixels; the same for all, so that long tables scroll evenly. */
export const rowHeight = 59;

/** Frames that may stand for a source, the best first: one in the middle, then those that headers were read from. */
function posterFrames(source: ListedSource): number[] {
  if (source.kind !== 'sequence') return [0];
  const middle = frameAt(source.coverage, Math.floor(coverageCount(source.coverage) * 0.4))!;
  return [middle, ...sampleFrames(source.coverage, 3)];
}

function Thumbnail({ source }: { source: ListedSource }) {
  const [tries, setTries] = useState(0);
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
        <Box
          component="img"
          src={previewUrl(source, frame, 144)}
          alt=""
          loading="lazy"
          decoding="async"
          onError={() => setTries(tries + 1)}
          sx={{ width: 72, height: 40, objectFit: 'contain', display: 'block' }}
        />
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

/** The finding that a row tells: the gravest, and how many more there are. */
function worst(source: ListedSource): { finding?: Finding; more: number } {
  const order = { fault: 0, doubt: 1, note: 2 };
  const sorted = [...source.findings].sort((a, b) => order[a.severity] - order[b.severity]);
  return { finding: sorted[0], more: sorted.length - 1 };
}

function Findings({ source }: { source: ListedSource }) {
  const { finding, more } = worst(source);
  if (!finding)
    return isUndeclared(source) ? (
      <State severity="doubt">Rate not declared</State>
    ) : (
      <State severity="note">None</State>
    );
  return (
    <Box title={source.findings.map(({ sentence }) => sentence).join('\n')}>
      <State severity={finding.severity}>{finding.short}</State>
      {more > 0 && (
        <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>and {plural(more, 'more', 'more')}</Typography>
      )}
    </Box>
  );
}

interface Props {
  source: ListedSource;
  selected: boolean;
  onSelect: (id: string) => void;
  onOpen: (id: string) => void;
}

/** One source: picture, name and frames, core sample, what it is taken as, what is wrong. */
export const SourceRow = memo(function SourceRow({ source, selected, onSelect, onOpen }: Props) {
  const { tokens } = useTheme();
  const taken = takenAs(source);
  const strip = useMemo(() => stripOf(source), [source]);
  const seconds = source.sound?.seconds ?? source.facts?.seconds;
  const below = hasTime(source)
    ? framesAndTime(source.coverage, source.declaration.rate.value)
    : source.kind === 'sound'
      ? [seconds && printSeconds(seconds.num / seconds.den), source.sound?.more[0]?.[1]].filter(Boolean).join(', ')
      : source.facts
        ? `${source.facts.width} x ${source.facts.height}`
        : 'still';
  return (
    <Box
      role="option"
      id={`source-${source.id}`}
      aria-selected={selected}
      onClick={() => onSelect(source.id)}
      onDoubleClick={() => onOpen(source.id)}
      sx={{
        display: 'grid',
        gridTemplateColumns: columns,
        alignItems: 'center',
        height: rowHeight,
        borderBottom: 1,
        borderColor: 'divider',
        cursor: 'default',
        bgcolor: selected ? tokens.actWash : 'background.paper',
        boxShadow: selected ? `inset 3px 0 0 ${tokens.act}` : 'none',
        '& > *': { px: 1.25, minWidth: 0 },
      }}
    >
      <Box>
        <Thumbnail source={source} />
      </Box>
      <Box>
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
      <Box>
        {hasTime(source) ? <CoverageStrip model={strip} height={22} /> : <Box sx={{ height: 22 }} />}
        <Typography noWrap sx={{ fontSize: 12.5, color: 'text.secondary' }}>
          {below}
        </Typography>
      </Box>
      <Box>
        {hasTime(source) && (
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
      <Box>
        <Findings source={source} />
      </Box>
    </Box>
  );
});
