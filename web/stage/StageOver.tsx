import Box from '@mui/material/Box';
import { warningColours, type Box as PixelBox } from '@shale/core';
import { mono } from '../theme/theme.ts';
import type { Extent, Place } from './place.ts';

/** A label that stands on the picture. */
export const tag = {
  position: 'absolute',
  bgcolor: 'rgba(20,24,26,.82)',
  color: '#fff',
  p: '3px 9px',
  borderRadius: '4px',
  fontSize: 12.5,
  fontFamily: mono,
  pointerEvents: 'none',
} as const;

/** What the colours of the warnings mean; hatched ones lie beyond the range. */
export function WarningKey() {
  return (
    <Box sx={{ ...tag, left: 10, top: 40, display: 'grid', gap: 0.5, fontFamily: undefined }} data-testid="warning-key">
      {warningColours.map(([bit, colour, hatched, words]) => {
        const css = `rgb(${colour.join(',')})`;
        const background = hatched ? `repeating-linear-gradient(135deg, ${css} 0 3px, #141414 3px 6px)` : css;
        return (
          <Box key={bit} sx={{ display: 'flex', alignItems: 'center', gap: 0.75 }}>
            <Box
              component="span"
              sx={{ width: 12, height: 12, background, outline: '1px solid rgba(255,255,255,.5)' }}
            />
            {words}
          </Box>
        );
      })}
    </Box>
  );
}

/** A box of the picture that is measured. */
export function Region({ place, picture, box }: { place: Place; picture: Extent; box: PixelBox }) {
  const [across, down] = [place.width / picture.width, place.height / picture.height];
  return (
    <Box
      data-testid="region"
      sx={{
        position: 'absolute',
        left: place.x + box.left * across,
        top: place.y + box.top * down,
        width: box.width * across,
        height: box.height * down,
        outline: '1px solid #fff',
        boxShadow: '0 0 0 2px rgba(20,24,26,.7), inset 0 0 0 1px rgba(20,24,26,.7)',
        pointerEvents: 'none',
      }}
    />
  );
}
