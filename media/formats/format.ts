import type { Facts, Image, Spec } from '@shale/core';

/** How a file is written: the part of a spec that its format looks at. */
export type WriteSettings = Pick<
  Spec['write'],
  'transfer' | 'alpha' | 'effort' | 'quality' | 'exrCompression' | 'tiffCompression'
>;

/** A still format: files <-> pixels. Errors are plain; {@link readStill} and its like name the file. */
export interface StillFormat {
  /** Lower-case id, as in specs and facts. */
  id: string;
  /** Whether a file's first bytes (up to 512) are of this format; a name is asked only where bytes cannot tell. */
  recognises(head: Buffer, name: string): boolean;
  /** What the header says, without decoding. Refuses what no reader should be fed: absurd sizes, cut headers. */
  probe(path: string): Promise<Facts>;
  /** The whole picture in the file's own samples. A damaged or truncated file throws; it never gives a picture. */
  read(path: string): Promise<Image>;
  /** Writes the picture to a path that does not exist. Not flushed; the caller sees to that. */
  write?(path: string, image: Image, settings: WriteSettings): Promise<void>;
}

/** The largest picture that is read: 2^29 pixels, 65,536 on a side. */
export function refuseAbsurdSize(width: number, height: number): void {
  if (width < 1 || height < 1 || width > 65_536 || height > 65_536 || width * height > 2 ** 29) {
    throw new Error(`its header claims ${width} x ${height} pixels, which Shale does not take`);
  }
}
