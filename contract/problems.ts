import { parameterNames, type ParameterName, type Route } from './route.ts';

/** HTTP status by problem code; what is not listed is the caller's mistake (400), `internal` is ours (500). */
export const problemStatuses = {
  'bad-request': 400,
  'foreign-origin': 403,
  'not-allowed': 403,
  'not-writable': 403,
  'outside-root': 403,
  'root-read-only': 403,
  'batch-not-found': 404,
  'finding-not-found': 404,
  'frame-missing': 404,
  'job-not-found': 404,
  'no-such-route': 404,
  'proof-gone': 404,
  'receipt-not-found': 404,
  'receiver-not-found': 404,
  'rename-not-found': 404,
  'root-not-found': 404,
  'source-not-found': 404,
  'spec-not-found': 404,
  'folder-gone': 409,
  'folder-in-use': 409,
  'markers-changed': 409,
  'not-stopped': 409,
  'not-undoable': 409,
  'output-claimed': 409,
  'output-exists': 409,
  'plan-changed': 409,
  'plan-forgotten': 409,
  'rename-stuck': 409,
  'source-changed': 409,
  taken: 409,
  'touched-since': 409,
  'file-gone': 410,
  'damaged-file': 422,
  'empty-file': 422,
  'format-not-read': 422,
  'no-alpha': 422,
  'truncated-file': 422,
  'unknown-format': 422,
  'worker-crashed': 422,
  'database-failed': 500,
  internal: 500,
  'row-unreadable': 500,
  'database-away': 503,
  'disk-full': 507,
} as const;
export type ProblemCode = keyof typeof problemStatuses;

/** The HTTP status of a problem. */
export const statusOf = (code: string): number =>
  Object.hasOwn(problemStatuses, code) ? problemStatuses[code as ProblemCode] : 400;

/** Files that cannot be read as pictures. */
const unread = [
  'damaged-file',
  'empty-file',
  'format-not-read',
  'truncated-file',
  'unknown-format',
  'worker-crashed',
] as const;

/** What a parameter of a path may be refused with. */
const byParameter: Record<ParameterName, readonly ProblemCode[]> = {
  code: ['finding-not-found'],
  frame: ['frame-missing', 'file-gone', 'outside-root', ...unread],
  job: ['job-not-found'],
  proof: ['proof-gone'],
  receiver: ['receiver-not-found'],
  rename: ['rename-not-found'],
  root: ['root-not-found'],
  source: ['source-not-found'],
  spec: ['spec-not-found'],
  stack: ['spec-not-found'],
};

/** With which problems an operation may refuse: those that any may, those of its parameters and its body, and its own. */
export function problemsOf({ path, body, query, problems = [] }: Route): ProblemCode[] {
  const names = parameterNames(path);
  const isAsked = names.length > 0 || body !== undefined || query !== undefined;
  return [
    ...new Set<ProblemCode>([
      ...(isAsked ? (['bad-request'] as const) : []),
      ...names.flatMap((name) => byParameter[name]),
      ...problems,
      'foreign-origin',
      'database-away',
      'database-failed',
      'row-unreadable',
      'internal',
    ]),
  ];
}
