import { plural, type SampleFormat } from '@shale/core';
import { asksToBeShown, aspectOf, lacking, refuseAbsurdSize, shownRow, type StillHeader } from './format.ts';
import { textOf, textTags } from './exifTexts.ts';
import type { HeaderFile } from './headerFile.ts';
import { profileFacts, readProfile } from './icc.ts';
import { NotRead } from '../notRead.ts';
import type { TiffLayout } from '../tiff/addon.ts';

/** Tags that are asked for (TIFF 6.0, part 1 and 2; 34675 is the ICC profile's). */
const tag = {
  orientation: 274,
  width: 256,
  height: 257,
  bits: 258,
  compression: 259,
  photometric: 262,
  fillOrder: 266,
  stripOffsets: 273,
  samples: 277,
  rowsPerStrip: 278,
  stripBytes: 279,
  acrossUnit: 282,
  downUnit: 283,
  planar: 284,
  predictor: 317,
  colorMap: 320,
  tileWidth: 322,
  tileLength: 323,
  tileOffsets: 324,
  tileBytes: 325,
  extraSamples: 338,
  sampleFormat: 339,
  profile: 34_675,
};

const sizes: Record<number, number> = {
  1: 1,
  2: 1,
  3: 2,
  4: 4,
  5: 8,
  6: 1,
  7: 1,
  8: 2,
  9: 4,
  10: 8,
  11: 4,
  12: 8,
  13: 4,
  16: 8,
  17: 8,
  18: 8,
};

const compressions: Record<number, string> = {
  1: 'none',
  2: 'CCITT run lengths',
  3: 'CCITT group 3',
  4: 'CCITT group 4',
  5: 'lzw',
  6: 'JPEG as TIFF 6.0 had it first',
  7: 'jpeg',
  8: 'deflate',
  22_610: 'JPEG XR',
  32_773: 'packbits',
  32_946: 'deflate',
  34_712: 'JPEG 2000',
  34_887: 'LERC',
  34_925: 'lzma',
  34_933: 'PNG',
  34_934: 'JPEG XR',
  50_000: 'zstd',
  50_001: 'WebP',
  50_002: 'JPEG XL',
};

/** Most bytes of a profile that are read. */
const mostProfile = 1 << 22;

/** Most values of one tag that are read: strips of a picture 65,536 rows high. */
const mostValues = 70_000;

/** What the first directory says of a tag: its numbers, and where in the file the first of them stands. */
interface Entry {
  values: number[];
  place: number;
}

/** The first directory of a file, classic or BigTIFF. */
function directory(file: HeaderFile): Map<number, Entry> {
  const little = file.head[0] === 0x49;
  const number = (bytes: Buffer, at: number, size: number): number => {
    if (size === 1) return bytes[at]!;
    if (size === 2) return little ? bytes.readUInt16LE(at) : bytes.readUInt16BE(at);
    if (size === 4) return little ? bytes.readUInt32LE(at) : bytes.readUInt32BE(at);
    return Number(little ? bytes.readBigUInt64LE(at) : bytes.readBigUInt64BE(at));
  };
  const big = number(file.need(0, 4), 2, 2) === 43;
  const word = big ? 8 : 4;
  const at = big ? number(file.need(8, 8), 0, 8) : number(file.need(4, 4), 0, 4);
  const counted = big ? 8 : 2;
  const entries = number(file.need(at, counted), 0, counted);
  const each = big ? 20 : 12;
  if (entries < 1 || entries > 4096) throw new Error('its directory is damaged');
  const list = file.need(at + counted, entries * each);
  const found = new Map<number, Entry>();
  const wanted = new Set([...Object.values(tag), ...Object.keys(textTags).map(Number)]);
  for (let entry = 0; entry < entries; entry += 1) {
    const from = entry * each;
    const id = number(list, from, 2);
    if (!wanted.has(id)) continue;
    const type = number(list, from + 2, 2);
    const size = sizes[type] ?? 1;
    const isText = textTags[id] !== undefined;
    const count = Math.min(number(list, from + 4, word), id === tag.profile ? mostProfile : mostValues);
    const inline = count * size <= word;
    const place = from + 4 + word;
    const elsewhere = inline ? undefined : number(list, place, word);
    // A text that is not there is no reason not to take the picture.
    const bytes =
      elsewhere === undefined ? list.subarray(place) : file[isText ? 'read' : 'need'](elsewhere, count * size);
    if (bytes.length < count * size) continue;
    const ratio = type === 5;
    const values = Array.from({ length: count }, (_, index) =>
      ratio ? number(bytes, index * 8, 4) / number(bytes, index * 8 + 4, 4) : number(bytes, index * size, size),
    );
    found.set(id, { values, place: elsewhere ?? at + counted + place });
  }
  return found;
}

