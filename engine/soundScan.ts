import { readFile, rename, writeFile } from 'node:fs/promises';
import { packWave, unpackWave, type SoundFacts, type Wave } from '@shale/core';
import { gone } from './lost.ts';
import { readSound, scanSound, type SoundIndex } from '@shale/media';

/** A file's stream of sound: from 1, null for the one that a player would take. */
export interface SoundFile {
  path: string;
  stream: number | null;
}

/** What is kept of a measured sound. */
export interface KeptSound {
  facts: SoundFacts;
  index: SoundIndex;
  wave: Wave;
}

/** Milliseconds between two tellings of how far it is. */
const telling = 500;

/**
 * Measures a sound and keeps what was found in a file: the length of a text as 32 bits, JSON, the packed waveform.
 * @param tell is told now and then how many seconds have been measured
 */
export async function measureSound(
  { path, stream }: SoundFile,
  to: string,
  signal: AbortSignal,
  tell: (seconds: number) => void = () => undefined,
): Promise<void> {
  let told = Date.now();
  const { facts, index, wave } = await scanSound(path, stream, signal, (seconds) => {
    if (Date.now() - told < telling) return;
    told = Date.now();
    tell(seconds);
  });
  if (signal.aborted) throw gone();
  const text = Buffer.from(JSON.stringify({ facts, index }));
  const length = Buffer.alloc(4);
  length.writeUInt32LE(text.length);
  const temporary = `${to}.${process.pid}.part`;
  await writeFile(temporary, Buffer.concat([length, text, packWave(wave)]));
  await rename(temporary, to);
}

/** What {@link measureSound} kept. */
export async function keptSound(from: string): Promise<KeptSound> {
  const bytes = await readFile(from);
  const end = 4 + bytes.readUInt32LE(0);
  const { facts, index } = JSON.parse(bytes.toString('utf8', 4, end)) as Omit<KeptSound, 'wave'>;
  return { facts, index, wave: unpackWave(new Uint8Array(bytes.subarray(end)).buffer) };
}

/** Interleaved samples of a sound, from one on, as {@link readSound} gives them. */
export const soundSamples = (
  { path, stream }: SoundFile,
  index: SoundIndex,
  from: number,
  count: number,
): Promise<Float32Array<ArrayBuffer>> => readSound(path, stream, index, from, count);
