import Box from '@mui/material/Box';
import { useEffect, useLayoutEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { hasFrames, type Rate } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useAppDispatch, useAppSelector } from '../state/store.ts';
import { useOther, type Other } from './against.ts';
import { drawBoth, grounds, type Ground } from './draw.ts';
import { decodeDifference, differencesOf, isThere, kindFor, shapeOf, stageSpan, widthFor } from './frames.ts';
import { pieceAt, piecesIn, pixelUnder, placeOf, type Extent, type Place, type Zoom } from './place.ts';
import { Readout, Region, StageWords, Tags, WarningKey } from './StageOver.tsx';
import { frameReached, stageSet, type CompareMode, type StageBackground } from './state.ts';
import { useBackground } from './useBackground.ts';
import { useBlink } from './useBlink.ts';
import { useCache } from './useCache.ts';
import { usePlayback } from './usePlayback.ts';
import { useStill } from './useStill.ts';
import { picturesOf, usePieces, useSide, type Side } from './useSide.ts';
import { useStagePointer } from './useStagePointer.ts';
import { WipeLine } from './WipeLine.tsx';

/** The frame that the stage stands at. */
export function useStageFrame(source: ListedSource): number {
  const asked = useAppSelector((state) => state.stage.frames[source.id]);
  const { first, last } = stageSpan(source);
  return Math.min(last, Math.max(first, asked ?? first));
}

