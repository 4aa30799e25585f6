import ImageOutlinedIcon from '@mui/icons-material/ImageOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ButtonBase from '@mui/material/ButtonBase';
import Popover from '@mui/material/Popover';
import Tooltip from '@mui/material/Tooltip';
import Typography from '@mui/material/Typography';
import { useState, type ReactNode } from 'react';
import { colourOfHex, hexOf, type Colour } from '@shale/core';
import { useSourceQuery } from '../api/api.ts';
import { ColourField } from '../pieces/numberFields.tsx';
import { SourcePicker } from '../pieces/SourcePicker.tsx';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { stageSet, type StageBackground } from './state.ts';

const plain = ['checker', 'black', 'white', 'grey'] as const;

const swatches: Record<(typeof plain)[number], string> = {
  checker: 'repeating-conic-gradient(#6a6a6a 0 25%, #9a9a9a 0 50%) 0 0 / 9px 9px',
  black: '#000',
  white: '#fff',
  grey: '#808080',
};

/** A colour to begin with: a mid blue that hardly any footage has at its edges. */
const firstColour: Colour = [0.16, 0.36, 0.6];

function Swatch({ label, title, on, fill, children, onPress }: SwatchProps) {
  return (
    <Tooltip title={title}>
      <ButtonBase
        aria-label={label}
        aria-pressed={on}
        onClick={(event) => onPress(event.currentTarget)}
        sx={{
          width: 24,
          height: 24,
          borderRadius: '4px',
          background: fill,
          border: 1,
          borderColor: 'divider',
          color: 'text.secondary',
          outline: on ? '2px solid' : undefined,
          outlineColor: 'primary.main',
          outlineOffset: 1,
        }}
      >
        {children}
      </ButtonBase>
    </Tooltip>
  );
}

interface SwatchProps {
  label: string;
  title: string;
  on: boolean;
  fill?: string;
  children?: ReactNode;
  onPress: (element: HTMLElement) => void;
}

/** What lies behind the picture, as small squares of it: plain grounds, any colour, another source. */
export function Backgrounds() {
  const dispatch = useAppDispatch();
  const value = useAppSelector(({ stage }) => stage.background);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const choose = (background: StageBackground) => dispatch(stageSet({ background }));
  const other = value.kind === 'colour' || value.kind === 'source';
  const colour = (value.kind === 'colour' && colourOfHex(value.colour)) || firstColour;
  const { currentData: behind } = useSourceQuery(value.kind === 'source' ? value.id : '', {
    skip: value.kind !== 'source',
  });
  return (
    <Box role="group" aria-label="Background" sx={{ display: 'inline-flex', gap: 0.75, alignItems: 'center' }}>
      {plain.map((one) => (
        <Swatch
          key={one}
          label={`Background ${one}`}
          title={`Over ${one}`}
          on={value.kind === one}
          fill={swatches[one]}
          onPress={() => choose({ kind: one })}
        />
      ))}
      <Swatch
        label="Background other"
        title={behind ? `Over ${behind.name}` : 'A colour or another source'}
        on={other}
        fill={value.kind === 'colour' ? value.colour : undefined}
        onPress={setAnchor}
      >
        {value.kind !== 'colour' && <ImageOutlinedIcon sx={{ fontSize: 16 }} />}
      </Swatch>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'top', horizontal: 'right' }}
        transformOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        slotProps={{ paper: { sx: { p: 2, width: 320 } } }}
      >
        <Typography variant="h2" sx={{ mb: 1.5 }}>
          Use it
        </Typography>
        <Box sx={{ display: 'grid', gap: 1.5 }}>
          <ColourField
            label="A colour"
            value={colour}
            onSay={(said) => choose({ kind: 'colour', colour: hexOf(said) })}
          />
          <SourcePicker
            label="A still or a sequence"
            value={behind ?? null}
            onSay={(_, listed) => choose({ kind: 'source', id: listed.id })}
          />
          <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>
            A sequence begins with the picture’s first frame; at its end the last frame stays.
          </Typography>
          {other && (
            <Button size="small" onClick={() => choose({ kind: 'checker' })} sx={{ justifySelf: 'start' }}>
              Back to checker
            </Button>
          )}
        </Box>
      </Popover>
    </Box>
  );
}
