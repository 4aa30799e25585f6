import { open } from 'node:fs/promises';
import { basename } from 'node:path';
import type { Express } from 'express';
import { fileOfFrame, isVideo, previewType, sampleFrames, ShaleError, type Box } from '@shale/core';
import { routes, type ListedSource } from '@shale/contract';
import { insideRoot } from '../roots/paths.ts';
import type { PreviewKind } from '../previews.ts';
import { shownFrame, type ShownFrame } from '../shown.ts';
import { handle } from './handle.ts';
import type { House } from './house.ts';

/** A box as a query has it: all four of its numbers or none. */
function boxOf({ left, top, width, height }: Partial<Box>): Box | undefined {
  const given = [left, top, width, height].filter((one) => one !== undefined).length;
  if (given === 0) return undefined;
  if (given === 4) return { left: left!, top: top!, width: width!, height: height! };
  throw new ShaleError({
    code: 'bad-request',
    fact: 'A box needs left, top, width and height.',
    wayOut: 'Give all four, or none for the whole picture.',
    subject: 'left',
  });
}

/** The media type of a preview's file. */
async function typeOf(path: string, kind: PreviewKind): Promise<string> {
  if (kind === 'png') return 'image/png';
  if (kind !== 'quick') return 'application/octet-stream';
  const file = await open(path);
  try {
    return previewType((await file.read(Buffer.alloc(2), 0, 2, 0)).buffer);
  } finally {
    await file.close();
  }
}

/** Files of a sequence whose weight is looked at, at the most. */
const weighed = 600;

/** Pictures and numbers of frames: what the stage asks for. */
export function lookingRoutes(
  app: Express,
  { pools, previews, made, checks, store }: House,
  sourceOf: (id: string) => Promise<ListedSource>,
): void {
  const frameOf = async (id: string, frame: number): Promise<ShownFrame> => {
    const source = await sourceOf(id);
    return shownFrame(source, made.folderOf(source), frame);
  };

  handle(app, routes.preview, async ({ params, query, signal, asker, response }) => {
    const shown = await frameOf(params.source, params.frame);
    const path = await previews.get(shown, query.width, query.format, signal, asker);
    response.set('cache-control', query.v ? 'private, max-age=86400, immutable' : 'no-cache');
    response.type(await typeOf(path, query.format)).sendFile(path, { dotfiles: 'allow' });
  });
  handle(app, routes.weight, async ({ params, signal }) => {
    const source = await sourceOf(params.source);
    const folder = made.folderOf(source);
    if (isVideo(source)) {
      const { file } = await shownFrame(source, folder, 0);
      return pools.trying.run('weigh', { clip: file.path }, { signal });
    }
    const frames = source.kind === 'still' ? [0] : sampleFrames(source.coverage, weighed);
    const files = await Promise.all(
      frames.map(async (frame) => ({ frame, path: await insideRoot(folder, fileOfFrame(source, frame)!) })),
    );
    return pools.trying.run('weigh', { files }, { signal });
  });
  handle(app, routes.frameFacts, async ({ params, signal, asker }) => {
    const { file, modified, size } = await frameOf(params.source, params.frame);
    if (file.clip) {
      const { facts } = await sourceOf(params.source);
      return { name: basename(file.path), bytes: size, modified, facts: facts ?? null, problem: null };
    }
    const [probed] = await pools.looking.run('probe', [{ path: file.path, kind: 'picture' }], {
      first: true,
      signal,
      asker,
    });
    return {
      name: basename(file.path),
      bytes: size,
      modified,
      facts: probed && 'facts' in probed ? probed.facts : null,
      problem: probed && 'problem' in probed ? probed.problem : null,
    };
  });
  handle(app, routes.startChecks, async ({ body }) => {
    // One is asked for by its page, which is to know that it is not there any more.
    const [only, ...others] = body.sources;
    const sources = others.length === 0 ? [await sourceOf(only!)] : await store.sources.many(body.sources);
    return { started: sources.filter((source) => checks.start(source)).length };
  });
  handle(app, routes.getCheck, async ({ params }) => checks.of((await sourceOf(params.source)).id));
  handle(app, routes.stopCheck, async ({ params }) => {
    const { id } = await sourceOf(params.source);
    checks.stop(id);
    return checks.of(id);
  });
  handle(app, routes.piece, async ({ params, query: box, signal, asker, response }) => {
    const { file } = await frameOf(params.source, params.frame);
    const bytes = await pools.looking.run('piece', { file, box }, { first: true, signal, asker });
    response.set('cache-control', 'no-store').type('application/octet-stream').send(Buffer.from(bytes));
  });
  handle(app, routes.scopes, async ({ params, query, signal, asker }) => {
    const { file } = await frameOf(params.source, params.frame);
    return pools.looking.run('scopes', { file, box: boxOf(query) }, { first: true, signal, asker });
  });
  handle(app, routes.compare, async ({ query, signal, asker }) => {
    const [a, b] = await Promise.all([frameOf(query.a, query.frameA), frameOf(query.b, query.frameB)]);
    return { comparison: await pools.looking.run('comparison', { a, b }, { first: true, signal, asker }) };
  });
  handle(app, routes.getProofExactness, ({ params, signal }) => made.exactness(params.proof, params.frame, signal));
}
