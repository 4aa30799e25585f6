import { createRequire } from 'node:module';
import { fileURLToPath } from 'node:url';

/** Our own addon that reads PNG of every kind and writes it of 8 and 16 bits, over libdeflate and igzip; both run off the event loop. */
interface PngAddon {
  /**
   * Puts a file's samples at the beginning of `out`, which has a byte more for each row: interleaved, those of 16 bits in the machine's
   * order, fewer than 8 as 8, of a palette its colours, with alpha where a colour is clear. All checksums are verified.
   * @throws Error with what is wrong with the file
   */
  decode(file: Uint8Array, out: Uint8Array): Promise<void>;
  /** The chunks of a picture from IDAT on. @param effort 1 fast to 9 small */
  encode(
    samples: Uint8Array,
    width: number,
    height: number,
    channels: number,
    bytesOfSample: number,
    effort: number,
  ): Promise<Buffer>;
}

const built = fileURLToPath(new URL('./build/Release/shale_png.node', import.meta.url));
export const pngAddon = createRequire(import.meta.url)(built) as PngAddon;
