/** What a counter of the desk takes. */
export interface Counter {
  formats: readonly ('gif' | 'apng' | 'webp')[];
  /** Pixels of the longer side, at most. */
  side: number;
  bytes: number;
  /** Seconds that it may play; nothing where it may play on. */
  seconds?: number;
  /** Whether it has to play for ever. */
  forEver: boolean;
}

/** The counters of the desk, by name. */
export const counters: Readonly<Record<string, Counter>> = {
  sticker: { formats: ['gif', 'webp', 'apng'], side: 512, bytes: 512_000, seconds: 3, forEver: true },
  'small-sign': { formats: ['gif', 'webp', 'apng'], side: 112, bytes: 256_000, seconds: 6, forEver: true },
  'page-loop': { formats: ['gif', 'webp', 'apng'], side: 800, bytes: 2_000_000, forEver: true },
};