function sampleOf(bits: number, format: number): SampleFormat {
  if (format === 3) {
    if (bits === 16) return 'f16';
    if (bits === 32 || bits === 64) return 'f32';
  } else if (format === 1) {
    if (bits <= 8) return 'u8';
    if (bits === 10) return 'u10';
    if (bits === 12) return 'u12';
    if (bits === 16) return 'u16';
    // Whole numbers of 32 bits as shares of the greatest.
    if (bits === 32) return 'f32';
  }
  throw new NotRead(`its samples (${bits} bits, format ${format}) are unknown to Shale`);
}

/** The profile that a file holds; undefined where it has none. */
const profileIn = (entry: Entry | undefined) => entry && readProfile(Buffer.from(entry.values));

/** What an extra sample says of itself: 1 is associated alpha (premultiplied), 2 unassociated, 0 says nothing (TIFF 6.0, section 18). */
const alphaKinds = ['unsaid', 'premultiplied', 'straight'] as const;

/** Colours by the photometric interpretation, and whether one of the samples beyond them is alpha. */
function channelsOf(photometric: number, samples: number, extra: readonly number[]) {
  const colours = photometric <= 1 ? ['Y'] : photometric === 5 ? ['C', 'M', 'Y', 'K'] : ['R', 'G', 'B'];
  // A palette's colours are one sample.
  const stored = photometric === 3 ? 1 : colours.length;
  const hasAlpha = samples > stored && (extra.length === 0 || extra[0] !== 0 || samples === stored + 1);
  return { colours, hasAlpha, beyond: samples - stored - (hasAlpha ? 1 : 0) };
}

/** How samples of more than 16 bits are stored, where they are not read as they stand. */
const storedAs = (format: number, bits: number): [string, string][] =>
  bits === 64
    ? [['Stored as', '64-bit floats, read as 32-bit']]
    : bits === 32 && format === 1
      ? [['Stored as', '32-bit whole numbers, read as shares of the largest']]
      : [];

/** Texts of the first directory. */
function textsIn(tags: Map<number, Entry>): Pick<StillHeader, 'texts'> {
  const texts = Object.entries(textTags).flatMap(([id, name]): [string, string][] => {
    const text = textOf(Buffer.from(tags.get(Number(id))?.values ?? []));
    return text === undefined ? [] : [[name, text]];
  });
  return texts.length > 0 ? { texts } : {};
}

