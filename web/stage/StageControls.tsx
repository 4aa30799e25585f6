import FirstPageIcon from '@mui/icons-material/FirstPage';
import LastPageIcon from '@mui/icons-material/LastPage';
import NavigateBeforeIcon from '@mui/icons-material/NavigateBefore';
import NavigateNextIcon from '@mui/icons-material/NavigateNext';
import PauseIcon from '@mui/icons-material/Pause';
import PlayArrowIcon from '@mui/icons-material/PlayArrow';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import IconButton from '@mui/material/IconButton';
import Tooltip from '@mui/material/Tooltip';
import { useEffect, type ReactNode } from 'react';
import { frameSeconds, printSeconds, printTimecode, type Rate } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { Segments } from '../pieces/Segments.tsx';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { mono } from '../theme/theme.ts';
import { stageSpan, useStageFrame } from './Stage.tsx';
import {
  backgroundChosen,
  frameChosen,
  playSwitched,
  viewChosen,
  type StageBackground,
  type StageView,
} from './state.ts';

const views: readonly (readonly [StageView, string])[] = [
  ['colour', 'Colour'],
  ['alpha', 'Alpha'],
];
const backgrounds: readonly StageBackground[] = ['checker', 'black', 'white', 'grey'];

const swatches: Record<StageBackground, string> = {
  checker: 'repeating-conic-gradient(#6a6a6a 0 25%, #9a9a9a 0 50%) 0 0 / 9px 9px',
  black: '#000',
  white: '#fff',
  grey: '#808080',
};

/** What lies behind the picture, as small squares of it. */
function Backgrounds({ value, onChoose }: { value: StageBackground; onChoose: (value: StageBackground) => void }) {
  return (
    <Box role="group" aria-label="Background" sx={{ display: 'inline-flex', gap: 0.75, alignItems: 'center' }}>
      {backgrounds.map((one) => (
        <Tooltip key={one} title={`Over ${one}`}>
          <ButtonBase
            aria-label={`Background ${one}`}
            aria-pressed={one === value}
            onClick={() => onChoose(one)}
            sx={{
              width: 24,
              height: 24,
              borderRadius: '4px',
              background: swatches[one],
              border: 1,
              borderColor: 'divider',
              outline: one === value ? '2px solid' : undefined,
              outlineColor: 'primary.main',
              outlineOffset: 1,
            }}
          />
        </Tooltip>
      ))}
    </Box>
  );
}

interface Props {
  source: ListedSource;
  rate: Rate | null;
}

/** Step, play, look at alpha, change what lies behind. */
export function StageControls({ source, rate }: Props) {
  const dispatch = useAppDispatch();
  const { view, background, playing } = useAppSelector((state) => state.stage);
  const at = useStageFrame(source);
  const { first, last } = stageSpan(source);
  const moves = last > first;
  const go = (frame: number) =>
    dispatch(frameChosen({ source: source.id, frame: Math.min(last, Math.max(first, frame)) }));
  const canPlay = moves && rate !== null;
  const switchPlay = () => canPlay && dispatch(playSwitched(!playing));

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (
        event.altKey ||
        event.ctrlKey ||
        event.metaKey ||
        target.closest('input, textarea, select, [role=listbox], [role=dialog], [role=presentation], .MuiPopover-root')
      )
        return;
      if (event.key === ' ' && target.closest('button, a')) return;
      const act = {
        ArrowLeft: () => go(at - 1),
        ArrowRight: () => go(at + 1),
        Home: () => go(first),
        End: () => go(last),
        ' ': switchPlay,
      }[event.key];
      if (!act || !moves) return;
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
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, minHeight: 40 }}>
      <Box sx={{ display: 'flex' }}>
        {button('First frame (Home)', <FirstPageIcon />, () => go(first))}
        {button('One back (Left)', <NavigateBeforeIcon />, () => go(at - 1))}
        {button(
          playing ? 'Pause (Space)' : rate ? 'Play (Space)' : 'Declare a rate to play',
          playing ? <PauseIcon /> : <PlayArrowIcon />,
          switchPlay,
          canPlay,
        )}
        {button('One on (Right)', <NavigateNextIcon />, () => go(at + 1))}
        {button('Last frame (End)', <LastPageIcon />, () => go(last))}
      </Box>
      <Box sx={{ fontFamily: mono, fontSize: 13, whiteSpace: 'pre' }} aria-live="off" data-testid="stage-time">
        {moves && (
          <>
            {at}
            <Box component="span" sx={{ color: 'text.secondary' }}>
              {rate
                ? `  ${printTimecode(at - first, rate)}  ${printSeconds(frameSeconds(at - first, rate))}`
                : '  no rate, no time'}
            </Box>
          </>
        )}
      </Box>
      <Box sx={{ ml: 'auto', display: 'flex', alignItems: 'center', gap: 1.5 }}>
        <Segments label="Show" value={view} options={views} onChoose={(value) => dispatch(viewChosen(value))} />
        <Backgrounds value={background} onChoose={(value) => dispatch(backgroundChosen(value))} />
      </Box>
    </Box>
  );
}
