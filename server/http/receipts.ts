import { ZipArchive } from 'archiver';
import type { Express } from 'express';
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import { ShaleError, type Written } from '@shale/core';
import { routes, type ListedSource, type ReceiptEntry } from '@shale/contract';
import { insideRoot } from '../roots/paths.ts';
import { handle } from './handle.ts';
import type { House } from './house.ts';

/** Receipts and what can be taken from them: the manifest and the archive. */
export function receiptRoutes(
  app: Express,
  { store, jobs, roots, made }: House,
  sourceOf: (id: string) => Promise<ListedSource>,
): void {
  const receiptOf = async (job: string): Promise<ReceiptEntry> => {
    const receipt = await store.getReceipt(job);
    if (receipt) return receipt;
    throw new ShaleError({
      code: 'receipt-not-found',
      fact: 'There is no receipt of this job.',
      wayOut: 'Wait until it is done, or choose another.',
      subject: job,
    });
  };
  /** Everything that a job wrote: its pictures, and the sound beside them. */
  const filesOf = async ({ job, sound }: ReceiptEntry): Promise<WrittenFile[]> => [
    ...(await jobs.writtenBy(job)),
    ...(sound ? [sound] : []),
  ];

  handle(app, routes.listReceipts, ({ query }) => store.listReceipts(query));
  handle(app, routes.getReceipt, ({ params }) => receiptOf(params.job));
  handle(app, routes.madeBy, async ({ params }) => {
    const results = await made.resultsOf(await receiptOf(params.job));
    const { row, plan } = await jobs.get(params.job);
    return { made: results, source: await sourceOf(row.source).catch(() => null), runs: plan.runs };
  });
  handle(app, routes.manifest, async ({ params, response }) => {
    const receipt = await receiptOf(params.job);
    const files = await filesOf(receipt);
    response
      .attachment(`${nameOf(receipt)}.sha256`)
      .type('text/plain')
      .send(manifestText(files));
  });
  handle(app, routes.archive, async ({ params, response }) => {
    const receipt = await receiptOf(params.job);
    const files = await filesOf(receipt);
    const folder = await insideRoot(roots.config(receipt.into.root).path, receipt.into.folder);
    await refuseChanged(folder, files);
    // Pictures do not shrink any further: they are stored as they are.
    const archive = new ZipArchive({ store: true, forceLocalTime: false });
    archive.on('error', () => response.destroy());
    response.attachment(`${nameOf(receipt)}.zip`);
    archive.pipe(response);
    for (const { name } of files) archive.file(join(folder, name), { name: `${nameOf(receipt)}/${name}` });
    archive.append(manifestText(files), { name: `${nameOf(receipt)}/manifest.sha256` });
    await archive.finalize();
  });
}

type WrittenFile = Pick<Written, 'name' | 'bytes' | 'sha256'>;

const nameOf = ({ into, video }: ReceiptEntry): string =>
  into.folder.split('/').pop() || (video ? into.pattern.replace(/\.[^.]*$/, '') : 'frames');

/** One line a file, as `sha256sum --check` reads it. */
const manifestText = (files: WrittenFile[]): string => files.map(({ sha256, name }) => `${sha256}  ${name}\n`).join('');

/** An archive of a receipt holds what the receipt says: a file that is gone or has another size is told, not left out. */
async function refuseChanged(folder: string, files: WrittenFile[]): Promise<void> {
  for (const { name, bytes } of files) {
    const told = await stat(join(folder, name)).catch(() => undefined);
    if (told?.size === bytes) continue;
    throw new ShaleError({
      code: 'source-changed',
      fact: told ? `${name} was changed after it was written.` : `${name} is no longer there.`,
      wayOut: 'Run the conversion again into another folder.',
      subject: name,
    });
  }
}
