import { rm, stat, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { compareQuickly, openMade, similarQuickly } from '@shale/media';
import {
  besideName,
  fitsLimit,
  formatRules,
  isBlank,
  isLosslessVideo,
  pieceLength,
  resultsOf,
  ShaleError,
  type Plan,
  type PlanRow,
  type Written,
  type WrittenVideo,
} from '@shale/core';
import { digestOfFile } from './digests.ts';
import { comparable, madeOf, pictureDigest, type Encoded } from './encode.ts';
import { asksBitrate, encodeOnce, kilobitsOf, type VideoProgress } from './encodeOnce.ts';
import { cutShortByDisk, flush, flushFolder, publish, sha256, writeError } from './files.ts';
import { FrameMaker, temporaryName, type Places } from './frame.ts';
import { encodeWithin, type Within } from './limit.ts';
import { encodePieces, piecesName } from './pieces.ts';
import { nothingExpected, type Expected } from './stamps.ts';
import { holdTarget } from './target.ts';

/** A video to make. */
export interface VideoWork {
  plan: Plan;
  places: Places;
  job: string;
  /** What its files are to be. */
  expected?: Expected;
  /** It takes the place of the file that has its name. */
  again?: boolean;
}

/** What is known of a video that was read again. */
interface Checked {
  check: Written['check'];
  most: number;
  psnr: number | null;
  compared: WrittenVideo['compared'];
}

/** PSNR over pictures of one size: of the mean of their errors. Null where nothing differs. */
function psnrOfAll(compared: Checked['compared']): number | null {
  const error = compared.reduce((sum, { psnr }) => sum + (psnr === null ? 0 : 10 ** (-psnr / 10)), 0);
  return error === 0 ? null : -10 * Math.log10(error / compared.length);
}

/** Reads a written video again: every picture is decoded and counted, and held against what went in where that is possible. */
async function readBack(
  path: string,
  final: string,
  rows: readonly PlanRow[],
  encoded: Encoded,
  lossless: boolean,
  signal?: AbortSignal,
): Promise<Checked> {
  const count = rows.length;
  const refuse = (why: string) =>
    new ShaleError({
      code: 'read-back-failed',
      fact: `${basename(final)} was written, but reading it back failed: ${why}. It was not kept.`,
      wayOut: 'Check the disk and memory, and run it again.',
      subject: final,
    });
  const { format } = encoded.settings;
  const reader = await openMade(path, madeOf(encoded), count);
  try {
    if (reader.count !== count) throw refuse(`it holds ${reader.count} pictures, and ${count} went in`);
    let most = 0;
    const compared: WrittenVideo['compared'] = [];
    for (let at = 0; at < count && !signal?.aborted; at += 1) {
      const wanted = encoded.kept.get(at);
      if (!lossless && !wanted) {
        await reader.picture(at);
        continue;
      }
      const image = comparable(await reader.picture(at), format);
      if (lossless) {
        if (pictureDigest(image) !== encoded.digests[at]) throw refuse(`picture ${at} differs from the input`);
        continue;
      }
      const meant = comparable(await wanted!(), format);
      const [difference, similarity] = [compareQuickly(meant, image), similarQuickly(meant, image)];
      if (!difference || !similarity) throw refuse(`picture ${at} differs in kind from the input`);
      most = Math.max(most, difference.most);
      compared.push({ frame: rows[at]!.frame, ...similarity });
    }
    if (lossless) return { check: 'identical', most: 0, psnr: null, compared };
    return { check: 'differs', most, psnr: psnrOfAll(compared), compared };
  } catch (error) {
    if (error instanceof ShaleError && error.code === 'read-back-failed') throw error;
    throw refuse((error as Error).message);
  } finally {
    await reader.close();
  }
}

/** Results at the end of which every pixel is alike, counted from the end; at most `most` are looked at. */
export async function blankEnd(plan: Plan, places: Places, most = 120): Promise<number> {
  const maker = new FrameMaker(plan, places, 'blank');
  try {
    let blank = 0;
    for (let at = plan.frames - 1; at >= 0 && blank < most; at -= 1) {
      const [row] = resultsOf(plan, at, at + 1);
      if (row!.kind === 'slate' || row!.kind === 'title') break;
      if (!isBlank((await maker.picture(row!)).image)) break;
      blank += 1;
    }
    // All alike from end to end is no end that somebody forgot.
    return blank >= plan.frames ? 0 : blank;
  } finally {
    await maker.close();
  }
}

/**
 * Makes a plan's video: encoded under a temporary name, flushed, read back, then named. Where it fails or is stopped, nothing
 * is left of it but whole pieces, with which the next run of the job goes on. @returns undefined where it was stopped
 * @throws ShaleError of a picture that cannot be had, an encoder that refuses, a disk that is full
 */
export async function makeVideo(
  { plan, places, job, expected = nothingExpected, again = false }: VideoWork,
  onProgress: (progress: VideoProgress) => void,
  signal?: AbortSignal,
): Promise<Written | undefined> {
  const { spec } = plan;
  const all = resultsOf(plan, 0, plan.frames);
  const rows = spec.video.blankEnd === 'write' ? all : all.slice(0, all.length - (await endOf(plan, places)));
  const final = join(places.target, all[0]!.to);
  const folder = holdTarget(places.target, all[0]!.to, expected);
  const temporary = join(folder.path, temporaryName(job, 0));
  const spare = join(folder.path, temporaryName(job, 1));
  const pieces = join(folder.path, piecesName(job));
  // Where no folder's name can be taken for an option of the codec.
  const log = join(tmpdir(), `shale-${process.pid}-${job}.log`);
  try {
    const whole = { plan, places, rows, path: temporary, expected };
    const length = pieceLength(spec.write.format, spec.video, plan.rate!);
    const encodeWhole = async () => {
      const encoded =
        length !== null && rows.length > length
          ? await encodePieces({ ...whole, folder: pieces, length }, onProgress, signal)
          : await encodeOnce(whole, log, onProgress, signal);
      return encoded && { encoded, rows, tries: [] };
    };
    const within: Within | undefined = fitsLimit(spec)
      ? await encodeWithin(whole, spare, basename(final), onProgress, signal)
      : await encodeWhole();
    if (!within || signal?.aborted) return undefined;
    const { encoded, rows: shown, tries } = within;
    await flush(temporary);
    const lossless = isLosslessVideo(spec.write.format, spec.video);
    const checked: Checked = spec.readBack
      ? await readBack(temporary, final, shown, encoded, lossless, signal)
      : { check: 'none', most: 0, psnr: null, compared: [] };
    if (signal?.aborted) return undefined;
    const bytes = (await stat(temporary)).size;
    const digest = await digestOfFile(temporary);
    const replaces = again || spec.existing === 'replace';
    const beside = await publishBeside({ plan, says: encoded.beside, folder: folder.path, temporary: spare, replaces });
    try {
      await publish(temporary, join(folder.path, basename(final)), replaces);
    } catch (error) {
      if (beside?.isNew) await rm(join(folder.path, beside.file.name), { force: true });
      throw error;
    }
    await flushFolder(folder);
    await rm(pieces, { recursive: true, force: true });
    const { mtimeMs: modified } = await stat(join(folder.path, basename(final)));
    const { width, height, rate, sound } = encoded.settings;
    return {
      index: 0,
      frame: rows[0]!.frame,
      sourceFrame: rows[0]!.sourceFrame,
      name: basename(final),
      bytes,
      sha256: digest,
      modified,
      sources: encoded.files,
      check: checked.check,
      most: checked.most,
      counts: encoded.counts,
      video: {
        frames: shown.length,
        width,
        height,
        rate,
        format: formatRules[spec.write.format].words,
        sound: sound !== undefined,
        psnr: checked.psnr,
        compared: checked.compared,
        kilobits: asksBitrate(plan) ? Math.round(kilobitsOf(whole, encoded)) : null,
        tries,
        beside: beside?.file ?? null,
      },
    };
  } catch (error) {
    // Pieces of which one may be bad are not gone on with.
    const told = writeError(final, await cutShortByDisk(error, folder.path, final));
    if (told.code === 'read-back-failed') await rm(pieces, { recursive: true, force: true });
    throw told;
  } finally {
    for (const path of [temporary, spare, log, `${log}.mbtree`, `${log}.cutree`]) await rm(path, { force: true });
    folder.close();
  }
}

/** Writes what is told beside a video, where something is. */
async function publishBeside({
  plan,
  says,
  folder,
  temporary,
  replaces,
}: Beside): Promise<{ file: NonNullable<WrittenVideo['beside']>; isNew: boolean } | null> {
  const name = besideName(plan);
  if (says === undefined || name === undefined) return null;
  await writeFile(temporary, says);
  await flush(temporary);
  const isNew = await publish(temporary, join(folder, name), replaces);
  return { file: { name, bytes: Buffer.byteLength(says), sha256: sha256(Buffer.from(says)) }, isNew };
}

interface Beside {
  plan: Plan;
  /** What it is to say. */
  says: string | undefined;
  folder: string;
  temporary: string;
  replaces: boolean;
}

/** Frames to end before. @throws ShaleError `blank-end` where the spec wants to be asked */
async function endOf(plan: Plan, places: Places): Promise<number> {
  const blank = await blankEnd(plan, places);
  if (blank === 0 || plan.spec.video.blankEnd === 'cut') return blank;
  const last = resultsOf(plan, plan.frames - 1, plan.frames)[0]!.sourceFrame;
  throw new ShaleError({
    code: 'blank-end',
    fact: `The last ${blank === 1 ? 'frame is' : `${blank} frames are`} a single colour, up to frame ${last}.`,
    wayOut: 'Choose the frames before them, or keep them: "Blank frames at the end" of the video.',
    subject: 'video.blankEnd',
  });
}
