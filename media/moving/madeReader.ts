import type { Image } from '@shale/core';

/** Reads what was made, picture by picture in their order. */
export interface MadeReader {
  readonly count: number;
  /** @throws Error where it cannot be read */
  picture(at: number): Promise<Image>;
  close(): Promise<void>;
}
