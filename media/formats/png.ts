import { NotRead } from '../notRead.ts';
import { crc32, deflateSync, inflateSync } from 'node:zlib';
import { chromaticities, makeRate, type Facts, type Image } from '@shale/core';
import { readPicture } from '../video/clip.ts';
import { pngAddon } from '../png/addon.ts';
import { roomFor, withBytes } from '../room.ts';
import {
  aspectOf,
  primariesBy,
  primariesByCode,
  refuseAbsurdSize,
  transferByCode,
  writePieces,
  type StillFormat,
  type StillHeader,
  type WriteSettings,
  primariesPoints,
  transferPoints,
} from './format.ts';
import { CutShort, type HeaderFile } from './headerFile.ts';
import { profileFacts, readProfile, type Profile } from './icc.ts';
import { makeProfile } from './iccWrite.ts';

const signature = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);

interface Chunk {
  type: string;
  data: Buffer;
}

/** Most bytes of a chunk that are read: a profile and texts may be long. */
const mostOf = (type: string): number => (type === 'iCCP' ? 1 << 22 : /^[tiz]TXt$/i.test(type) ? 1 << 16 : 4096);

/** The chunks before the picture's data (PNG, third edition, 5.3), each up to 4 KiB of it (a profile up to 4 MiB, texts up to 64 KiB), and where that data begins. */
function headChunks(file: HeaderFile): { chunks: Chunk[]; dataAt: number } {
  const chunks: Chunk[] = [];
  let at = signature.length;
  for (let count = 0; count < 1000; count += 1) {
    const head = file.read(at, 8);
    if (head.length < 8) throw new CutShort('it ends before its picture begins');
    const length = head.readUInt32BE(0);
    const type = head.toString('latin1', 4, 8);
    if (type === 'IDAT') return { chunks, dataAt: at };
    chunks.push({ type, data: file.read(at + 8, Math.min(length, mostOf(type))) });
    at += 12 + length;
  }
  throw new Error('it holds no picture');
}

const lastChunk = Buffer.from([0, 0, 0, 0, 0x49, 0x45, 0x4e, 0x44, 0xae, 0x42, 0x60, 0x82]);

/** Whether the file ends with IEND; one with something behind it is walked through, chunk by chunk, without its data. */
function isWhole(file: HeaderFile, dataAt: number): boolean {
  if (file.read(file.size - lastChunk.length, lastChunk.length).equals(lastChunk)) return true;
  let at = dataAt;
  for (;;) {
    const head = file.read(at, 8);
    if (head.length < 8) return false;
    at += 12 + head.readUInt32BE(0);
    if (head.toString('latin1', 4, 8) === 'IEND') return at <= file.size;
  }
}

/** An embedded profile is compressed behind its name (11.3.2.3). */
function profileOf(data: Buffer): Profile {
  const end = data.indexOf(0);
  const name = data.toString('latin1', 0, Math.max(0, end));
  try {
    const profile = readProfile(inflateSync(data.subarray(end + 2), { maxOutputLength: 1 << 24 }));
    return { ...profile, name: name || profile.name };
  } catch {
    return { name };
  }
}

/** Transfer and primaries by the chunks in their order of weight: cICP, iCCP, sRGB, gAMA and cHRM (PNG, third edition, 4.3). */
function colourOf(chunks: Chunk[]): Pick<Facts, 'transfer' | 'primaries'> {
  const find = (type: string) => chunks.find((chunk) => chunk.type === type)?.data;
  const cicp = find('cICP');
  if (cicp?.[3] === 0) throw new NotRead('its values are of limited range (cICP), as video has them');
  if (cicp) return { transfer: transferByCode(cicp[1]!), primaries: primariesByCode(cicp[0]!) };
  const profile = find('iCCP');
  if (profile) return profileFacts(profileOf(profile));
  if (find('sRGB')) return { transfer: 'srgb', primaries: 'bt709' };
  return { transfer: gammaOf(find('gAMA')?.readUInt32BE(0)), primaries: pointsOf(find('cHRM')) };
}

/** A gamma in hundred-thousandths. 45,455 beside an sRGB chunk is what sRGB is told as (11.3.2.2); alone it is a power. */
function gammaOf(gamma: number | undefined): string | undefined {
  if (gamma === undefined) return undefined;
  if (gamma === 100_000) return 'linear';
  if (gamma === 45_455) return 'gamma-2.2';
  return gamma === 41_667 ? 'gamma-2.4' : `gamma-${(100_000 / gamma).toFixed(2)}`;
}

