import { notReadWayOut, ShaleError } from '@shale/core';
import { nameOfFile, placeOfFile } from './heldFiles.ts';

/**
 * A file that is whole and of a kind that Shale does not read. It is not called damaged: having it made again would give
 * the same. The message is read behind "is not read:".
 */
export class NotRead extends Error {
  constructor(
    message: string,
    readonly wayOut: string = notReadWayOut,
  ) {
    super(message);
  }
}

/** The refusal of such a file, by its name. */
export const refusalOf = (path: string, error: NotRead): ShaleError =>
  new ShaleError(
    {
      code: 'format-not-read',
      fact: `${nameOfFile(path)} is not read: ${error.message}.`,
      wayOut: error.wayOut,
      subject: placeOfFile(path),
    },
    { cause: error },
  );
