import type { SoundFacts } from '@shale/core';
import { fetchBytes } from '../stage/frames.ts';
import type { Tape } from './player.ts';

const streamed = (stream: number | null): string => (stream === null ? '' : `&stream=${stream}`);

/** A source's sound, fetched from the server in its own samples. */
export const tapeOf = (
  source: string,
  stream: number | null,
  { rate, samples, channels }: Pick<SoundFacts, 'rate' | 'samples' | 'channels'>,
): Tape => ({
  rate,
  samples,
  channels,
  load: async (from, count, signal) => {
    const url = `/api/sources/${source}/sound/samples?from=${from}&count=${count}${streamed(stream)}`;
    return new Float32Array(await (await fetchBytes(url, signal)).arrayBuffer());
  },
});

/** The address of a stretch of a waveform in so many columns. */
export const waveUrl = (source: string, stream: number | null, from: number, to: number, columns: number): string =>
  `/api/sources/${source}/sound/wave?from=${Math.floor(from)}&to=${Math.ceil(to)}&columns=${columns}${streamed(stream)}`;
