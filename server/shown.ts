import { covers, fileOfFrame, isVideo, ShaleError, type Declaration } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import type { ShownFile } from '@shale/engine';
import { fileThere } from './roots/fileThere.ts';

/** A frame's file as it lies on the disk now. */
export interface ShownFrame {
  file: ShownFile;
  declaration: Declaration;
  /** Milliseconds since 1970, and bytes. */
  modified: number;
  size: number;
}

/**
 * The file of a source's frame. @param root the folder of its root, absolute
 * @throws ShaleError `frame-missing`, `file-gone`
 */
export async function shownFrame(source: ListedSource, root: string, frame: number): Promise<ShownFrame> {
  const name = fileOfFrame(source, frame);
  // All frames of a clip are in one file, whatever their number.
  if (name === undefined || (source.kind === 'clip' && !covers(source.coverage, frame))) {
    throw new ShaleError({
      code: 'frame-missing',
      fact: `Frame ${frame} of ${source.name} is missing.`,
      wayOut: 'Choose another frame.',
      subject: String(frame),
    });
  }
  const { path, modified, size } = await fileThere(root, name);
  return {
    file: { path, clip: isVideo(source), picture: source.kind === 'clip' ? frame : 0 },
    declaration: source.declaration,
    modified,
    size,
  };
}
