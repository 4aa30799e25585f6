import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import Slider from '@mui/material/Slider';
import { Card } from '../../../pieces/Card.tsx';
import type { Playing } from './LottieView.tsx';

interface Props {
  playing: Playing;
  /** Pictures of the animation. */
  frames: number;
  onPlay: (playing: Playing) => void;
}

/** What a page may do with a Lottie animation, to be tried: played once or for ever, backwards, under the pointer, stood at a frame. */
export function PlayerControls({ playing, frames, onPlay }: Props) {
  const mark = (name: 'loop' | 'reverse' | 'onHover', words: string) => (
    <FormControlLabel
      control={
        <Checkbox
          size="small"
          checked={playing[name]}
          onChange={(_, on) => onPlay({ ...playing, [name]: on, at: null })}
        />
      }
      label={<span style={{ fontSize: 13 }}>{words}</span>}
    />
  );
  return (
    <Card title="In the open player" aside={playing.at === null ? 'plays' : `frame ${playing.at}`}>
      <Box sx={{ display: 'flex', flexWrap: 'wrap', columnGap: 1, my: '-6px' }}>
        {mark('loop', 'For ever')}
        {mark('reverse', 'Backwards')}
        {mark('onHover', 'On hover')}
      </Box>
      <Slider
        size="small"
        aria-label="Frame"
        min={0}
        max={Math.max(1, frames - 1)}
        value={playing.at ?? 0}
        onChange={(_, at) => onPlay({ ...playing, at: at })}
      />
    </Card>
  );
}
