import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableCell from '@mui/material/TableCell';
import TableHead from '@mui/material/TableHead';
import TableRow from '@mui/material/TableRow';
import { codecRecord, isByQuality, planGiven, printRate, type Plan, type ShownTry } from '@shale/core';
import type { SearchView } from '@shale/contract';

interface Props {
  plan: Plan;
  view: SearchView;
  taken: number;
  /** A second one that is held beside the taken one. */
  beside: number | null;
  onTake: (at: number) => void;
  onBeside: (at: number | null) => void;
}

interface Column {
  name: string;
  of: (one: ShownTry, plan: Plan) => string;
  right?: true;
}

/** What differs between tries of a plan, and what came of each. */
function columnsOf(plan: Plan, tries: readonly ShownTry[]): Column[] {
  const { controls } = codecRecord(plan.spec.write.format) ?? {};
  const differs = (of: (one: ShownTry) => unknown) => new Set(tries.map((one) => JSON.stringify(of(one)))).size > 1;
  return [
    { name: 'Size', of: ({ width, height }) => `${width} x ${height}` },
    ...(controls === 'palette' ? [{ name: 'Colours', of: (_, { spec }) => String(spec.video.colours) } as Column] : []),
    ...(controls === 'palette' && plan.spec.video.giveDither
      ? [{ name: 'Dither', of: (_, { spec }) => `${spec.video.ditherAmount} %` } as Column]
      : []),
    ...(isByQuality(plan.spec.write.format, plan.spec.video)
      ? [{ name: 'Quality', of: (_, { spec }) => String(spec.video.quality) } as Column]
      : []),
    ...(differs(({ rate }) => rate) ? [{ name: 'Rate', of: ({ rate }) => printRate(rate) } as Column] : []),
    ...(differs(({ frames }) => frames) ? [{ name: 'Pictures', of: ({ frames }) => String(frames) } as Column] : []),
    { name: 'Bytes', of: ({ bytes }) => bytes.toLocaleString('en-GB'), right: true },
    { name: 'SSIM', of: ({ ssim }) => ssim.toFixed(4), right: true },
  ];
}

/** Every try of a search; another can be taken, and one held beside it. */
export function TriesTable({ plan, view: { tries, limit }, taken, beside, onTake, onBeside }: Props) {
  const columns = columnsOf(plan, tries);
  return (
    <Table
      size="small"
      aria-label="Tries"
      sx={{ bgcolor: 'background.paper', borderRadius: '6px', '& td, & th': { px: 1.25, py: '5px' } }}
    >
      <TableHead>
        <TableRow>
          <TableCell>Try</TableCell>
          {columns.map(({ name, right }) => (
            <TableCell key={name} align={right ? 'right' : 'left'}>
              {name}
            </TableCell>
          ))}
          <TableCell>Beside</TableCell>
          <TableCell />
        </TableRow>
      </TableHead>
      <TableBody>
        {tries.map((one, at) => {
          const { plan: fitted } = planGiven(plan, one.given);
          const isTaken = at === taken;
          return (
            <TableRow key={at} selected={isTaken} data-testid="try">
              <TableCell className="mono">{at + 1}</TableCell>
              {columns.map(({ name, of, right }) => (
                <TableCell
                  key={name}
                  align={right ? 'right' : 'left'}
                  className="mono"
                  sx={{
                    fontWeight: isTaken ? 650 : 400,
                    whiteSpace: 'nowrap',
                    ...(name === 'Bytes' && limit !== null && one.bytes > limit ? { color: 'error.main' } : {}),
                  }}
                >
                  {of(one, fitted)}
                </TableCell>
              ))}
              <TableCell sx={{ py: '0 !important' }}>
                <Checkbox
                  size="small"
                  disabled={isTaken}
                  checked={beside === at}
                  onChange={(_, on) => onBeside(on ? at : null)}
                  slotProps={{ input: { 'aria-label': `Try ${at + 1} next to the chosen one` } }}
                />
              </TableCell>
              <TableCell sx={{ py: '0 !important', minWidth: 74 }}>
                {isTaken ? (
                  <Box component="span" sx={{ fontWeight: 650, px: '5px' }}>
                    taken
                  </Box>
                ) : (
                  <Button
                    size="small"
                    aria-label={`Choose try ${at + 1}`}
                    onClick={() => onTake(at)}
                    sx={{ px: '5px' }}
                  >
                    Take
                  </Button>
                )}
              </TableCell>
            </TableRow>
          );
        })}
      </TableBody>
    </Table>
  );
}
