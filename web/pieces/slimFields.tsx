import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import type { ReactNode } from 'react';

const slim = { '& .MuiInputBase-input': { py: '6px', fontSize: 13.5 }, '& .MuiInputLabel-root': { fontSize: 13.5 } };

interface TextProps {
  label: string;
  value: string;
  mono?: boolean;
  placeholder?: string;
  error?: boolean;
  onSay: (text: string) => void;
}

/** A line of text. */
export function Text({ label, value, mono, placeholder, error, onSay }: TextProps) {
  return (
    <TextField
      fullWidth
      label={label}
      value={value}
      error={error}
      placeholder={placeholder}
      onChange={({ target }) => onSay(target.value)}
      sx={slim}
      slotProps={{
        htmlInput: { className: mono ? 'mono' : undefined, spellCheck: false, autoComplete: 'off' },
        inputLabel: { shrink: true },
      }}
    />
  );
}

/** A whole number, or nothing: what cannot be read as one is not taken. */
export function Whole({
  label,
  value,
  placeholder,
  onSay,
}: {
  label: string;
  value: number | null;
  placeholder?: string;
  onSay: (value: number | null) => void;
}) {
  return (
    <Text
      label={label}
      mono
      value={value === null ? '' : String(value)}
      placeholder={placeholder}
      onSay={(text) => {
        if (text.trim() === '') onSay(null);
        else if (/^\d{1,9}$/.test(text.trim())) onSay(Number(text));
      }}
    />
  );
}

/** One of a few; what is said is one of the options, and typed as such. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onSay,
}: {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onSay: (value: T) => void;
}) {
  return (
    <TextField
      select
      fullWidth
      label={label}
      value={value}
      onChange={({ target }) => {
        const said = options.find(([option]) => option === target.value);
        if (said) onSay(said[0]);
      }}
      sx={slim}
      slotProps={{ inputLabel: { shrink: true }, select: { displayEmpty: true } }}
    >
      {options.map(([option, words]) => (
        <MenuItem key={option} value={option}>
          {words}
        </MenuItem>
      ))}
    </TextField>
  );
}

/** Two fields side by side. */
export const Pair = ({ children }: { children: ReactNode }) => (
  <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', columnGap: 1, rowGap: 1.5 }}>{children}</Box>
);

/** Any of a few; none of them asks for nothing. */
export function Several<T extends string>({
  label,
  value,
  options,
  onSay,
}: {
  label: string;
  value: readonly T[] | null;
  options: readonly (readonly [T, string])[];
  onSay: (value: T[] | null) => void;
}) {
  return (
    <TextField
      select
      fullWidth
      label={label}
      value={value ?? []}
      onChange={({ target }) => {
        const said = target.value as unknown as T[];
        onSay(said.length === 0 ? null : options.map(([option]) => option).filter((option) => said.includes(option)));
      }}
      sx={slim}
      slotProps={{
        inputLabel: { shrink: true },
        select: {
          multiple: true,
          displayEmpty: true,
          renderValue: (said) =>
            (said as T[]).length === 0
              ? 'any'
              : options
                  .filter(([option]) => (said as T[]).includes(option))
                  .map(([, words]) => words)
                  .join(', '),
        },
      }}
    >
      {options.map(([option, words]) => (
        <MenuItem key={option} value={option}>
          {words}
        </MenuItem>
      ))}
    </TextField>
  );
}
