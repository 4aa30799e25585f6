import { createRequire } from 'node:module';
import { fileURLToPath } from 'node:url';

/** An attribute of a part: text, or numbers in the order of its type (a rational is `[n, d]`). */
export interface ExrAttribute {
  name: string;
  type: string;
  value: string | number[];
}

/** A part of an OpenEXR file as its header tells. Windows are `[xMin, yMin, xMax, yMax]`, ends included. */
export interface ExrPart {
  name: string;
  tiled: boolean;
  deep: boolean;
  /** False where the file ends before its picture does. */
  complete: boolean;
  compression: string;
  dataWindow: [number, number, number, number];
  displayWindow: [number, number, number, number];
  channels: { name: string; type: 'half' | 'float' | 'uint' }[];
  attributes: ExrAttribute[];
}

/** Our own addon over the OpenEXR library; reading and writing run off the event loop. */
export interface ExrAddon {
  readHeader(path: string): Promise<ExrPart[]>;
  /** The named channels interleaved over the display window; an empty name gives 1.0. */
  readPixels(
    path: string,
    part: number,
    channels: string[],
    isFloat: boolean,
  ): Promise<{ width: number; height: number; channels: number; data: ArrayBuffer }>;
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
      attributes: ExrAttribute[];
    },
    data: Uint16Array | Float32Array,
  ): Promise<void>;
  /** 16-bit samples to 8 bits, as many. */
  narrow(source: Uint16Array, data: Uint8Array): void;
  /** Premultiplied half-float RGBA to straight 8 bits by core's tables. @returns nan, glow, low by channel, high by channel */
  divide(
    source: Uint16Array,
    data: Uint8Array,
    colour: Uint8Array,
    alpha: Uint8Array,
    outside: Uint8Array,
    values: Float32Array,
    bounds: Float64Array,
    guesses: Uint16Array,
    parts: number,
  ): [nan: number, glow: number, ...lowHigh: number[]];
  /** Threads within one picture; 0 works on the calling thread alone. */
  setThreads(count: number): void;
}

const built = fileURLToPath(new URL('./build/Release/shale_exr.node', import.meta.url));
export const exrAddon = createRequire(import.meta.url)(built) as ExrAddon;
