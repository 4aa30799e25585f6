import { z } from 'zod';
import {
  declarationSchema,
  factsSchema,
  faultCodes,
  lossSchema,
  namingSpecSchema,
  pixelCountsSchema,
  planRunSchema,
  planSchema,
  problemSchema,
  receiptSchema,
  receiverRuleNames,
  receiverSchema,
  relationKinds,
  ruleWordSchema,
  sourceSchema,
  specSchema,
  frameRangeSchema,
  writtenSchema,
} from '@shale/core';

const count = z.int().min(0);

/** A folder of the machine that Shale may read, or may write. */
export const rootSchema = z.object({
  id: z.string(),
  name: z.string(),
  path: z.string(),
  writable: z.boolean(),
  /** Whether it was added from the page, and can be taken off the list there. */
  added: z.boolean().default(false),
  /** Sources found at the last scan. */
  sources: z.int(),
  files: z.int(),
  bytes: z.int(),
  /** ISO 8601; null before the first scan. */
  scanned: z.string().nullable(),
  scanning: z.boolean(),
  /** How a scan stands: files found so far, the folder in work, and how many of its headers are read. */
  progress: z.object({ folder: z.string(), files: z.int(), done: z.int(), total: z.int() }).nullable(),
  /** What the last scan could not read, and why: folders, names that are no UTF-8, links. */
  notes: z.array(problemSchema),
  /** Why it could not be scanned. */
  problem: problemSchema.nullable(),
});
export type Root = z.infer<typeof rootSchema>;

/** A folder that is to become a root. */
export const newRootSchema = z
  .object({
    /** Absolute. */
    path: z.string().min(1).max(4000),
    name: z.string().max(80).optional(),
    /** Whether results may be written into it too. */
    writable: z.boolean().default(false),
  })
  .strict();
export type NewRoot = z.infer<typeof newRootSchema>;

/** Folders below a folder of the machine, to choose from. */
export const browsedSchema = z.object({
  /** Absolute; empty for the places that may be looked through. */
  path: z.string(),
  /** The folder above it; empty for the places, null where there is none. */
  above: z.string().nullable(),
  folders: z.array(z.object({ name: z.string(), path: z.string() })),
  /** How many more there are than are listed. */
  more: z.int(),
  mayWrite: z.boolean(),
});
export type Browsed = z.infer<typeof browsedSchema>;

/** A source with its place and what it is taken to be. */
export const listedSourceSchema = sourceSchema.extend({
  id: z.string(),
  root: z.string(),
  declaration: declarationSchema,
});
export type ListedSource = z.infer<typeof listedSourceSchema>;

/** What a list of sources can be narrowed to. Every field that is given must hold. */
export const sourceFilterSchema = z.object({
  root: z.string().optional(),
  /** This folder and those below it. */
  folder: z.string().optional(),
  kind: z.enum(['sequence', 'clip', 'still', 'sound']).optional(),
  /** Code of a finding. */
  code: z
    .string()
    .regex(/^[a-z0-9-]{1,40}$/)
    .optional(),
  /** A rate as a fraction, or `none` where a source that has time has none declared. */
  rate: z
    .string()
    .regex(/^(none|\d{1,8}(\/\d{1,8})?)$/)
    .optional(),
  /** Only those that ask for a look: a doubt or a fault that nobody set aside. */
  look: z.stringbool().optional(),
  /** Only sounds, and clips that have sound. */
  sounds: z.stringbool().optional(),
  /** Changed within so many hours. */
  hours: z.coerce.number().int().min(1).max(1_000_000).optional(),
  /** Part of the name or the folder, in either case. */
  text: z.string().max(200).optional(),
});
export type SourceFilter = z.infer<typeof sourceFilterSchema>;

export const sourceSortSchema = z.enum(['folder', 'name', 'frames', 'bytes', 'modified', 'findings']);
export type SourceSort = z.infer<typeof sourceSortSchema>;

/** What a filter leaves, told in numbers: how many, in which folders, and what could narrow it further. */
export const overviewSchema = z.object({
  total: count,
  bytes: count,
  /** Sources of this root and folder by what else they could be narrowed to, whatever else the filter says. */
  facets: z.object({
    all: count,
    look: count,
    undeclared: count,
    kinds: z.record(z.string(), count),
    codes: z.record(z.string(), count),
    rates: z.record(z.string(), count),
  }),
  /** In the list's order where it is sorted by folder: each folder and how many of its sources the filter leaves. */
  groups: z.array(z.object({ folder: z.string(), count })),
});
export type Overview = z.infer<typeof overviewSchema>;

/** A folder of a root with how many sources lie in and below it. */
export const folderCountSchema = z.object({ root: z.string(), folder: z.string(), count });
export type FolderCount = z.infer<typeof folderCountSchema>;

/** A rule kept for a folder of a root and what lies below. */
export const ruleSchema = z.object({ folder: z.string().max(400), word: ruleWordSchema });

