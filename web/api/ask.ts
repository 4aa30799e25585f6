import type { FetchArgs } from '@reduxjs/toolkit/query/react';
import type { Route, Sent } from '@shale/contract';

/** The request for an operation of the contract, its path filled in. */
export function requestFor<R extends Route>(route: R, { params, query, body }: Sent<R>): FetchArgs {
  const values = (params ?? {}) as Record<string, string | number>;
  return {
    url: route.path.replace(/:(\w+)/g, (_, name: string) => encodeURIComponent(values[name]!)),
    method: route.method.toUpperCase(),
    ...(query ? { params: set(query) } : {}),
    ...(body === undefined ? {} : { body }),
  };
}

/** Fields of a query that are set. */
const set = (query: object): Record<string, unknown> =>
  Object.fromEntries(Object.entries(query).filter(([, value]) => value !== undefined));
