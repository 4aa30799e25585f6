import { createRequire } from 'node:module';
import { fileURLToPath } from 'node:url';

/** An attribute of a part: text, or numbers in the order of its type (a rational is `[n, d]`). */
export interface ExrAttribute {
  name: string;
  type: string;
  value: string | number[];
}

/** `[xMin, yMin, xMax, yMax]`, ends included. */
export type ExrWindow = [number, number, number, number];

export interface ExrPixels {
  width: number;
  height: number;
  channels: number;
  data: ArrayBuffer;
}

/** A file out of channels of others. */
export interface ExrCopy {
  path: string;
  channels: { path: string; part: number; from: string; as: string }[];
  compression: string;
  dwaLevel: number;
  zipLevel: number;
  attributes: ExrAttribute[];
}

/** A part of an OpenEXR file as its header tells. Windows are `[xMin, yMin, xMax, yMax]`, ends included. */
export interface ExrPart {
  name: string;
  tiled: boolean;
  deep: boolean;
  /** False where the file ends before its picture does. */
  complete: boolean;
  compression: string;
  dataWindow: ExrWindow;
  displayWindow: ExrWindow;
  /** `thin` where not every pixel has a sample. */
  channels: { name: string; type: 'half' | 'float' | 'uint'; thin: boolean }[];
  attributes: ExrAttribute[];
}

/** Our own addon over the OpenEXR library; reading and writing run off the event loop. */
export interface ExrAddon {
  readHeader(path: string): Promise<ExrPart[]>;
  /** The named channels interleaved over the display window, or with `whole` over the data window; an empty name gives 1.0. */
  readPixels(path: string, part: number, channels: string[], isFloat: boolean, whole: boolean): Promise<ExrPixels>;
  /** Luminance and chroma of the first part as red, green, blue and, if asked for, alpha, in halves. */
  readLuminance(path: string, alpha: boolean, whole: boolean): Promise<ExrPixels>;
  /** Channels of one or several files as a new file, each in its own kind of sample, over the window that holds all of theirs. */
  copyChannels(request: ExrCopy): Promise<void>;
  writePixels(
    request: {
      path: string;
      width: number;
      height: number;
      channels: string[];
      isFloat: boolean;
      compression: string;
      /** The library's own scale; 45 is its default. */
      dwaLevel: number;
      /** 1 fast to 9 small; 4 is the library's default. */
      zipLevel: number;
      attributes: ExrAttribute[];
      /** `[xMin, yMin, xMax, yMax]`, the data window as large as the picture; absent for the picture from 0, 0 on. */
      dataWindow?: ExrWindow;
      displayWindow?: ExrWindow;
    },
    data: Uint16Array | Float32Array,
  ): Promise<void>;
  /** Threads within one picture; 0 works on the calling thread alone. */
  setThreads(count: number): void;
}

const built = fileURLToPath(new URL('./build/Release/shale_exr.node', import.meta.url));
export const exrAddon = createRequire(import.meta.url)(built) as ExrAddon;
