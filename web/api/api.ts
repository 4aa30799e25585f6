import { createApi, fetchBaseQuery, type BaseQueryFn, type FetchArgs } from '@reduxjs/toolkit/query/react';
import type { Plan, Problem, Spec, Word } from '@shale/core';
import type { Job, ListedSource, Measured, ProblemDetails, ReceiptEntry, Root, SavedSpec } from '@shale/contract';

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

export const api = createApi({
  baseQuery: asking,
  tagTypes: ['Root', 'Source', 'Job', 'Receipt', 'Spec'],
  endpoints: ({ query, mutation }) => ({
    roots: query<Root[], void>({ query: () => '/roots', providesTags: ['Root'] }),
    scanRoot: mutation<Root, string>({
      query: (root) => ({ url: `/roots/${root}/scan`, method: 'POST' }),
      invalidatesTags: ['Root'],
    }),
    sources: query<ListedSource[], void>({ query: () => '/sources', providesTags: ['Source'] }),
    source: query<ListedSource, string>({ query: (id) => `/sources/${id}`, providesTags: ['Source'] }),
    declare: mutation<ListedSource, { id: string; word: Word }>({
      query: ({ id, word }) => ({ url: `/sources/${id}/word`, method: 'PUT', body: word }),
      invalidatesTags: ['Source'],
    }),
    startingSpec: query<Spec, string>({ query: (id) => `/sources/${id}/spec` }),
    plan: query<Plan, Wanted>({ query: (body) => ({ url: '/plans', method: 'POST', body }), providesTags: ['Source'] }),
    measure: query<Measured, Wanted & { frames: 'sample' | 'all' }>({
      query: (body) => ({ url: '/plans/measure', method: 'POST', body }),
      providesTags: ['Source'],
    }),
    startJob: mutation<Job, Wanted>({
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
  }),
});

export const {
  useRootsQuery,
  useScanRootMutation,
  useSourcesQuery,
  useSourceQuery,
  useDeclareMutation,
  useStartingSpecQuery,
  usePlanQuery,
  useMeasureQuery,
  useStartJobMutation,
  useJobsQuery,
  useStopJobMutation,
  useContinueJobMutation,
  useReceiptsQuery,
  useSpecsQuery,
  useSaveSpecMutation,
} = api;

/** The address of a frame's preview; `v` changes with the file and with what it is taken to be, so that it may be kept. */
export function previewUrl(source: ListedSource, frame: number, width: number): string {
  const { alpha, transfer } = source.declaration;
  const version = `${Math.round(source.modified)}-${alpha.value ?? ''}-${transfer.value ?? ''}`;
  return `/api/sources/${source.id}/frames/${frame}/preview?width=${width}&v=${encodeURIComponent(version)}`;
}
