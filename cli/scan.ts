import { missingFrom, printCoverage, frameCount, type Source } from '@shale/core';
import { scanFolders, withFacts, type WorkerPool } from '@shale/engine';

const codes = (source: Source) => source.findings.map(({ code }) => code);
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
  pool: WorkerPool,
): Promise<number> {
  const sources: Source[] = [];
  const other: { folder: string; name: string }[] = [];
  for await (const scanned of scanFolders(root)) {
    if (scanned.problem) process.stderr.write(`shale: the folder ${scanned.folder} ${scanned.problem}\n`);
    sources.push(...(scanned.sources.length > 0 ? await withFacts(root, scanned.sources, pool) : []));
    other.push(...scanned.other.map((name) => ({ folder: scanned.folder, name })));
  }
  if (options.json) {
    process.stdout.write(`${JSON.stringify(scanJson(options.shown, sources, other), null, 2)}\n`);
    return 0;
  }
  for (const source of sources) {
    const where = source.folder ? `${source.folder}/` : '';
    const frames = source.kind === 'sequence' ? `  ${printCoverage(source.coverage)}` : `  ${source.kind}`;
    const doubts = source.findings.map(({ short }) => short).join(', ');
    process.stdout.write(`${where}${source.name}${frames}${doubts ? `  [${doubts}]` : ''}\n`);
  }
  return 0;
}
