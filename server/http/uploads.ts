import { statfs } from 'node:fs/promises';
import { FileStore } from '@tus/file-store';
import { Server } from '@tus/server';
import type { Express } from 'express';
import { join } from 'node:path';
import { problemOf, ShaleError } from '@shale/core';
import { writeError } from '@shale/engine';
import type { Intake } from '../intake/intake.ts';
import { problemDetails } from './problems.ts';

/** Where uploads go, by the open resumable upload protocol (tus 1.0.0). */
const path = '/api/intake/upload';

/** A refusal as the protocol's server takes it: with the problem details of every other route. */
class Refusal extends Error {
  readonly status_code: number;
  readonly body: string;

  constructor(error: unknown) {
    const problem = error instanceof ShaleError ? error : writeError('the upload', error);
    super(problem.message, { cause: error });
    const details = problemDetails(problemOf(problem));
    this.status_code = details.status;
    this.body = JSON.stringify(details);
  }
}

const full = (): Refusal =>
  new Refusal(
    new ShaleError({
      code: 'disk-full',
      fact: 'The disk is full: not all of the upload could be written.',
      wayOut: 'Free some space and press "Resume", or drop the same files again: what has arrived stays.',
    }),
  );

/** A checksum that is not worked out is not taken for one that fits. */
const unchecked = (): Refusal =>
  new Refusal(
    new ShaleError({
      code: 'bad-request',
      fact: 'Checksums of parts of an upload are not supported.',
      wayOut: 'Leave Upload-Checksum out; what has arrived can be checked by its receipt.',
    }),
  );

/** Bytes below which a disk counts as full: what a write that failed left over. */
const nothing = 1 << 20;

/** Milliseconds in which a refused upload may still send: who has not read the refusal by then is cut off. */
const lingering = 20_000;

/** Uploads: streamed to disk, taken up again after a lost connection, named only by what was announced. */
export function uploadRoutes(app: Express, intake: Intake): void {
  const free = async (): Promise<number> => {
    const { bavail, bsize } = await statfs(intake.partials);
    return bavail * bsize;
  };
  const server = new Server({
    path,
    datastore: new FileStore({ directory: intake.partials }),
    relativeLocation: true,
    respectForwardedHeaders: false,
    async onIncomingRequest(request) {
      // Refused before a byte is taken: what has arrived stays, and goes on once there is room.
      if (request.headers.has('upload-checksum')) throw unchecked();
      const length = Number(request.headers.get('content-length') ?? 0);
      if (length > 0 && length > (await free())) throw full();
    },
    async onUploadCreate(_request, upload) {
      try {
        await intake.expected(upload.metadata?.arrival, upload.metadata?.index, upload.size);
      } catch (error) {
        throw new Refusal(error);
      }
      return {};
    },
    async onUploadFinish(_request, upload) {
      try {
        const file = await intake.expected(upload.metadata?.arrival, upload.metadata?.index, upload.size);
        await intake.take(join(intake.partials, upload.id), file);
      } catch (error) {
        throw new Refusal(error);
      }
      return {};
    },
    async onResponseError(_request, error) {
      const status = 'status_code' in error ? error.status_code : 500;
      if (status === 500 && (await free()) < nothing) return full();
      return 'status_code' in error ? undefined : new Refusal(error);
    },
  });
  app.all([path, `${path}/*rest`], (request, response) => {
    // A refusal comes before the whole body did. What is left of it is read and dropped for a while: a
    // connection closed under a sender in the middle of its body loses the refusal with it.
    response.on('finish', () => {
      if (response.statusCode < 400 || request.complete) return;
      request.removeAllListeners('data').resume();
      const enough = setTimeout(() => request.socket.destroy(), lingering);
      request.once('close', () => clearTimeout(enough));
    });
    return server.handle(request, response);
  });
}
