import Check from '@mui/icons-material/Check';
import ContentCopy from '@mui/icons-material/ContentCopy';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { parseRate, standardRates, rateFraction } from '@shale/core';
import { tried } from '../../pieces/tried.ts';

/** Something that is kept while the page is left, as long as the tab is open. */
export function useKept(key: string, start: string): [string, (value: string) => void] {
  const [value, setValue] = useState(() => sessionStorage.getItem(`reckoner ${key}`) ?? start);
  return [
    value,
    (next) => {
      sessionStorage.setItem(`reckoner ${key}`, next);
      setValue(next);
    },
  ];
}

/** A field that is read as it is typed; what is wrong with it stands below. */
export function Asked({
  label,
  value,
  fault,
  help = ' ',
  onSay,
}: {
  label: string;
  value: string;
  fault?: string;
  help?: string;
  onSay: (text: string) => void;
}) {
  return (
    <TextField
      fullWidth
      size="small"
      label={label}
      value={value}
      error={fault !== undefined}
      helperText={fault ?? help}
      onChange={({ target }) => onSay(target.value)}
      slotProps={{
        htmlInput: { className: 'mono', spellCheck: false, autoComplete: 'off' },
        inputLabel: { shrink: true },
      }}
    />
  );
}

/** A rate, typed or one of the trade's. */
export function RateAsked({ label, value, onSay }: { label: string; value: string; onSay: (text: string) => void }) {
  const { fault } = tried(() => parseRate(value));
  const id = `rates of ${label}`;
  return (
    <>
      <TextField
        fullWidth
        size="small"
        label={label}
        value={value}
        error={fault !== undefined}
        helperText={fault ?? ' '}
        onChange={({ target }) => onSay(target.value)}
        slotProps={{ htmlInput: { className: 'mono', list: id, autoComplete: 'off' }, inputLabel: { shrink: true } }}
      />
      <datalist id={id}>
        {standardRates.map((rate) => (
          <option key={rateFraction(rate)} value={rateFraction(rate)} />
        ))}
      </datalist>
    </>
  );
}

/** A line with an answer, its way, and a press that copies it. */
export function Answer({
  label,
  value,
  formula,
  aside,
}: {
  label: string;
  value: string;
  formula?: string;
  aside?: string;
}) {
  const [copied, setCopied] = useState('');
  const copy = () =>
    void navigator.clipboard?.writeText(value).then(() => {
      setCopied(value);
      setTimeout(() => setCopied(''), 1500);
    });
  const may = 'clipboard' in navigator;
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: '112px minmax(0, 1fr) 28px',
        columnGap: 1,
        alignItems: 'baseline',
        py: 0.4,
      }}
    >
      <Typography sx={{ fontSize: 13.5, color: 'text.secondary' }}>{label}</Typography>
      <Box sx={{ minWidth: 0 }}>
        <Box
          component="span"
          className="mono"
          sx={{ fontSize: 16, overflowWrap: 'anywhere' }}
          data-testid={`answer ${label}`}
        >
          {value}
        </Box>
        {aside && (
          <Box component="span" sx={{ fontSize: 13, color: 'text.secondary', ml: 1 }}>
            {aside}
          </Box>
        )}
        {formula && (
          <Typography className="mono" sx={{ fontSize: 12, color: 'text.secondary', overflowWrap: 'anywhere' }}>
            = {formula}
          </Typography>
        )}
      </Box>
      {may && (
        <IconButton
          size="small"
          aria-label={`Copy ${label}: ${value}`}
          onClick={copy}
          sx={{ alignSelf: 'start', p: '3px' }}
        >
          {copied === value ? <Check sx={{ fontSize: 15 }} /> : <ContentCopy sx={{ fontSize: 15 }} />}
        </IconButton>
      )}
    </Box>
  );
}
