import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import type { Plan } from '@shale/core';
import { asksForLessMotion } from '../../../pieces/motion.ts';
import { Loading } from '../../../pieces/Notes.tsx';
import type { Playing } from './LottieView.tsx';
import { PlayerControls } from './PlayerControls.tsx';
import { Shown, tryFile, type Looked } from './Shown.tsx';
import { FrameBytesCard, SizeCard } from './TryCards.tsx';
import type { useSmall } from './useSmall.ts';

type Small = ReturnType<typeof useSmall>;

/** The moving result on several grounds, its bytes, and what each of its pictures takes. */
export function SmallLook({ plan, small }: { plan: Plan; small: Small }) {
  const [playing, setPlaying] = useState<Playing>(() => ({
    ...{ loop: true, reverse: false, onHover: false },
    at: asksForLessMotion() ? 0 : null,
  }));
  const { search, taken, one, beside } = small;
  const { view, isCurrent } = search;
  // No picture element shows it.
  const isPlayed = plan.spec.write.format === 'lottie';
  const looked = (at: number): Looked => {
    const { width, height, halo } = view!.tries[at]!;
    const player = isPlayed ? { player: playing } : {};
    return { number: at + 1, src: tryFile(view!.id, at), width, height, halo, ...player };
  };
  return (
    <Box
      sx={{
        ...{ display: 'grid', gridTemplateRows: 'minmax(220px, 1fr)', gridAutoRows: 'auto', gap: 1.5, minHeight: 0 },
        overflowY: 'auto',
      }}
    >
      {one ? (
        <>
          <Shown first={looked(taken!)} {...(beside === null ? {} : { second: looked(beside) })} isOld={!isCurrent} />
          <SizeCard view={view!} one={one} perSecond={small.perSecond} words={small.words!} />
          {isPlayed && <PlayerControls playing={playing} frames={one.frames} onPlay={setPlaying} />}
          {one.frameBytes && one.frameBytes.length > 1 && <FrameBytesCard frameBytes={one.frameBytes} />}
        </>
      ) : (
        <Waiting small={small} />
      )}
    </Box>
  );
}

/** What is there before the first try is. */
function Waiting({ small: { search, mayRun } }: { small: Small }) {
  const { view, begin, starting, isCurrent } = search;
  const isComing = starting || (isCurrent && view?.state === 'searching');
  return (
    <Box
      sx={{
        ...{ display: 'grid', placeItems: 'center', border: 1, borderColor: 'divider', borderRadius: '5px', p: 3 },
        ...{ bgcolor: 'background.paper', textAlign: 'center' },
      }}
    >
      {isComing ? (
        <Loading what="Making the first try" />
      ) : (
        <Box>
          <Typography sx={{ mb: 1.5 }}>
            {mayRun ? 'The result is made in full before it is shown.' : 'The problems are listed on the side.'}
          </Typography>
          {mayRun && (
            <Button variant="contained" onClick={() => void begin()}>
              Make it
            </Button>
          )}
        </Box>
      )}
    </Box>
  );
}
