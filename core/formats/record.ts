import type { SampleFormat } from '../numbering/source.ts';
import type { Primaries, Transfer } from '../pixels/colourNames.ts';
import type { SettingName, WriteSettings } from './settings.ts';

/** What a file can say beside its samples. */
export interface Told {
  /**
   * Curves and primaries that a file can name; `profile` for all but a film's log curve and those of high dynamic range,
   * `points` for these too by their code points, `usual` for sRGB with BT.709 alone.
   */
  colour:
    'profile' | 'points' | 'usual' | 'linear' | { transfers: readonly Transfer[]; primaries: readonly Primaries[] };
  rate?: boolean;
  timecode?: boolean;
  pixelAspect?: boolean;
  /** Which texts beside the picture are kept, by what they are called; all of them where it is true. */
  texts?: true | readonly string[];
  /** Whether attributes of OpenEXR are kept. */
  attributes?: boolean;
}

/** What a fact is taken to be where a file does not say it, and by which standard or custom. */
interface Usual<T> {
  value: T;
  detail: string;
}

/** What holds where a file says nothing. */
export interface Usuals {
  alpha?: Usual<'straight' | 'premultiplied'>;
  transfer?: Usual<Transfer>;
  primaries?: Usual<Primaries>;
}

/** What is written of a format, still or codec. */
export interface WrittenFormat {
  /** Depths, the starting one first. */
  samples: readonly SampleFormat[];
  alpha: boolean;
  /** Counts of channels that it has no layout for: they are written as the next larger one. */
  without?: readonly number[];
  /** Whether every sample is kept at any setting but a lossy compression. */
  lossless: boolean;
  /** How its standard defines alpha; absent where it says nothing. */
  alphaRule?: 'straight' | 'premultiplied';
  /** Whether samples are light: what is written is linear. */
  light?: boolean;
  told: Told;
}

/** A cell of a table in docs/formats.md. */
interface Documented {
  read: string;
  written: string;
  /** How curve and primaries are said. */
  colour: string;
  rate: string;
  pixelAspect: string;
  profile: string;
}

/** All that Shale knows about a still format. */
export interface StillRecord {
  /** As the interface writes it. */
  words: string;
  /** Endings of its files in lower case; the first is the one that is written. */
  endings: readonly string[];
  /** Depths in which pictures are read; none where only the header is. */
  reads: readonly SampleFormat[];
  /** Compressions with which it is read, as facts say them; absent where it is read with any. */
  readsCompressed?: readonly string[];
  usual: Usuals;
  /** Absent where it is only read. */
  writes?: WrittenFormat & {
    /** The settings that it has, by what is set already. */
    settings?: (write: WriteSettings) => readonly SettingName[];
    /** Its compression in a few words. */
    compression: (write: WriteSettings) => string;
    /** What facts call the compression that is written; absent where files differ by nothing that a copy would keep. */
    compressedAs?: (write: WriteSettings) => string;
    /** What changes samples, to be read before "changes samples"; absent where nothing does. */
    lossy?: (write: WriteSettings) => string | undefined;
  };
  documented: Documented;
}

/** A still format that is written. */
export type WrittenStill = StillRecord & { writes: NonNullable<StillRecord['writes']> };

/** Containers of videos that are written. */
export type Container =
  'mp4' | 'mov' | 'mxf' | 'webm' | 'mkv' | 'gif' | 'apng' | 'webp' | 'jxl' | 'json' | 'png' | 'avif';

/** All that Shale knows about a codec that it writes. */
export interface CodecRecord {
  words: string;
  /** What it goes into; the first is the start. */
  containers: readonly [Container, ...Container[]];
  writes: WrittenFormat;
  /** What decides its size: a quality or bitrate, a profile, nothing, a palette, a quality, or one where it is not asked to be lossless. */
  controls: 'rate' | 'profile' | 'lossless' | 'palette' | 'quality' | 'either';
  /**
   * Of a small moving picture, which has neither sound nor timecode and may be played again: how many parts of a second its delays
   * count (absent where they are exact), and the greatest rate that players keep.
   */
  animation?: {
    perSecond?: number;
    fastest?: number;
    /** Whether the colour of clear pixels is lost. */
    forgetsClear?: true;
    /** Whether a file cannot say how often it plays. */
    forEver?: true;
    /** Whether browsers do not show it moving. */
    unseen?: true;
    /** Whether each picture may be kept by quality or lossless, whichever is smaller. */
    mixes?: true;
    /** Whether all frames lie on one picture, and a JSON beside it tells where. */
    isSheet?: true;
  };
  /** A profile in a few words. */
  profile?: string;
  /** The starting and the greatest quality. */
  crf?: { start: number; most: number; words?: string };
  /** The smallest picture that it holds, in pixels. */
  least?: { width: number; height: number };
  /** The most pixels of a side. */
  most?: number;
  /** The only rates that it can name, as fractions; absent where it takes any. */
  rates?: readonly string[];
  /** How colour may be kept against light; the first is the start. Absent where the codec decides. */
  chroma?: readonly ('4:2:0' | '4:2:2' | '4:4:4')[];
  /** How a codec that decides it itself keeps colour, where that is not as densely as light. */
  ownChroma?: '4:2:2';
  /** Whether it holds odd sides though pixels share colour samples: the last of a row or column has one of its own then. */
  oddSides?: true;
  twoPasses?: boolean;
  /** Whether pieces that were encoded each by itself can follow one another in a file as one encoding does. */
  joins?: true;
  /** Whether its encoder misses a bitrate: what came of it is measured then, and encoded again by one that is corrected. */
  aims?: true;
  /** The library's presets, from slowest to fastest. */
  presets?: readonly string[];
}

/** Whether a quality of 1 to 100 decides a codec's size. @param lossless what is asked of one that can be */
export const hasQuality = ({ controls }: CodecRecord, lossless: boolean): boolean =>
  controls === 'quality' || (controls === 'either' && !lossless);
