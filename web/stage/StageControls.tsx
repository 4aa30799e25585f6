import FirstPageIcon from '@mui/icons-material/FirstPage';
import LastPageIcon from '@mui/icons-material/LastPage';
import NavigateBeforeIcon from '@mui/icons-material/NavigateBefore';
import NavigateNextIcon from '@mui/icons-material/NavigateNext';
import PauseIcon from '@mui/icons-material/Pause';
import PlayArrowIcon from '@mui/icons-material/PlayArrow';
import SwapHorizIcon from '@mui/icons-material/SwapHoriz';
import VolumeOffIcon from '@mui/icons-material/VolumeOff';
import VolumeUpIcon from '@mui/icons-material/VolumeUp';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import ToggleButton from '@mui/material/ToggleButton';
import Tooltip from '@mui/material/Tooltip';
import { useEffect, type ReactNode } from 'react';
import { frameSeconds, printSeconds, printTimecode, type Rate } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { isTypedInto } from '../pieces/typing.ts';
import { store, useAppDispatch, useAppSelector } from '../state/store.ts';
import { mono } from '../theme/theme.ts';
import { Backgrounds } from './Backgrounds.tsx';
import { shapeOf, stageSpan } from './frames.ts';
import { LookControls } from './LookControls.tsx';
import { SizeControls } from './SizeControls.tsx';
import { useStageFrame } from './useStageFrame.ts';
import { frameChosen, frameStepped, playSwitched, rangeMarked, stageSet } from './state.ts';
import { useZoom } from './useZoom.ts';

interface Props {
  source: ListedSource;
  rate: Rate | null;
  /** Whether how the picture is looked at can be changed here too. */
  looks?: boolean;
  /** Whether there is little room: how it plays is not changed here. */
  small?: boolean;
  /** Whether what is played is marked by buttons too, and not by keys alone. */
  marks?: boolean;
  /** Whether there is a sound that can be heard. */
  sounds?: boolean;
}

