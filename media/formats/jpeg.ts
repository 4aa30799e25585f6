import { readFile } from 'node:fs/promises';
import { encodeWithSharp, readWithSharp } from './sharp.ts';
import {
  asksToBeShown,
  aspectOf,
  refuseAbsurdSize,
  shownRow,
  writePieces,
  type StillFormat,
  type StillHeader,
  type WriteSettings,
} from './format.ts';
import { textOf, textTags } from './exifTexts.ts';
import type { HeaderFile } from './headerFile.ts';
import { profileFacts, readProfile } from './icc.ts';
import { makeProfile } from './iccWrite.ts';
import { textsAlone } from './tiffFile.ts';
import { NotRead } from '../notRead.ts';

/** Sampling factors of luma against chroma (ITU-T T.81, B.2.2) as the trade writes them. */
const subsamplings: Record<string, string> = {
  '11': '4:4:4',
  '21': '4:2:2',
  '22': '4:2:0',
  '12': '4:4:0',
  '41': '4:1:1',
};

/** Frame headers (ITU-T T.81, table B.1): all but DHT, JPG and DAC in C0 to CF. */
const isFrame = (marker: number): boolean =>
  marker >= 0xc0 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc;

const scanMarker = 0xda;
const jfifMarker = 0xe0;
const exifMarker = 0xe1;
const profileMarker = 0xe2;
const commentMarker = 0xfe;
const endOfImage = Buffer.from([0xff, 0xd9]);

/** Bytes at the end in which the end marker is looked for: cameras add padding, and some a little more. */
const tailBytes = 4096;

/** A segment before the picture's data: its marker, and where its body is. */
interface Segment {
  marker: number;
  at: number;
  length: number;
}

/** The segments up to the first scan, and where that begins (ITU-T T.81, B.1.1.4). */
function segmentsOf(file: HeaderFile): { segments: Segment[]; scanAt: number } {
  const segments: Segment[] = [];
  for (let at = 2; ;) {
    const head = file.need(at, 4);
    if (head[0] !== 0xff) throw new Error('its segments are damaged');
    const marker = head[1]!;
    if (marker === 0xff) {
      at += 1;
      continue;
    }
    if (marker === scanMarker) return { segments, scanAt: at };
    const length = head.readUInt16BE(2);
    if (length < 2) throw new Error('its segments are damaged');
    segments.push({ marker, at: at + 4, length: length - 2 });
    at += 2 + length;
  }
}

/** The pixel's shape: JFIF density without a unit is a ratio (ITU-T T.871, 10.1). */
function aspectIn(jfif: Buffer): ReturnType<typeof aspectOf> {
  if (jfif.toString('latin1', 0, 4) !== 'JFIF' || jfif.length < 12 || jfif.readUInt16BE(8) === 0) return undefined;
  return aspectOf(jfif.readUInt16BE(10) / jfif.readUInt16BE(8));
}

/** What segments beside the frame header say. */
function saidIn(file: HeaderFile, segments: readonly Segment[]) {
  const profile: Buffer[] = [];
  let aspect: ReturnType<typeof aspectOf>;
  let exif: Exif = { texts: [] };
  const comments: [string, string][] = [];
  for (const { marker, at, length } of segments) {
    const body = () => file.read(at, length);
    if (marker === jfifMarker) aspect = aspectIn(body()) ?? aspect;
    if (marker === exifMarker) exif = exifOf(body()) ?? exif;
    const comment = marker === commentMarker ? textOf(body()) : undefined;
    if (comment !== undefined) comments.push(['Comment', comment]);
    // A profile comes in pieces of up to 64 KiB, numbered from 1 (ICC.1:2010, annex B.4).
    if (marker === profileMarker && file.read(at, 14).toString('latin1', 0, 11) === 'ICC_PROFILE')
      profile[file.read(at, 14)[12]!] = file.need(at + 14, length - 14);
  }
  return { profile, aspect, orientation: exif.orientation, texts: [...exif.texts, ...comments] };
}

function header(file: HeaderFile): StillHeader {
  const { segments, scanAt } = segmentsOf(file);
  const found = segments.findLast(({ marker }) => isFrame(marker));
  const frame = found && file.need(found.at, Math.min(found.length, 24));
  if (!frame || frame.length < 9) throw new Error('it has no frame header');
  if (frame[0] !== 8) throw new NotRead(`its samples have ${frame[0]} bits, and Shale reads JPEG of 8`);
  const height = frame.readUInt16BE(1);
  const width = frame.readUInt16BE(3);
  refuseAbsurdSize(width, height);
  const count = frame[5]!;
  const factors = frame[7]!;
  const chroma = count === 3 ? subsamplings[`${factors >> 4}${factors & 15}`] : undefined;
  const { profile, aspect, orientation, texts } = saidIn(file, segments);
  const tail = file.read(Math.max(scanAt, file.size - tailBytes), tailBytes);
  return {
    facts: {
      width,
      height,
      format: 'jpeg',
      sample: 'u8',
      channels: count === 1 ? ['Y'] : count === 4 ? ['C', 'M', 'Y', 'K'] : ['R', 'G', 'B'],
      hasAlpha: false,
      ...(profile.length > 0 ? profileFacts(readProfile(Buffer.concat(profile.filter(Boolean)))) : {}),
      pixelAspect: aspect,
      ...asksToBeShown(orientation),
      more: [...(chroma ? [['Chroma', chroma] as [string, string]] : []), ...shownRow(orientation)],
    },
    ...(texts.length > 0 ? { texts } : {}),
    dataAt: scanAt,
    cutShort: tail.lastIndexOf(endOfImage) < 0 ? 'its end marker is missing' : undefined,
  };
}

