import type { Response } from 'express';
import type { ServerEvent } from '@shale/contract';

/** Tells every open page what changed, as server-sent events (HTML Living Standard, 9.2). */
export class Events {
  private readonly open = new Set<Response>();

  /** Told of everything that pages are told of. */
  onSent: (event: ServerEvent) => void = () => undefined;

  send(event: ServerEvent): void {
    this.onSent(event);
    const text = `data: ${JSON.stringify(event)}\n\n`;
    for (const response of this.open) response.write(text);
  }

  /** Keeps a response open as an event stream. */
  attach(response: Response): void {
    response.writeHead(200, {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store',
      connection: 'keep-alive',
    });
    response.write('retry: 1000\n\n');
    this.open.add(response);
    const beat = setInterval(() => response.write(': beat\n\n'), 15_000);
    response.on('close', () => {
      clearInterval(beat);
      this.open.delete(response);
    });
  }

  close(): void {
    for (const response of this.open) response.end();
  }
}
