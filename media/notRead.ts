import { notReadWayOut } from '@shale/core';

/**
 * A file that is whole and of a kind that Shale does not read. It is not called damaged: having it made again would give
 * the same. The message is read behind the file's name.
 */
export class NotRead extends Error {
  constructor(
    message: string,
    readonly wayOut: string = notReadWayOut,
  ) {
    super(message);
  }
}
