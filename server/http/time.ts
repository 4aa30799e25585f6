import type { Express } from 'express';
import {
  chosenMarkers,
  editShots,
  frameSpan,
  hasFrames,
  listKind,
  markedSchema,
  markerFault,
  markersFrom,
  printRate,
  sampleFrames,
  shotsFrom,
  ShaleError,
  timecodeStart,
  writeEdl,
  writeMarkerTable,
  writeOtio,
  type Marker,
  type Plan,
} from '@shale/core';
import { routes, type ListedSource } from '@shale/contract';
import { cadenceOf } from '../cadence.ts';
import { shownFrame } from '../shown.ts';
import { sourceId } from '../store/sources.ts';
import { handle } from './handle.ts';
import type { House } from './house.ts';

/** Sources among which the reels of an edit list are looked for, at the most. */
const mostCandidates = 20_000;

/** Pictures of a contact sheet, at the most. */
const mostOnSheet = 400;

const types = {
  edl: 'text/plain',
  otio: 'application/json',
  csv: 'text/csv',
  png: 'image/png',
  pdf: 'application/pdf',
};

/** Cadence, markers, edit lists, contact sheets. */
export function timeRoutes(
  app: Express,
  house: House,
  sourceOf: (id: string) => Promise<ListedSource>,
  planOf: (wanted: { source: string; spec: unknown }) => Promise<Plan>,
): void {
  const { store, pools, made, events } = house;
  const { marks } = store;
  const markersOf = async (source: ListedSource): Promise<Marker[]> => (await marks.markers(source.id)).markers;

  handle(app, routes.cadence, async ({ params }) => ({
    cadence: await cadenceOf(await sourceOf(params.source), house, false),
  }));
  handle(app, routes.findCadence, async ({ params, signal }) => ({
    cadence: await cadenceOf(await sourceOf(params.source), house, true, signal),
  }));
  handle(app, routes.findLoops, async ({ params, body, signal, asker }) => {
    const source = await sourceOf(params.source);
    if (!hasFrames(source))
      throw new ShaleError({
        code: 'not-frames',
        fact: `${source.name} has no frame sequence.`,
        wayOut: 'Choose a sequence or a clip.',
        subject: source.id,
      });
    const work = { root: made.folderOf(source), source, least: body.least };
    return { loops: await pools.trying.run('loops', work, { signal, asker }) };
  });
  handle(app, routes.markers, async ({ params }) => marks.markers((await sourceOf(params.source)).id));
  handle(app, routes.putMarkers, async ({ params, body }) => {
    const source = await sourceOf(params.source);
    const span = frameSpan(source.coverage);
    for (const marker of body.markers) {
      const fault = markerFault(marker, span);
      if (fault)
        throw new ShaleError({
          code: 'marker-outside',
          fact: `The marker "${marker.name || marker.frame}" does not fit. ${fault}`,
          wayOut: 'Move it, or make it shorter.',
          subject: String(marker.frame),
        });
    }
    const put = await marks.putMarkers(source.id, body);
    events.send({ type: 'sources', root: source.root });
    return put;
  });
  handle(app, routes.readMarkers, async ({ params, body }) => {
    const source = await sourceOf(params.source);
    const kind = listKind(body.name);
    if (!kind) throw unknownList(body.name);
    return markersFrom(body.text, kind, source, source.declaration, body.anchor);
  });
  handle(app, routes.markersFile, async ({ params, query: { kind }, response }) => {
    const source = await sourceOf(params.source);
    const markers = await markersOf(source);
    const rate = source.declaration.rate.value;
    const first = frameSpan(source.coverage)?.first ?? 0;
    const start = (rate && timecodeStart(source, rate)) ?? 0;
    if (kind !== 'csv' && !rate)
      throw new ShaleError({
        code: 'rate-not-declared',
        fact: `Nothing says the rate of ${source.name}, in which such a list counts.`,
        wayOut: 'Declare its rate, or export the table.',
        subject: source.id,
      });
    const stem = source.name.replace(/[.#]*\.[^.]+$/, '').replace(/[^\w.-]+/g, '_');
    const onResult = markers.map((marker) => ({ ...marker, frame: marker.frame - first }));
    const shot = { reel: source.name, name: source.name, from: start, to: start + spanOf(source) };
    const text =
      kind === 'csv'
        ? writeMarkerTable(markers, rate, { first, start })
        : kind === 'edl'
          ? writeEdl(stem, [shot], rate!, { start, markers: onResult })
          : writeOtio(stem, [shot], rate!, onResult);
    response.attachment(`${stem}_markers.${kind}`).type(types[kind]).send(text);
  });
  handle(app, routes.readEdit, async ({ body: { name, text, rate, root, folder } }) => {
    const kind = listKind(name);
    if (kind !== 'edl' && kind !== 'otio') throw unknownList(name);
    const found = await store.sources.list({ ...(root ? { root } : {}) }, { limit: mostCandidates, parts: 16 });
    const within = found.filter(
      (source) => folder === undefined || folder === '' || `${source.folder}/`.startsWith(`${folder}/`),
    );
    const read = shotsFrom(
      text,
      kind,
      rate,
      within.map((source) => ({ root: source.root, source, declaration: source.declaration })),
    );
    const first = read.shots[0]?.source;
    return { ...read, first: first ? sourceId(first.root, first.folder, first.name) : null };
  });
  handle(app, routes.editFile, async ({ body: { kind, ...wanted }, response }) => {
    const plan = await planOf(wanted);
    if (!plan.rate)
      throw new ShaleError({
        code: 'rate-not-declared',
        fact: 'An edit list needs a rate, and this source has none.',
        wayOut: 'Declare the rate of the source.',
        subject: wanted.source,
      });
    const { title, shots, markers } = editShots(plan, (await marks.markers(wanted.source)).markers);
    const text =
      kind === 'edl' ? writeEdl(title, shots, plan.rate, { markers }) : writeOtio(title, shots, plan.rate, markers);
    response
      .attachment(`${title.replace(/[^\w.-]+/g, '_')}.${kind}`)
      .type(types[kind])
      .send(text);
  });
  handle(app, routes.contactSheet, async ({ params, query, signal, response }) => {
    const source = await sourceOf(params.source);
    if (!hasFrames(source) && source.kind !== 'still')
      throw new ShaleError({
        code: 'not-frames',
        fact: `${source.name} has no pictures.`,
        wayOut: 'Choose a sequence or a clip.',
        subject: source.id,
      });
    const rule = markedSchema.parse({ text: query.text, colours: query.colours });
    const rate = source.declaration.rate.value;
    const first = frameSpan(source.coverage)?.first ?? 0;
    const start = (rate && timecodeStart(source, rate)) ?? 0;
    const wanted =
      query.at === 'markers'
        ? chosenMarkers(await markersOf(source), rule).map(({ marker, number }) => ({ ...marker, number }))
        : (source.kind === 'still' ? [0] : sampleFrames(source.coverage, query.count)).map((frame) => ({
            frame,
            name: '',
            number: null,
          }));
    if (wanted.length === 0)
      throw new ShaleError({
        code: 'no-markers',
        fact: `No marker of ${source.name} is chosen.`,
        wayOut: 'Set markers, or use evenly spaced frames.',
        subject: source.id,
      });
    if (wanted.length > mostOnSheet)
      throw new ShaleError({
        code: 'sheet-too-long',
        fact: `${wanted.length} markers are chosen, but a sheet holds at most ${mostOnSheet}.`,
        wayOut: 'Choose fewer by colour or words, or use evenly spaced frames.',
        subject: source.id,
      });
    const folder = made.folderOf(source);
    const cells = await Promise.all(
      wanted.map(async ({ frame, name, number }) => ({
        file: (await shownFrame(source, folder, frame)).file,
        name,
        number,
        frame,
        seconds: rate ? { frame: frame - first + start, rate } : null,
      })),
    );
    const { kind, columns } = query;
    const bytes = await pools.trying.run(
      'sheet',
      {
        cells,
        declaration: source.declaration,
        kind,
        columns,
        title: query.title || source.name,
        facts: [rate ? printRate(rate) : 'rate not declared', `${source.facts?.width} x ${source.facts?.height}`].join(
          ', ',
        ),
      },
      { signal },
    );
    response.type(types[kind]).set('cache-control', 'no-store').send(Buffer.from(bytes));
  });
}

const spanOf = ({ coverage }: ListedSource): number => {
  const span = frameSpan(coverage);
  return span ? span.last - span.first + 1 : 0;
};

const unknownList = (name: string): ShaleError =>
  new ShaleError({
    code: 'list-unknown',
    fact: `${name} is not a list that Shale can read.`,
    wayOut: 'Import an edit list (.edl, .otio) or a table (.csv).',
    subject: name,
  });
