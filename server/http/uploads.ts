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

/** A refusal as the protocol's server writes it: problem details, like those of every other route. */
function refusal(error: unknown): { status_code: number; body: string } {
  const problem = error instanceof ShaleError ? error : writeError('the upload', error);
  const details = problemDetails(problemOf(problem));
  return { status_code: details.status, body: JSON.stringify(details) };
}

/** Uploads: streamed to disk, taken up again after a lost connection, named only by what was announced. */
export function uploadRoutes(app: Express, intake: Intake): void {
  const server = new Server({
    path,
    datastore: new FileStore({ directory: intake.partials }),
    relativeLocation: true,
    respectForwardedHeaders: false,
    async onUploadCreate(_request, upload) {
      try {
        await intake.expected(upload.metadata?.batch, upload.metadata?.index, upload.size);
      } catch (error) {
        throw refusal(error);
      }
      return {};
    },
    async onUploadFinish(_request, upload) {
      try {
        const file = await intake.expected(upload.metadata?.batch, upload.metadata?.index, upload.size);
        await intake.take(join(intake.partials, upload.id), file);
      } catch (error) {
        throw refusal(error);
      }
      return {};
    },
    onResponseError: (_request, error) => ('status_code' in error ? undefined : refusal(error)),
  });
  app.all([path, `${path}/*rest`], (request, response) => server.handle(request, response));
}
