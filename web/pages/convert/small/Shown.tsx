import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { lazy, Suspense, useEffect, useState, type ComponentProps } from 'react';
import { hexOf, plural, type Colour, type ShownTry } from '@shale/core';
import type { Playing } from './LottieView.tsx';
import { FirstPicture } from './FirstPicture.tsx';
import { edgePlace, type Place } from './edgePlace.ts';
import { asksForLessMotion } from '../../../pieces/motion.ts';
import { ColourField } from '../../../pieces/numberFields.tsx';

/** How many times as large edges are looked at. */
export const enlarged = 8;

/** A file of a try. */
export const tryFile = (search: string, at: number): string => `/api/searches/${search}/tries/${at}/file?shown=yes`;

/** A try that is looked at. */
export interface Looked {
  /** Pixels of a picture that show as a halo on dark and on light; null where none can. */
  halo: ShownTry['halo'];
  /** How it plays, where the open player shows it and no picture can. */
  player?: Playing;
  /** Its number as people count: from 1. */
  number: number;
  src: string;
  width: number;
  height: number;
}

/** How many pixels of an edge a ground shows. */
const haloSaid = (pixels: number | undefined): string => (pixels ? `, a halo of ${plural(pixels, 'pixel')}` : '');

// The player comes with the first animation that needs it.
const LottieView = lazy(() => import('./LottieView.tsx'));

const checker = 'repeating-conic-gradient(#8a8a8a 0 25%, #767676 0 50%) 0 0 / 16px 16px';
const dark = '#1b1f22';

/** The addresses of some files once all of them are there, so that they begin to play together. */
function useTogether(sources: readonly string[]): readonly string[] {
  const key = sources.join(' ');
  const [there, setThere] = useState<{ key: string; urls: string[] }>({ key: '', urls: [] });
  useEffect(() => {
    let urls: string[] = [];
    let isGone = false;
    const fetched = sources.map((src) => fetch(src).then((answer) => (answer.ok ? answer.blob() : undefined)));
    void Promise.all(fetched).then(
      (blobs) => {
        if (isGone) return;
        urls = blobs.map((blob) => (blob ? URL.createObjectURL(blob) : ''));
        setThere({ key, urls });
      },
      () => undefined,
    );
    return () => {
      isGone = true;
      for (const url of urls) URL.revokeObjectURL(url);
    };
    // oxlint-disable-next-line react/exhaustive-deps -- the key stands for the sources
  }, [key]);
  return there.key === key ? there.urls : sources.map(() => '');
}

/** A moving picture, or the first of it where it is to stand still. */
function Moving({ isStill, url, label, ...more }: ComponentProps<typeof FirstPicture> & { isStill: boolean }) {
  if (isStill) return <FirstPicture {...{ url, label, ...more }} />;
  const { sx, onClick } = more;
  return <Box component="img" src={url} alt={label} {...{ sx, onClick }} />;
}

interface ViewProps {
  one: Looked;
  url: string;
  ground: string;
  label: string;
  isStill: boolean;
  /** The place that is enlarged to the middle; the whole picture at its own size where this is absent. */
  around?: Place;
  onPlace: (place: Place) => void;
}

function View({ one, url, ground, label, isStill, around, onPlace }: ViewProps) {
  const across = one.width * enlarged;
  const down = one.height * enlarged;
  return (
    <Box
      component="figure"
      sx={{
        ...{ position: 'relative', overflow: 'hidden', background: ground, m: 0, minHeight: 0, minWidth: 0 },
        ...{ borderRadius: '5px', border: 1, borderColor: 'divider', display: 'grid', placeItems: 'center' },
      }}
    >
      {url !== '' && one.player && (
        <Suspense fallback={null}>
          <Box
            sx={
              around
                ? {
                    position: 'absolute',
                    left: `calc(50% - ${around.x * across}px)`,
                    top: `calc(50% - ${around.y * down}px)`,
                  }
                : { display: 'grid', placeItems: 'center', width: '100%', height: '100%', minHeight: 0 }
            }
          >
            <LottieView
              url={one.src}
              label={`Try ${one.number}, ${label}`}
              playing={one.player}
              width={around ? across : one.width}
              height={around ? down : one.height}
              {...(around ? {} : { most: 94 })}
            />
          </Box>
        </Suspense>
      )}
      {url !== '' && !one.player && (
        <Moving
          url={url}
          label={`Try ${one.number}, ${label}`}
          isStill={isStill}
          width={one.width}
          height={one.height}
          onClick={({ currentTarget, clientX, clientY }) => {
            const { left, top, width, height } = currentTarget.getBoundingClientRect();
            onPlace({ x: (clientX - left) / width, y: (clientY - top) / height });
          }}
          sx={
            around
              ? {
                  ...{
                    position: 'absolute',
                    width: across,
                    height: down,
                    maxWidth: 'none',
                    imageRendering: 'pixelated',
                  },
                  left: `calc(50% - ${around.x * across}px)`,
                  top: `calc(50% - ${around.y * down}px)`,
                  cursor: 'crosshair',
                }
              : { maxWidth: '94%', maxHeight: '94%', objectFit: 'scale-down', minHeight: 0, cursor: 'crosshair' }
          }
        />
      )}
      <Box
        component="figcaption"
        sx={{
          ...{ position: 'absolute', left: 8, bottom: 8, px: 1, py: '1px', borderRadius: '4px', fontSize: 12.5 },
          ...{ bgcolor: 'rgba(20, 23, 25, .78)', color: '#fff', pointerEvents: 'none' },
        }}
      >
        {label}
      </Box>
    </Box>
  );
}

