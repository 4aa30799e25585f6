import { randomBytes } from 'node:crypto';
import { parse } from 'node:path';
import type { Express } from 'express';
import { packWave, planSound } from '@shale/core';
import { routes, type ListedSource } from '@shale/contract';
import { insideRoot } from '../roots/paths.ts';
import { soundAt, Sounds, type SoundAt } from '../sounds.ts';
import { handle } from './handle.ts';
import type { House } from './house.ts';

/** What sounds hold, and what they are written as. */
export function hearingRoutes(
  app: Express,
  { pools, previews, made, roots }: House,
  sourceOf: (id: string) => Promise<ListedSource>,
): void {
  const sounds = new Sounds(pools, previews);
  const soundOf = async (id: string, stream: number | undefined): Promise<SoundAt> => {
    const source = await sourceOf(id);
    return soundAt(source, made.folderOf(source), stream ?? null);
  };
  handle(app, routes.getSound, async ({ params, query, signal }) =>
    sounds.facts(await soundOf(params.source, query.stream), signal),
  );
  handle(app, routes.soundWave, async ({ params, query, signal, asker, response }) => {
    const { from, to, columns } = query;
    const wave = await sounds.wave(await soundOf(params.source, query.stream), { from, to, columns }, signal, asker);
    response
      .set('cache-control', 'no-store')
      .type('application/octet-stream')
      .send(Buffer.from(packWave(wave)));
  });
  handle(app, routes.soundSamples, async ({ params, query, signal, asker, response }) => {
    const { from, count } = query;
    const samples = await sounds.samples(await soundOf(params.source, query.stream), from, count, signal, asker);
    response
      .set('cache-control', 'no-store')
      .type('application/octet-stream')
      .send(Buffer.from(samples.buffer, samples.byteOffset, samples.byteLength));
  });
  handle(app, routes.writeSound, async ({ params, body: { conversion, into, stem }, signal }) => {
    const source = await sourceOf(params.source);
    const at = await soundAt(source, made.folderOf(source), conversion.stream);
    const target = roots.writable(into.root).path;
    await insideRoot(target, into.folder);
    const facts = await sounds.facts(at, signal);
    const plan = planSound({ name: source.name, stem: stem ?? parse(source.name).name, facts }, conversion);
    const work = { plan, path: at.file.path, target, folder: into.folder, job: randomBytes(6).toString('hex') };
    return pools.trying.run('soundWrite', { ...work, replaces: conversion.existing === 'replace' }, { signal });
  });
}
