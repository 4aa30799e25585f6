import { randomBytes } from 'node:crypto';
import { parse } from 'node:path';
import type { Express } from 'express';
import { packWave, planSound, planSwap, ShaleError } from '@shale/core';
import { routes, type ListedSource } from '@shale/contract';
import { runFew, type SoundFile } from '@shale/engine';
import { fileOfSource } from '../roots/fileThere.ts';
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
  handle(app, routes.soundMeasured, async ({ params, query }) => ({
    seconds: sounds.measured(await soundOf(params.source, query.stream)),
  }));
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
  const whereTo = async ({ root, folder }: { root: string; folder: string }) => {
    const target = roots.writable(root).path;
    await insideRoot(target, folder);
    return { target, folder, job: randomBytes(6).toString('hex') };
  };
  handle(app, routes.writeSound, async ({ params, body: { conversion, into, stem }, signal }) => {
    const source = await sourceOf(params.source);
    const at = await soundAt(source, made.folderOf(source), conversion.stream);
    const where = await whereTo(into);
    const facts = await sounds.facts(at, signal);
    const plan = planSound({ name: source.name, stem: stem ?? parse(source.name).name, facts }, conversion);
    const work = { plan, path: at.file.path, ...where, replaces: conversion.existing === 'replace' };
    const receipt = await runFew(pools.trying, 'soundWrite', work, signal);
    roots.finished(into.root, into.folder);
    return receipt;
  });
  handle(app, routes.replaceSound, async ({ params, body: { sounds, swap, into, stem }, signal }) => {
    const clip = await sourceOf(params.source);
    if (clip.kind !== 'clip')
      throw new ShaleError({
        code: 'bad-sound',
        fact: `${clip.name} is not a clip.`,
        wayOut: 'Choose a clip: its sound can be replaced.',
        subject: clip.id,
      });
    const names: string[] = [];
    const files: SoundFile[] = [];
    for (const { source: id, stream } of sounds) {
      const source = await sourceOf(id);
      names.push(source.name);
      files.push((await soundAt(source, made.folderOf(source), stream)).file);
    }
    const plan = planSwap(clip.name, names, swap, stem);
    const { path } = await fileOfSource(clip, made.folderOf(clip));
    const work = { plan, path, sounds: files, ...(await whereTo(into)) };
    const receipt = await runFew(pools.trying, 'soundSwap', { ...work, replaces: swap.existing === 'replace' }, signal);
    roots.finished(into.root, into.folder);
    return receipt;
  });
}
