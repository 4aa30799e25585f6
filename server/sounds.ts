import { hasSound, ShaleError, waveBetween, waveOfSamples, type SoundFacts, type Wave } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { keptSound, type KeptSound, type SoundFile } from '@shale/engine';
import type { Pools } from './pools.ts';
import type { Previews } from './previews.ts';
import { fileOfSource } from './roots/fileThere.ts';

/** A sound as it lies on the disk now. */
export interface SoundAt {
  file: SoundFile;
  /** Milliseconds since 1970, and bytes. */
  modified: number;
  size: number;
}

/**
 * The file that a source's sound is in. @param root the folder of its root, absolute
 * @throws ShaleError `no-sound`, `file-gone`
 */
export async function soundAt(source: ListedSource, root: string, stream: number | null): Promise<SoundAt> {
  const { name, id } = source;
  if (!hasSound(source)) {
    throw new ShaleError({
      code: 'no-sound',
      fact: `${name} has no sound.`,
      wayOut: 'Choose a sound file or a clip with sound.',
      subject: id,
    });
  }
  const { path, ...told } = await fileOfSource(source, root);
  return { file: { path, stream }, ...told };
}

const keyOf = ({ path, stream }: SoundFile): string => `${stream ?? ''} ${path}`;

/** Sounds whose measures are held in memory. */
const held = 8;

/** What sounds hold: measured once by a worker process, kept beside the previews. */
export class Sounds {
  private readonly read = new Map<string, KeptSound>();
  /** Seconds that are measured of those under way. */
  private readonly under = new Map<string, number>();

  constructor(
    private readonly pools: Pick<Pools, 'looking' | 'trying'>,
    private readonly previews: Pick<Previews, 'kept'>,
  ) {}

  private async kept({ file, modified, size }: SoundAt, signal: AbortSignal): Promise<KeptSound> {
    const path = await this.previews.kept(
      [file.path, file.stream, modified, size],
      'sound',
      async (to, stop) => {
        const onEvent = (seconds: number) => void this.under.set(keyOf(file), seconds);
        await this.pools.trying
          .run('soundScan', { file, to }, { signal: stop, onEvent })
          .finally(() => this.under.delete(keyOf(file)));
      },
      signal,
    );
    const found = this.read.get(path) ?? (await keptSound(path));
    this.read.delete(path);
    this.read.set(path, found);
    if (this.read.size > held) this.read.delete(this.read.keys().next().value!);
    return found;
  }

  /** Seconds of a sound that have been measured; null where it is not being measured. */
  measured({ file }: SoundAt): number | null {
    return this.under.get(keyOf(file)) ?? null;
  }

  /** @throws ShaleError naming a file that cannot be read */
  async facts(at: SoundAt, signal: AbortSignal): Promise<SoundFacts> {
    return (await this.kept(at, signal)).facts;
  }

  /** A stretch of samples in so many columns; of samples themselves where columns are narrower than what is kept. */
  async wave(
    at: SoundAt,
    { from, to, columns }: { from: number; to: number; columns: number },
    signal: AbortSignal,
    asker: object,
  ): Promise<Wave> {
    const { wave, facts } = await this.kept(at, signal);
    if (to <= from) {
      throw new ShaleError({
        code: 'bad-request',
        fact: 'A stretch of sound ends after it begins.',
        wayOut: 'Give a later end.',
        subject: 'to',
      });
    }
    const [first, last] = [Math.max(0, from), Math.min(facts.samples, to)];
    if ((to - from) / columns >= wave.each || last <= first) return waveBetween(wave, from, to, columns);
    const samples = new Float32Array((to - from) * facts.channels);
    samples.set(await this.samples(at, first, last - first, signal, asker), (first - from) * facts.channels);
    return waveOfSamples(samples, facts.channels, columns);
  }

  async samples(
    at: SoundAt,
    from: number,
    count: number,
    signal: AbortSignal,
    asker: object,
  ): Promise<Float32Array<ArrayBuffer>> {
    const { index, facts } = await this.kept(at, signal);
    const most = Math.min(count, facts.samples - from);
    if (most <= 0) return new Float32Array(0);
    const input = { file: at.file, index, from, count: most };
    return this.pools.looking.run('soundSamples', input, { first: true, signal, asker });
  }
}
