import {
  allFindings,
  declare,
  missingFrom,
  printCoverage,
  frameCount,
  withOlderVersions,
  type Source,
} from '@shale/core';
import { scanFolders } from '@shale/engine';
import type { Session } from './session.ts';

/** Codes of all findings, those of what can be declared included. */
const codes = (source: Source) => allFindings(source, declare(source)).map(({ code }) => code);
const named = (source: Source) => ({ folder: source.folder, name: source.name, findings: codes(source) });

/** What `scan --json` prints. */
export function scanJson(root: string, sources: Source[], other: { folder: string; name: string }[]) {
  return {
    root,
    sequences: sources
      .filter(({ kind }) => kind === 'sequence')
      .map((source) => ({
        folder: source.folder,
        pattern: source.name,
        frames: printCoverage(source.coverage),
        count: frameCount(source),
        missing: printCoverage(missingFrom(source.coverage)),
        padding: source.pattern!.padding,
        findings: codes(source),
      })),
    clips: sources.filter(({ kind }) => kind === 'clip').map(named),
    stills: sources.filter(({ kind }) => kind === 'still').map(named),
    sounds: sources.filter(({ kind }) => kind === 'sound').map(named),
    other,
  };
}

/** Scans a folder and prints what it holds. */
export async function scanCommand(
  root: string,
  options: { json?: boolean; shown: string },
  { pool, out, err }: Session,
): Promise<number> {
  const sources: Source[] = [];
  const other: { folder: string; name: string }[] = [];
  for await (const scanned of scanFolders(root, pool)) {
    // What comes early comes again, but for stills that are told of in parts.
    sources.push(...scanned.sources.filter(({ kind }) => !scanned.unfinished || kind === 'still'));
    if (scanned.unfinished) continue;
    for (const { fact } of scanned.notes) err(`shale: ${fact}\n`);
    other.push(...scanned.other.map((name) => ({ folder: scanned.folder, name })));
  }
  const all = withOlderVersions(sources);
  if (options.json) {
    out(`${JSON.stringify(scanJson(options.shown, all, other), null, 2)}\n`);
    return 0;
  }
  for (const source of all) {
    const where = source.folder ? `${source.folder}/` : '';
    const frames = source.kind === 'sequence' ? `  ${printCoverage(source.coverage)}` : `  ${source.kind}`;
    const doubts = allFindings(source, declare(source))
      .map(({ short }) => short)
      .join(', ');
    out(`${where}${source.name}${frames}${doubts ? `  [${doubts}]` : ''}\n`);
  }
  return 0;
}
