import { z } from 'zod';
import { problemSchema } from '@shale/core';

const count = z.int().min(0);

/** One thing that the server stands on, and how it is. */
export const healthPartSchema = z.object({ name: z.string(), ok: z.boolean(), says: z.string() });
export type HealthPart = z.infer<typeof healthPartSchema>;

/** How the server was at a moment. */
export const serverSampleSchema = z.object({
  /** Milliseconds since 1970. */
  at: z.number(),
  /** Results written a second since the sample before. */
  rate: z.number(),
  /** Bytes of all worker processes. */
  memory: z.number(),
  /** Tasks that wait. */
  waiting: count,
});
export type ServerSample = z.infer<typeof serverSampleSchema>;

/** What an operator watches. */
export const serverStateSchema = z.object({
  version: z.string(),
  /** When it was started. */
  since: z.iso.datetime(),
  parts: z.array(healthPartSchema),
  pools: z.array(
    z.object({
      name: z.string(),
      waiting: count,
      processes: z.array(z.object({ pid: z.int(), tasks: z.array(z.string()), memory: z.number() })),
    }),
  ),
  jobs: z.object({ waiting: count, running: count, written: count, failed: count }),
  /** One every two seconds, of the last ten minutes. */
  samples: z.array(serverSampleSchema),
  /** Errors and warnings of late, the newest first. */
  log: z.array(z.object({ at: z.string(), level: z.string(), text: z.string() })),
});
export type ServerState = z.infer<typeof serverStateSchema>;

/** How the server is. */
export const healthSchema = z.object({
  version: z.string(),
  /** Whether all of it works. */
  ready: z.boolean(),
  /** The database, the worker processes, each disk of its own data. */
  parts: z.array(healthPartSchema),
  /** What is wrong: the database away, a disk full. */
  problems: z.array(problemSchema),
});
export type Health = z.infer<typeof healthSchema>;
