import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import type { ListedSource } from '@shale/contract';
import { Card } from '../../pieces/Card.tsx';
import { Mark, State } from '../../pieces/State.tsx';

/** What is worth knowing about a source, with the frames it touches one press away. */
export function FindingsCard({ source, onGo }: { source: ListedSource; onGo: (frame: number) => void }) {
  return (
    <Card title="Findings">
      {source.findings.length === 0 && <State severity="note">None</State>}
      {source.findings.map((finding) => (
        <Box key={finding.code} sx={{ display: 'flex', gap: 1.25, mb: 1 }}>
          <Box sx={{ pt: '3px' }}>
            <Mark severity={finding.severity} />
          </Box>
          <Box sx={{ minWidth: 0, overflowWrap: 'anywhere' }}>
            <Typography>{finding.sentence}</Typography>
            <Typography variant="body2" sx={{ color: 'text.secondary' }}>
              {finding.mend}{' '}
              {finding.frames?.[0] && source.kind === 'sequence' && (
                <Link
                  component="button"
                  sx={{ fontSize: 13, fontFamily: 'inherit', verticalAlign: 'baseline' }}
                  onClick={() => onGo(finding.frames![0]!.first)}
                >
                  Go to frame {finding.frames[0].first}
                </Link>
              )}
            </Typography>
          </Box>
        </Box>
      ))}
    </Card>
  );
}
