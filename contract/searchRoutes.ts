import { z } from 'zod';
import { problemSchema, shownTrySchema } from '@shale/core';
import { id, route, wantedSchema } from './route.ts';

/** A search for what is within a limit of bytes, with every try that was made. */
export const searchViewSchema = z.object({
  id,
  source: id,
  state: z.enum(['searching', 'stopped', 'ended', 'failed']),
  /** Bytes; null where one try of what is wanted is all. */
  limit: z.int().nullable(),
  tries: z.array(shownTrySchema),
  /** Which of the tries is the largest within the limit, by its place; null where none is. */
  best: z.int().nullable(),
  /** True where all that may be given up was, and it is still too large. */
  cannot: z.boolean(),
  /** Of the try that is being made. */
  progress: z.object({ done: z.int(), of: z.int() }).nullable(),
  problem: problemSchema.nullable(),
});
export type SearchView = z.infer<typeof searchViewSchema>;

/** What the upload desk says of a file. */
export const handedSchema = z.object({
  taken: z.boolean(),
  /** Why it is not taken, a sentence each. */
  reasons: z.array(z.string()),
});
export type Handed = z.infer<typeof handedSchema>;

/** Small moving pictures within a limit of bytes. */
export const searchRoutes = {
  startSearch: route({
    method: 'post',
    path: '/searches',
    problems: ['source-not-found'],
    summary: 'Search for the animation of a spec within its limit of bytes: at most 8 whole encodes, all kept',
    body: wantedSchema,
    response: searchViewSchema,
  }),
  getSearch: route({
    method: 'get',
    path: '/searches/:search',
    summary: 'The progress of a search and its tries; a search that nobody follows is stopped',
    response: searchViewSchema,
  }),
  stopSearch: route({
    method: 'post',
    path: '/searches/:search/stop',
    summary: 'Stop a search; its tries stay, and it can go on',
    response: searchViewSchema,
  }),
  continueSearch: route({
    method: 'post',
    path: '/searches/:search/continue',
    summary: 'Let a search go on where it was stopped or failed',
    response: searchViewSchema,
  }),
  tryOne: route({
    method: 'post',
    path: '/searches/:search/tries',
    problems: ['search-at-work'],
    summary: 'Make one more try with the stated share given up: 0 nothing, 1 everything allowed',
    body: z.object({ given: z.number().min(0).max(1) }).strict(),
    response: searchViewSchema,
  }),
  handTry: route({
    method: 'post',
    path: '/searches/:search/tries/:try/hand',
    problems: ['search-not-found', 'desk-away'],
    summary: 'Send the file of a try to a counter of the upload desk, and return its answer',
    body: z.object({ counter: id }).strict(),
    response: handedSchema,
  }),
  tryFile: route({
    method: 'get',
    path: '/searches/:search/tries/:try/file',
    problems: ['search-not-found'],
    summary: 'The file of a try, by its place among them, from 0; or what a browser shows of it',
    query: z.object({ shown: z.literal('yes').optional() }),
    produces: 'image/gif',
  }),
} as const;
