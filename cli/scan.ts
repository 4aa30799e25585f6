import {
  allFindings,
  declare,
  missingFrom,
  printCoverage,
  rateFraction,
  frameCount,
  withOlderVersions,
  type Source,
} from '@shale/core';
import { scanFolders } from '@shale/engine';
import type { Session } from './session.ts';

/** All findings, those of what can be declared included, as the page words them. */
const findings = (source: Source) =>
  allFindings(source, declare(source)).map(({ code, severity, sentence, mend }) => ({
    ...{ code, severity, sentence },
    ...(mend === undefined ? {} : { wayOut: mend }),
  }));

/** What headers say; absent where none could be read. Lengths are seconds, rates and shapes of pixels exact fractions. */
function told({ facts, sound, coverage, kind }: Source) {
  if (!facts) return sound?.seconds ? { seconds: sound.seconds.num / sound.seconds.den } : {};
  const { width, height, sample, channels, hasAlpha, format, compression, transfer, primaries, timecode, clip } = facts;
  const present = (value: object) => Object.fromEntries(Object.entries(value).filter(([, one]) => one !== undefined));
  return {
    ...(kind === 'clip' ? { count: frameCount({ kind, coverage }) } : {}),
    ...present({
      ...{ width, height, format, compression, sample, channels, alpha: hasAlpha, transfer, primaries, timecode },
      rate: facts.rate && rateFraction(facts.rate),
      seconds: facts.seconds && facts.seconds.num / facts.seconds.den,
      pixelAspect: facts.pixelAspect && rateFraction(facts.pixelAspect),
      layers: facts.layers,
    }),
    ...(clip
      ? {
          ...{ codec: clip.codec, container: clip.container, pixels: clip.pixels },
          ...{ matrix: clip.matrix, range: clip.range, fields: clip.fields, evenRate: !clip.variable },
          sound: clip.sound ?? null,
        }
      : {}),
  };
}

const named = (source: Source) => ({
  ...{ folder: source.folder, name: source.name, bytes: source.bytes },
  ...told(source),
  findings: findings(source),
});

/** What `scan --json` prints: of each source what the page tells. */
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
        bytes: source.bytes,
        ...told(source),
        findings: findings(source),
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