/** Facts, and whether every strip or tile lies within the file, from the first directory alone. */
export function tiffHeader(file: HeaderFile): StillHeader {
  const tags = directory(file);
  const one = (id: number, otherwise: number): number => tags.get(id)?.values[0] ?? otherwise;
  const width = one(tag.width, 0);
  const height = one(tag.height, 0);
  refuseAbsurdSize(width, height);
  const offsets = (tags.get(tag.stripOffsets) ?? tags.get(tag.tileOffsets))?.values ?? [];
  const lengths = (tags.get(tag.stripBytes) ?? tags.get(tag.tileBytes))?.values ?? [];
  if (offsets.length === 0 || offsets.length !== lengths.length) throw new Error('its directory names no picture data');
  let ends = 0;
  let begins = Infinity;
  offsets.forEach((offset, at) => {
    ends = Math.max(ends, offset + lengths[at]!);
    begins = Math.min(begins, offset);
  });
  const extra = tags.get(tag.extraSamples)?.values ?? [];
  const { colours, hasAlpha, beyond } = channelsOf(one(tag.photometric, 2), one(tag.samples, 1), extra);
  const bits = one(tag.bits, 1);
  const alphaSays = hasAlpha ? alphaKinds[extra[0] ?? 0]! : undefined;
  return {
    facts: {
      width,
      height,
      format: 'tiff',
      sample: sampleOf(bits, one(tag.sampleFormat, 1)),
      channels: hasAlpha ? [...colours, 'A'] : colours,
      hasAlpha,
      alphaSays: alphaSays === 'unsaid' ? undefined : alphaSays,
      ...profileFacts(profileIn(tags.get(tag.profile))),
      compression: compressions[one(tag.compression, 1)] ?? `type ${one(tag.compression, 1)}`,
      pixelAspect: aspectOf(one(tag.downUnit, 1) / one(tag.acrossUnit, 1)),
      ...asksToBeShown(tags.get(tag.orientation)?.values[0]),
      more: [
        ...(tags.has(tag.tileWidth) ? [['Layout', 'tiles'] as [string, string]] : []),
        ...(alphaSays ? [['Alpha says', alphaSays] as [string, string]] : []),
        ...shownRow(tags.get(tag.orientation)?.values[0]),
        ...storedAs(one(tag.sampleFormat, 1), bits),
        ...(beyond > 0
          ? [['Left out', `${plural(beyond, 'channel')} beyond colours and alpha`] as [string, string]]
          : []),
      ],
    },
    ...textsIn(tags),
    dataAt: begins > 8 ? Math.min(begins, file.size) : 8,
    cutShort: lacking(file.size, ends),
  };
}

/** Where the first extra sample's kind stands in the file, and how its two bytes are ordered; undefined where there is none. */
export function extraSampleAt(file: HeaderFile): { place: number; little: boolean } | undefined {
  const entry = directory(file).get(tag.extraSamples);
  return entry && { place: entry.place, little: file.head[0] === 0x49 };
}

/** A strip or tile of the first picture as it lies in the file. */
interface DataPiece {
  at: number;
  length: number;
  /** Bytes that it stands for: of its rows that the picture has, and of all that a strip or tile has. */
  needs: number;
  most: number;
}

export function dataPieces(file: HeaderFile): DataPiece[] {
  const tags = directory(file);
  const one = (id: number, otherwise: number): number => tags.get(id)?.values[0] ?? otherwise;
  const [width, height] = [one(tag.width, 0), one(tag.height, 0)];
  const planes = one(tag.planar, 1) === 2 ? one(tag.samples, 1) : 1;
  const bitsOfPixel = one(tag.bits, 1) * (planes === 1 ? one(tag.samples, 1) : 1);
  const rowBytes = (pixels: number) => Math.ceil((pixels * bitsOfPixel) / 8);
  const lengths = (tags.get(tag.stripBytes) ?? tags.get(tag.tileBytes))?.values ?? [];
  const strips = tags.get(tag.stripOffsets);
  if (!strips) {
    const bytes = one(tag.tileLength, 0) * rowBytes(one(tag.tileWidth, 0));
    const tiles = tags.get(tag.tileOffsets)?.values ?? [];
    return tiles.map((at, index) => ({ at, length: lengths[index]!, needs: bytes, most: bytes }));
  }
  const rows = Math.min(height, one(tag.rowsPerStrip, height));
  const perPlane = Math.ceil(height / rows);
  return strips.values.map((at, index) => ({
    at,
    length: lengths[index]!,
    needs: Math.min(rows, height - (index % perPlane) * rows) * rowBytes(width),
    most: rows * rowBytes(width),
  }));
}

/** Most bytes of a strip or tile that is read by itself. */
const mostOfPiece = 1 << 30;

/**
 * How the samples of the first picture lie, where they are whole bytes of grey or colour as our own addon reads them; undefined where they
 * are something else. @param channels colours, and alpha behind them
 */
