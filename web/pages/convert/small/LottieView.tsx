import Box from '@mui/material/Box';
import lottie, { type AnimationItem } from 'lottie-web/build/player/lottie_light';
import { useEffect, useRef } from 'react';

/** How an animation plays. */
export interface Playing {
  loop: boolean;
  reverse: boolean;
  /** Only while the pointer is over it. */
  onHover: boolean;
  /** A frame that it stands at; null where it plays. */
  at: number | null;
}

interface Props {
  /** Its data. */
  url: string;
  label: string;
  playing: Playing;
  /** Pixels across and down that it is shown in. */
  width: number;
  height: number;
  /** The most of its place that it takes, in per cent; absent where it is enlarged. */
  most?: number;
}

/** A Lottie animation in the format's own open player. */
export default function LottieView({ url, label, playing, width, height, most }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const item = useRef<AnimationItem | null>(null);
  const { loop, reverse, onHover, at } = playing;
  useEffect(() => {
    const made = lottie.loadAnimation({
      container: box.current!,
      renderer: 'svg',
      loop: true,
      autoplay: false,
      path: url,
    });
    item.current = made;
    return () => {
      item.current = null;
      made.destroy();
    };
  }, [url]);
  useEffect(() => {
    const apply = () => {
      const made = item.current;
      if (!made) return;
      made.loop = loop;
      made.setDirection(reverse ? -1 : 1);
      if (at !== null) made.goToAndStop(at, true);
      else if (onHover) made.pause();
      else {
        // What has come to its end begins anew.
        if (!loop) made.goToAndStop(reverse ? Math.max(0, made.totalFrames - 1) : 0, true);
        made.play();
      }
    };
    const made = item.current;
    if (made?.isLoaded) apply();
    else made?.addEventListener('DOMLoaded', apply);
    // One that was ended holds no listeners any more.
    return () => item.current?.removeEventListener('DOMLoaded', apply);
  }, [url, loop, reverse, onHover, at]);
  return (
    <Box
      ref={box}
      role="img"
      aria-label={label}
      onPointerEnter={() => onHover && at === null && item.current?.play()}
      onPointerLeave={() => onHover && at === null && item.current?.pause()}
      sx={{
        '& svg': { display: 'block' },
        ...(most === undefined
          ? { width, height, '& image': { imageRendering: 'pixelated' } }
          : { width: `${most}%`, maxWidth: width, maxHeight: `${most}%`, aspectRatio: `${width} / ${height}` }),
      }}
    />
  );
}
