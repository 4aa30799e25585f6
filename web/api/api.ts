import { createApi, fetchBaseQuery, type BaseQueryFn, type FetchArgs } from '@reduxjs/toolkit/query/react';
import type {
  AlphaEvidence,
  Anchor,
  Box as PixelBox,
  Cadence,
  Comparison,
  Estimate,
  FactName,
  Marker,
  NamingSpec,
  Plan,
  Problem,
  Rate,
  Receiver,
  Rule,
  Scopes,
  Shot,
  Spec,
  Weighed,
  Word,
} from '@shale/core';
import type {
  Batch,
  FolderCount,
  FrameFacts,
  Health,
  Job,
  ListedReceiver,
  ListedSource,
  LoadedView,
  MadeBy,
  Measured,
  OfferedFile,
  Overview,
  ProblemDetails,
  Proof,
  ReceiptEntry,
  Rename,
  RenameRow,
  RenameView,
  Root,
  SavedSpec,
  SavedStack,
  SourceFilter,
  SourceMarkers,
  SourceSort,
} from '@shale/contract';

const fetching = fetchBaseQuery({ baseUrl: '/api' });

const unreachable: Problem = {
  code: 'server-gone',
  fact: 'Shale does not answer.',
  wayOut: 'See whether it still runs; the page goes on by itself once it is back.',
};

/** Every error of the API as a problem: code, fact, way out. */
const asking: BaseQueryFn<string | FetchArgs, unknown, Problem> = async (args, context, extra) => {
  const result = await fetching(args, context, extra);
  if (!result.error) return { data: result.data };
  const details = result.error.data as ProblemDetails | undefined;
  return {
    error: details?.fact
      ? { code: details.code, fact: details.fact, wayOut: details.wayOut, subject: details.subject }
      : unreachable,
  };
};

/** What is asked to be worked out: a source and a spec. */
export interface Wanted {
  source: string;
  spec: Spec;
}

/** Sources that get new names, in their order, and the rules. */
export interface NamesWanted {
  sources: string[];
  spec: NamingSpec;
}

/** Which rows of a rename are looked at. */
export type RowsShown = 'all' | 'changed' | 'faults';

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

/** Fields of a filter that are set, as a query has them. */
const given = (filter: SourceFilter): Record<string, string> =>
  Object.fromEntries(
    Object.entries(filter).flatMap(([key, value]) => (value === undefined ? [] : [[key, String(value)]])),
  );

/** What answers are about: a change of the one asks for those of its kind anew. */
export const tagTypes = [
  'Root',
  'Source',
  'Rule',
  'Job',
  'Receipt',
  'Spec',
  'Rename',
  'Stack',
  'Receiver',
  'Cadence',
  'Markers',
  'Plan',
  'Health',
] as const;

