import { randomBytes } from 'node:crypto';
import type { Express } from 'express';
import {
  faultCodes,
  freeName,
  mendingSpec,
  readWith,
  receiverFileSchema,
  receiverSchema,
  relationKinds,
  ShaleError,
  stackFileSchema,
} from '@shale/core';
import { routes, type ListedReceiver, type ListedSource, type SavedStack } from '@shale/contract';
import { openStrictly } from '@shale/engine';
import { viewPlan, type Planned } from '../renames/planned.ts';
import { parseNaming } from '../renames/renames.ts';
import { insideRoot } from '../roots/paths.ts';
import { sourceId } from '../store/sources.ts';
import { handed } from './handed.ts';
import { handle } from './handle.ts';
import type { House } from './house.ts';

/** Renames, naming rules, and the receivers that names and pictures are held against. */
export function nameRoutes(
  app: Express,
  { store, roots, renames, pools }: House,
  sourceOf: (id: string) => Promise<ListedSource>,
): void {
  const { names } = store;
  const receiverOf = (id: string): Promise<ListedReceiver> => names.getReceiver(id);

  handle(app, routes.planRename, async ({ body, signal }) => {
    const receiver = body.receiver === undefined ? undefined : (await receiverOf(body.receiver)).receiver;
    return viewPlan(await renames.plan(body.sources, body.spec, signal), receiver);
  });
  handle(app, routes.renameRows, ({ body }) => rowsOf(renames.planned(body.digest), body));
  handle(app, routes.startRename, ({ body }) => renames.start(body.sources, body.spec, body.digest));
  handle(app, routes.mendingNames, async ({ body }) => {
    const source = await sourceOf(body.source);
    const finding = source.findings.find(({ code }) => code === body.code);
    const spec = finding && mendingSpec(body.code, source);
    if (!spec) {
      throw new ShaleError({
        code: 'finding-not-found',
        fact: `${source.name} has no finding "${body.code}" that names mend.`,
        wayOut: 'Look at its findings again; a scan may have changed them.',
        subject: body.code,
      });
    }
    const lieAmong = body.code === 'stray-files' && finding.severity !== 'note' ? (finding.names ?? []) : [];
    const others = lieAmong.map((name) => sourceId(source.root, source.folder, name));
    // What may only be read is left as it is: the mended names are a copy's.
    const there = roots.config(source.root).writable;
    const into = there ? spec.into : { ...spec.into, root: roots.firstWritable() };
    return {
      sources: others.length > 0 ? others : [source.id],
      spec: there ? spec : { ...spec, mode: 'copy' as const, into },
    };
  });
  handle(app, routes.listRenames, () => renames.list());
  handle(app, routes.undoRename, ({ params, body }) => renames.undo(params.rename, body.rest));
  handle(app, routes.stopRename, ({ params }) => renames.stop(params.rename));

  handle(app, routes.listStacks, () => names.stacks.list());
  handle(app, routes.saveStack, ({ body }) => names.stacks.save(body.name, parseNaming(body.spec)));
  handle(app, routes.addStacks, async ({ body }) => {
    const added: SavedStack[] = [];
    for (const { name, spec } of readWith(stackFileSchema, body, handed('The file of naming rules')).names)
      added.push(await names.stacks.add(name, spec));
    return added;
  });
  handle(app, routes.deleteStack, async ({ params }) => ({ removed: await names.stacks.remove(params.stack) }));

  handle(app, routes.listReceivers, () => names.listReceivers());
  handle(app, routes.putReceiver, async ({ params, body }) => {
    const { id } = await receiverOf(params.receiver);
    return names.putReceiver(id, readWith(receiverSchema, body.receiver, handed('The receiver', 'bad-receiver')));
  });
  handle(app, routes.addReceivers, async ({ body }) => {
    const { receivers } = readWith(receiverFileSchema, body, handed('The file of receivers', 'bad-receiver'));
    const taken = new Set((await names.listReceivers()).map(({ receiver }) => receiver.name));
    const added: ListedReceiver[] = [];
    for (const receiver of receivers) {
      const name = freeName(receiver.name, taken);
      taken.add(name);
      added.push(await names.putReceiver(randomBytes(6).toString('hex'), { ...receiver, name }));
    }
    return added;
  });
  handle(app, routes.deleteReceiver, async ({ params }) => ({ removed: await names.deleteReceiver(params.receiver) }));
  handle(app, routes.received, async ({ params, query }) => {
    const source = await sourceOf(params.source);
    const { receiver } = await receiverOf(query.receiver);
    return openStrictly(await insideRoot(roots.config(source.root).path, source.folder), receiver, pools.looking);
  });
}

/** Some rows of a plan: of all, of those that change, or of those that something stands against. */
function rowsOf(
  { plan }: Planned,
  { show, offset, limit }: { show: 'all' | 'changed' | 'faults'; offset: number; limit: number },
) {
  const { from, to, relation, fault, groups, counts } = plan;
  const total = show === 'all' ? from.length : show === 'changed' ? counts.changed : counts.faults;
  const rows = [];
  let group = 0;
  let met = 0;
  for (let row = show === 'all' ? offset : 0; row < from.length && rows.length < limit; row += 1) {
    const shown = show === 'all' || (show === 'changed' ? relation[row] !== 0 : fault[row] !== 0);
    if (!shown) continue;
    if (show !== 'all' && (met += 1) <= offset) continue;
    while (row >= groups[group]!.start + groups[group]!.count) group += 1;
    rows.push({
      row,
      group,
      from: from[row]!,
      to: to[row]!,
      relation: relationKinds[relation[row]!]!,
      fault: faultCodes[fault[row]!]!,
    });
  }
  return { total, rows };
}
