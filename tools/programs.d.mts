/** Bundles server, worker and command line where a source is newer. @returns whether anything was bundled */
export function buildPrograms(): Promise<boolean>;
/** Absolute paths of the bundled programs, built anew where that is needed. */
export function programs(): Promise<Record<'server' | 'worker' | 'cli', string>>;