export const api = createApi({
  baseQuery: asking,
  tagTypes,
  endpoints: ({ query, mutation }) => ({
    // A server that is not whole answers 503, and says what is wrong all the same.
    health: query<Health, void>({
      query: () => ({ url: '/health', validateStatus: ({ status }) => status === 200 || status === 503 }),
      providesTags: ['Health'],
    }),
    roots: query<Root[], void>({ query: () => '/roots', providesTags: ['Root'] }),
    scanRoot: mutation<Root, string>({
      query: (root) => ({ url: `/roots/${root}/scan`, method: 'POST' }),
      invalidatesTags: ['Root'],
    }),
    stopScan: mutation<Root, string>({
      query: (root) => ({ url: `/roots/${root}/scan/stop`, method: 'POST' }),
      invalidatesTags: ['Root'],
    }),
    folders: query<FolderCount[], void>({ query: () => '/folders', providesTags: ['Source'] }),
    overview: query<Overview, Pick<ListWanted, 'filter' | 'sort'>>({
      query: ({ filter, sort }) => ({ url: '/sources/overview', params: { ...given(filter), sort } }),
      providesTags: ['Source'],
    }),
    sourcePage: query<ListedSource[], ListWanted & { page: number }>({
      query: ({ filter, sort, descending, page }) => ({
        url: '/sources',
        params: { ...given(filter), sort, descending, offset: page * pageRows, limit: pageRows, parts: rowParts },
      }),
      providesTags: ['Source'],
      keepUnusedDataFor: 20,
    }),
    sourceIds: query<string[], SourceFilter>({
      query: (filter) => ({ url: '/sources/ids', params: given(filter) }),
      keepUnusedDataFor: 0,
    }),
    declareMany: mutation<{ changed: number }, { sources: string[]; set?: Word; clear?: FactName[] }>({
      query: (body) => ({ url: '/words', method: 'PUT', body }),
      invalidatesTags: ['Source'],
    }),
    rules: query<Rule[], string>({ query: (root) => `/roots/${root}/rules`, providesTags: ['Rule'] }),
    putRule: mutation<Rule[], { root: string; rule: Rule }>({
      query: ({ root, rule }) => ({ url: `/roots/${root}/rules`, method: 'PUT', body: rule }),
      invalidatesTags: ['Rule', 'Source'],
    }),
    setAside: mutation<ListedSource, { id: string; code: string; reason: string | null }>({
      query: ({ id, code, reason }) => ({ url: `/sources/${id}/findings/${code}`, method: 'PUT', body: { reason } }),
      invalidatesTags: ['Source'],
    }),
    alphaEvidence: query<AlphaEvidence, { id: string; modified: number }>({
      query: ({ id }) => `/sources/${id}/alpha-evidence`,
    }),
    bringIn: mutation<Batch, { name: string; files: OfferedFile[] }>({
      query: (body) => ({ url: '/intake', method: 'POST', body }),
    }),
    source: query<ListedSource, string>({ query: (id) => `/sources/${id}`, providesTags: ['Source'] }),
    declare: mutation<ListedSource, { id: string; word: Word }>({
      query: ({ id, word }) => ({ url: `/sources/${id}/word`, method: 'PUT', body: word }),
      invalidatesTags: ['Source'],
    }),
    startingSpec: query<Spec, string>({ query: (id) => `/sources/${id}/spec` }),
    plan: query<Plan, Wanted>({
      query: (body) => ({ url: '/plans', method: 'POST', body }),
      providesTags: ['Source', 'Plan'],
    }),
    target: query<{ taken: number; of: number; problem: Problem | null }, Wanted>({
      query: (body) => ({ url: '/plans/target', method: 'POST', body }),
      providesTags: ['Source', 'Plan', 'Job'],
      keepUnusedDataFor: 5,
    }),
    addSpecs: mutation<SavedSpec[], unknown>({
      query: (body) => ({ url: '/specs/file', method: 'POST', body }),
      invalidatesTags: ['Spec'],
    }),
    addStacks: mutation<SavedStack[], unknown>({
      query: (body) => ({ url: '/stacks/file', method: 'POST', body }),
      invalidatesTags: ['Stack'],
    }),
    measure: query<Measured, Wanted & { frames: 'sample' | 'all' }>({
      query: (body) => ({ url: '/plans/measure', method: 'POST', body }),
      providesTags: ['Source'],
    }),
    scopes: query<Scopes, { source: string; frame: number; box?: PixelBox; version: string }>({
      query: ({ source, frame, box }) => ({ url: `/sources/${source}/frames/${frame}/scopes`, params: { ...box } }),
      keepUnusedDataFor: 20,
    }),
    frameFacts: query<FrameFacts, { source: string; frame: number; version: string }>({
      query: ({ source, frame }) => `/sources/${source}/frames/${frame}/facts`,
      keepUnusedDataFor: 20,
    }),
    compare: query<
      { comparison: Comparison | null },
      { a: string; frameA: number; b: string; frameB: number; version: string }
    >({
      query: ({ a, frameA, b, frameB }) => ({ url: '/comparison', params: { a, frameA, b, frameB } }),
      keepUnusedDataFor: 60,
    }),
    cadence: query<{ cadence: Cadence | null }, { id: string; modified: number }>({
      query: ({ id }) => `/sources/${id}/cadence`,
      providesTags: ['Cadence'],
    }),
    findCadence: mutation<{ cadence: Cadence | null }, string>({
      query: (id) => ({ url: `/sources/${id}/cadence`, method: 'POST' }),
      invalidatesTags: ['Cadence', 'Plan'],
    }),
    markers: query<SourceMarkers, string>({ query: (id) => `/sources/${id}/markers`, providesTags: ['Markers'] }),
    putMarkers: mutation<SourceMarkers, SourceMarkers & { id: string }>({
      query: ({ id, ...body }) => ({ url: `/sources/${id}/markers`, method: 'PUT', body }),
      invalidatesTags: ['Markers', 'Plan'],
    }),
    readMarkers: mutation<
      { markers: Marker[]; problems: Problem[]; anchor: Anchor },
      { id: string; name: string; text: string; anchor?: Anchor }
    >({ query: ({ id, ...body }) => ({ url: `/sources/${id}/markers/read`, method: 'POST', body }) }),
    readEdit: mutation<
      { title: string; shots: Shot[]; problems: Problem[]; first: string | null },
      { name: string; text: string; rate: Rate; root?: string; folder?: string }
    >({ query: (body) => ({ url: '/edits/read', method: 'POST', body }) }),
    editFile: mutation<string, Wanted & { kind: 'edl' | 'otio' }>({
      query: (body) => ({ url: '/edits/file', method: 'POST', body, responseHandler: 'text' }),
    }),
    weight: query<Weighed, { id: string; modified: number }>({ query: ({ id }) => `/sources/${id}/weight` }),
    scenes: mutation<{ frames: number[] }, { source: string }>({
      query: ({ source }) => ({ url: `/sources/${source}/scenes`, method: 'POST' }),
    }),
    prove: mutation<Proof, Wanted & { frames: number[] }>({
      query: (body) => ({ url: '/plans/proof', method: 'POST', body }),
    }),
    exactness: query<Comparison, { proof: string; frame: number }>({
      query: ({ proof, frame }) => `/proofs/${proof}/frames/${frame}/exactness`,
      keepUnusedDataFor: 60,
    }),
    madeBy: query<MadeBy, string>({ query: (job) => `/receipts/${job}/made`, providesTags: ['Receipt', 'Source'] }),
    contentBox: query<{ box: PixelBox | null; frames: number }, Wanted>({
      query: (body) => ({ url: '/plans/content', method: 'POST', body }),
      keepUnusedDataFor: 0,
    }),
    startJob: mutation<Job, Wanted & { estimate?: Estimate }>({
      query: (body) => ({ url: '/jobs', method: 'POST', body }),
      invalidatesTags: ['Job'],
    }),
    jobs: query<Job[], void>({ query: () => '/jobs', providesTags: ['Job'] }),
    stopJob: mutation<Job, string>({
      query: (id) => ({ url: `/jobs/${id}/stop`, method: 'POST' }),
      invalidatesTags: ['Job'],
    }),
    continueJob: mutation<Job, string>({
      query: (id) => ({ url: `/jobs/${id}/continue`, method: 'POST' }),
      invalidatesTags: ['Job'],
    }),
    receipts: query<ReceiptEntry[], void>({ query: () => '/receipts', providesTags: ['Receipt'] }),
    specs: query<SavedSpec[], void>({ query: () => '/specs', providesTags: ['Spec'] }),
    saveSpec: mutation<SavedSpec, { name: string; spec: Spec }>({
      query: (body) => ({ url: '/specs', method: 'POST', body }),
      invalidatesTags: ['Spec'],
    }),
    deleteSpec: mutation<{ removed: boolean }, number>({
      query: (id) => ({ url: `/specs/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Spec'],
    }),
    planRename: query<RenameView, NamesWanted & { receiver?: string }>({
      query: (body) => ({ url: '/renames/plan', method: 'POST', body }),
      providesTags: ['Source', 'Receiver'],
      keepUnusedDataFor: 5,
    }),
    renameRows: query<{ total: number; rows: RenameRow[] }, { digest: string; show: RowsShown; page: number }>({
      query: ({ digest, show, page }) => ({
        url: '/renames/rows',
        method: 'POST',
        body: { digest, show, offset: page * namesTogether, limit: namesTogether },
      }),
      keepUnusedDataFor: 20,
    }),
    startRename: mutation<Rename, NamesWanted & { digest: string }>({
      query: (body) => ({ url: '/renames', method: 'POST', body }),
      invalidatesTags: ['Rename'],
    }),
    mendingNames: mutation<NamesWanted, { source: string; code: string }>({
      query: (body) => ({ url: '/renames/mend', method: 'POST', body }),
    }),
    renames: query<Rename[], void>({ query: () => '/renames', providesTags: ['Rename'] }),
    undoRename: mutation<Rename, { id: string; rest: boolean }>({
      query: ({ id, rest }) => ({ url: `/renames/${id}/undo`, method: 'POST', body: { rest } }),
      invalidatesTags: ['Rename'],
    }),
    stopRename: mutation<Rename, string>({
      query: (id) => ({ url: `/renames/${id}/stop`, method: 'POST' }),
      invalidatesTags: ['Rename'],
    }),
    stacks: query<SavedStack[], void>({ query: () => '/stacks', providesTags: ['Stack'] }),
    saveStack: mutation<SavedStack, { name: string; spec: NamingSpec }>({
      query: (body) => ({ url: '/stacks', method: 'POST', body }),
      invalidatesTags: ['Stack'],
    }),
    deleteStack: mutation<{ removed: boolean }, number>({
      query: (id) => ({ url: `/stacks/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Stack'],
    }),
    receivers: query<ListedReceiver[], void>({ query: () => '/receivers', providesTags: ['Receiver'] }),
    putReceiver: mutation<ListedReceiver, { id: string; receiver: Receiver }>({
      query: ({ id, receiver }) => ({ url: `/receivers/${id}`, method: 'PUT', body: { receiver } }),
      invalidatesTags: ['Receiver'],
    }),
    addReceivers: mutation<ListedReceiver[], unknown>({
      query: (body) => ({ url: '/receivers', method: 'POST', body }),
      invalidatesTags: ['Receiver'],
    }),
    deleteReceiver: mutation<{ removed: boolean }, string>({
      query: (id) => ({ url: `/receivers/${id}`, method: 'DELETE' }),
      invalidatesTags: ['Receiver'],
    }),
    received: query<LoadedView, { source: string; receiver: string }>({
      query: ({ source, receiver }) => ({ url: `/sources/${source}/received`, params: { receiver } }),
      providesTags: ['Source', 'Receiver'],
      keepUnusedDataFor: 5,
    }),
  }),
});

export const {
  useHealthQuery,
  useRootsQuery,
  useScanRootMutation,
  useStopScanMutation,
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
  useDeclareMutation,
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
  useContinueJobMutation,
  useReceiptsQuery,
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