/** White first (11.3.2.1). */
function pointsOf(points: Buffer | undefined): string | undefined {
  if (!points || points.length < 32) return undefined;
  const [whiteX, whiteY, ...colours] = Array.from({ length: 8 }, (_, at) => points.readUInt32BE(at * 4) / 100_000);
  return primariesBy([...colours, whiteX!, whiteY!]);
}

/** Pixels per unit across and down (pHYs, 11.3.4.3): the wider the pixel, the fewer across. */
function pixelAspectOf(chunks: Chunk[]): Facts['pixelAspect'] {
  const data = chunks.find(({ type }) => type === 'pHYs')?.data;
  return data && data.length >= 8 ? aspectOf(data.readUInt32BE(4) / data.readUInt32BE(0)) : undefined;
}

/** Pictures of an animation, and the rate that the first one's delay gives (PNG, third edition, 11.3.6). */
function animationOf(chunks: Chunk[]): Pick<Facts, 'pictures' | 'rate'> {
  const pictures = chunks.find(({ type }) => type === 'acTL')?.data.readUInt32BE(0) ?? 1;
  const control = chunks.find(({ type }) => type === 'fcTL')?.data;
  if (pictures < 2 || pictures > 100_000) return {};
  const [num, den] =
    control && control.length >= 24 ? [control.readUInt16BE(20), control.readUInt16BE(22) || 100] : [0, 0];
  return { pictures, rate: num > 0 ? makeRate(den, num) : undefined };
}

/** Texts by their keywords (11.3.3), those before the picture's data; Latin-1, UTF-8, each perhaps compressed. */
function textsOf(chunks: readonly Chunk[]): Pick<StillHeader, 'texts'> {
  const texts: [string, string][] = [];
  for (const { type, data } of chunks) {
    const end = data.indexOf(0);
    if (!/^(tEXt|zTXt|iTXt)$/.test(type) || end < 1) continue;
    const keyword = data.toString('latin1', 0, end);
    try {
      texts.push([keyword, textIn(type, data.subarray(end + 1))]);
    } catch {
      // A text that does not unfold is no reason not to take the picture.
    }
  }
  return texts.length > 0 ? { texts } : {};
}

function textIn(type: string, data: Buffer): string {
  const unfolded = (bytes: Buffer) => inflateSync(bytes, { maxOutputLength: 1 << 20 });
  if (type === 'tEXt') return data.toString('latin1');
  if (type === 'zTXt') return unfolded(data.subarray(1)).toString('latin1');
  // Behind flag and method stand the language and the keyword in it, each ended by a zero.
  const text = data.subarray(data.indexOf(0, data.indexOf(0, 2) + 1) + 1);
  return (data[0] === 1 ? unfolded(text) : text).toString('utf8');
}

function header(file: HeaderFile): StillHeader {
  const { chunks, dataAt } = headChunks(file);
  const start = chunks[0];
  if (start?.type !== 'IHDR' || start.data.length < 13) throw new Error('its header is damaged');
  const width = start.data.readUInt32BE(0);
  const height = start.data.readUInt32BE(4);
  refuseAbsurdSize(width, height);
  const depth = start.data[8]!;
  const colour = start.data[9]!;
  const transparent = chunks.some(({ type }) => type === 'tRNS');
  const hasAlpha = colour === 4 || colour === 6 || transparent;
  const channels = colour === 0 || colour === 4 ? ['Y'] : ['R', 'G', 'B'];
  return {
    facts: {
      width,
      height,
      format: 'png',
      sample: depth === 16 ? 'u16' : 'u8',
      channels: hasAlpha ? [...channels, 'A'] : channels,
      hasAlpha,
      ...colourOf(chunks),
      pixelAspect: pixelAspectOf(chunks),
      ...animationOf(chunks),
      more: [
        ...(colour === 3 ? [['Palette', `${2 ** depth} colours at most`] as [string, string]] : []),
        ...(depth < 8 && colour !== 3 ? [['Stored', `${depth} bits`] as [string, string]] : []),
      ],
    },
    ...textsOf(chunks),
    dataAt,
    cutShort: isWhole(file, dataAt) ? undefined : 'its last chunk (IEND) is missing',
  };
}

async function read(path: string, facts: Facts, picture: number): Promise<Image> {
  if (picture > 0) return readPicture(path, picture);
  return withBytes(path, async (bytes) => {
    const { width, height, sample } = facts as Facts & { sample: 'u8' | 'u16' };
    const channels = facts.channels.length as Image['channels'];
    const data = roomFor(sample, width * height * channels, height);
    await pngAddon.decode(bytes, new Uint8Array(data.buffer, 0, data.byteLength + height));
    return { width, height, channels, sample, data };
  });
}

