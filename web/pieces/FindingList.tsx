import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import { mendedByNames, printCoverage, type Finding, type Problem } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useMendingNamesMutation, useSetAsideMutation } from '../api/api.ts';
import { namingBegun } from '../state/naming.ts';
import { useAppDispatch } from '../state/store.ts';
import { ProblemNote } from './Notes.tsx';
import { Mark, State } from './State.tsx';

const small = { fontSize: 13, fontFamily: 'inherit', verticalAlign: 'baseline' } as const;

const Act = ({ children, onClick }: { children: ReactNode; onClick: () => void }) => (
  <Link component="button" sx={small} onClick={onClick}>
    {children}
  </Link>
);

/** The frames that a finding touches, short enough for a link. */
function framesWords({ frames = [] }: Finding): string {
  const text = printCoverage(frames).replaceAll(',', ', ');
  return text.length <= 24 ? text : `${frames[0]!.first} and on`;
}

function One({ source, finding, onGo }: { source: ListedSource; finding: Finding; onGo: (frame: number) => void }) {
  const [reason, setReason] = useState<string | null>(null);
  const [setAside, { error: asideError }] = useSetAsideMutation();
  const [mendingNames, { error: mendError }] = useMendingNamesMutation();
  const error = asideError ?? mendError;
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const say = async (text: string | null) => {
    const answer = await setAside({ id: source.id, code: finding.code, reason: text });
    if (!('error' in answer)) setReason(null);
  };
  const mend = async () => {
    const wanted = await mendingNames({ source: source.id, code: finding.code });
    if (!('data' in wanted) || !wanted.data) return;
    dispatch(namingBegun(wanted.data));
    void navigate('/rename');
  };
  const calm = finding.setAside !== undefined;
  return (
    <Box
      component="li"
      data-testid="finding"
      sx={{ display: 'flex', gap: 1.25, mb: 1.25, '&:last-of-type': { mb: 0 } }}
    >
      <Box sx={{ pt: '3px' }}>
        <Mark severity={calm ? 'note' : finding.severity} />
      </Box>
      <Box sx={{ minWidth: 0, flex: 1, overflowWrap: 'anywhere' }}>
        <Typography sx={{ color: calm ? 'text.secondary' : 'text.primary' }}>{finding.sentence}</Typography>
        {calm ? (
          <Typography variant="body2" sx={{ color: 'text.secondary' }}>
            Set aside: “{finding.setAside}” <Act onClick={() => void say(null)}>Reopen</Act>
          </Typography>
        ) : (
          finding.mend && (
            <Typography variant="body2" sx={{ color: 'text.secondary' }}>
              {finding.mend}
            </Typography>
          )
        )}
        {reason === null ? (
          <Box sx={{ display: 'flex', gap: 1.5, flexWrap: 'wrap' }}>
            {finding.frames?.[0] && source.kind === 'sequence' && (
              <Act onClick={() => onGo(finding.frames![0]!.first)}>Go to frame {framesWords(finding)}</Act>
            )}
            {mendedByNames.has(finding.code) && <Act onClick={() => void mend()}>Fix by renaming</Act>}
            {!calm && finding.severity !== 'note' && <Act onClick={() => setReason('')}>Set aside</Act>}
          </Box>
        ) : (
          <Box
            component="form"
            onSubmit={(event) => {
              event.preventDefault();
              if (reason.trim() !== '') void say(reason.trim());
            }}
            sx={{ display: 'flex', gap: 1, mt: 0.75, alignItems: 'start' }}
          >
            <TextField
              autoFocus
              fullWidth
              placeholder="Why this is acceptable (shown on receipts)"
              value={reason}
              onChange={({ target }) => setReason(target.value)}
              onKeyDown={(event) => {
                event.stopPropagation();
                if (event.key === 'Escape') setReason(null);
              }}
              slotProps={{ htmlInput: { 'aria-label': 'Reason', maxLength: 500 } }}
            />
            <Button type="submit" variant="outlined" disabled={reason.trim() === ''} sx={{ px: 1.5 }}>
              Set aside
            </Button>
          </Box>
        )}
        {error && <ProblemNote problem={error as Problem} />}
      </Box>
    </Box>
  );
}

/** Everything worth knowing about a source, each with its frames one press away and a way to set it aside. */
export function FindingList({ source, onGo }: { source: ListedSource; onGo: (frame: number) => void }) {
  if (source.findings.length === 0) return <State severity="note">None</State>;
  return (
    <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0 }}>
      {source.findings.map((finding) => (
        <One key={finding.code + finding.sentence} source={source} finding={finding} onGo={onGo} />
      ))}
    </Box>
  );
}
