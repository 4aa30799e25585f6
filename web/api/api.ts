import { createApi, type FetchArgs } from '@reduxjs/toolkit/query/react';
import type {
  Anchor,
  Batch,
  Box as PixelBox,
  Estimate,
  FactName,
  FrameRange,
  NamingSpec,
  Rate,
  Receiver,
  Rule,
  Spec,
  Word,
  StandingOrder,
} from '@shale/core';
import {
  cacheTags,
  routes,
  type AnswerOf,
  type JobPriority,
  type ListedSource,
  type Makes,
  type NewRoot,
  type OfferedFile,
  type Route,
  type Sent,
  type SourceFilter,
  type SourceMarkers,
  type SourceSort,
} from '@shale/contract';
import { asking, narrowed } from './asking.ts';
import { requestFor } from './ask.ts';

/** What is asked to be worked out: a source and a spec. */
export interface Wanted {
  source: string;
  spec: Spec;
}

/** Many sources and what is wanted of them. */
export interface BatchWanted {
  of: { selection: string };
  batch: Batch;
  makes?: Makes;
}

/** Jobs of a batch that are fetched together. */
export const batchJobsTogether = 50;

/** Sources that get new names, in their order, and the rules. */
export interface NamesWanted {
  sources: string[];
  spec: NamingSpec;
}

/** Which rows of a rename are looked at. */
export type RowsShown = 'all' | 'changed' | 'faults';
/** A sound that is measured: whose, which stream, and what its file was. */
export type SoundAsked = { id: string; stream?: number; modified: number };

/** Names that are fetched together. */
export const namesTogether = 200;

/** What a list of sources shows: narrowed and sorted. */
export interface ListWanted {
  filter: SourceFilter;
  sort: SourceSort;
  descending: boolean;
}

/** Rows that are fetched together. */
export const pageRows = 60;
/** Parts of a source's weights that a row's strip is drawn from. */
const rowParts = 256;