function chunk(type: string, data: Buffer): Buffer {
  const whole = Buffer.alloc(12 + data.length);
  whole.writeUInt32BE(data.length, 0);
  whole.write(type, 4, 'latin1');
  data.copy(whole, 8);
  whole.writeUInt32BE(crc32(whole.subarray(4, 8 + data.length)), 8 + data.length);
  return whole;
}

/** A profile behind its name, compressed (11.3.2.3). */
const profileChunk = (profile: Buffer): Buffer =>
  chunk('iCCP', Buffer.concat([Buffer.from('Shale\0\0', 'latin1'), deflateSync(profile)]));

const longs = (...values: number[]): Buffer => {
  const bytes = Buffer.alloc(values.length * 4);
  values.forEach((value, at) => bytes.writeUInt32BE(Math.round(value), at * 4));
  return bytes;
};

/**
 * Says transfer and primaries behind IHDR (PNG, third edition, 11.3.2): sRGB with the perceptual intent and gAMA for what
 * readers of every age know, cICP for what has code points, cHRM for primaries that have none. A film's log curve has no tag.
 */
function colourTags({ transfer, primaries }: Pick<WriteSettings, 'transfer' | 'primaries'>): Buffer[] {
  const usual = primaries === 'bt709';
  if (transfer === 'srgb' && usual) return [chunk('sRGB', Buffer.from([0]))];
  const codes = [primariesPoints[primaries], transferPoints[transfer]];
  // Neither code points nor a gamma tell these: a profile does.
  if (codes[0] === undefined && (transfer === 'srgb' || transfer === 'bt709' || transfer === 'gamma-2.2'))
    return [profileChunk(makeProfile(transfer, primaries, false)!)];
  const gamma = { linear: 1, 'gamma-2.4': 1 / 2.4, 'gamma-2.2': 1 / 2.2, srgb: 0.454_55 }[transfer as string];
  const tags: Buffer[] = [];
  if (codes.every((code) => code !== undefined) && !(transfer === 'linear' && usual))
    tags.push(chunk('cICP', Buffer.from([codes[0]!, codes[1]!, 0, 1])));
  if (gamma !== undefined) tags.push(chunk('gAMA', longs(gamma * 100_000)));
  if (!usual || transfer !== 'srgb') {
    const [xr, yr, xg, yg, xb, yb, xw, yw] = chromaticities[primaries].map((value) => value * 100_000);
    tags.push(chunk('cHRM', longs(xw!, yw!, xr!, yr!, xg!, yg!, xb!, yb!)));
  }
  return tags;
}

/** Pixels per unit, the unit unknown: a ratio (11.3.4.3); nothing for square pixels. */
function aspectTag(aspect: WriteSettings['pixelAspect']): Buffer[] {
  return aspect && aspect.num !== aspect.den
    ? [chunk('pHYs', Buffer.concat([longs(aspect.den, aspect.num), Buffer.from([0])]))]
    : [];
}

/** Texts in UTF-8 behind a keyword of 1 to 79 characters of Latin-1 (11.3.3.4). */
const textTags = (texts: WriteSettings['texts'] = []): Buffer[] =>
  texts.flatMap(([name, text]) => {
    const keyword = name
      .replace(/[^\x20-\x7e\xa1-\xff]+/g, ' ')
      .trim()
      .slice(0, 79);
    if (keyword === '') return [];
    return [chunk('iTXt', Buffer.concat([Buffer.from(`${keyword}\0\0\0\0\0`, 'latin1'), Buffer.from(text, 'utf8')]))];
  });

/** Signature and IHDR (5.2, 11.2.1). */
function beginning({ width, height, channels, sample }: Image): Buffer[] {
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head[8] = sample === 'u16' ? 16 : 8;
  head[9] = [0, 4, 2, 6][channels - 1]!;
  return [signature, chunk('IHDR', head)];
}

/** The chunks of a picture from IDAT on. @param effort 1 fast to 9 small */
function coded({ width, height, channels, sample, data }: Image, effort: number): Promise<Buffer> {
  const samples = new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
  return pngAddon.encode(samples, width, height, channels, sample === 'u16' ? 2 : 1, effort);
}

/** A picture of 8 or 16 bits as PNG without tags, as quickly as can be. */
export const quickPng = async (image: Image): Promise<Buffer> =>
  Buffer.concat([...beginning(image), await coded(image, 1)]);

/** PNG, by our own addon. */
export const png = {
  recognises: (head) => head.subarray(0, 8).equals(signature),
  header,
  read,
  async write(path, image, settings) {
    const tags = [...colourTags(settings), ...aspectTag(settings.pixelAspect), ...textTags(settings.texts)];
    await writePieces(path, [...beginning(image), ...tags, await coded(image, settings.effort)]);
  },
} satisfies StillFormat;