/** Step, play, change what lies behind and how it is looked at. */
export function StageControls({ source, rate, looks = true, small = false, sounds = false, marks = true }: Props) {
  const dispatch = useAppDispatch();
  const playing = useAppSelector(({ stage }) => stage.playing);
  const returns = useAppSelector(({ stage }) => stage.returns);
  const halfSpeed = useAppSelector(({ stage }) => stage.halfSpeed);
  const hears = useAppSelector(({ stage }) => stage.hears);
  const range = useAppSelector(({ stage }) => stage.ranges[source.id]);
  const { first, last } = stageSpan(source);
  const zoom = useZoom(source.id, shapeOf(source));
  const moves = last > first;
  const step = (by: number) => dispatch(frameStepped({ source: source.id, by, first, last }));
  const go = (frame: number) => dispatch(frameChosen({ source: source.id, frame }));
  const canPlay = moves && rate !== null;
  // A mark beyond the other one takes it along.
  const mark = (end: 'first' | 'last') => {
    // Asked for when it is needed: the controls are not to follow each frame.
    const at = Math.min(last, Math.max(first, store.getState().stage.frames[source.id] ?? first));
    const { first: from, last: to } = range ?? { first, last };
    const next = end === 'first' ? { first: at, last: Math.max(at, to) } : { first: Math.min(from, at), last: at };
    dispatch(rangeMarked({ source: source.id, range: next }));
  };
  const unmark = () => dispatch(rangeMarked({ source: source.id, range: null }));
  const switchPlay = () => canPlay && dispatch(playSwitched(!playing));

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.altKey || event.ctrlKey || event.metaKey || isTypedInto(target)) return;
      if (event.key === ' ' && target.closest('button, a')) return;
      const steps = {
        ArrowLeft: () => step(-1),
        ArrowRight: () => step(1),
        Home: () => go(first),
        End: () => go(last),
        ' ': switchPlay,
        '[': () => mark('first'),
        ']': () => mark('last'),
        ...(range ? { Escape: unmark } : {}),
      };
      const sizes = { '+': zoom.in, '=': zoom.in, '-': zoom.out, '0': zoom.toWhole, '1': zoom.toPixels };
      const act =
        (moves ? (steps as Record<string, () => void>)[event.key] : undefined) ??
        (looks ? (sizes as Record<string, () => void>)[event.key] : undefined);
      if (!act) return;
      event.preventDefault();
      act();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
  useEffect(() => () => void dispatch(playSwitched(false)), [dispatch, source.id]);

  const button = (label: string, icon: ReactNode, act: () => void, enabled = moves) => (
    <Tooltip title={label}>
      <span>
        <IconButton size="small" aria-label={label} disabled={!enabled} onClick={act}>
          {icon}
        </IconButton>
      </span>
    </Tooltip>
  );
  const toggle = (label: string, on: boolean, face: ReactNode, act: () => void) => (
    <Tooltip title={label}>
      <ToggleButton
        size="small"
        value={label}
        color="primary"
        aria-label={label}
        selected={on}
        onChange={act}
        sx={{ width: 34, height: 28, border: 0, fontSize: 13, fontFamily: mono }}
      >
        {face}
      </ToggleButton>
    </Tooltip>
  );
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr)', rowGap: 0.25 }}>
      <Box
        sx={{
          display: 'flex',
          flexWrap: { xs: 'wrap', md: 'nowrap' },
          alignItems: 'center',
          columnGap: 1.5,
          minHeight: 36,
        }}
      >
        <Box sx={{ display: 'flex', ml: -0.5 }}>
          {button('First frame (Home)', <FirstPageIcon />, () => go(first))}
          {button('Previous frame (Left)', <NavigateBeforeIcon />, () => step(-1))}
          {button(
            playing ? 'Pause (Space)' : rate ? 'Play (Space)' : 'Declare a rate to play',
            playing ? <PauseIcon /> : <PlayArrowIcon />,
            switchPlay,
            canPlay,
          )}
          {button('Next frame (Right)', <NavigateNextIcon />, () => step(1))}
          {button('Last frame (End)', <LastPageIcon />, () => go(last))}
        </Box>
        <StageTime source={source} rate={rate} />
        <Box
          sx={{
            ml: 'auto',
            display: 'flex',
            flexWrap: { xs: 'wrap', md: 'nowrap' },
            alignItems: 'center',
            gap: 1.5,
            flex: { md: 'none' },
          }}
        >
          {range && (
            <Box sx={{ display: 'flex', alignItems: 'center', fontSize: 13 }} data-testid="range">
              {`${range.first} to ${range.last}, repeated`}
              <Button size="small" sx={{ px: 1 }} onClick={unmark}>
                Clear
              </Button>
            </Box>
          )}
          {canPlay && !small && (
            <Box sx={{ display: 'flex' }}>
              {sounds &&
                toggle(
                  hears ? 'Sound is on' : 'Sound is off',
                  hears,
                  hears ? <VolumeUpIcon fontSize="small" /> : <VolumeOffIcon fontSize="small" />,
                  () => dispatch(stageSet({ hears: !hears })),
                )}
              {marks &&
                toggle('Repeat from here ([)', range !== undefined && range.first > first, '[', () => mark('first'))}
              {marks && toggle('Repeat to here (])', range !== undefined && range.last < last, ']', () => mark('last'))}
              {toggle('Back and forth', returns, <SwapHorizIcon fontSize="small" />, () =>
                dispatch(stageSet({ returns: !returns })),
              )}
              {toggle('Half speed, ½×', halfSpeed, '½×', () => dispatch(stageSet({ halfSpeed: !halfSpeed })))}
            </Box>
          )}
          {looks && <SizeControls zoom={zoom} />}
          <Backgrounds />
        </Box>
      </Box>
      {looks && <LookControls />}
    </Box>
  );
}

/** Where the stage stands, as frame, timecode and seconds. */
function StageTime({ source, rate }: { source: ListedSource; rate: Rate | null }) {
  const at = useStageFrame(source);
  const { first, last } = stageSpan(source);
  const since = at - first;
  return (
    <Box
      sx={{ fontFamily: mono, fontSize: 13, whiteSpace: 'pre', minWidth: 0, overflow: 'hidden' }}
      aria-live="off"
      data-testid="stage-time"
    >
      {last > first && (
        <>
          {at}
          <Box component="span" sx={{ color: 'text.secondary' }}>
            {rate
              ? `  ${printTimecode(since, rate)}  ${printSeconds(frameSeconds(since, rate))}`
              : '  no rate declared'}
          </Box>
        </>
      )}
    </Box>
  );
}
