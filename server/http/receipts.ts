import type { Express } from 'express';
import { hostname } from 'node:os';
import { join } from 'node:path';
import {
  handedName,
  reportRows,
  sampleFrames,
  ShaleError,
  writeFileTable,
  writeHashList,
  writeReport,
  writeSums,
} from '@shale/core';
import type { SheetLayout } from '@shale/media';
import { shownFrame } from '../shown.ts';
import { routes, type ListedSource, type ReceiptEntry } from '@shale/contract';
import { insideRoot } from '../roots/paths.ts';
import { sendArchive, type WrittenFile } from './archive.ts';
import { handle } from './handle.ts';
import type { House } from './house.ts';

/** Pictures on the contact sheet of a report. */
const picturesInReport = 16;

/** What is handed over of a batch is called by its day: `batch_2026-05-01_9f3a`. */
const nameOfBatch = (id: string, created: string): string => `batch_${created.slice(0, 10)}_${id.slice(0, 4)}`;

/** Receipts and what can be taken from them: manifests, tables, reports and the archive. */
export function receiptRoutes(
  app: Express,
  { store, jobs, batches, roots, made, pools, version }: House,
  sourceOf: (id: string) => Promise<ListedSource>,
): void {
  const receiptOf = async (job: string): Promise<ReceiptEntry> => {
    const receipt = await store.getReceipt(job);
    if (receipt) return receipt;
    throw new ShaleError({
      code: 'receipt-not-found',
      fact: 'This job has no receipt.',
      wayOut: 'Wait until it is done, or choose another.',
      subject: job,
    });
  };
  /** Everything that a job wrote: its pictures, and what is beside them. */
  const filesOf = async ({ job, sound, video, into }: ReceiptEntry): Promise<WrittenFile[]> => {
    const folder = await insideRoot(roots.config(into.root).path, into.folder);
    const files = [
      ...(await jobs.records.writtenBy(job)),
      ...(sound ? [sound] : []),
      ...(video?.beside ? [video.beside] : []),
    ];
    return files.map(({ name, bytes, sha256 }) => ({ name, bytes, sha256, path: join(folder, name) }));
  };

  /** A contact sheet of what a job wrote. */
  const sheetOf = async (receipt: ReceiptEntry, layout: SheetLayout, signal: AbortSignal): Promise<Uint8Array> => {
    const source = await made.resultsOf(receipt);
    const folder = made.folderOf(source);
    const cells = await Promise.all(
      sampleFrames(source.coverage, picturesInReport).map(async (frame) => ({
        file: (await shownFrame(source, folder, frame)).file,
        frame,
        name: '',
        number: null,
        seconds: null,
      })),
    );
    return pools.trying.run('sheet', { cells, declaration: source.declaration, ...layout }, { signal });
  };

  handle(app, routes.listReceipts, ({ query }) => store.listReceipts(query));
  handle(app, routes.getReceipt, ({ params }) => receiptOf(params.job));
  handle(app, routes.madeBy, async ({ params }) => {
    const results = await made.resultsOf(await receiptOf(params.job));
    const { row, plan } = await jobs.get(params.job);
    return { made: results, source: await sourceOf(row.source).catch(() => null), runs: plan.runs };
  });
  handle(app, routes.writtenFiles, async ({ params }) => {
    await receiptOf(params.job);
    return jobs.records.writtenBy(params.job);
  });
  handle(app, routes.fileTable, async ({ params, response }) => {
    const receipt = await receiptOf(params.job);
    const table = writeFileTable(await jobs.records.writtenBy(params.job));
    response
      .attachment(`${handedName(receipt)}.csv`)
      .type('text/csv')
      .send(table);
  });
  handle(app, routes.report, async ({ params, query, signal, response }) => {
    const receipt = await receiptOf(params.job);
    const title = handedName(receipt);
    const sheet = (kind: 'png' | 'pdf', front: [string, string][] = []) =>
      sheetOf(receipt, { kind, columns: 4, title, facts: receipt.finished.slice(0, 10), front }, signal);
    if (query.kind === 'pdf') {
      const pdf = await sheet('pdf', reportRows(receipt, { version }));
      response.attachment(`${title}.pdf`).type('application/pdf').send(Buffer.from(pdf));
      return;
    }
    // A report tells what it can though pictures are gone.
    const drawn = await sheet('png').catch(() => undefined);
    const files = await jobs.records.writtenBy(params.job);
    const more = { files, version, ...(drawn ? { sheet: Buffer.from(drawn).toString('base64') } : {}) };
    response.attachment(`${title}.html`).type('text/html').send(writeReport(receipt, more));
  });
  handle(app, routes.manifest, async ({ params, query, response }) => {
    const receipt = await receiptOf(params.job);
    const files = await filesOf(receipt);
    if (query.form === 'mhl') {
      const folder = await insideRoot(roots.config(receipt.into.root).path, receipt.into.folder);
      const hashed = await pools.trying.run('hashes', { folder, files });
      const head = { created: new Date().toISOString(), host: hostname(), version };
      const name = `0001_${handedName(receipt)}_${head.created.slice(0, 19).replace('T', '_').replaceAll(':', '')}Z.mhl`;
      response.attachment(name).type('application/xml').send(writeHashList(hashed, head));
      return;
    }
    response
      .attachment(`${handedName(receipt)}.sha256`)
      .type('text/plain')
      .send(writeSums(files));
  });
  /** Everything that the jobs of a batch wrote, by folders. */
  const filesOfBatch = async (batch: string): Promise<WrittenFile[]> => {
    const receipts = await store.receiptsOf(batch);
    const severalRoots = new Set(receipts.map(({ into }) => into.root)).size > 1;
    const all: WrittenFile[] = [];
    for (const receipt of receipts) {
      const { root, folder } = receipt.into;
      const steps = [...(severalRoots ? [root] : []), ...(folder === '' ? [] : [folder])];
      for (const file of await filesOf(receipt)) all.push({ ...file, name: [...steps, file.name].join('/') });
    }
    return all;
  };
  handle(app, routes.batchManifest, async ({ params, response }) => {
    const { id, created } = await batches.view(params.batch);
    const files = await filesOfBatch(id);
    response
      .attachment(`${nameOfBatch(id, created)}.sha256`)
      .type('text/plain')
      .send(writeSums(files));
  });
  handle(app, routes.batchArchive, async ({ params, request, response }) => {
    const { id, created, finished } = await batches.view(params.batch);
    const files = await filesOfBatch(id);
    await sendArchive(request, response, { name: nameOfBatch(id, created), files, at: new Date(finished ?? created) });
  });

  handle(app, routes.archive, async ({ params, request, response }) => {
    const receipt = await receiptOf(params.job);
    const files = await filesOf(receipt);
    await sendArchive(request, response, { name: handedName(receipt), files, at: new Date(receipt.finished) });
  });
}