interface Exif {
  orientation?: number;
  texts: [string, string][];
}

/** What EXIF says in the first directory of its TIFF (EXIF 2.32, 4.6.4), behind six bytes: orientation (274) and texts. */
function exifOf(segment: Buffer): Exif | undefined {
  if (segment.toString('latin1', 0, 6) !== 'Exif\0\0') return undefined;
  const tiff = segment.subarray(6);
  const little = tiff.toString('latin1', 0, 2) === 'II';
  const short = (at: number) => (at + 2 > tiff.length ? 0 : little ? tiff.readUInt16LE(at) : tiff.readUInt16BE(at));
  const long = (at: number) => (at + 4 > tiff.length ? 0 : little ? tiff.readUInt32LE(at) : tiff.readUInt32BE(at));
  const found: Exif = { texts: [] };
  const directory = long(4);
  for (let entry = 0; entry < short(directory); entry += 1) {
    const at = directory + 2 + entry * 12;
    if (short(at) === 274) found.orientation ??= short(at + 8);
    const name = textTags[short(at)];
    const length = long(at + 4);
    const from = length <= 4 ? at + 8 : long(at + 8);
    const text = name === undefined ? undefined : textOf(tiff.subarray(from, from + length));
    if (text !== undefined) found.texts.push([name!, text]);
  }
  return found;
}

const startOfImage = Buffer.from([0xff, 0xd8]);

/** A JFIF segment whose density without a unit is the pixel's shape (ITU-T T.871, 10.1): the wider the pixel, the fewer across. */
function jfif(num: number, den: number): Buffer {
  const segment = Buffer.from('ffe000104a46494600010200000000000000', 'hex');
  const scale = Math.max(1, Math.ceil(Math.max(num, den) / 65_535));
  segment.writeUInt16BE(Math.round(den / scale), 12);
  segment.writeUInt16BE(Math.round(num / scale), 14);
  return segment;
}

/** A profile small enough for one segment (ICC.1:2010, annex B.4). */
function profileSegment(profile: Buffer): Buffer {
  return segment(profileMarker, Buffer.concat([Buffer.from('ICC_PROFILE\0\x01\x01', 'latin1'), profile]));
}

const segment = (marker: number, body: Buffer): Buffer => {
  const head = Buffer.from([0xff, marker, 0, 0]);
  head.writeUInt16BE(body.length + 2, 2);
  return Buffer.concat([head, body]);
};

/** Most bytes of a segment's body: its length has 16 bits, and counts itself. */
const mostBody = 65_533;

/** Texts with a field as EXIF, comments each as a segment of their own (ITU-T T.81, B.2.4.5); the rest of one too long for it is cut. */
function textSegments(texts: WriteSettings['texts'] = []): Buffer[] {
  const exif = textsAlone(
    texts.filter(([name]) => name.toLowerCase() !== 'title').map(([name, text]) => [name, text.slice(0, mostText)]),
  );
  const comments = texts.filter(([name]) => name.toLowerCase() === 'comment');
  return [
    ...(exif ? [segment(exifMarker, Buffer.concat([Buffer.from('Exif\0\0', 'latin1'), exif]))] : []),
    ...comments.map(([, text]) => segment(commentMarker, Buffer.from(text, 'utf8').subarray(0, mostBody))),
  ];
}
/** Characters of a text in EXIF, so that all of them fit into its one segment. */
const mostText = 2000;

/** JPEG, 8 bits, through libvips. */
export const jpeg = {
  recognises: (head) => head[0] === 0xff && head[1] === 0xd8 && head[2] === 0xff,
  header,
  read: async (path) => readWithSharp(await readFile(path), 'u8'),
  async write(path, image, settings) {
    const { quality, jpegChroma } = settings;
    const coded = await encodeWithSharp(image, (pipeline) => pipeline.jpeg({ quality, chromaSubsampling: jpegChroma }));
    const profile = makeProfile(settings.transfer, settings.primaries, image.channels === 1);
    const { num, den } = settings.pixelAspect ?? { num: 1, den: 1 };
    const rest = coded[3] === 0xe0 ? 4 + coded.readUInt16BE(4) : 2;
    await writePieces(path, [
      startOfImage,
      jfif(num, den),
      ...textSegments(settings.texts),
      ...(profile ? [profileSegment(profile)] : []),
      coded.subarray(rest),
    ]);
  },
} satisfies StillFormat;