/** A file that is to be brought in, as the browser names it. */
export const offeredFileSchema = z.object({
  /** Below the dropped folder, with `/`. */
  path: z.string().min(1).max(4000),
  size: z.int().min(0),
  /** Milliseconds since 1970. */
  modified: z.number().min(0).max(1e14),
});
export type OfferedFile = z.infer<typeof offeredFileSchema>;

/** Files that come in together, into a folder of their own. */
export const arrivalSchema = z.object({
  id: z.string(),
  /** Below the root `intake`. */
  folder: z.string(),
  files: count,
  bytes: count,
  /** Positions of the files that are there already, whole. */
  have: z.array(count),
});
export type Arrival = z.infer<typeof arrivalSchema>;

/** `incomplete`: it came to its end, and some results failed; `cancelled`: a person ended it, and what it wrote stays. */
export const jobStateSchema = z.enum(['queued', 'running', 'stopped', 'incomplete', 'done', 'cancelled']);
export type JobState = z.infer<typeof jobStateSchema>;

/** Which jobs begin and get the processes first. */
export const jobPrioritySchema = z.enum(['first', 'normal', 'last']);
export type JobPriority = z.infer<typeof jobPrioritySchema>;

/** Something that happened to a job. */
export const jobLogLineSchema = z.object({ at: z.iso.datetime(), level: z.enum(['info', 'error']), text: z.string() });
export type JobLogLine = z.infer<typeof jobLogLineSchema>;

export const jobSchema = z.object({
  id: z.string(),
  source: z.string(),
  state: jobStateSchema,
  priority: jobPrioritySchema,
  /** Those that wait begin in the order of this, within their priority. */
  place: z.number(),
  /** The plan read aloud. */
  sentence: z.string(),
  sourceName: z.string(),
  into: z.object({ root: z.string(), folder: z.string(), pattern: z.string() }),
  total: z.int(),
  written: z.int(),
  failed: z.int(),
  bytes: z.int(),
  /** Of a video: pictures that went into it, over all passes; its one file counts as written when it is whole. */
  video: z.object({ done: z.int(), of: z.int() }).nullable().default(null),
  /** Numbers of the results so far, and of those that failed. */
  coverage: z.array(frameRangeSchema),
  failedFrames: z.array(frameRangeSchema),
  /** Numbers that will not exist, since their source frames are missing. */
  leftOut: z.array(frameRangeSchema),
  /** First and last number that the plan gives. */
  span: z.object({ first: z.int(), last: z.int() }).nullable(),
  workSeconds: z.number(),
  /** Files, of a video pictures, a second since it last began; null until there are enough to say. */
  rate: z.number().nullable(),
  secondsLeft: z.number().nullable(),
  created: z.string(),
  finished: z.string().nullable(),
  /** Why it stopped by itself. */
  problem: problemSchema.nullable(),
  /** Whether it stopped or failed because source files are not those that were planned: it may go on and take them. */
  sourceChanged: z.boolean(),
  /** The batch that it belongs to, and which of its outputs it makes. */
  batch: z.string().nullable().default(null),
  output: count.default(0),
});
export type Job = z.infer<typeof jobSchema>;

export const measuredSchema = z.object({
  /** Source frames that were really converted. */
  frames: z.array(z.int()),
  counts: pixelCountsSchema,
  losses: z.array(lossSchema),
  /** Estimates for the whole plan. */
  bytes: z.int(),
  seconds: z.number(),
  problems: z.array(problemSchema),
});
export type Measured = z.infer<typeof measuredSchema>;

/** Some results of a plan, really made. */
export const proofSchema = z.object({
  id: z.string(),
  /** They as a source for the stage; null where none could be made. */
  source: listedSourceSchema.nullable(),
  /** Which result goes with which source frame. */
  runs: z.array(planRunSchema),
  frames: z.array(writtenSchema),
  problems: z.array(problemSchema.extend({ sourceFrame: z.int() })),
});
export type Proof = z.infer<typeof proofSchema>;

/** What the file of one frame is. */
export const frameFactsSchema = z.object({
  name: z.string(),
  bytes: count,
  /** Milliseconds since 1970. */
  modified: z.number(),
  /** Null where its header cannot be read; the problem says why. */
  facts: factsSchema.nullable(),
  problem: problemSchema.nullable(),
});
export type FrameFacts = z.infer<typeof frameFactsSchema>;

/** How far a check of every frame is, in pictures. */
export const frameCheckSchema = z.object({
  source: z.string(),
  /** The source's. */
  name: z.string(),
  done: count,
  total: count,
  /** Pictures that do not decode. */
  damaged: count,
  running: z.boolean(),
  /** Why it ended before all was decoded. */
  problem: problemSchema.nullable(),
});
export type FrameCheck = z.infer<typeof frameCheckSchema>;

