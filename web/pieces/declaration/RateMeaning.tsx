import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import { useTheme } from '@mui/material/styles';
import { useState } from 'react';
import {
  frameCount,
  frameSeconds,
  printDrift,
  printRate,
  rateNumber,
  printSeconds,
  standardRates,
  type Rate,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { Opening } from '../Opening.tsx';

const same = (a: Rate, b: Rate): boolean => a.num === b.num && a.den === b.den;

/** What each standard rate would mean for a source: how long it lasts, and how far it drifts from the rate in force. */
export function RateMeaning({ source, onSay }: { source: ListedSource; onSay: (rate: Rate) => void }) {
  const { tokens } = useTheme();
  const declared = source.declaration.rate.value;
  const [asked, setAsked] = useState<boolean | null>(null);
  const count = frameCount(source);
  const open = asked ?? declared === null;
  if (count === 0) return null;
  // Until a rate is declared the drift is told from the next rate of the list, where most accidents happen.
  const against = (index: number): Rate => declared ?? standardRates[Math.min(index + 1, standardRates.length - 1)]!;
  return (
    <Box sx={{ mt: 0.5 }}>
      <Opening open={open} words="What each rate would mean" closing="Hide what each rate means" onSwitch={setAsked} />
      {open && (
        <Box
          role="group"
          aria-label="What each rate would mean"
          sx={{ mt: 0.5, border: 1, borderColor: 'divider', borderRadius: '5px', overflow: 'hidden' }}
        >
          {standardRates.map((rate, index) => {
            const on = declared !== null && same(declared, rate);
            const other = against(index);
            const drift = same(rate, other) ? '' : printDrift(rate, other);
            return (
              <ButtonBase
                key={`${rate.num}/${rate.den}`}
                onClick={() => onSay(rate)}
                aria-pressed={on}
                sx={{
                  display: 'grid',
                  gridTemplateColumns: '80px 92px minmax(0, 1fr)',
                  width: '100%',
                  textAlign: 'left',
                  fontFamily: 'inherit',
                  fontSize: 12.5,
                  p: '2px 8px',
                  minHeight: 24,
                  bgcolor: on ? tokens.actWash : 'transparent',
                  fontWeight: on ? 600 : 400,
                  '&:hover': { bgcolor: tokens.actWash },
                }}
              >
                <span>{printRate(rate)}</span>
                <span className="mono">{printSeconds(frameSeconds(count, rate))}</span>
                <Box
                  component="span"
                  sx={{ color: 'text.secondary', whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }}
                >
                  {on ? 'in force' : drift && `${drift} from ${rateNumber(other)}`}
                </Box>
              </ButtonBase>
            );
          })}
        </Box>
      )}
    </Box>
  );
}
