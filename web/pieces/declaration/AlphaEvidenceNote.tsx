import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState } from 'react';
import { hexOf, type AlphaEvidence, type Colour, type Problem } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useAlphaEvidenceQuery } from '../../api/api.ts';
import { Opening } from '../Opening.tsx';
import { printCount } from '../words.ts';

function Counts({ evidence, onSay }: { evidence: AlphaEvidence; onSay: (matte: Colour) => void }) {
  const { pixels, opaque, partial, clear, exceeding, clearColoured, matte, frames } = evidence;
  const rows: [string, number][] = [
    ['opaque', opaque],
    ['half clear', partial],
    ['clear', clear],
    ['colour above alpha', exceeding],
    ['clear, with a colour', clearColoured],
  ];
  return (
    <Box sx={{ mt: 0.5, p: '6px 8px', border: 1, borderColor: 'divider', borderRadius: '5px', fontSize: 12.5 }}>
      <Box sx={{ mb: 0.5 }}>{evidence.sentence}</Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) auto', columnGap: 1, color: 'text.secondary' }}>
        {rows.map(([words, count]) => [
          <span key={words}>{words}</span>,
          <span key={`${words}-n`} className="mono">
            {printCount(count)} px
          </span>,
        ])}
        {matte && evidence.againstMatte !== null && (
          <>
            <span>colour under the clear parts</span>
            <Box component="span" sx={{ display: 'inline-flex', gap: 0.75, alignItems: 'center' }} className="mono">
              <Box
                component="span"
                sx={{
                  width: 11,
                  height: 11,
                  borderRadius: '2px',
                  border: 1,
                  borderColor: 'divider',
                  bgcolor: hexOf(matte.colour),
                }}
              />
              {hexOf(matte.colour)}
            </Box>
          </>
        )}
      </Box>
      {evidence.leans === 'over-colour' && matte && (
        <Button size="small" sx={{ ml: -0.5, px: 0.5 }} onClick={() => onSay(matte.colour)}>
          Treat it as premultiplied on {hexOf(matte.colour)}
        </Button>
      )}
      <Box sx={{ color: 'text.secondary', mt: 0.5 }}>
        {frames.length === 1 ? 'Frame' : 'Frames'} {frames.join(', ')}, {printCount(pixels)} pixels, as stored. You
        decide.
      </Box>
    </Box>
  );
}

/** What the pixels say about alpha: shown at once where nothing else does, otherwise when asked for. */
export function AlphaEvidenceNote({ source, onSay }: { source: ListedSource; onSay: (matte: Colour) => void }) {
  const [asked, setAsked] = useState<boolean | null>(null);
  const open = asked ?? source.declaration.alpha.value === null;
  const { data, error, isFetching } = useAlphaEvidenceQuery(
    { id: source.id, modified: source.modified },
    { skip: !open },
  );
  return (
    <Box sx={{ mt: 0.5 }}>
      <Opening open={open} words="What the pixels say" closing="Hide what the pixels say" onSwitch={setAsked} />
      {open && isFetching && <Box sx={{ fontSize: 12.5, color: 'text.secondary' }}>Looking at the pixels</Box>}
      {open && data && <Counts evidence={data} onSay={onSay} />}
      {open && error && (
        <Box role="alert" sx={{ fontSize: 12.5, color: 'error.main' }}>
          {(error as Problem).fact} {(error as Problem).wayOut}
        </Box>
      )}
    </Box>
  );
}
