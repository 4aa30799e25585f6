import { join } from 'node:path';
import {
  allFindings,
  damageCodes,
  declare,
  gapsIn,
  plural,
  printCoverage,
  rateFraction,
  frameCount,
  withOlderVersions,
  type Source,
} from '@shale/core';
import {
  checkSource,
  scanFolder,
  scanFolders,
  type Checked,
  type ScannedFolder,
  type ScanOptions,
} from '@shale/engine';
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
  ...(source.checked ? { decoded: source.checked } : {}),
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
        missing: printCoverage(gapsIn(source.coverage)),
        padding: source.pattern!.padding,
        bytes: source.bytes,
        ...(source.checked ? { decoded: source.checked } : {}),
        ...told(source),
        findings: findings(source),
      })),
    clips: sources.filter(({ kind }) => kind === 'clip').map(named),
    stills: sources.filter(({ kind }) => kind === 'still').map(named),
    sounds: sources.filter(({ kind }) => kind === 'sound').map(named),
    other,
  };
}

/** A folder's sources again, every picture of them decoded. */
async function decoded(
  root: string,
  { folder, sources }: ScannedFolder,
  session: Session,
  options: ScanOptions,
): Promise<Source[]> {
  const { pool, err, watched } = session;
  const checked: Checked = new Map();
  for (const source of sources.filter(({ kind }) => kind !== 'sound')) {
    const shown = folder ? `${folder}/${source.name}` : source.name;
    const onProgress = ({ done, total }: { done: number; total: number }) =>
      err(`\r${shown}: ${done}/${total} decoded`);
    await checkSource(join(root, folder), source, pool, checked, watched ? { onProgress } : {});
    if (watched) err('\n');
  }
  const again: Source[] = [];
  for await (const scanned of scanFolder(root, folder, pool, { ...options, checkedIn: () => checked }))
    again.push(...scanned.sources.filter(({ kind }) => !scanned.unfinished || kind === 'still'));
  return again;
}

/**
 * Scans a folder and prints what it holds.
 * @returns 0; with `decode` 1 where a picture does not decode
 */
export async function scanCommand(
  root: string,
  options: { json?: boolean; decode?: boolean; frameNumber?: number; shown: string },
  session: Session,
): Promise<number> {
  const { pool, out, err } = session;
  const sources: Source[] = [];
  const other: { folder: string; name: string }[] = [];
  let stills: Source[] = [];
  const numbered = { frameNumberIn: () => options.frameNumber };
  for await (const scanned of scanFolders(root, pool, numbered)) {
    // What comes early comes again, but for stills that are told of in parts.
    stills.push(...scanned.sources.filter(({ kind }) => !scanned.unfinished || kind === 'still'));
    if (scanned.unfinished) continue;
    const here = stills;
    stills = [];
    sources.push(...(options.decode ? await decoded(root, { ...scanned, sources: here }, session, numbered) : here));
    for (const { fact } of scanned.notes) err(`shale: ${fact}\n`);
    other.push(...scanned.other.map((name) => ({ folder: scanned.folder, name })));
  }
  const all = withOlderVersions(sources);
  if (all.length === 0)
    err(
      `shale: Nothing in ${root} can be read as a picture, a clip or a sound${other.length > 0 ? `: ${plural(other.length, 'other file')}` : ''}.\n`,
    );
  const damaged =
    options.decode === true &&
    all.some(({ findings }) => findings.some(({ code }) => damageCodes.has(code) || code === 'cut-short'));
  if (options.json) {
    out(`${JSON.stringify(scanJson(options.shown, all, other), null, 2)}\n`);
    return damaged ? 1 : 0;
  }
  for (const source of all) {
    const where = source.folder ? `${source.folder}/` : '';
    const frames = source.kind === 'sequence' ? `  ${printCoverage(source.coverage)}` : `  ${source.kind}`;
    const doubts = allFindings(source, declare(source))
      .map(({ short }) => short)
      .join(', ');
    out(`${where}${source.name}${frames}${doubts ? `  [${doubts}]` : ''}\n`);
  }
  return damaged ? 1 : 0;
}
