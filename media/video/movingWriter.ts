import type { Image } from '@shale/core';
import { LottieWriter } from '../moving/lottie.ts';
import { MixedWebpWriter } from '../moving/mixedWebp.ts';
import { SheetWriter } from '../moving/sheet.ts';
import { PacketWriter } from '../moving/packetWriter.ts';
import { GifWriter } from '../moving/gifWriter.ts';
import { VideoWriter, type VideoSettings } from './videoWriter.ts';

/** Writes pictures into one file, in order. */
export interface MovingWriter {
  /** Bytes of pictures so far. */
  readonly bytes: number;
  /** What a file beside it is to say, once it is finished. */
  readonly beside?: string | undefined;
  /** Set where a picture that was added is not looked at any more. */
  readonly forgets?: boolean;
  add(image: Image): Promise<void>;
  /** Ends the file. */
  finish(): Promise<void>;
  /** Gives back what it holds; a file that was not finished is not whole. */
  close(): Promise<void>;
}

const isMixed = ({ video }: VideoSettings): boolean => video.mixed && !video.lossless;

/**
 * Opens what pictures go into. @param path a path that does not exist
 * @throws ShaleError `encoder-refused` where the codec does not take the size or the settings
 */
export function openMoving(path: string, settings: VideoSettings): Promise<MovingWriter> {
  switch (settings.format) {
    case 'gif':
      return GifWriter.open(path, settings);
    case 'lottie':
      return LottieWriter.open(path, settings);
    case 'webpanim':
      return isMixed(settings) ? MixedWebpWriter.open(path, settings) : VideoWriter.open(path, settings);
    case 'sheet':
      return SheetWriter.open(path, settings);
    case 'jxlanim':
      return PacketWriter.open(path, settings);
    default:
      return VideoWriter.open(path, settings);
  }
}
