import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { burnFault, burnFields, isVideoFormat, type Burn, type Spec } from '@shale/core';
import { Decimal } from '../../pieces/numberFields.tsx';
import { Choice, Pair, Whole } from '../../pieces/slimFields.tsx';
import { Typed } from '../../sentence/fields.tsx';

const places = [
  ['left', 'Left'],
  ['middle', 'Centre'],
  ['right', 'Right'],
] as const;

/** What is written into the pictures, and the title before a video. */
export function BurnEditor({ spec, change }: { spec: Spec; change: (spec: Spec) => void }) {
  const { burn } = spec;
  const set = (part: Partial<Burn>) => change({ ...spec, burn: { ...burn, ...part } });
  const forReview = { left: '{name}', middle: '{frame:4}', right: '{timecode}' };
  return (
    <Box sx={{ display: 'grid', gap: 1 }}>
      {places.map(([place, label]) => (
        <Typed
          // A press sets all three anew.
          key={`${place} ${burn.left === forReview.left && burn.right === forReview.right}`}
          label={label}
          mono
          value={burn[place]}
          refuse={burnFault}
          onSay={(text) => set({ [place]: text })}
        />
      ))}
      <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>
        {Object.entries(burnFields)
          .map(([field, words]) => `{${field}} ${words}`)
          .join(', ')}
        .
      </Typography>
      <Box sx={{ mt: 1 }}>
        <Pair>
          <Choice
            label="Where"
            value={burn.where}
            options={[
              ['bottom', 'at the bottom'],
              ['top', 'at the top'],
            ]}
            onSay={(where) => set({ where })}
          />
          <Decimal
            label="Height in % of the picture"
            value={burn.size}
            least={1}
            most={20}
            onSay={(size) => set({ size })}
          />
          {isVideoFormat(spec.write.format) && (
            <Whole
              label="Title card, frames"
              value={burn.slate}
              onSay={(slate) => set({ slate: Math.min(600, slate ?? 0) })}
            />
          )}
        </Pair>
      </Box>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button variant="outlined" size="small" onClick={() => set(forReview)}>
          Name, frame and timecode
        </Button>
        <Button size="small" onClick={() => set({ left: '', middle: '', right: '', slate: 0 })}>
          Nothing
        </Button>
      </Box>
    </Box>
  );
}
