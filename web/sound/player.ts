import type { Heard } from '@shale/core';

/** A sound as it is fetched. */
export interface Tape {
  /** Samples a second, and all that there are. */
  rate: number;
  samples: number;
  channels: number;
  /** Interleaved samples, within what there is. */
  load: (from: number, count: number, signal: AbortSignal) => Promise<Float32Array>;
}

/** Seconds of sound that are fetched together, and how far ahead of what is heard. */
const pieceSeconds = 2;
const aheadSeconds = 6;
/** Seconds between what is asked for and what is heard. */
const lead = 0.06;

/** A buffer that a context plays. */
export function bufferOf(context: BaseAudioContext, { rate, channels }: Tape, samples: Float32Array): AudioBuffer {
  const count = samples.length / channels;
  const buffer = context.createBuffer(channels, Math.max(1, count), rate);
  for (let channel = 0; channel < channels; channel += 1) {
    const data = buffer.getChannelData(channel);
    for (let at = 0; at < count; at += 1) data[at] = samples[at * channels + channel]!;
  }
  return buffer;
}

/** Cuts what is to be heard into pieces that are fetched one after another. */
export function* piecesOf(heard: Iterable<Heard>, rate: number): Generator<Heard> {
  const most = pieceSeconds * rate;
  for (const { from, count } of heard)
    for (let at = 0; at < count; at += most) yield { from: from + at, count: Math.min(most, count - at) };
}

/** Plays stretches of a sound one behind another, each at its sample: nothing between them, nothing over them. */
export class SoundPlayer {
  private readonly pieces: Iterator<Heard>;
  private readonly stop = new AbortController();
  private readonly playing = new Set<AudioBufferSourceNode>();
  /** Context's time at which the first sample is heard; null before it is known. */
  private zero: number | null = null;
  /** Samples that are scheduled, counted from the first. */
  private scheduled = 0;
  private first: Promise<AudioBuffer | null>;
  private next: Heard | null;
  /** Why there is nothing more to hear, where it could not be fetched. */
  fault: string | null = null;

  /** @param speed how fast it goes: below 1 slower, and lower */
  constructor(
    private readonly context: BaseAudioContext,
    private readonly tape: Tape,
    heard: Iterable<Heard>,
    private readonly speed = 1,
  ) {
    this.pieces = piecesOf(heard, tape.rate);
    this.next = this.take();
    this.first = this.fetch(this.next);
    void this.first.then(() => (this.isReady = true));
  }

  /** Whether the first of it has been fetched. */
  isReady = false;

  private take(): Heard | null {
    const { done, value } = this.pieces.next();
    return done ? null : value;
  }

  private async fetch(piece: Heard | null): Promise<AudioBuffer | null> {
    if (!piece) return null;
    const { tape, context } = this;
    const from = Math.max(0, piece.from);
    const count = Math.min(tape.samples, piece.from + piece.count) - from;
    if (count <= 0) return null;
    try {
      const samples = await tape.load(from, count, this.stop.signal);
      return samples.length === 0 ? null : bufferOf(context, tape, samples);
    } catch (error) {
      if (!this.stop.signal.aborted) this.fault = (error as Error).message;
      return null;
    }
  }

  /** Begins to sound; the time of the first sample is a whole sample of the context. @param at seconds of the context; at once where absent */
  begin(at?: number): void {
    const { sampleRate, currentTime } = this.context;
    this.zero = Math.ceil((at ?? currentTime + lead) * sampleRate) / sampleRate;
    void this.run();
  }

  private async run(): Promise<void> {
    let buffer = await this.first;
    const { signal } = this.stop;
    const isLive = this.context instanceof AudioContext;
    while (this.next && !signal.aborted) {
      if (buffer) this.schedule(buffer, this.next);
      this.scheduled += this.next.count;
      this.next = this.take();
      const wait = isLive ? this.timeOf(this.scheduled) - this.context.currentTime - aheadSeconds : 0;
      if (wait > 0) await new Promise((go) => setTimeout(go, wait * 1000));
      buffer = await this.fetch(this.next);
    }
    this.finish();
  }

  private timeOf(sample: number): number {
    return this.zero! + sample / this.tape.rate / this.speed;
  }

  private schedule(buffer: AudioBuffer, { from }: Heard): void {
    const { context } = this;
    const node = context.createBufferSource();
    node.buffer = buffer;
    node.playbackRate.value = this.speed;
    node.connect(context.destination);
    // Silence before the sound begins has no samples.
    const time = this.timeOf(this.scheduled + Math.max(0, -from));
    const late = context.currentTime - time;
    if (late > 0) node.start(context.currentTime, late * this.speed);
    else node.start(time);
    this.playing.add(node);
    node.onended = () => this.playing.delete(node);
  }

  private finish: () => void = () => undefined;
  /** Done once all is scheduled. */
  readonly all = new Promise<void>((done) => (this.finish = done));

  /** Seconds of the sound that have been heard, by the clock that it is heard by; null while that does not go. */
  heard(): number | null {
    const { context, zero } = this;
    if (zero === null || context.state !== 'running') return null;
    const latency = context instanceof AudioContext ? context.outputLatency || context.baseLatency || 0 : 0;
    return Math.max(0, (context.currentTime - latency - zero) * this.speed);
  }

  end(): void {
    this.stop.abort();
    for (const node of this.playing) {
      node.stop();
      node.disconnect();
    }
    this.playing.clear();
    this.finish();
  }
}
