/** Results that must be done before a rate is told. */
const enough = 3;

/** How often a bar is drawn, in milliseconds. */
const drawEvery = 100;

/** Cells of a bar. */
const cells = 24;

/** How far a run is, on one line of a terminal: a bar, results, how many a second, the time left. */
export class Bar {
  private readonly began = performance.now();
  private done = 0;
  private drawn = 0;
  private before = 0;

  constructor(
    private readonly total: number,
    private readonly err: (text: string) => void,
    /** Whether a person watches: nothing is drawn else. */
    private readonly shows: boolean,
  ) {}

  /** Adds results that are done. */
  add(count = 1): void {
    this.done += count;
    if (!this.shows || performance.now() - this.drawn < drawEvery) return;
    this.draw();
  }

  /** Ends the line. */
  end(): void {
    if (!this.shows || this.drawn === 0) return;
    this.draw();
    this.err('\n');
  }

  private draw(): void {
    this.drawn = performance.now();
    const text = barText(this.done, this.total, (this.drawn - this.began) / 1000);
    this.err(`\r${text}${' '.repeat(Math.max(0, this.before - text.length))}`);
    this.before = text.length;
  }
}

/** @param seconds since the first began */
export function barText(done: number, total: number, seconds: number): string {
  const full = Math.round((cells * done) / Math.max(1, total));
  const bar = `${'='.repeat(full)}${' '.repeat(cells - full)}`;
  if (done < enough || seconds <= 0) return `[${bar}] ${done}/${total}`;
  const rate = done / seconds;
  const left = Math.ceil((total - done) / rate);
  const time = left < 90 ? `${left} s` : left < 5400 ? `${Math.round(left / 60)} min` : `${(left / 3600).toFixed(1)} h`;
  return `[${bar}] ${done}/${total}, ${rate.toFixed(1)} a second${done < total ? `, ${time} left` : ''}`;
}
