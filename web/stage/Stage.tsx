import Box from '@mui/material/Box';
import { useRef, type ReactNode } from 'react';
import type { Box as PixelBox, Rate } from '@shale/core';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { grounds } from './draw.ts';
import { isThere, kindFor, type StageSource } from './frames.ts';
import type { Pane } from './panes.ts';
import type { Place } from './place.ts';
import { Readout } from './Readout.tsx';
import { Region, WarningKey } from './StageOver.tsx';
import { SecondWords, StageWords } from './StageWords.tsx';
import { stageSet, type StageBackground } from './state.ts';
import { StageCanvas } from './StageCanvas.tsx';
import { useSize } from '../pieces/useSize.ts';
import type { SoundUnder } from '../sound/useUnder.ts';
import { Tags } from './Tags.tsx';
import { useBackground } from './useBackground.ts';
import { useBlink } from './useBlink.ts';
import { usePanes } from './usePanes.ts';
import { useShown } from './useShown.ts';
import { WipeLine } from './WipeLine.tsx';

interface Props {
  source: StageSource;
  /** The rate to play at; undeclared sources do not play. */
  rate: Rate | null;
  /** What is heard with its frames; absent for nothing. */
  sound?: SoundUnder | null;
  /** What the source is called beside another. */
  label?: string;
  /** By which key what it is held against is kept; absent where it is shown alone. */
  against?: string;
  /** What that is called. */
  otherLabel?: string;
  /** Drawn over the picture, given where it stands on the stage. */
  over?: (place: Place) => ReactNode;
  /** Pixels at the top that something of the page covers. */
  headRoom?: number;
  /** Called when a box was drawn to be measured; absent where the page measures none. */
  onMeasured?: () => void;
  /** Said where no frame of the other goes with this one. */
  noPartner?: ReactNode;
}

/** The colour around the picture. */
const groundColour = (background: StageBackground, isAlpha: boolean): string => {
  if (isAlpha) return '#1c1c1c';
  return background.kind === 'colour' || background.kind === 'source' ? '#2a2a2a' : grounds[background.kind];
};

/** The box that is drawn to be measured, or that was measured last. */
function Measured({ first, drawn, shows }: { first: Pane; drawn: PixelBox | undefined; shows: boolean }) {
  const region = useAppSelector(({ stage }) => stage.region);
  const box = drawn ?? (shows && region?.source === first.side.source.id ? region.box : undefined);
  return box && <Region place={first.place} picture={first.size} box={box} />;
}

/** The viewer: one frame over its background, or two held against each other; stepped, scrubbed, played, zoomed, read. */
export function Stage({
  source,
  rate,
  sound = null,
  label,
  against,
  otherLabel,
  over,
  headRoom = 0,
  onMeasured,
  noPartner,
}: Props) {
  const dispatch = useAppDispatch();
  const { looking, background, playing, wipe } = useAppSelector((state) => state.stage);
  const box = useRef<HTMLDivElement>(null);
  const size = useSize(box);
  const shown = useShown(source, rate, against, size, sound);
  const { at, otherAt, other, mode, held, width } = shown;
  const { panes, pointer } = usePanes(shown, { box, takesPointer: !over, onMeasured });
  const [first, second] = panes as [Pane, Pane?];
  const ground = useBackground(source, at, width, playing);
  const showsSecond = useBlink(mode === 'blink');
  const isAlpha = kindFor(looking) === 'quick' && looking.channel === 'alpha';

  return (
    <Box
      ref={box}
      data-testid="stage"
      data-frame={at}
      data-second-frame={otherAt}
      data-state={isThere(source, at) ? (held?.state ?? 'loading') : 'missing'}
      data-second-state={second && (second.side.held?.state ?? 'missing')}
      {...pointer.handlers}
      sx={{
        position: 'relative',
        minHeight: 0,
        borderRadius: '6px',
        overflow: 'hidden',
        backgroundColor: groundColour(background, isAlpha),
        touchAction: 'none',
        cursor: pointer.cursor,
      }}
    >
      <StageCanvas
        label={`${source.name}, frame ${at}`}
        size={size}
        what={[source.id, at, mode].join('/')}
        panes={panes}
        held={held}
        ground={mode === 'difference' ? { colour: '#000000' } : ground}
        isAlpha={isAlpha}
        sharing={{ mode, wipe, showsSecond }}
      />
      {over && source.facts && size.width > 0 && over(first.place)}
      <Measured {...{ first, drawn: pointer.drawn, shows: onMeasured !== undefined }} />
      {mode === 'wipe' && <WipeLine at={wipe} onMove={(wipe) => dispatch(stageSet({ wipe }))} />}
      {size.width > 0 && (
        <>
          <StageWords source={source} frame={at} held={held} area={mode === 'wipe' ? undefined : first.area} />
          {second && <SecondWords pane={second} mode={mode} showsSecond={showsSecond} noPartner={noPartner} />}
        </>
      )}
      <Tags
        shown={shown}
        rate={rate}
        label={label}
        otherLabel={otherLabel ?? other?.source.name ?? ''}
        headRoom={headRoom}
        showsSecond={showsSecond}
      />
      {looking.warns && <WarningKey />}
      <Readout panes={panes} labels={second ? [label ?? 'this', otherLabel ?? 'other'] : ['']} />
    </Box>
  );
}
