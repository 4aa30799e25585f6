import Box from '@mui/material/Box';
import FormControlLabel from '@mui/material/FormControlLabel';
import Radio from '@mui/material/Radio';
import RadioGroup from '@mui/material/RadioGroup';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState, type ReactNode } from 'react';

interface OneOfProps<T extends string> {
  label: string;
  value: T;
  options: readonly { value: T; words: string; note?: string; disabled?: boolean }[];
  onChoose: (value: T) => void;
}

/** One of a few, each with what it means. */
export function OneOf<T extends string>({ label, value, options, onChoose }: OneOfProps<T>) {
  return (
    <RadioGroup aria-label={label} value={value} onChange={(_, chosen) => onChoose(chosen as T)}>
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        {label}
      </Typography>
      {options.map((option) => (
        <FormControlLabel
          key={option.value}
          value={option.value}
          disabled={option.disabled}
          control={<Radio size="small" />}
          sx={{ alignItems: 'flex-start', '& .MuiRadio-root': { py: '5px' } }}
          label={
            <Box sx={{ pt: '5px' }}>
              {option.words}
              {option.note && <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>{option.note}</Typography>}
            </Box>
          }
        />
      ))}
    </RadioGroup>
  );
}

interface TypedProps {
  label: string;
  value: string;
  help?: ReactNode;
  mono?: boolean;
  /** What is wrong with a text; undefined where it will do. */
  refuse?: (text: string) => string | undefined;
  onSay: (text: string) => void;
}

/** A text that is taken as it is typed, as long as it will do. */
export function Typed({ label, value, help, mono, refuse, onSay }: TypedProps) {
  const [text, setText] = useState(value);
  const refusal = refuse?.(text);
  return (
    <TextField
      fullWidth
      autoFocus
      label={label}
      value={text}
      error={refusal !== undefined}
      helperText={refusal ?? help}
      onChange={({ target }) => {
        setText(target.value);
        if (refuse?.(target.value) === undefined) onSay(target.value);
      }}
      slotProps={{ htmlInput: { className: mono ? 'mono' : undefined, spellCheck: false } }}
      sx={{ mt: 0.75 }}
    />
  );
}