export const api = createApi({
  baseQuery: asking,
  tagTypes: cacheTags,
  endpoints({ query, mutation }) {
    /** An operation that tells; `sent` makes what it is asked with. */
    const read = <R extends Route, A = void>(route: R, sent: (arg: A) => Sent<R>, more: More = {}) =>
      query<AnswerOf<R>, A>({
        query: (arg) => ({ ...requestFor(route, sent(arg)), ...more.fetch }),
        providesTags: route.about ?? [],
        ...(more.keep === undefined ? {} : { keepUnusedDataFor: more.keep }),
      });
    /** An operation that changes something, or is asked once. */
    const act = <R extends Route, A = void>(route: R, sent: (arg: A) => Sent<R>) =>
      mutation<AnswerOf<R>, A>({
        query: (arg) => requestFor(route, sent(arg)),
        invalidatesTags: route.changes ?? [],
      });
    const nothing = (_: void) => ({});
    const ofSource = (source: string) => ({ params: { source } });
    const ofBatch = (batch: string) => ({ params: { batch } });
    return {
      // A server that is not whole answers 503, and says what is wrong all the same.
      health: read(routes.health, nothing, {
        fetch: { validateStatus: ({ status }) => status === 200 || status === 503 },
      }),
      server: read(routes.serverState, nothing, { keep: 5 }),
      roots: read(routes.listRoots, nothing),
      browse: read(routes.browse, (path: string) => ({ query: { path } }), { keep: 0 }),
      addRoot: act(routes.addRoot, (body: NewRoot) => ({ body })),
      removeRoot: act(routes.removeRoot, (root: string) => ({ params: { root } })),
      scanRoot: act(routes.scanRoot, (root: string) => ({ params: { root } })),
      check: read(routes.getCheck, ofSource),
      startChecks: act(routes.startChecks, (sources: string[]) => ({ body: { sources } })),
      stopCheck: act(routes.stopCheck, ofSource),
      stopScan: act(routes.stopScan, (root: string) => ({ params: { root } })),
      folders: read(routes.listFolders, nothing),
      overview: read(routes.sourcesOverview, ({ filter, sort }: Pick<ListWanted, 'filter' | 'sort'>) => ({
        query: { ...narrowed(filter), sort },
      })),
      sourcePage: read(
        routes.listSources,
        ({ filter, sort, descending, page }: ListWanted & { page: number }) => ({
          query: {
            ...narrowed(filter),
            sort,
            descending: String(descending),
            offset: page * pageRows,
            limit: pageRows,
            parts: rowParts,
          },
        }),
        { keep: 20 },
      ),
      sourceIds: read(routes.sourceIds, (filter: SourceFilter) => ({ query: narrowed(filter) }), { keep: 0 }),
      declareMany: act(routes.declareMany, (body: { sources: string[]; set?: Word; clear?: FactName[] }) => ({ body })),
      rules: read(routes.listRules, (root: string) => ({ params: { root } })),
      putRule: act(routes.putRule, ({ root, rule }: { root: string; rule: Rule }) => ({
        params: { root },
        body: rule,
      })),
      setAside: act(routes.setAside, ({ id, code, reason }: { id: string; code: string; reason: string | null }) => ({
        params: { source: id, code },
        body: { reason },
      })),
      alphaEvidence: read(routes.alphaEvidence, ({ id }: { id: string; modified: number }) => ofSource(id)),
      bringIn: act(routes.bringIn, (body: { name: string; files: OfferedFile[] }) => ({ body })),
      source: read(routes.getSource, ofSource),
      startingSpec: read(routes.startingSpec, ofSource),
      plan: read(routes.makePlan, (body: Wanted) => ({ body })),
      target: read(routes.lookAtTarget, (body: Wanted) => ({ body }), { keep: 5 }),
      measure: read(routes.measure, (body: Wanted & { frames: 'sample' | 'all' }) => ({ body })),
      scopes: read(
        routes.scopes,
        ({ source, frame, box }: { source: string; frame: number; box?: PixelBox; version: string }) => ({
          params: { source, frame },
          query: { ...box },
        }),
        { keep: 20 },
      ),
      frameFacts: read(
        routes.frameFacts,
        ({ source, frame }: { source: string; frame: number; version: string }) => ({ params: { source, frame } }),
        { keep: 20 },
      ),
      compare: read(
        routes.compare,
        ({ a, frameA, b, frameB }: { a: string; frameA: number; b: string; frameB: number; version: string }) => ({
          query: { a, frameA, b, frameB },
        }),
        { keep: 60 },
      ),
      cadence: read(routes.cadence, ({ id }: { id: string; modified: number }) => ofSource(id)),
      findCadence: act(routes.findCadence, ofSource),
      markers: read(routes.markers, ofSource),
      putMarkers: act(routes.putMarkers, ({ id, ...body }: SourceMarkers & { id: string }) => ({
        ...ofSource(id),
        body,
      })),
      readMarkers: act(
        routes.readMarkers,
        ({ id, ...body }: { id: string; name: string; text: string; anchor?: Anchor }) => ({ ...ofSource(id), body }),
      ),
      readEdit: act(
        routes.readEdit,
        (body: { name: string; text: string; rate: Rate; root?: string; folder?: string }) => ({ body }),
      ),
      editFile: mutation<string, Wanted & { kind: 'edl' | 'otio' }>({
        query: (body) => ({ ...requestFor(routes.editFile, { body }), responseHandler: 'text' }),
      }),
      sound: read(routes.getSound, ({ id, stream }: SoundAsked) => ({ ...ofSource(id), query: { stream } })),
      weight: read(routes.weight, ({ id }: { id: string; modified: number }) => ofSource(id)),
      scenes: act(routes.scenes, ({ source }: { source: string }) => ofSource(source)),
      prove: act(routes.prove, (body: Wanted & { frames: number[] }) => ({ body })),
      exactness: read(
        routes.getProofExactness,
        ({ proof, frame }: { proof: string; frame: number }) => ({ params: { proof, frame } }),
        { keep: 60 },
      ),
      madeBy: read(routes.madeBy, (job: string) => ({ params: { job } })),
      contentBox: read(routes.contentBox, (body: Wanted) => ({ body }), { keep: 0 }),
      startJob: act(routes.startJob, (body: Wanted & { estimate?: Estimate; digest?: string }) => ({ body })),
      jobs: read(routes.listJobs, nothing),
      olderJobs: read(routes.listJobs, (before: number) => ({ query: { before } })),
      jobLog: read(routes.jobLog, ({ job }: { job: string; state: string }) => ({ params: { job } }), { keep: 0 }),
      cancelJob: act(routes.cancelJob, (job: string) => ({ params: { job } })),
      orderJob: act(
        routes.orderJob,
        ({ job, ...body }: { job: string; priority?: JobPriority; before?: string | null }) => ({
          params: { job },
          body,
        }),
      ),
      stopJob: act(routes.stopJob, (job: string) => ({ params: { job } })),
      continueJob: act(
        routes.continueJob,
        ({ job, ...body }: { job: string; changed?: 'take'; again?: FrameRange[] }) => ({ params: { job }, body }),
      ),
      keepSelection: act(routes.keepSelection, (sources: string[]) => ({ body: { sources } })),
      selection: read(routes.getSelection, (selection: string) => ({ params: { selection } }), { keep: 600 }),
      someSources: read(routes.sourcesOf, (sources: string[]) => ({ body: { sources } }), { keep: 20 }),
      planBatch: read(routes.planBatch, (body: BatchWanted) => ({ body }), { keep: 5 }),
      measureBatch: read(routes.measureBatch, (body: BatchWanted) => ({ body }), { keep: 30 }),
      tryBatch: act(routes.tryBatch, (body: { sources: string[]; batch: Batch }) => ({ body })),
      startBatch: act(routes.startBatch, (body: BatchWanted & { digest?: string }) => ({ body })),
      batches: read(routes.listBatches, nothing),
      olderBatches: read(routes.listBatches, (before: number) => ({ query: { before } })),
      batch: read(routes.getBatch, ofBatch),
      batchWanted: read(routes.batchWanted, ofBatch, { keep: 0 }),
      batchJobs: read(routes.batchJobs, ({ batch, page }: { batch: string; page: number }) => ({
        ...ofBatch(batch),
        query: { offset: page * batchJobsTogether, limit: batchJobsTogether },
      })),
      stopBatch: act(routes.stopBatch, ofBatch),
      cancelBatch: act(routes.cancelBatch, ofBatch),
      continueBatch: act(routes.continueBatch, ({ batch, ...body }: { batch: string; changed?: 'take' }) => ({
        ...ofBatch(batch),
        body,
      })),
      orderBatch: act(routes.orderBatch, ({ batch, priority }: { batch: string; priority: JobPriority }) => ({
        ...ofBatch(batch),
        body: { priority },
      })),
      batchReceipt: read(routes.batchReceipt, ofBatch),
      standing: read(routes.listStanding, nothing),
      standingLog: read(routes.standingLog, ({ standing, before }: { standing: string; before?: number }) => ({
        params: { standing },
        query: before === undefined ? {} : { before },
      })),
      tryStanding: act(routes.tryStanding, (body: { order: StandingOrder; changes?: string }) => ({ body })),
      setStanding: act(routes.setStanding, (body: { order: StandingOrder; earlier: 'make' | 'leave' }) => ({ body })),
      changeStanding: act(
        routes.changeStanding,
        ({ standing, ...body }: { standing: string; order: StandingOrder; edition: number }) => ({
          params: { standing },
          body,
        }),
      ),
      pauseStanding: act(routes.pauseStanding, ({ standing, paused }: { standing: string; paused: boolean }) => ({
        params: { standing },
        body: { paused },
      })),
      removeStanding: act(routes.removeStanding, (standing: string) => ({ params: { standing } })),
      receipts: read(routes.listReceipts, nothing),
      receipt: read(routes.getReceipt, (job: string) => ({ params: { job } })),
      writtenFiles: read(routes.writtenFiles, (job: string) => ({ params: { job } }), { keep: 30 }),
      specs: read(routes.listSpecs, nothing),
      saveSpec: act(routes.saveSpec, (body: { name: string; spec: Spec }) => ({ body })),
      addSpecs: act(routes.addSpecs, (body: unknown) => ({ body })),
      deleteSpec: act(routes.deleteSpec, (spec: number) => ({ params: { spec } })),
      planRename: read(routes.planRename, (body: NamesWanted & { receiver?: string }) => ({ body }), { keep: 5 }),
      renameRows: read(
        routes.renameRows,
        ({ digest, show, page }: { digest: string; show: RowsShown; page: number }) => ({
          body: { digest, show, offset: page * namesTogether, limit: namesTogether },
        }),
        { keep: 20 },
      ),
      startRename: act(routes.startRename, (body: NamesWanted & { digest: string }) => ({ body })),
      mendingNames: act(routes.mendingNames, (body: { source: string; code: string }) => ({ body })),
      renames: read(routes.listRenames, nothing),
      undoRename: act(routes.undoRename, ({ id, rest }: { id: string; rest: boolean }) => ({
        params: { rename: id },
        body: { rest },
      })),
      stopRename: act(routes.stopRename, (rename: string) => ({ params: { rename } })),
      stacks: read(routes.listStacks, nothing),
      saveStack: act(routes.saveStack, (body: { name: string; spec: NamingSpec }) => ({ body })),
      addStacks: act(routes.addStacks, (body: unknown) => ({ body })),
      deleteStack: act(routes.deleteStack, (stack: number) => ({ params: { stack } })),
      receivers: read(routes.listReceivers, nothing),
      putReceiver: act(routes.putReceiver, ({ id, receiver }: { id: string; receiver: Receiver }) => ({
        params: { receiver: id },
        body: { receiver },
      })),
      addReceivers: act(routes.addReceivers, (body: unknown) => ({ body })),
      deleteReceiver: act(routes.deleteReceiver, (receiver: string) => ({ params: { receiver } })),
      received: read(
        routes.received,
        ({ source, ...query }: { source: string; receiver: string }) => ({ ...ofSource(source), query }),
        { keep: 5 },
      ),
    };
  },
});

