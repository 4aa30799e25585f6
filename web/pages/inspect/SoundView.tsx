import PauseIcon from '@mui/icons-material/Pause';
import PlayArrowIcon from '@mui/icons-material/PlayArrow';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import { useEffect, useMemo, useRef, useState, type PointerEvent } from 'react';
import { printSeconds, type Problem, type SoundFacts } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useSoundQuery } from '../../api/api.ts';
import { useSoundMeasuredQuery } from '../../api/sounds.ts';
import { EmptyPage, Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { useSize } from '../../pieces/useSize.ts';
import { isTypedInto } from '../../pieces/typing.ts';
import { soundContext } from '../../sound/context.ts';
import { SoundPlayer, type Tape } from '../../sound/player.ts';
import { tapeOf } from '../../sound/tape.ts';
import { Waveform } from '../../sound/Waveform.tsx';
import { mono } from '../../theme/theme.ts';

interface Stretch {
  from: number;
  to: number;
}

/** The fewest samples across the view. */
const nearest = 64;

/** Plays a stretch around and around, or all of it once, from a sample on. */
function usePlayed(tape: Tape, chosen: Stretch | null) {
  const [at, setAt] = useState(0);
  const [playing, setPlaying] = useState(false);
  const [refused, setRefused] = useState(false);
  const begin = useRef(0);
  // Gone to another place while it plays, it begins anew from there.
  const [turn, setTurn] = useState(0);
  const go = (sample: number) => {
    begin.current = Math.min(tape.samples, Math.max(0, Math.round(sample)));
    setAt(begin.current);
    setTurn((turn) => turn + 1);
  };
  const toggle = () => {
    if (!playing) {
      const from = chosen?.from ?? 0;
      const to = chosen?.to ?? tape.samples;
      if (at < from || at >= to - 1) go(from);
      else begin.current = at;
    }
    setPlaying(!playing);
  };
  useEffect(() => {
    if (!playing) return undefined;
    const context = soundContext(tape.rate);
    const opened = performance.now();
    const from = begin.current;
    const end = chosen?.to ?? tape.samples;
    function* heard() {
      yield { from, count: Math.max(1, end - from) };
      while (chosen) yield { from: chosen.from, count: chosen.to - chosen.from };
    }
    const player = context && new SoundPlayer(context, tape, heard());
    let begun = false;
    let request = requestAnimationFrame(step);
    function step(): void {
      request = requestAnimationFrame(step);
      if (!player || (context.state !== 'running' && performance.now() - opened > 1500)) {
        setRefused(true);
        setPlaying(false);
        return;
      }
      if (!begun) {
        if (!player.isReady || context.state !== 'running') return;
        setRefused(false);
        player.begin();
        begun = true;
      }
      const gone = Math.round((player.heard() ?? 0) * tape.rate);
      if (from + gone < end) setAt(from + gone);
      else if (chosen) setAt(chosen.from + ((from + gone - end) % (chosen.to - chosen.from)));
      else {
        setAt(end);
        setPlaying(false);
      }
    }
    return () => {
      cancelAnimationFrame(request);
      player?.end();
    };
  }, [playing, tape, chosen, turn]);
  return { at, playing, refused, go, toggle };
}

/** What part of a sound is seen, zoomed by the wheel and by keys about a sample. */
function useView(samples: number) {
  const [view, setView] = useState<Stretch>({ from: 0, to: Math.max(1, samples) });
  const zoom = (factor: number, about: number) =>
    setView(({ from, to }) => {
      const length = Math.min(samples, Math.max(nearest, Math.round((to - from) * factor)));
      const share = (about - from) / (to - from);
      const begin = Math.min(samples - length, Math.max(0, Math.round(about - share * length)));
      return { from: begin, to: begin + length };
    });
  const move = (by: number) =>
    setView(({ from, to }) => {
      const begin = Math.min(samples - (to - from), Math.max(0, Math.round(from + by)));
      return { from: begin, to: begin + to - from };
    });
  return { view, zoom, move, whole: () => setView({ from: 0, to: samples }) };
}

/** While every sample is measured: how far it is, once that takes longer than a moment. */
function Measuring({ source: { id, sound } }: { source: ListedSource }) {
  const { data } = useSoundMeasuredQuery(id, { pollingInterval: 1000 });
  const all = sound?.seconds && sound.seconds.num / sound.seconds.den;
  const seconds = data?.seconds ?? null;
  if (seconds === null) return <Loading what="Measuring the sound" />;
  const far = `${printSeconds(seconds)}${all ? ` of ${printSeconds(all)}` : ''}`;
  return <Loading what="Measuring the sound" far={far} {...(all ? { share: seconds / all } : {})} />;
}

/** A sound, looked at and heard: its waveform, zoomed to the sample; a stretch of it played around and around. */
export function SoundView({ source }: { source: ListedSource }) {
  const { currentData: facts, error } = useSoundQuery({ id: source.id, modified: source.modified });
  if (error) return <ProblemNote problem={error as Problem} />;
  if (!facts) return <Measuring source={source} />;
  if (facts.samples === 0) return <EmptyPage title="No sound in it">The file has no samples.</EmptyPage>;
  return <Seen source={source} facts={facts} />;
}

function Seen({ source, facts }: { source: ListedSource; facts: SoundFacts }) {
  const tape = useMemo(() => tapeOf(source.id, null, facts), [source.id, facts]);
  const [chosen, setChosen] = useState<Stretch | null>(null);
  const { at, playing, refused, go, toggle } = usePlayed(tape, chosen);
  const { view, zoom, move, whole } = useView(facts.samples);
  const box = useRef<HTMLDivElement>(null);
  const begun = useRef<number | null>(null);
  const { height } = useSize(box);
  const wheel = useRef<(event: WheelEvent) => void>(() => undefined);
  useEffect(() => {
    wheel.current = (event) => {
      event.preventDefault();
      const { left, width } = box.current!.getBoundingClientRect();
      const length = view.to - view.from;
      if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY))
        move(((event.deltaX || event.deltaY) / width) * length);
      else zoom(Math.exp(event.deltaY / 300), view.from + ((event.clientX - left) / width) * length);
    };
  });
  useEffect(() => {
    const element = box.current!;
    const turn = (event: WheelEvent) => wheel.current(event);
    // A wheel that React listens to may not be kept from scrolling the page.
    element.addEventListener('wheel', turn, { passive: false });
    return () => element.removeEventListener('wheel', turn);
  }, []);
  const step = (by: number) => go(at + by * Math.max(1, Math.round((view.to - view.from) / 200)));
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.altKey || event.ctrlKey || event.metaKey || isTypedInto(target)) return;
      if (event.key === ' ' && target.closest('button, a')) return;
      const act = {
        ' ': toggle,
        ArrowLeft: () => step(-1),
        ArrowRight: () => step(1),
        Home: () => go(0),
        End: () => go(facts.samples),
        '+': () => zoom(0.5, at),
        '=': () => zoom(0.5, at),
        '-': () => zoom(2, at),
        '0': whole,
        Escape: () => setChosen(null),
      }[event.key];
      if (!act) return;
      event.preventDefault();
      act();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
  const sampleUnder = (event: PointerEvent<HTMLElement>) => {
    const { left, width } = event.currentTarget.getBoundingClientRect();
    const share = Math.min(1, Math.max(0, (event.clientX - left) / width));
    return Math.round(view.from + share * (view.to - view.from));
  };
  const seconds = (sample: number) => printSeconds(sample / facts.rate);
  return (
    <Box sx={{ display: 'grid', gridTemplateRows: 'minmax(120px, 1fr) auto auto', rowGap: 1, minHeight: 0 }}>
      <Box
        ref={box}
        role="slider"
        tabIndex={0}
        aria-label="Sound"
        aria-valuemin={0}
        aria-valuemax={facts.samples}
        aria-valuenow={at}
        aria-valuetext={`${seconds(at)}, sample ${at}`}
        data-testid="sound-view"
        data-from={view.from}
        data-to={view.to}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          begun.current = sampleUnder(event);
          go(begun.current);
        }}
        onPointerMove={(event) => {
          if (begun.current === null) return;
          const here = sampleUnder(event);
          const few = (view.to - view.from) / 200;
          if (Math.abs(here - begun.current) > few)
            setChosen({ from: Math.min(here, begun.current), to: Math.max(here, begun.current) });
        }}
        onPointerUp={() => {
          if (chosen && begun.current !== null && (begun.current < chosen.from || begun.current > chosen.to))
            setChosen(null);
          begun.current = null;
        }}
        sx={{
          minHeight: 0,
          overflow: 'hidden',
          bgcolor: 'background.paper',
          border: 1,
          borderColor: 'divider',
          borderRadius: '6px',
          cursor: 'text',
          touchAction: 'none',
        }}
      >
        <Waveform source={source.id} stream={null} facts={facts} {...view} height={height} at={at} chosen={chosen} />
      </Box>
      <Box
        sx={{ position: 'relative', cursor: 'pointer' }}
        onPointerDown={(event) => {
          const { left, width } = event.currentTarget.getBoundingClientRect();
          const sample = ((event.clientX - left) / width) * facts.samples;
          go(sample);
          move(sample - (view.from + view.to) / 2);
        }}
      >
        <Waveform
          source={source.id}
          stream={null}
          facts={facts}
          from={0}
          to={facts.samples}
          height={40}
          together
          at={at}
          chosen={view}
        />
      </Box>
      <Box sx={{ display: 'flex', flexWrap: 'wrap', alignItems: 'center', columnGap: 1.5, minHeight: 36 }}>
        <IconButton size="small" aria-label={playing ? 'Pause (Space)' : 'Play (Space)'} onClick={toggle}>
          {playing ? <PauseIcon /> : <PlayArrowIcon />}
        </IconButton>
        <Box sx={{ fontFamily: mono, fontSize: 13 }} data-testid="sound-time">
          {seconds(at)}{' '}
          <Box component="span" sx={{ color: 'text.secondary' }}>{`sample ${at.toLocaleString('en-GB')}`}</Box>
        </Box>
        {refused && (
          <Box role="status" sx={{ fontSize: 13, color: 'warning.main' }}>
            The browser lets no sound out. Press Play again.
          </Box>
        )}
        <Box sx={{ ml: 'auto', display: 'flex', flexWrap: 'wrap', gap: 1, alignItems: 'center', fontSize: 13 }}>
          {chosen ? (
            <>
              <span data-testid="sound-stretch">{`${seconds(chosen.from)} to ${seconds(chosen.to)}, repeated`}</span>
              <Button size="small" onClick={() => setChosen(null)}>
                Clear
              </Button>
            </>
          ) : (
            <Box component="span" sx={{ color: 'text.secondary' }}>
              Drag to repeat a stretch, turn the wheel to zoom
            </Box>
          )}
          {facts.sounds && (
            <>
              <Button size="small" onClick={() => go(facts.sounds!.from)}>
                First sound
              </Button>
              <Button size="small" onClick={() => go(facts.sounds!.to - 1)}>
                Last sound
              </Button>
            </>
          )}
        </Box>
      </Box>
    </Box>
  );
}
