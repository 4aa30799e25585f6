import { routes, type AnswerOf } from '@shale/contract';
import { api, type Wanted } from './api.ts';
import { requestFor } from './ask.ts';

type View = AnswerOf<typeof routes.getSearch>;

/** What a page asks of small moving pictures. */
const searches = api.injectEndpoints({
  endpoints: ({ query, mutation }) => ({
    startSearch: mutation<View, Wanted>({ query: (body) => requestFor(routes.startSearch, { body }) }),
    search: query<View, string>({
      query: (search) => requestFor(routes.getSearch, { params: { search } }),
      keepUnusedDataFor: 5,
    }),
    stopSearch: mutation<View, string>({ query: (search) => requestFor(routes.stopSearch, { params: { search } }) }),
    continueSearch: mutation<View, string>({
      query: (search) => requestFor(routes.continueSearch, { params: { search } }),
    }),
    handTry: mutation<AnswerOf<typeof routes.handTry>, { search: string; at: number; counter: string }>({
      query: ({ search, at, counter }) =>
        requestFor(routes.handTry, { params: { search, try: at }, body: { counter } }),
    }),
    findLoops: mutation<AnswerOf<typeof routes.findLoops>, { source: string; least: number }>({
      query: ({ source, least }) => requestFor(routes.findLoops, { params: { source }, body: { least } }),
    }),
  }),
});

export const {
  useStartSearchMutation,
  useSearchQuery,
  useStopSearchMutation,
  useContinueSearchMutation,
  useHandTryMutation,
  useFindLoopsMutation,
} = searches;
