import Box from '@mui/material/Box';
import type { SxProps } from '@mui/material/styles';
import { useEffect, useRef, type MouseEvent } from 'react';
import { loadImage } from '../../../pieces/loadImage.ts';

interface Props {
  /** A moving picture. */
  url: string;
  label: string;
  width: number;
  height: number;
  sx: SxProps;
  onClick: (event: MouseEvent<HTMLElement>) => void;
}

/** The first picture of a moving one, which does not move. */
export function FirstPicture({ url, label, width, height, sx, onClick }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    let isGone = false;
    const draw = async () => {
      const image = await loadImage(url);
      if (!isGone) canvas.current?.getContext('2d')?.drawImage(image, 0, 0, width, height);
    };
    draw().catch(() => undefined);
    return () => {
      isGone = true;
    };
  }, [url, width, height]);
  return <Box component="canvas" ref={canvas} role="img" aria-label={label} {...{ width, height, onClick, sx }} />;
}
