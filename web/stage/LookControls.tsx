import RestartAltIcon from '@mui/icons-material/RestartAlt';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import Slider from '@mui/material/Slider';
import ToggleButton from '@mui/material/ToggleButton';
import Tooltip from '@mui/material/Tooltip';
import { plainLooking, type ShownChannel } from '@shale/core';
import { Segments } from '../pieces/Segments.tsx';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { mono } from '../theme/theme.ts';
import { lookingChanged } from './state.ts';

const channels: readonly (readonly [ShownChannel, string])[] = [
  ['colour', 'Colour'],
  ['red', 'R'],
  ['green', 'G'],
  ['blue', 'B'],
  ['alpha', 'Alpha'],
  ['luminance', 'Luminance'],
];

const signed = (value: number): string => (value > 0 ? `+${value}` : value < 0 ? `−${-value}` : '0');

interface DialProps {
  label: string;
  value: number;
  usual: number;
  least: number;
  most: number;
  step: number;
  words: string;
  onSay: (value: number) => void;
}

/** A small slider with its value; a double press brings the usual one back. */
function Dial({ label, value, usual, least, most, step, words, onSay }: DialProps) {
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
      <Box component="span" sx={{ fontSize: 13, color: 'text.secondary' }}>
        {label}
      </Box>
      <Slider
        size="small"
        aria-label={label}
        value={value}
        min={least}
        max={most}
        step={step}
        getAriaValueText={() => words}
        onChange={(_, said) => onSay(said)}
        onDoubleClick={() => onSay(usual)}
        sx={{ width: 64 }}
      />
      <Box component="span" sx={{ fontFamily: mono, fontSize: 12.5, minWidth: 38 }}>
        {words}
      </Box>
    </Box>
  );
}

/** How the picture is looked at: channel, exposure, gamma, warnings. Nothing of it changes a file. */
export function LookControls() {
  const dispatch = useAppDispatch();
  const looking = useAppSelector(({ stage }) => stage.looking);
  const isPlain = JSON.stringify(looking) === JSON.stringify(plainLooking);
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', columnGap: 1.5, rowGap: 0.5, minHeight: 36, flexWrap: 'wrap' }}>
      <Segments
        label="Show"
        value={looking.channel}
        options={channels}
        onChoose={(channel) => dispatch(lookingChanged({ channel }))}
      />
      <Dial
        label="Exposure"
        value={looking.exposure}
        usual={0}
        least={-8}
        most={8}
        step={0.25}
        words={signed(looking.exposure)}
        onSay={(exposure) => dispatch(lookingChanged({ exposure }))}
      />
      <Dial
        label="Gamma"
        value={looking.gamma}
        usual={1}
        least={0.25}
        most={4}
        step={0.05}
        words={looking.gamma.toFixed(2)}
        onSay={(gamma) => dispatch(lookingChanged({ gamma }))}
      />
      <Tooltip describeChild title="Paint over what is clipped, beyond the range or not a number">
        <ToggleButton
          size="small"
          value="warns"
          color="primary"
          selected={looking.warns}
          onChange={() => dispatch(lookingChanged({ warns: !looking.warns }))}
          sx={{ py: '3px', px: 1.25, textTransform: 'none', fontSize: 13 }}
        >
          Warnings
        </ToggleButton>
      </Tooltip>
      <Tooltip title="As it is">
        <IconButton
          size="small"
          aria-label="As it is"
          onClick={() => dispatch(lookingChanged(plainLooking))}
          sx={{ visibility: isPlain ? 'hidden' : undefined }}
        >
          <RestartAltIcon fontSize="small" />
        </IconButton>
      </Tooltip>
    </Box>
  );
}