export function plainLayout(
  file: HeaderFile,
  channels: number,
): { layout: TiffLayout; pieces: Float64Array<ArrayBuffer> } | undefined {
  const tags = directory(file);
  const one = (id: number, otherwise: number): number => tags.get(id)?.values[0] ?? otherwise;
  const same = (id: number): number => {
    const { values } = tags.get(id) ?? { values: [1] };
    return values.every((value) => value === values[0]) ? values[0]! : NaN;
  };
  const [photometric, predictor, planar] = [one(tag.photometric, -1), one(tag.predictor, 1), one(tag.planar, 1)];
  const [width, height, stored] = [one(tag.width, 0), one(tag.height, 0), one(tag.samples, 1)];
  const compression = wholeBytes.compressions[one(tag.compression, 1)];
  const bytes = wholeBytes.samples[`${same(tag.bits)} bits ${same(tag.sampleFormat)}`];
  const isFloat = same(tag.sampleFormat) === 3;
  const isOurs =
    (photometric === 1 || photometric === 2) &&
    // Grey is one channel, colour three; what a file has besides is not asked for.
    channels <= 2 === (photometric === 1) &&
    channels <= stored &&
    (planar === 1 || planar === 2) &&
    (predictor === 1 || predictor === 2 || (predictor === 3 && isFloat)) &&
    one(tag.fillOrder, 1) === 1;
  if (!isOurs || !compression || !bytes) return undefined;
  const planes = planar === 2;
  const { tiles, pieceWidth, pieceHeight, pieces } = piecesOf(tags, width, height);
  const count = Math.ceil(width / pieceWidth) * Math.ceil(height / pieceHeight) * (planes ? stored : 1);
  if (pieces.length !== count * 2 || pieceWidth * pieceHeight * stored * bytes > mostOfPiece) return undefined;
  return {
    layout: {
      ...{ width, height, pieceWidth, pieceHeight, tiles, planes, stored, bytes, compression },
      taken: channels,
      // Only what is compressed is predicted (section 14).
      predictor: compression === 1 ? 1 : predictor,
      little: file.head[0] === 0x49,
    },
    pieces,
  };
}

/** What our own addon reads: compressions, and bytes of a sample by its bits and whether it is a number (1) or a float (3). */
const wholeBytes: { compressions: Record<number, 1 | 5 | 8>; samples: Record<string, 1 | 2 | 4> } = {
  compressions: { 1: 1, 5: 5, 8: 8, 32_946: 8 },
  samples: { '8 bits 1': 1, '16 bits 1': 2, '16 bits 3': 2, '32 bits 3': 4 },
};

/** The strips or tiles of a picture: their sides, and place and length of each in turn. */
function piecesOf(tags: Map<number, Entry>, width: number, height: number) {
  const one = (id: number, otherwise: number): number => tags.get(id)?.values[0] ?? otherwise;
  const tiles = tags.has(tag.tileOffsets);
  const places = tags.get(tiles ? tag.tileOffsets : tag.stripOffsets)?.values ?? [];
  const lengths = tags.get(tiles ? tag.tileBytes : tag.stripBytes)?.values ?? [];
  return {
    tiles,
    pieceWidth: tiles ? one(tag.tileWidth, 0) : width,
    pieceHeight: tiles ? one(tag.tileLength, 0) : Math.min(height, one(tag.rowsPerStrip, height)),
    pieces: Float64Array.from(places.flatMap((at, index) => [at, lengths[index] ?? 0])),
  };
}

/**
 * Whether libvips does not read it as it stands: channels in tiles of their own (planar configuration 2 with tiles; TIFF 6.0,
 * sections 8 and 15), or more of them than colours and alpha.
 */
export function isBeyondLibvips(file: HeaderFile): boolean {
  const tags = directory(file);
  const one = (id: number, otherwise: number): number => tags.get(id)?.values[0] ?? otherwise;
  const extra = tags.get(tag.extraSamples)?.values ?? [];
  const { beyond } = channelsOf(one(tag.photometric, 2), one(tag.samples, 1), extra);
  return beyond > 0 || (tags.has(tag.tileOffsets) && one(tag.planar, 1) === 2);
}
