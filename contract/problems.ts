import type { ProblemCode } from './problemStatuses.ts';
import { parameterNames, type ParameterName, type Route } from './route.ts';

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
  batch: ['batch-not-found'],
  code: ['finding-not-found'],
  frame: ['frame-missing', 'file-gone', 'outside-root', ...unread],
  job: ['job-not-found'],
  proof: ['proof-gone'],
  receiver: ['receiver-not-found'],
  rename: ['rename-not-found'],
  root: ['root-not-found'],
  search: ['search-not-found'],
  selection: ['selection-not-found'],
  source: ['source-not-found'],
  spec: ['spec-not-found'],
  stack: ['spec-not-found'],
  standing: ['standing-not-found'],
  try: [],
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
