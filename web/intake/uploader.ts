import { Upload } from 'tus-js-client';
import pLimit from 'p-limit';
import type { Problem } from '@shale/core';
import type { Arrival, OfferedFile, ProblemDetails } from '@shale/contract';

/** How bringing in stands. */
export interface UploadState {
  phase: 'idle' | 'announcing' | 'sending' | 'done' | 'stopped' | 'failed';
  /** The folder below the intake root. */
  folder: string;
  files: number;
  /** Files that are there, those of an earlier try included. */
  arrived: number;
  /** Of these, files that were there before. */
  before: number;
  /** Hidden files that were dropped too, and left out. */
  hidden: number;
  bytes: number;
  sent: number;
  /** Milliseconds since 1970 when sending began. */
  since: number;
  problem: Problem | null;
}

/** Files on their way at once. */
const together = 4;
/** Pauses before a lost connection is tried again, in milliseconds. */
const retryDelays = [0, 500, 1000, 2000, 4000, 8000, 15_000, 30_000];

const idle: UploadState = {
  phase: 'idle',
  folder: '',
  files: 0,
  arrived: 0,
  before: 0,
  hidden: 0,
  bytes: 0,
  sent: 0,
  since: 0,
  problem: null,
};

/** A dropped file and where it lay: below the dropped folder, with `/`. */
export interface Dropped {
  path: string;
  file: File;
}

const problemIn = (text: string | undefined): Problem | undefined => {
  try {
    const { code, fact, wayOut, subject } = JSON.parse(text ?? '') as ProblemDetails;
    return fact ? { code, fact, wayOut, subject } : undefined;
  } catch {
    return undefined;
  }
};

const lost: Problem = {
  code: 'server-gone',
  fact: 'The connection was lost while files were on their way.',
  wayOut: 'Press "Resume", or drop the same files again: what has arrived stays, and the rest follows.',
};

/** Whether a file or a folder that it is in is hidden: such are a system's own. */
const isHidden = (path: string): boolean => path.split('/').some((step) => step.startsWith('.'));

const allHidden: Problem = {
  code: 'all-hidden',
  fact: 'All of these files are hidden: their names, or those of their folders, begin with a dot.',
  wayOut: 'Rename the files you want, and drop them again.',
};

/** Brings files in, a drop at a time, over page changes; what has arrived is never sent twice. */
class Uploader {
  private state = idle;
  private readonly listeners = new Set<() => void>();
  private uploads: Upload[] = [];
  private last: { name: string; dropped: Dropped[] } | undefined;
  private run = 0;

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  readonly read = (): UploadState => this.state;

  /** @param all what was dropped; hidden files of it are left out @param announce tells the server what is coming */
  async bring(
    name: string,
    all: Dropped[],
    announce: (name: string, files: OfferedFile[]) => Promise<Arrival>,
  ): Promise<void> {
    this.run += 1;
    const run = this.run;
    this.last = { name, dropped: all };
    const dropped = all.filter(({ path }) => !isHidden(path));
    const hidden = all.length - dropped.length;
    const files = dropped.map(({ path, file }) => ({ path, size: file.size, modified: file.lastModified }));
    this.set({ ...idle, phase: 'announcing', files: files.length, hidden });
    if (files.length === 0 && hidden > 0) {
      this.set({ phase: 'failed', problem: allHidden });
      return;
    }
    let arrival: Arrival;
    try {
      arrival = await announce(name, files);
    } catch (error) {
      this.set({ phase: 'failed', problem: error as Problem });
      return;
    }
    const have = new Set(arrival.have);
    const sentBefore = arrival.have.reduce((sum, index) => sum + files[index]!.size, 0);
    this.set({
      phase: 'sending',
      folder: arrival.folder,
      arrived: have.size,
      before: have.size,
      bytes: arrival.bytes,
      sent: sentBefore,
      since: Date.now(),
    });
    const lane = pLimit(together);
    try {
      await Promise.all(
        dropped.flatMap(({ file }, index) =>
          have.has(index) ? [] : [lane(() => this.send(run, arrival.id, index, file))],
        ),
      );
      if (run === this.run && this.state.phase === 'sending') this.set({ phase: 'done' });
    } catch (error) {
      lane.clearQueue();
      if (run !== this.run || this.state.phase === 'stopped') return;
      this.abort();
      this.set({ phase: 'failed', problem: error as Problem });
    }
  }

  /** Goes on with what was dropped last. */
  again(announce: (name: string, files: OfferedFile[]) => Promise<Arrival>): void {
    if (this.last) void this.bring(this.last.name, this.last.dropped, announce);
  }

  stop(): void {
    this.set({ phase: 'stopped' });
    this.abort();
  }

  dismiss(): void {
    this.set(idle);
  }

  private abort(): void {
    for (const upload of this.uploads.splice(0)) void upload.abort();
  }

  private send(run: number, arrival: string, index: number, file: File): Promise<void> {
    if (run !== this.run || this.state.phase !== 'sending') return Promise.resolve();
    return new Promise((resolve, reject) => {
      let counted = 0;
      const count = (sent: number) => {
        if (run === this.run) this.set({ sent: this.state.sent + sent - counted });
        counted = sent;
      };
      const upload = new Upload(file, {
        endpoint: '/api/intake/upload',
        metadata: { arrival, index: String(index) },
        retryDelays,
        uploadDataDuringCreation: true,
        removeFingerprintOnSuccess: true,
        // One upload of one place of one arrival: found again after the page was left.
        fingerprint: () => Promise.resolve(`shale-${arrival}-${index}-${file.size}-${file.lastModified}`),
        onProgress: count,
        onShouldRetry: (error) => {
          const status = error.originalResponse?.getStatus() ?? 0;
          return problemIn(error.originalResponse?.getBody()) === undefined && status !== 413;
        },
        onSuccess: () => {
          count(file.size);
          this.uploads = this.uploads.filter((one) => one !== upload);
          if (run === this.run) this.set({ arrived: this.state.arrived + 1 });
          resolve();
        },
        onError: (error) => {
          const response = 'originalResponse' in error ? error.originalResponse : undefined;
          reject(problemIn(response?.getBody()) ?? lost);
        },
      });
      this.uploads.push(upload);
      void upload.findPreviousUploads().then(([previous]) => {
        if (this.state.phase !== 'sending') return;
        if (previous) upload.resumeFromPreviousUpload(previous);
        upload.start();
      });
    });
  }

  private set(change: Partial<UploadState>): void {
    this.state = { ...this.state, ...change };
    for (const listener of this.listeners) listener();
  }
}

export const uploader = new Uploader();
