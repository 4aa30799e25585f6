import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { markerColours, type MarkerColour } from '@shale/core';

/** The colours of markers in daylight and at night; each is told by its letter too. */
const shades: Record<MarkerColour, readonly [daylight: string, basalt: string]> = {
  verdigris: ['#1f8273', '#5fbfae'],
  ochre: ['#b98417', '#e0ab52'],
  cinnabar: ['#b8452c', '#f0907a'],
  slate: ['#4f6d8c', '#8fb0d2'],
  plum: ['#84467c', '#c792c0'],
  moss: ['#667a2b', '#adc26a'],
  copper: ['#9a5b34', '#d39a70'],
  chalk: ['#8d8f8a', '#d9d8d1'],
};

/** The colour of a marker in the scheme in force. */
export function useMarkerColour(): (colour: MarkerColour) => string {
  const { palette } = useTheme();
  return (colour) => shades[colour][palette.mode === 'dark' ? 1 : 0];
}

/** A marker's colour as a flag with its letter. */
export function Flag({ colour }: { colour: MarkerColour }) {
  const shade = useMarkerColour()(colour);
  return (
    <Box
      component="span"
      role="img"
      aria-label={colour}
      sx={{
        display: 'inline-grid',
        placeItems: 'center',
        width: 18,
        height: 18,
        borderRadius: '3px 3px 3px 0',
        border: `1.5px solid ${shade}`,
        boxShadow: `inset 0 -4px 0 ${shade}`,
        color: 'text.primary',
        fontSize: 10.5,
        lineHeight: 1,
        fontWeight: 650,
        pb: '3px',
        flexShrink: 0,
      }}
    >
      {colour[0]!.toUpperCase() + (colour === 'chalk' || colour === 'copper' ? colour[1] : '')}
    </Box>
  );
}

/** Colours as options of a choice. */
export const colourOptions = markerColours.map((colour) => [colour, colour] as const);