/** What a job made, as a source for the stage, and what it was made of. */
export const madeBySchema = z.object({
  made: listedSourceSchema,
  /** Null where the source is no longer there. */
  source: listedSourceSchema.nullable(),
  runs: z.array(planRunSchema),
});
export type MadeBy = z.infer<typeof madeBySchema>;

export const savedSpecSchema = z.object({
  id: z.int(),
  name: z.string(),
  version: z.int(),
  spec: specSchema,
  saved: z.string(),
});
export type SavedSpec = z.infer<typeof savedSpecSchema>;

/** How a new name stands to the others, and what is wrong with it. */
export const renameRowSchema = z.object({
  /** Its place among all rows, from 0, and that of its source among the sources. */
  row: count,
  group: count,
  from: z.string(),
  to: z.string(),
  relation: z.enum(relationKinds),
  fault: z.enum(faultCodes),
});
export type RenameRow = z.infer<typeof renameRowSchema>;

export const nameGroupSchema = z.object({
  id: z.string(),
  name: z.string(),
  /** Folders below their roots. */
  from: z.string(),
  into: z.string(),
  start: count,
  count,
  changed: count,
  /** How the new names read together. */
  reads: z.string(),
});

/** A rule of a receiver that is not kept, and what mends it by one press; no mend where names cannot. */
export const breachSchema = z.object({
  rule: z.enum(receiverRuleNames),
  name: z.string(),
  sentence: z.string(),
  mend: z.string().optional(),
  unknown: z.boolean().optional(),
  over: z.int().optional(),
  hasTail: z.boolean().optional(),
  widest: z.int().optional(),
});

/** Folders below a root of which a receiver would load alike, and how that is said. */
const loadsSchema = z.object({ sentence: z.string(), folders: z.array(z.string()) });

/** Every new name worked out, nothing touched: rows are asked for by its digest. */
export const renamePlanSchema = z.object({
  digest: z.string(),
  spec: namingSpecSchema,
  sentence: z.string(),
  counts: z.object({
    files: count,
    changed: count,
    overlaps: count,
    swaps: count,
    caseOnly: count,
    faults: count,
  }),
  /** The first two thousand and one of them. */
  groups: z.array(nameGroupSchema),
  problems: z.array(problemSchema),
  doubts: z.array(problemSchema),
  /** Positions of rules that find nothing. */
  idle: z.array(count),
  /** Against a receiver, where one was named: what it trips over, and what it would load of which folders by names alone. */
  held: z.object({ breaches: z.array(breachSchema), loads: z.array(loadsSchema) }).nullable(),
});
export type RenameView = z.infer<typeof renamePlanSchema>;

/** A rename in the history. `back`: it failed or was stopped, and everything is as it was. */
export const renameSchema = z.object({
  id: z.string(),
  state: z.enum(['running', 'done', 'back', 'undone', 'stuck']),
  mode: z.enum(['rename', 'copy', 'link', 'move', 'remove']),
  sentence: z.string(),
  files: count,
  /** Files that are settled while it runs. */
  settled: count,
  root: z.string(),
  into: z.string(),
  /** The first of its names, old and new, below their roots. */
  example: z.tuple([z.string(), z.string()]).nullable(),
  /** The rename that it undoes. */
  undoes: z.string().nullable(),
  /** Ids of its sources under their new names; the first thousand. */
  sources: z.array(z.string()),
  created: z.string(),
  finished: z.string().nullable(),
  problem: problemSchema.nullable(),
});
export type Rename = z.infer<typeof renameSchema>;

/** A receiver in the list: shipped ones can be changed, and brought back. */
export const listedReceiverSchema = z.object({
  id: z.string(),
  shipped: z.boolean(),
  /** Whether a shipped one was changed here. */
  changed: z.boolean(),
  receiver: receiverSchema,
});
export type ListedReceiver = z.infer<typeof listedReceiverSchema>;

/** What a strict reader with a receiver's rules loads of a folder. */
export const loadedSchema = z.object({
  plays: z.array(z.string()),
  leftOut: z.array(z.object({ name: z.string(), why: z.string() })),
  sentence: z.string(),
});
export type LoadedView = z.infer<typeof loadedSchema>;

/** A stack of naming rules kept under a name. */
export const savedStackSchema = z.object({
  id: z.int(),
  name: z.string(),
  version: z.int(),
  spec: namingSpecSchema,
  saved: z.string(),
});
export type SavedStack = z.infer<typeof savedStackSchema>;

export const receiptEntrySchema = receiptSchema.extend({ job: z.string() });
export type ReceiptEntry = z.infer<typeof receiptEntrySchema>;

/** An error as RFC 9457 writes it, with the code, the fact and the way out. */
export const problemDetailsSchema = z.object({
  type: z.string(),
  title: z.string(),
  status: z.int(),
  detail: z.string(),
  code: z.string(),
  fact: z.string(),
  wayOut: z.string(),
  subject: z.string().optional(),
});
export type ProblemDetails = z.infer<typeof problemDetailsSchema>;

export { planSchema };
