import { fetchBaseQuery, type BaseQueryFn, type FetchArgs } from '@reduxjs/toolkit/query/react';
import type { Problem } from '@shale/core';
import type { ProblemDetails, SourceFilter } from '@shale/contract';

const fetching = fetchBaseQuery({ baseUrl: '/api' });

const unreachable: Problem = {
  code: 'server-gone',
  fact: 'Shale does not answer.',
  wayOut: 'Check that it is running; the page continues by itself once it is back.',
};

/** Every error of the API as a problem: code, fact, way out. */
export const asking: BaseQueryFn<string | FetchArgs, unknown, Problem> = async (args, context, extra) => {
  const result = await fetching(args, context, extra);
  if (!result.error) return { data: result.data };
  const details = result.error.data as ProblemDetails | undefined;
  return {
    error: details?.fact
      ? { code: details.code, fact: details.fact, wayOut: details.wayOut, subject: details.subject }
      : unreachable,
  };
};

/** A filter as a query has it: texts. */
export const narrowed = ({ look, sounds, ...rest }: SourceFilter) => ({
  ...rest,
  ...(look === undefined ? {} : { look: String(look) }),
  ...(sounds === undefined ? {} : { sounds: String(sounds) }),
});
