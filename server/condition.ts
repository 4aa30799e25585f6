import { statfs } from 'node:fs/promises';
import { problemOf, type Problem } from '@shale/core';
import type { Events } from './events.ts';
import type { Store } from './store/store.ts';

/** How often it is looked, and how long the database may take to answer, in milliseconds. */
const lookEvery = 2000;
const answerLimit = 2000;

/** Room below which a disk counts as full, in bytes: a journal and the database need some to go on. */
const leastRoom = 8 << 20;

/** Whether all that the server stands on is there: asked every two seconds and by `/api/health`, told to open pages when it changes. */
export class Condition {
  private troubles: Problem[] = [];
  private timer: NodeJS.Timeout | undefined;

  constructor(
    private readonly store: Store,
    /** Folders of Shale's own data; they may lie on several disks. */
    private readonly folders: readonly string[],
    private readonly events: Events,
    /** Called when the database is back after it was away. */
    private readonly onBack: () => void,
  ) {}

  begin(): void {
    this.timer = setInterval(() => void this.look(), lookEvery);
  }

  close(): void {
    clearInterval(this.timer);
  }

  /** What is wrong now; empty where nothing is. */
  async look(): Promise<Problem[]> {
    const found = (await Promise.all([this.database(), this.room()])).filter((one) => one !== undefined);
    const codes = (problems: Problem[]) => problems.map(({ code }) => code).join();
    const before = this.troubles;
    this.troubles = found;
    if (codes(before) !== codes(found)) {
      this.events.send({ type: 'condition', problems: found });
      const isAway = (problems: Problem[]) => problems.some(({ code }) => code === 'database-away');
      if (isAway(before) && !isAway(found)) this.onBack();
    }
    return found;
  }

  private async database(): Promise<Problem | undefined> {
    try {
      await this.store.ping(answerLimit);
      return undefined;
    } catch (error) {
      return problemOf(error);
    }
  }

  private async room(): Promise<Problem | undefined> {
    for (const folder of this.folders) {
      const disk = await statfs(folder).catch(() => undefined);
      if (!disk || disk.bavail * disk.bsize >= leastRoom) continue;
      return {
        code: 'disk-full',
        fact: `The disk that holds Shale’s own data has ${Math.floor((disk.bavail * disk.bsize) / 1024).toLocaleString('en-GB')} KiB left (${folder}).`,
        wayOut: 'Make room on it. Files are safe; jobs that stopped for it go on when you press Continue.',
        subject: folder,
      };
    }
    return undefined;
  }
}
