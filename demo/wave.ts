import { writeFile } from 'node:fs/promises';

/** Samples per second of every sound in the demo. */
export const sampleRate = 48_000;

/** A struck bell: partials of a real one's proportions (hum, prime, tierce, quint, nominal), each dying at its own speed. */
export function bellStroke(seconds: number, pitch: number): Float32Array {
  const partials = [
    [0.5, 0.5, 1.2],
    [1, 0.8, 1.8],
    [1.2, 0.5, 2.6],
    [1.5, 0.35, 3.2],
    [2, 0.6, 3.8],
    [2.67, 0.2, 6],
  ] as const;
  return Float32Array.from({ length: Math.round(seconds * sampleRate) }, (_, at) => {
    const t = at / sampleRate;
    return (
      partials.reduce(
        (sum, [ratio, level, decay]) => sum + level * Math.exp(-t * decay) * Math.sin(2 * Math.PI * pitch * ratio * t),
        0,
      ) * 0.22
    );
  });
}

/** A length of sound with strokes mixed in at their seconds. */
export function mix(seconds: number, strokes: { at: number; pitch: number; level: number }[]): Float32Array {
  const sound = new Float32Array(Math.round(seconds * sampleRate));
  for (const { at, pitch, level } of strokes) {
    const stroke = bellStroke(Math.min(3, seconds - at), pitch);
    const start = Math.round(at * sampleRate);
    stroke.forEach((value, index) => (sound[start + index]! += value * level));
  }
  return sound;
}

/** Writes 16-bit PCM of one channel as WAV (RIFF; EBU Tech 3285). */
export async function writeWav(path: string, sound: Float32Array): Promise<void> {
  const bytes = Buffer.alloc(44 + sound.length * 2);
  bytes.write('RIFF', 0);
  bytes.writeUInt32LE(36 + sound.length * 2, 4);
  bytes.write('WAVEfmt ', 8);
  bytes.writeUInt32LE(16, 16);
  bytes.writeUInt16LE(1, 20);
  bytes.writeUInt16LE(1, 22);
  bytes.writeUInt32LE(sampleRate, 24);
  bytes.writeUInt32LE(sampleRate * 2, 28);
  bytes.writeUInt16LE(2, 32);
  bytes.writeUInt16LE(16, 34);
  bytes.write('data', 36);
  bytes.writeUInt32LE(sound.length * 2, 40);
  sound.forEach((value, at) => bytes.writeInt16LE(Math.round(Math.max(-1, Math.min(1, value)) * 32_767), 44 + at * 2));
  await writeFile(path, bytes);
}
