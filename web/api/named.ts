import { routes, type AnswerOf, type Sent } from '@shale/contract';
import { api } from './api.ts';
import { requestFor } from './ask.ts';

/** Sources that a page knows by root, folder and name. */
const named = api.injectEndpoints({
  endpoints: ({ query }) => ({
    named: query<AnswerOf<typeof routes.namedSources>, Sent<typeof routes.namedSources>['body']>({
      query: (body) => requestFor(routes.namedSources, { body }),
      providesTags: ['Source'],
    }),
  }),
});

export const { useLazyNamedQuery, useNamedQuery } = named;
