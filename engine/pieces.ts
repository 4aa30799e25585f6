import { mkdir, open, readFile, rename, rm, stat, statfs, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { joinPieces, libraryVersions, VideoWriter, type VideoSettings } from '@shale/media';
import { addCounts, type Image, type PixelCounts, type ReadFile } from '@shale/core';
import { encodeRows, nothingEncoded, type Encoded } from './encode.ts';
import { withSound, type VideoProgress, type Whole } from './encodeOnce.ts';

/** The folder beside a video in which its pieces wait for each other. */
export const piecesName = (job: string): string => `.shale-${job}.pieces`;

/** A video to encode piece by piece. */
export interface InPieces extends Whole {
  /** Where the pieces lie. */
  folder: string;
  /** Pictures of each but the last. */
  length: number;
}

/** What is noted of a piece once it is whole: its packets and the pictures that went in lie beside it. */
interface Noted {
  /** The libraries that made it: others may encode differently. */
  versions: string;
  settings: VideoSettings;
  counts: PixelCounts;
  digests: string[];
  files: ReadFile[];
  /** Of packets, and of the file that they are in. */
  bytes: number;
  fileBytes: number;
  /** Pictures that went in, in the order of their samples: their places and shapes. */
  kept: (Omit<Image, 'data'> & { at: number })[];
}

interface Piece {
  packets: string;
  pictures: string;
  note: string;
}

const pieceAt = (folder: string, at: number): Piece => ({
  packets: join(folder, `${at}.packets`),
  pictures: join(folder, `${at}.pictures`),
  note: join(folder, `${at}.json`),
});

const bytesOf = ({ data }: Image): Buffer => Buffer.from(data.buffer, data.byteOffset, data.byteLength);

/** A picture that was kept, read where it is asked for. */
async function readKept(path: string, at: number, shape: Noted['kept'][number]): Promise<Image> {
  const { width, height, channels, sample } = shape;
  const Samples = sample === 'u8' ? Uint8Array : Uint16Array;
  const data = new Samples(width * height * channels);
  const file = await open(path, 'r');
  try {
    const { bytesRead } = await file.read(new Uint8Array(data.buffer), 0, data.byteLength, at);
    if (bytesRead !== data.byteLength) throw new Error(`${path} is cut short`);
  } finally {
    await file.close();
  }
  return { width, height, channels, sample, data };
}

/** What was encoded of a piece that is noted as whole, if it is there as it was noted. */
async function wholePiece({ packets, pictures, note }: Piece): Promise<Encoded | undefined> {
  const text = await readFile(note, 'utf8').catch(() => undefined);
  if (text === undefined) return undefined;
  const { versions, fileBytes, kept: shapes, ...noted } = JSON.parse(text) as Noted;
  const there = await stat(packets).catch(() => undefined);
  if (versions !== libraryVersions() || there?.size !== fileBytes) return undefined;
  const kept: Encoded['kept'] = new Map();
  let from = 0;
  for (const shape of shapes) {
    const at = from;
    kept.set(shape.at, () => readKept(pictures, at, shape));
    from += shape.width * shape.height * shape.channels * (shape.sample === 'u8' ? 1 : 2);
  }
  return { ...noted, kept };
}

/** Notes a piece as whole: what is beside it is on the disk before. */
async function noteWhole({ packets, pictures, note }: Piece, { kept, ...encoded }: Encoded): Promise<void> {
  const shapes: Noted['kept'] = [];
  const file = await open(pictures, 'w');
  try {
    for (const [at, picture] of kept) {
      const image = await picture();
      await file.appendFile(bytesOf(image));
      const { data: _, ...shape } = image;
      shapes.push({ ...shape, at });
    }
    await file.datasync();
  } finally {
    await file.close();
  }
  const { size: fileBytes } = await stat(packets);
  const noted: Noted = { ...encoded, versions: libraryVersions(), fileBytes, kept: shapes };
  await writeFile(`${note}.part`, JSON.stringify(noted), { flush: true });
  await rename(`${note}.part`, note);
}

/** Whether a disk has less room than a video's pieces take, so that they and the video do not fit beside each other. */
async function isTight(folder: string, bytes: number): Promise<boolean> {
  const disk = await statfs(folder);
  return disk.bavail * disk.bsize < bytes * 1.05;
}

/**
 * Encodes a video piece by piece and puts the pieces together: every piece is encoded by itself, so that one that goes on after
 * the last whole piece ends with the bytes of one that was never stopped. @returns undefined where it was stopped
 */
export async function encodePieces(
  { folder, length, ...whole }: InPieces,
  onProgress: (progress: VideoProgress) => void,
  signal?: AbortSignal,
): Promise<Encoded | undefined> {
  const { plan, places, rows, path, expected } = whole;
  const all = nothingEncoded();
  const files = new Map<string, ReadFile>();
  const pieces: { path: string; count: number }[] = [];
  const told: VideoProgress = { done: 0, of: rows.length, bytes: 0, safe: 0, before: 0 };
  await mkdir(folder, { recursive: true });
  for (let from = 0; from < rows.length; from += length) {
    const piece = pieceAt(folder, pieces.length);
    const some = rows.slice(from, from + length);
    let encoded = await wholePiece(piece);
    if (encoded) told.before += some.length;
    else {
      await rm(piece.note, { force: true });
      encoded = await encodeRows(
        {
          plan,
          places,
          rows: some,
          among: { from, of: rows.length },
          expected,
          open: (settings) => VideoWriter.piece(piece.packets, settings),
          // Pictures of another size are refused as they are within one encoding.
          settings: (usual) => (pieces.length === 0 ? usual : all.settings),
        },
        (bytes) => onProgress({ ...told, done: (told.done += 1), bytes: all.bytes + bytes }),
        signal,
      );
      if (!encoded || signal?.aborted) return undefined;
      await noteWhole(piece, encoded);
      // Those that are kept are on the disk now.
      encoded = (await wholePiece(piece))!;
    }
    if (pieces.length === 0) all.settings = encoded.settings;
    pieces.push({ path: piece.packets, count: some.length });
    addCounts(all.counts, encoded.counts);
    all.digests.push(...encoded.digests);
    for (const [at, picture] of encoded.kept) all.kept.set(at, picture);
    for (const file of encoded.files) files.set(file.file, file);
    all.bytes += encoded.bytes;
    told.safe = told.done = from + some.length;
    told.bytes = all.bytes;
    onProgress({ ...told });
  }
  all.files = [...files.values()];
  all.settings = withSound(whole, all.settings);
  await rm(path, { force: true });
  const tight = await isTight(folder, all.bytes);
  await joinPieces(path, all.settings, pieces, async (piece) => {
    if (tight) await rm(piece);
  });
  return all;
}
