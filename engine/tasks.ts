import { mkdtemp, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { tmpdir } from 'node:os';
import {
  lookView,
  makePreview,
  probeClip,
  probeSound,
  probeStill,
  readStill,
  scenesOf,
  writeStill,
  type PreviewFormat,
  type SoundIndex,
} from '@shale/media';
import {
  addCounts,
  alphaEvidence,
  comparePictures,
  cutOff,
  hasAlphaChannel,
  noCounts,
  packPiece,
  packView,
  pieceOf,
  problemOf,
  resultsOf,
  scopesOf,
  ShaleError,
  takenAs,
  type Alike,
  type Box,
  type CleanLoop,
  type LookView,
  type Picture,
  type AlphaEvidence,
  type Comparison,
  type Declaration,
  type Difference3,
  type FrameNumber,
  type Moment,
  type Plan,
  type PlannedSource,
  type PlanRow,
  type Precision,
  type ReadFile,
  type RenamePlan,
  type Scopes,
  type ShownTry,
  type SoundReceipt,
  type SwapReceipt,
  type Source,
  type Weighed,
  type Written,
} from '@shale/core';
import { FrameMaker, type Places } from './frame.ts';
import { readShown, type ShownFile } from './shown.ts';
import { compareWithExact, makeProof } from './proof.ts';
import { listFolder, rootError, type Listed } from './list.ts';
import { decodeFiles, type DecodedFile, type ToDecode } from './decode.ts';
import { contentOf, pictureOf } from './picture.ts';
import { judge, lookAtFiles, type Looked, type ToJudge } from './look.ts';
import type { VideoProgress } from './encodeOnce.ts';
import { makeVideo, type VideoWork } from './video.ts';
import { makeTry, type TryWork } from './limitTry.ts';
import { measureVideo } from './videoTrial.ts';
import type { Measured } from './measured.ts';
import type { Probed } from './probed.ts';
import { makeWave, type WrittenSound } from './sound.ts';
import { measureSound, soundSamples, type SoundFile } from './soundScan.ts';
import { convertSound, swapClipSound, type SoundWork, type SwapWork } from './soundWrite.ts';
import { hashFiles } from './verify.ts';
import { weigh, type ToWeigh } from './weigh.ts';
import { loopsOf } from './loops.ts';
import { differencesOf, type Stretch } from './differences.ts';
import { makeSheet, type ToSheet } from './sheet.ts';
import { shotRoot } from './places.ts';
import { planDigest, planOnDisk, type ToBeNamed } from './rename/plan.ts';
import { digestMedia, lookAtResults, type Kept, type Lost } from './ending.ts';
import { lookWhatStands, type Earlier, type Standing } from './standing.ts';
import { runSpan, type FrameEvent, type Span } from './span.ts';
import { takeStamps, type Expected, type Stamps, type StampsWanted } from './stamps.ts';

/** A picture and what it is taken to be. */
export interface ShownTaken {
  file: ShownFile;
  declaration: Declaration;
}

/** Everything that a worker process can be asked for. */
export interface Tasks {
  span: { in: Span; out: void; event: FrameEvent };
  /** Makes the video of a plan; undefined where it was stopped. */
  video: { in: VideoWork; out: Written | undefined; event: VideoProgress };
  /** Makes a try of a search within a limit, to be looked at; undefined where it was stopped. Tells how many pictures are done. */
  limitTry: { in: TryWork; out: ShownTry | undefined; event: number };
  /** Writes the sound that goes with stills beside them. */
  wave: {
    in: { plan: Plan; places: Places; job: string; expected?: Expected; before?: string };
    out: WrittenSound;
    event: never;
  };
  /** Looks at every file of a plan's sources, and at whether they are what it was made of. */
  stamps: { in: StampsWanted; out: Stamps; event: never };
  /** Checksums of the clips and the sound of a plan. */
  media: { in: { plan: Plan; places: Places; expected: Expected }; out: ReadFile[]; event: never };
  /** What a hash list needs of written files. */
  hashes: {
    in: { folder: string; files: { name: string; sha256: string }[] };
    out: Awaited<ReturnType<typeof hashFiles>>;
    event: never;
  };
  /** Which results of a plan earlier jobs have made. */
  standing: { in: { plan: Plan; places: Places; earlier: Earlier[] }; out: Standing; event: never };
  /** Which results are gone or changed since they were written. */
  results: { in: { plan: Plan; places: Places; written: Kept[] }; out: Lost[]; event: never };
  /** Converts some results without keeping them. */
  measure: { in: { plan: Plan; places: Places; results: number[] }; out: Measured; event: never };
  /** Makes a picture for looking at and writes it to a file: coded as 8-bit sRGB, or as a view of that precision. */
  preview: {
    in: { file: ShownFile; declaration: Declaration; width: number; format: PreviewFormat | Precision; to: string };
    out: void;
    event: never;
  };
  /** A piece of a picture in its own samples, packed. */
  piece: { in: { file: ShownFile; box: Box }; out: Uint8Array; event: never };
  /** What a picture, or a box of it, holds. */
  scopes: { in: { file: ShownFile; box?: Box }; out: Scopes; event: never };
  /** How two pictures differ; null where their sizes do. */
  comparison: { in: { a: ShownTaken; b: ShownTaken }; out: Comparison | null; event: never };
  /** Makes one result of a plan for real. */
  proof: { in: { plan: Plan; places: Places; sourceFrame: number }; out: Written; event: never };
  /** How a proof differs from what it would be if nothing were rounded or compressed. */
  exactness: {
    in: { plan: Plan; places: Places; sourceFrame: number; made: string };
    out: Comparison;
    event: never;
  };
  /** One frame of a plan worked for looking at, coded. */
  picture: {
    in: { plan: Plan; places: Places; sourceFrame: number; view: LookView; width: number };
    out: Uint8Array;
    event: never;
  };
  /** The smallest box around all that is not clear in some frames, once turned and flipped; null where all is clear. */
  content: {
    in: { files: { path: string; picture: number; clip: boolean }[]; picture: Picture };
    out: Box | null;
    event: never;
  };
  /** Works new names out; with a digest of the plan. */
  names: { in: ToBeNamed; out: { plan: RenamePlan; digest: string }; event: never };
  probe: { in: { path: string; kind: 'picture' | 'clip' | 'sound' }[]; out: Probed[]; event: never };
  /** Lists a folder of a root and sorts it into sources. */
  list: { in: { root: string; folder: string; moment: Moment; frameNumber?: FrameNumber }; out: Listed; event: never };
  /** Looks at files of a folder (absolute) without decoding them. */
  look: {
    in: { folder: string; names: string[]; bytes: number[]; modified: number[] };
    out: Looked;
    event: never;
  };
  /** Decodes every picture of some files; tells how many it has done since it told last. */
  decode: { in: ToDecode; out: (DecodedFile | null)[]; event: number };
  /** Works out what the files of some sources tell. */
  judge: {
    in: { folder: string; sources: ToJudge[]; moment: Moment };
    out: { source: Source; alike: Alike }[];
    event: never;
  };
  /** Measures a sound and keeps what was found in a file; tells how many seconds have been measured. */
  soundScan: { in: { file: SoundFile; to: string }; out: void; event: number };
  /** Writes a sound as its plan says, and reads it back. */
  soundWrite: { in: SoundWork; out: SoundReceipt; event: never };
  /** Writes a clip with other sound. */
  soundSwap: { in: SwapWork; out: SwapReceipt; event: never };
  /** Interleaved samples of a sound. */
  soundSamples: {
    in: { file: SoundFile; index: SoundIndex; from: number; count: number };
    out: Float32Array<ArrayBuffer>;
    event: never;
  };
  /** What playing a source costs here. */
  weigh: { in: ToWeigh; out: Weighed; event: never };
  /** The first picture of each scene of a clip. */
  scenes: { in: { path: string }; out: number[]; event: never };
  /** Draws a contact sheet. */
  sheet: { in: ToSheet; out: Uint8Array; event: never };
  /** Stretches of a source that can be played again and again, by the numbers of their frames. */
  loops: { in: { root: string; source: PlannedSource; least: number }; out: CleanLoop[]; event: never };
  /** How frames of a stretch differ from those before them. */
  differences: { in: Stretch; out: (Difference3 | null)[]; event: never };
  /** What the pixels of some frames say about their alpha. */
  alphaEvidence: { in: { frame: number; path: string; clip: boolean }[]; out: AlphaEvidence; event: never };
}

type Handlers = {
  [K in keyof Tasks]: (
    input: Tasks[K]['in'],
    onEvent: (event: Tasks[K]['event']) => void,
    signal: AbortSignal,
  ) => Promise<Tasks[K]['out']>;
};

/** Of results of the same source frame the first. */
const onceEach = (rows: PlanRow[]): PlanRow[] => [
  ...new Map(rows.map((row) => [`${row.shot} ${row.sourceFrame} ${row.mixed?.weight}`, row])).values(),
];

async function measure({ plan, places, results }: Tasks['measure']['in'], signal: AbortSignal): Promise<Measured> {
  if (plan.into.kind === 'video') return measureVideo(plan, places, results.length, signal);
  const rows = onceEach(results.flatMap((at) => resultsOf(plan, at, at + 1)).filter((row) => row.kind === 'write'));
  const measured: Measured = { frames: [], counts: noCounts(), bytes: 0, seconds: 0, problems: [] };
  const maker = new FrameMaker(plan, places, 'measure');
  const folder = await mkdtemp(join(tmpdir(), 'shale-measure-'));
  try {
    for (const row of rows) {
      if (signal.aborted) break;
      const start = performance.now();
      try {
        const path = join(folder, `${row.frame}.part`);
        if (plan.copies) measured.bytes += (await stat(join(shotRoot(places, row.shot), row.from!))).size;
        else if (plan.spec.channels.length > 0) {
          await maker.carryTo(path, row);
          measured.bytes += (await stat(path)).size;
        } else {
          const { image, counts, settings } = await maker.picture(row);
          await writeStill(path, plan.spec.write.format, image, settings);
          if (plan.spec.readBack) await readStill(path, { format: plan.spec.write.format });
          measured.bytes += (await stat(path)).size;
          addCounts(measured.counts, counts);
        }
        measured.frames.push(row.sourceFrame);
        measured.seconds += (performance.now() - start) / 1000;
      } catch (error) {
        measured.problems.push(problemOf(error));
      }
    }
  } finally {
    await maker.close();
    await rm(folder, { recursive: true, force: true });
  }
  const looked = Math.max(1, measured.frames.length);
  return { ...measured, bytes: Math.round(measured.bytes / looked), seconds: measured.seconds / looked };
}

async function preview({ file, declaration, width, format, to }: Tasks['preview']['in']): Promise<void> {
  const image = await readShown(file);
  const as = takenAs(declaration);
  const coded =
    format === 'half' || format === 'float'
      ? packView(lookView(image, as, width), format)
      : await makePreview(image, as, width, format);
  const temporary = `${to}.${process.pid}.part`;
  await writeFile(temporary, coded);
  await rename(temporary, to);
}

async function comparison({ a, b }: Tasks['comparison']['in']): Promise<Comparison | null> {
  const [left, right] = await Promise.all([readShown(a.file), readShown(b.file)]);
  const found = comparePictures(
    { image: left, taken: takenAs(a.declaration) },
    { image: right, taken: takenAs(b.declaration) },
  );
  return found ?? null;
}

async function probeOne({ path, kind }: Tasks['probe']['in'][number]): Promise<Probed> {
  try {
    if (kind === 'sound') return await probeSound(path);
    if (kind === 'picture') return { facts: await probeStill(path) };
    const { facts, weights, problem } = await probeClip(path);
    return { facts, weights, ...(problem ? { damaged: problemOf(problem) } : {}) };
  } catch (error) {
    return { problem: problemOf(error) };
  }
}

function list({ root, folder, moment, frameNumber }: Tasks['list']['in']): Listed {
  try {
    return listFolder(root, folder, moment, frameNumber);
  } catch (error) {
    throw rootError(join(root, folder), error);
  }
}

async function evidence(input: Tasks['alphaEvidence']['in']): Promise<AlphaEvidence> {
  const images = [];
  for (const { frame, path, clip } of input) images.push({ frame, image: await readShown({ path, clip, picture: 0 }) });
  const withAlpha = images.filter(({ image }) => hasAlphaChannel(image));
  if (withAlpha.length === 0) {
    throw new ShaleError({
      code: 'no-alpha',
      fact: 'None of the checked frames has alpha.',
      wayOut: 'Declare "no alpha".',
    });
  }
  return alphaEvidence(withAlpha);
}

export const handlers: Handlers = {
  span: (span, onEvent, signal) => runSpan(span, onEvent, signal),
  video: (video, onEvent, signal) => makeVideo(video, onEvent, signal),
  limitTry: (work, onEvent, signal) => makeTry(work, onEvent, signal),
  wave: (wave) => makeWave(wave),
  stamps: (wanted) => takeStamps(wanted),
  media: ({ plan, places, expected }) => digestMedia(plan, places, expected),
  hashes: ({ folder, files }) => hashFiles(folder, files),
  standing: ({ plan, places, earlier }) => lookWhatStands(plan, places, earlier),
  results: async ({ plan, places, written }) => lookAtResults(plan, places, written),
  measure: (input, _onEvent, signal) => measure(input, signal),
  preview: (input) => preview(input),
  piece: async ({ file, box: { left, top, width, height } }) =>
    packPiece(pieceOf(await readShown(file), left, top, width, height)),
  scopes: async ({ file, box }) => {
    const image = await readShown(file);
    return scopesOf(image, box && cutOff(box, image));
  },
  comparison: (input) => comparison(input),
  proof: ({ plan, places, sourceFrame }) => makeProof(plan, places, sourceFrame),
  exactness: ({ plan, places, sourceFrame, made }) => compareWithExact(plan, places, sourceFrame, made),
  picture: (input) => pictureOf(input),
  content: (input) => contentOf(input),
  names: async ({ items, spec, root, into }) => {
    const plan = await planOnDisk(items, spec, root, into);
    return { plan, digest: planDigest(plan) };
  },
  probe: (input) => Promise.all(input.map(probeOne)),
  list: async (input) => list(input),
  look: ({ folder, names, bytes, modified }, _onEvent, signal) =>
    lookAtFiles(folder, names, { bytes, modified }, signal),
  judge: ({ folder, sources, moment }) => Promise.all(sources.map((one) => judge(folder, one, moment))),
  decode: (input, onEvent, signal) => decodeFiles(input, onEvent, signal),
  soundScan: ({ file, to }, onEvent, signal) => measureSound(file, to, signal, onEvent),
  soundSwap: (work, _onEvent, signal) => swapClipSound(work, signal),
  soundWrite: (work, _onEvent, signal) => convertSound(work, signal),
  soundSamples: ({ file, index, from, count }) => soundSamples(file, index, from, count),
  weigh: (input) => weigh(input),
  scenes: ({ path }, _onEvent, signal) => scenesOf(path, signal),
  sheet: (sheet, _onEvent, signal) => makeSheet(sheet, signal),
  loops: ({ least, ...source }, _onEvent, signal) => loopsOf(source, least, signal),
  differences: (stretch, _onEvent, signal) => differencesOf(stretch, signal),
  alphaEvidence: (input) => evidence(input),
};
