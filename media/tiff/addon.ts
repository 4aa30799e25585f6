import { createRequire } from 'node:module';
import { fileURLToPath } from 'node:url';

/** How the samples of a TIFF lie in its file (TIFF 6.0). */
export interface TiffLayout {
  width: number;
  height: number;
  /** Of a strip, as wide as the picture, or of a tile. */
  pieceWidth: number;
  pieceHeight: number;
  /** Channels in the file, and how many of them, from the first on, are wanted. */
  stored: number;
  taken: number;
  /** Of a sample. */
  bytes: 1 | 2 | 4;
  /** None, LZW, deflate (tag 259). */
  compression: 1 | 5 | 8;
  /** None, differences to the pixel before, those of floats (tag 317). */
  predictor: 1 | 2 | 3;
  tiles: boolean;
  /** Whether each channel lies in pieces of its own. */
  planes: boolean;
  little: boolean;
}

/** Our own addon for strips and tiles of TIFF, over libdeflate and igzip; both run off the event loop. */
interface TiffAddon {
  /**
   * Puts a file's samples into `out`: interleaved, in the machine's order. Checksums of deflated data are verified, LZW is read strictly.
   * @param pieces place and length of each strip or tile, in turn
   * @throws Error with what is wrong with the file
   */
  decode(file: Uint8Array, layout: TiffLayout, pieces: Float64Array, out: Uint8Array): Promise<void>;
  /** Compressed strips one after another, low byte first. @param effort of deflate: 1 fast to 9 small */
  encode(samples: Uint8Array, layout: TiffLayout, effort: number): Promise<{ strips: Buffer; lengths: number[] }>;
}

const built = fileURLToPath(new URL('./build/Release/shale_tiff.node', import.meta.url));
export const tiffAddon = createRequire(import.meta.url)(built) as TiffAddon;