/** The moving result at its own size on several grounds, and its edge enlarged; with a second, both beside each other. */
export function Shown({ first, second, isOld }: { first: Looked; second?: Looked; isOld: boolean }) {
  const [place, setPlace] = useState<Place | null>(null);
  const [colour, setColour] = useState<Colour | null>(null);
  const [isStill, setStill] = useState(asksForLessMotion);
  const shown = second ? [first, second] : [first];
  const urls = useTogether(shown.map(({ src }) => src));
  const [firstUrl = ''] = urls;
  const isPlaced = place !== null;
  const isPlayed = first.player !== undefined;
  useEffect(() => {
    if (firstUrl === '' || isPlaced || isPlayed) return;
    void edgePlace(firstUrl).then(
      (found) => found && setPlace((before) => before ?? found),
      () => undefined,
    );
  }, [firstUrl, isPlaced, isPlayed]);
  const own = colour ? hexOf(colour) : checker;
  const ownName = colour ? hexOf(colour) : 'checker';
  const view = (at: number, ground: string, label: string, isLarge = false) => (
    <View
      key={`${shown[at]!.src} ${label}`}
      one={shown[at]!}
      url={urls[at] ?? ''}
      {...{ ground, label, isStill, onPlace: setPlace }}
      {...(isLarge ? { around: place ?? { x: 0.5, y: 0.5 } } : {})}
    />
  );
  const names = shown.map(({ number }) => `${number}`);
  return (
    <Box sx={{ display: 'grid', gridTemplateRows: 'minmax(0, 1fr) auto', rowGap: 1, minHeight: 0 }}>
      <Box
        data-testid="shown"
        sx={{
          ...{ display: 'grid', gridTemplateColumns: '1fr 1fr', gridTemplateRows: '1fr 1fr', gap: 1, minHeight: 0 },
          opacity: isOld ? 0.5 : 1,
        }}
      >
        {second ? (
          <>
            {view(0, own, `${names[0]}, true delays`)}
            {view(1, own, `${names[1]}, true delays`)}
            {view(0, own, `${names[0]}, ${enlarged} times`, true)}
            {view(1, own, `${names[1]}, ${enlarged} times`, true)}
          </>
        ) : (
          <>
            {view(0, dark, `dark${haloSaid(first.halo?.dark)}`)}
            {view(0, '#ffffff', `light${haloSaid(first.halo?.light)}`)}
            {view(0, own, `${ownName}, true delays`)}
            {view(0, own, `edge, ${enlarged} times`, true)}
          </>
        )}
      </Box>
      <Box
        sx={{ display: 'grid', gridTemplateColumns: '1fr auto 190px', alignItems: 'center', gap: 1, fontSize: 12.5 }}
      >
        <Box sx={{ color: 'text.secondary' }}>Click a picture to enlarge that place</Box>
        {isPlayed ? (
          <span />
        ) : (
          <Button size="small" onClick={() => setStill(!isStill)}>
            {isStill ? 'Play' : 'Hold still'}
          </Button>
        )}
        {colour ? (
          <ColourField label="Ground" value={colour} onSay={setColour} />
        ) : (
          <Box
            component="button"
            type="button"
            onClick={() => setColour([0.16, 0.36, 0.6])}
            sx={{
              ...{ font: 'inherit', bgcolor: 'transparent', border: 1, borderColor: 'divider', borderRadius: '4px' },
              ...{ color: 'text.primary', py: '3px', cursor: 'pointer' },
            }}
          >
            Another ground
          </Box>
        )}
      </Box>
    </Box>
  );
}
