import { z } from 'zod';
import { standingOrderSchema } from '@shale/core';
import { id, route } from './route.ts';
import { decisionSchema, standingTrialSchema, standingViewSchema } from './standingSchemas.ts';

const refusals = ['root-not-found', 'root-read-only', 'feeds-itself', 'outside-root', 'taken'] as const;

/** Batches that begin by themselves. */
export const standingRoutes = {
  listStanding: route({
    method: 'get',
    about: ['Standing'],
    path: '/standing-orders',
    summary: 'Standing orders, the newest first',
    response: z.array(standingViewSchema),
  }),
  tryStanding: route({
    method: 'post',
    path: '/standing-orders/try',
    problems: refusals,
    summary: 'What a standing order would decide now about every source; nothing starts and nothing is kept',
    body: z
      .object({
        order: standingOrderSchema,
        /** Id of the order that this is a change of. */
        changes: id.optional(),
      })
      .strict(),
    response: standingTrialSchema,
  }),
  setStanding: route({
    method: 'post',
    changes: ['Standing'],
    path: '/standing-orders',
    problems: refusals,
    summary: 'Set a standing order; existing sources are converted too, or left until they change',
    body: z.object({ order: standingOrderSchema, earlier: z.enum(['make', 'leave']).default('make') }).strict(),
    response: standingViewSchema,
    status: 201,
  }),
  changeStanding: route({
    method: 'put',
    changes: ['Standing'],
    path: '/standing-orders/:standing',
    problems: [...refusals, 'standing-changed'],
    summary: 'Change a standing order; every source is checked again',
    body: z.object({ order: standingOrderSchema, edition: z.int().min(0) }).strict(),
    response: standingViewSchema,
  }),
  pauseStanding: route({
    method: 'put',
    changes: ['Standing'],
    path: '/standing-orders/:standing/paused',
    summary: 'Pause a standing order, or let it go on; what it started continues',
    body: z.object({ paused: z.boolean() }).strict(),
    response: standingViewSchema,
  }),
  removeStanding: route({
    method: 'delete',
    changes: ['Standing'],
    path: '/standing-orders/:standing',
    summary: 'End a standing order; its batches, receipts and results stay',
    response: z.object({ removed: z.boolean() }),
  }),
  standingLog: route({
    method: 'get',
    about: ['Standing'],
    path: '/standing-orders/:standing/log',
    summary: 'Decisions of a standing order, newest first',
    query: z.object({
      limit: z.coerce.number().int().min(1).max(500).default(100),
      before: z.coerce.number().int().min(0).optional(),
    }),
    response: z.array(decisionSchema),
  }),
} as const;