/** How an answer is kept, and what is special about asking. */
interface More {
  /** Seconds for which an answer that nobody looks at is kept. */
  keep?: number;
  fetch?: Pick<FetchArgs, 'validateStatus'>;
}

export const {
  useHealthQuery,
  useRootsQuery,
  useServerQuery,
  useBrowseQuery,
  useAddRootMutation,
  useRemoveRootMutation,
  useScanRootMutation,
  useStopScanMutation,
  useCheckQuery,
  useStartChecksMutation,
  useStopCheckMutation,
  useFoldersQuery,
  useOverviewQuery,
  useSourcePageQuery,
  useDeclareManyMutation,
  useRulesQuery,
  usePutRuleMutation,
  useSetAsideMutation,
  useAlphaEvidenceQuery,
  useBringInMutation,
  useSourceQuery,
  useStartingSpecQuery,
  usePlanQuery,
  useMeasureQuery,
  useTargetQuery,
  useAddSpecsMutation,
  useAddStacksMutation,
  useScopesQuery,
  useFrameFactsQuery,
  useCompareQuery,
  useProveMutation,
  useScenesMutation,
  useSoundQuery,
  useWeightQuery,
  useCadenceQuery,
  useFindCadenceMutation,
  useMarkersQuery,
  usePutMarkersMutation,
  useReadMarkersMutation,
  useReadEditMutation,
  useEditFileMutation,
  useExactnessQuery,
  useMadeByQuery,
  useLazyContentBoxQuery,
  useStartJobMutation,
  useJobsQuery,
  useStopJobMutation,
  useOlderJobsQuery,
  useJobLogQuery,
  useCancelJobMutation,
  useOrderJobMutation,
  useContinueJobMutation,
  useKeepSelectionMutation,
  useSelectionQuery,
  useSomeSourcesQuery,
  usePlanBatchQuery,
  useMeasureBatchQuery,
  useTryBatchMutation,
  useStartBatchMutation,
  useBatchesQuery,
  useOlderBatchesQuery,
  useBatchQuery,
  useBatchWantedQuery,
  useBatchJobsQuery,
  useStopBatchMutation,
  useCancelBatchMutation,
  useContinueBatchMutation,
  useOrderBatchMutation,
  useBatchReceiptQuery,
  useReceiptQuery,
  useStandingQuery,
  useStandingLogQuery,
  useTryStandingMutation,
  useSetStandingMutation,
  useChangeStandingMutation,
  usePauseStandingMutation,
  useRemoveStandingMutation,
  useReceiptsQuery,
  useWrittenFilesQuery,
  useSpecsQuery,
  useSaveSpecMutation,
  useDeleteSpecMutation,
  usePlanRenameQuery,
  useRenameRowsQuery,
  useStartRenameMutation,
  useMendingNamesMutation,
  useRenamesQuery,
  useUndoRenameMutation,
  useStopRenameMutation,
  useStacksQuery,
  useSaveStackMutation,
  useDeleteStackMutation,
  useReceiversQuery,
  usePutReceiverMutation,
  useAddReceiversMutation,
  useDeleteReceiverMutation,
  useReceivedQuery,
} = api;

/** A text that changes when a source's files do, or what they are taken to be. */
export function takenVersion({ modified, declaration }: ListedSource): string {
  const { alpha, transfer, primaries, matte } = declaration;
  const taken = [alpha.value, transfer.value, primaries.value, matte.value?.join()];
  return [Math.round(modified), ...taken.map((value) => value ?? '')].join('-');
}