interface Props {
  source: ListedSource;
  /** The rate to play at; undeclared sources do not play. */
  rate: Rate | null;
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

/** Pixels across of pictures in light while they play. */
const lightWidth = 480;

/** The parts of the stage that the two sources have. */
function areasOf(size: Extent, mode: CompareMode | null): [Place, Place] {
  const whole = { x: 0, y: 0, ...size };
  if (mode !== 'side') return [whole, whole];
  const width = Math.floor((size.width - 4) / 2);
  return [
    { ...whole, width },
    { ...whole, x: size.width - width, width },
  ];
}

/** The colour around the picture. */
const groundColour = (background: StageBackground, isAlpha: boolean): string => {
  if (isAlpha) return '#1c1c1c';
  return background.kind === 'colour' || background.kind === 'source' ? '#2a2a2a' : grounds[background.kind];
};

/** The zoom of a second picture: the same part of it, where it has another size. */
function zoomFor(zoom: Zoom | null, from: Extent, to: Extent): Zoom | null {
  if (!zoom || (from.width === to.width && from.height === to.height)) return zoom;
  const factor = to.width / from.width;
  return { scale: zoom.scale / factor, x: zoom.x * factor, y: (zoom.y * to.height) / from.height };
}

/** How far pictures of a size are from being shown pixel by pixel: whether its own samples are to be drawn. */
const needsPieces = (place: Place, size: Extent, width: number, ratio: number): boolean =>
  (place.width / size.width) * ratio > (Math.min(width, size.width) / size.width) * 1.02;

/** The viewer: one frame over its background, or two held against each other; stepped, scrubbed, played, zoomed, read. */
export function Stage({ source, rate, label, against, otherLabel, over, headRoom = 0, onMeasured, noPartner }: Props) {
  const dispatch = useAppDispatch();
  const stage = useAppSelector((state) => state.stage);
  const { looking, background, playing, returns, halfSpeed, gain, wipe } = stage;
  const at = useStageFrame(source);
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const drawn = useRef('');
  const [size, setSize] = useState({ width: 0, height: 0 });
  useEffect(() => {
    const element = box.current!;
    const observer = new ResizeObserver(() => setSize({ width: element.clientWidth, height: element.clientHeight }));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  const other = useOther(source, against ?? '', against !== undefined);
  const mode = other ? stage.mode : null;
  const isDifference = mode === 'difference';
  const areas = areasOf(size, mode);
  const ratio = Math.min(2, window.devicePixelRatio);
  // In light a picture is many times as many bytes: while they play, smaller ones do.
  const plays = playing && rate !== null && hasFrames(source);
  const isLight = isDifference || kindFor(looking) !== 'webp';
  const width = size.width === 0 ? 0 : plays && isLight ? lightWidth : widthFor(areas[0].width * ratio);
  const zoom = stage.zoom?.source === source.id ? stage.zoom.zoom : null;

  const partner = other?.partner(at);
  const [playedSecond, setPlayedSecond] = useState<number | null>(null);
  const secondFrame = playing && playedSecond !== null ? playedSecond : partner;
  const first = useSide({ source, frame: at, looking, width, fetches: !isDifference });
  const second = useSide({ source: other?.source ?? null, frame: secondFrame, looking, width, fetches: !isDifference });
  const difference = useCache(
    other && isDifference && width > 0
      ? [picturesOf(source), picturesOf(other.source), width, JSON.stringify(other.against)].join('/')
      : null,
    () => differencesOf(source, other!.source, width, other!.partner),
    JSON.stringify([looking, gain]),
    decodeDifference(looking, gain),
  );
  const shown = isDifference ? difference : (first?.frames ?? null);

  const span = useMemo(() => stageSpan(source), [source]);
  const ownTime = other?.against.alignment.by === 'time' && mode !== 'difference' ? other.rate : null;
  const playback = usePlayback({
    playing: plays,
    rate: rate ?? { num: 1, den: 1 },
    span,
    coverage: source.coverage,
    returns,
    halfSpeed,
    pictures: shown,
    second:
      other && !isDifference && hasFrames(other.source)
        ? {
            span: stageSpan(other.source),
            coverage: other.source.coverage,
            pictures: second?.frames ?? null,
            rate: ownTime,
            partner: other.partner,
          }
        : null,
    at,
    onFrame: (frame) => dispatch(frameReached({ source: source.id, frame })),
  });
  if (playback.secondFrame !== playedSecond) setPlayedSecond(playback.secondFrame);

  useStill({ source, at, playing, pictures: shown, other, beside: second?.frames ?? null });

  const facts = source.facts;
  const otherFacts = other?.source.facts;
  const pictureSize = shapeOf(source);
  const place = placeOf(pictureSize, areas[0], zoom);
  const otherSize = other ? shapeOf(other.source) : pictureSize;
  const otherPlace = placeOf(otherSize, areas[1], zoomFor(zoom, pictureSize, otherSize));

  const pointer = useStagePointer({
    box,
    source: source.id,
    picture: pictureSize,
    areas,
    zoom,
    enabled: !over,
    onMeasured,
  });
  const under =
    pointer.point && facts
      ? pixelUnder(pointer.area === 1 ? otherPlace : place, pointer.area === 1 ? otherSize : pictureSize, pointer.point)
      : undefined;
  const reads = under !== undefined && !playing;
  const pixel = reads && pointer.area === 1 ? scaled(under, otherSize, pictureSize) : under;
  const otherPixel = reads && pointer.area !== 1 ? scaled(under, pictureSize, otherSize) : under;
  const drawsPieces = !playing && !isDifference && size.width > 0;
  const firstDraws = drawsPieces && needsPieces(place, pictureSize, width, ratio);
  const secondDraws = drawsPieces && otherFacts !== undefined && needsPieces(otherPlace, otherSize, width, ratio);
  const read = (at: { x: number; y: number } | undefined): number[] => (reads && at ? [pieceAt(at)] : []);
  const seen = (draws: boolean, where: Place, extent: Extent, area: Place) =>
    draws ? piecesIn(where, extent, area) : [];
  const firstPieces = usePieces(
    first,
    unique([...read(pixel), ...seen(firstDraws, place, pictureSize, areas[0])]),
    firstDraws,
  );
  const secondPieces = usePieces(
    second,
    unique([...read(otherPixel), ...seen(secondDraws, otherPlace, otherSize, areas[1])]),
    secondDraws,
  );

  const ground = useBackground(source, at, width, playing);
  const showsSecond = useBlink(mode === 'blink');
  const isAlpha = kindFor(looking) === 'webp' && looking.channel === 'alpha';
  const present = isThere(source, at);
  const held = present ? (isDifference ? difference?.get(at) : first?.held) : undefined;

  useLayoutEffect(() => {
    // The same frame in another size, not here yet: what was drawn of it stays.
    const key = [source.id, at, mode].join('/');
    if (held?.state === 'loading' && drawn.current === key) return;
    drawn.current = held?.state === 'ready' ? key : '';
    const element = canvas.current!;
    const scale = window.devicePixelRatio;
    const [across, down] = [Math.round(size.width * scale), Math.round(size.height * scale)];
    if (element.width !== across || element.height !== down) [element.width, element.height] = [across, down];
    const context = element.getContext('2d')!;
    context.setTransform(scale, 0, 0, scale, 0, 0);
    context.clearRect(0, 0, size.width, size.height);
    const behind: Ground = isDifference ? { colour: '#000000' } : ground;
    const mine = held?.state === 'ready' && {
      ...{ area: areas[0], place, size: pictureSize, picture: held.picture, pieces: firstPieces, isAlpha },
      ground: behind,
    };
    const theirs = second?.held?.state === 'ready' && {
      ...{ area: areas[1], place: otherPlace, size: otherSize, picture: second.held.picture, pieces: secondPieces },
      ...{ isAlpha, ground: behind },
    };
    drawBoth(context, mine || null, theirs || null, { mode, wipe, showsSecond });
  });

  return (
    <Box
      ref={box}
      data-testid="stage"
      data-frame={at}
      data-second-frame={secondFrame}
      data-state={!present ? 'missing' : (held?.state ?? 'loading')}
      data-second-state={other ? (second?.held?.state ?? 'missing') : undefined}
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
      <Box
        component="canvas"
        ref={canvas}
        role="img"
        aria-label={`${source.name}, frame ${at}`}
        sx={{ position: 'absolute', inset: 0, width: '100%', height: '100%' }}
      />
      {over && facts && size.width > 0 && over(place)}
      {pointer.drawn ? (
        <Region place={place} picture={pictureSize} box={pointer.drawn} />
      ) : (
        onMeasured &&
        stage.region?.source === source.id && <Region place={place} picture={pictureSize} box={stage.region.box} />
      )}
      {mode === 'wipe' && <WipeLine at={wipe} onMove={(wipe) => dispatch(stageSet({ wipe }))} />}
      <StageWords source={source} frame={at} held={held} area={mode === 'wipe' ? undefined : areas[0]} />
      {other && !isDifference && mode !== 'wipe' && (mode === 'side' || showsSecond) && (
        <SecondWords other={other} frame={secondFrame} side={second} area={areas[1]} noPartner={noPartner} />
      )}
      {other && mode === 'wipe' && second?.held?.state !== 'ready' && (
        <SecondWords
          other={other}
          frame={secondFrame}
          side={second}
          area={{ ...areas[0], x: size.width / 2, width: size.width / 2 }}
          noPartner={noPartner}
        />
      )}
      <Tags
        source={source}
        frame={at}
        label={label}
        rate={rate}
        playback={playing ? playback : null}
        halfSpeed={halfSpeed}
        headRoom={headRoom}
        playedWidth={plays && isLight ? width : null}
        other={other}
        otherLabel={otherLabel ?? other?.source.name ?? ''}
        otherFrame={secondFrame}
        mode={mode}
        blinks={showsSecond}
      />
      {looking.warns && <WarningKey />}
      {pixel && reads && (
        <Readout
          first={{ label: other ? (label ?? 'this') : '', side: first, pixel }}
          second={other && otherPixel ? { label: otherLabel ?? 'other', side: second, pixel: otherPixel } : null}
        />
      )}
    </Box>
  );
}

const unique = (list: readonly number[]): number[] => [...new Set(list)];

/** The pixel at the same place of a picture of another size. */
const scaled = ({ x, y }: { x: number; y: number }, from: Extent, to: Extent): { x: number; y: number } => ({
  x: Math.min(to.width - 1, Math.floor(((x + 0.5) * to.width) / from.width)),
  y: Math.min(to.height - 1, Math.floor(((y + 0.5) * to.height) / from.height)),
});

/** What is to be said of the second source's frame. */
function SecondWords({
  other,
  frame,
  side,
  area,
  noPartner,
}: {
  other: Other;
  frame: number | undefined;
  side: Side | null;
  area: Place;
  noPartner: ReactNode;
}) {
  if (frame === undefined || (noPartner && !isThere(other.source, frame)))
    return (
      <StageWords
        source={other.source}
        frame={0}
        held={undefined}
        area={area}
        instead={noPartner ?? 'No frame goes with this one'}
      />
    );
  return <StageWords source={other.source} frame={frame} held={side?.held} area={area} />;
}
