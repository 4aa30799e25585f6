import Box from '@mui/material/Box';
import { useState } from 'react';
import { colourOfHex, hexOf, type Colour } from '@shale/core';
import { Text } from './slimFields.tsx';

/** A text that is typed beside the value that it gave: as long as the value is still that, the text is shown as it was typed. */
function useTyped(written: string): [text: string, type: (text: string, gives: string) => void] {
  const [typed, setTyped] = useState({ text: written, gives: written });
  return [typed.gives === written ? typed.text : written, (text, gives) => setTyped({ text, gives })];
}

interface DecimalProps {
  label: string;
  value: number;
  least: number;
  most: number;
  onSay: (value: number) => void;
}

/** A number with a point; what is none, or lies beyond its ends, is shown as wrong and not taken. */
export function Decimal({ label, value, least, most, onSay }: DecimalProps) {
  const [text, type] = useTyped(String(value));
  const read = (said: string): number | undefined => {
    const number = Number(said.replace(',', '.'));
    return said.trim() !== '' && number >= least && number <= most ? number : undefined;
  };
  return (
    <Text
      label={label}
      mono
      value={text}
      error={read(text) === undefined}
      onSay={(said) => {
        const number = read(said);
        type(said, String(number ?? value));
        if (number !== undefined) onSay(number);
      }}
    />
  );
}

/** A colour in sRGB: picked, or typed as `#1a2b3c`. */
export function ColourField({
  label,
  value,
  onSay,
}: {
  label: string;
  value: Colour;
  onSay: (colour: Colour) => void;
}) {
  const hex = hexOf(value);
  const [text, type] = useTyped(hex);
  const say = (said: string) => {
    const colour = colourOfHex(said);
    type(said, colour ? hexOf(colour) : hex);
    if (colour) onSay(colour);
  };
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '34px 1fr', gap: 1, alignItems: 'center' }}>
      <Box
        component="input"
        type="color"
        aria-label={`${label}, picked`}
        value={hex}
        onChange={({ target }) => say(target.value)}
        sx={{
          width: 34,
          height: 32,
          p: 0,
          border: 1,
          borderColor: 'divider',
          borderRadius: '5px',
          bgcolor: 'transparent',
        }}
      />
      <Text label={label} mono value={text} error={colourOfHex(text) === undefined} onSay={say} />
    </Box>
  );
}
