import { Codec } from 'node-av';
import { AV_CODEC_ID_DPX, AV_PIX_FMT_GBRP12BE, AV_PIX_FMT_RGB24, AV_PIX_FMT_RGB48BE } from 'node-av/constants';
import { makeRate, parseRate, type Facts, type Image, type Rate, type Transfer } from '@shale/core';
import { pixelAddon } from '../pixels/addon.ts';
import { roomFor, withBytes } from '../room.ts';
import { imageOf } from '../video/frameImage.ts';
import { decodePacket, encodePacket } from '../video/libav.ts';
import {
  aspectOf,
  lacking,
  refuseAbsurdSize,
  refuseBeyondLibav,
  writePieces,
  type StillFormat,
  type StillHeader,
  type WriteSettings,
} from './format.ts';
import { fromDifferences, perPixel, samplesOf, type Differences } from './dpxSamples.ts';
import type { Coding } from '../video/colouring.ts';
import { NotRead } from '../notRead.ts';

/** Offsets of the header's fields (SMPTE ST 268-1:2014, tables 1 to 5). */
const at = {
  dataOffset: 4,
  version: 8,
  fileBytes: 16,
  genericLength: 24,
  industryLength: 28,
  userLength: 32,
  creator: 160,
  orientation: 768,
  elements: 770,
  columns: 772,
  rows: 776,
  signed: 780,
  referenceLow: 784,
  referenceHigh: 792,
  descriptor: 800,
  transfer: 801,
  colorimetric: 802,
  bits: 803,
  packing: 804,
  encoding: 806,
  elementOffset: 808,
  linePadding: 812,
  endPadding: 816,
  aspectAcross: 1628,
  aspectDown: 1632,
  genericBytes: 1664,
  sequenceLength: 1716,
  filmRate: 1724,
  timecode: 1920,
  tvRate: 1940,
  bytes: 2048,
  /** Fields of text: names, dates, project; of each element; of the input device; of film. */
  texts: [
    [8, 16],
    [36, 660],
    [820, 852],
    [1432, 1620],
    [1664, 1712],
    [1732, 1920],
  ],
};

/** Where texts stand, and how long each may be, by what they are called (tables 1, 3, 4). */
const textFields: Record<string, [from: number, length: number]> = {
  creator: [160, 100],
  project: [260, 200],
  copyright: [460, 200],
  'input device': [1556, 32],
  'serial number': [1588, 32],
  // Manufacturer, type, offset in perforations, prefix and count of the film's edge code, one behind the other.
  keycode: [1664, 16],
  'film format': [1680, 32],
  'frame identification': [1732, 32],
  slate: [1764, 100],
};

/** Of a television element, as eight hexadecimal digits (table 5). */
const userBits = 1924;

/** Texts of a header; fields that say nothing are zeros or all ones. @param industry whether there are fields of film and television */
function textsOf(head: Buffer, industry: boolean, word: (offset: number) => number): Pick<StillHeader, 'texts'> {
  const texts: [string, string][] = [];
  for (const [name, [from, length]] of Object.entries(textFields)) {
    if (from >= at.genericBytes && !industry) continue;
    const field = head.subarray(from, from + length);
    const end = field.indexOf(0);
    const text = field.toString('latin1', 0, end < 0 ? length : end).trim();
    if (text !== '' && field[0] !== 0xff) texts.push([name, text]);
  }
  const bits = industry ? word(userBits) : 0;
  if (bits !== 0 && bits !== undefinedWord) texts.push(['user bits', bits.toString(16).padStart(8, '0')]);
  return texts.length > 0 ? { texts } : {};
}

/** Codes of transfer and colorimetric characteristic (table 5B). */
const transfers: Record<number, string> = { 1: 'film-log', 2: 'linear', 3: 'film-log', 5: 'bt709', 6: 'bt709' };
const primaries: Record<number, string> = { 5: 'bt709', 6: 'bt709' };

/** Samples of a pixel by the descriptor (table 1 of ST 268-1:2014, clause 5): grey, RGB, RGBA, ABGR. */
const descriptors: Record<number, string[]> = {
  6: ['Y'],
  50: ['R', 'G', 'B'],
  51: ['R', 'G', 'B', 'A'],
  52: ['A', 'B', 'G', 'R'],
};

const undefinedWord = 0xffffffff;

/** Eight digits of four bits each, hours first (SMPTE ST 12-1, in ST 268-1 field 52). */
function timecodeOf(word: number): string | undefined {
  const digits = word.toString(16).padStart(8, '0');
  if (word === undefinedWord || word === 0 || !/^\d{8}$/.test(digits)) return undefined;
  return digits.match(/../g)!.join(':');
}

/** Light with colour differences by the descriptor; others have alpha, or come as field pairs. */
const differences: Record<number, Differences> = { 100: '4:2:2', 102: '4:4:4' };

/** Colorimetric characteristics of standard definition (table 5B): ITU-R BT.601 with 625 and 525 lines, and composite. */
const standardDefinition = new Set([7, 8, 9, 10]);

/** What a header says of how samples are laid out and, of colour differences, coded. */
interface Element {
  big: boolean;
  bits: number;
  packing: number;
  runLength: boolean;
  dataAt: number;
  descriptor: number;
  coding: Coding;
}

/** Numbers of a header by their offsets, in its order of bytes. */
function numbersOf(head: Buffer) {
  const big = head.toString('latin1', 0, 4) === 'SDPX';
  return {
    big,
    short: (offset: number) => (big ? head.readUInt16BE(offset) : head.readUInt16LE(offset)),
    word: (offset: number) => (big ? head.readUInt32BE(offset) : head.readUInt32LE(offset)),
    real: (offset: number) => (big ? head.readFloatBE(offset) : head.readFloatLE(offset)),
  };
}

function elementOf(head: Buffer): Element {
  const { big, short, word } = numbersOf(head);
  const bits = head[at.bits]!;
  // Full where black and white are said to be the least and the greatest code, else as video has it.
  const full = word(at.referenceLow) === 0 && word(at.referenceHigh) === 2 ** bits - 1;
  const [colorimetric, height] = [head[at.colorimetric]!, word(at.rows)];
  const said = colorimetric === 6 || standardDefinition.has(colorimetric);
  return {
    big,
    bits,
    packing: short(at.packing),
    runLength: short(at.encoding) === 1,
    dataAt: word(at.dataOffset),
    descriptor: head[at.descriptor]!,
    coding: {
      matrix: (said ? colorimetric === 6 : height >= 720) ? 'bt709' : 'bt601',
      range: full ? 'full' : 'limited',
    },
  };
}

/** Bytes of the picture at the least; uncompressed. Rows of 8 and 16 bits are padded to words by some writers and not by others. */
function pictureBytes(width: number, height: number, samples: number, bits: number, packing: number): number {
  const perRow = width * samples;
  if (packing === 0 && bits !== 8 && bits !== 16) return Math.ceil((perRow * bits) / 32) * 4 * height;
  if (bits === 10) return Math.ceil(perRow / 3) * 4 * height;
  const bytes = bits === 8 ? 1 : 2;
  return perRow * bytes * height;
}

function rateOf(value: number): Rate | undefined {
  if (!(value > 0 && value < 1000)) return undefined;
  // The field is a 32-bit float: the 1000/1001 rates come back as their nearest decimal.
  return Number.isInteger(value) ? makeRate(value, 1) : parseRate(value.toFixed(3));
}

const dpxAspect = (across: number, down: number): Facts['pixelAspect'] =>
  across === undefinedWord || down === undefinedWord || down === 0 ? undefined : aspectOf(across / down);

/** What libav does not read, or not by what the header says of its colours: 10 bits without gaps, and colour differences. */
const isUnpackedHere = (element: Element): boolean =>
  differences[element.descriptor] !== undefined ||
  (element.bits === 10 && element.packing === 0) ||
  isTensOfThree(element);

/** Red, green and blue of 10 bits in a word each, the commonest of all. */
const isTensOfThree = ({ bits, packing, descriptor, runLength }: Element): boolean =>
  bits === 10 && (packing === 1 || packing === 2) && descriptors[descriptor]?.join('') === 'RGB' && !runLength;

async function unpacked(bytes: Buffer, element: Element, { width, height, channels }: Facts): Promise<Image> {
  const apart = differences[element.descriptor];
  const each = apart ? perPixel(apart) : channels.length;
  if (isTensOfThree(element)) {
    const data = roomFor('u10', width * height * 3) as Uint16Array;
    const { dataAt, big, packing } = element;
    pixelAddon.unpackTens(bytes.subarray(dataAt), big, packing === 1, data);
    return { width, height, channels: 3, sample: 'u10', data };
  }
  const data = samplesOf(bytes, { ...element, perRow: width * each, rows: height });
  if (apart) return fromDifferences(data, { width, height, bits: element.bits }, apart, element.coding);
  // Alpha first is blue first too (descriptor 52).
  if (channels[0] === 'A') for (let from = 0; from < data.length; from += 4) data.subarray(from, from + 4).reverse();
  return { width, height, channels: each as Image['channels'], sample: 'u10', data };
}

/** DPX through libav: grey, RGB and RGBA of 8, 10, 12 and 16 bits on read, RGB on write; packed ones and colour differences by {@link unpacked}. */
export const dpx = {
  recognises: (head) => /^(SDPX|XPDS)$/.test(head.toString('latin1', 0, 4)),
  header(file): StillHeader {
    const head = file.need(0, Math.min(at.bytes, Math.max(at.genericBytes, file.size)));
    const { word, real } = numbersOf(head);
    const width = word(at.columns);
    const height = word(at.rows);
    refuseAbsurdSize(width, height);
    const element = elementOf(head);
    const { bits, packing, runLength, dataAt, descriptor, coding } = element;
    if (![8, 10, 12, 16].includes(bits)) throw new NotRead(`its depth of ${bits} bits is unknown to Shale`);
    const apart = differences[descriptor];
    const channels = apart ? ['R', 'G', 'B'] : descriptors[descriptor];
    if (!channels) throw new NotRead(`its elements (descriptor ${descriptor}) cannot be read by this version`);
    if (runLength && isUnpackedHere(element))
      throw new NotRead('its samples are packed or colour differences, and compressed by run lengths');
    if (apart === '4:2:2' && width % 2 === 1) throw new Error('its rows of 4:2:2 end within a pair of pixels');
    const samples = apart ? perPixel(apart) : channels.length;
    const needs = dataAt + pictureBytes(width, height, samples, bits, packing);
    // The industry headers may be left out: what would be theirs is picture data then.
    const industry = dataAt >= at.bytes;
    const length = industry ? word(at.sequenceLength) : undefinedWord;
    return {
      facts: {
        width,
        height,
        format: 'dpx',
        sample: apart && bits > 8 ? 'u16' : `u${bits as 8 | 10 | 12 | 16}`,
        channels,
        hasAlpha: channels.includes('A'),
        transfer: transfers[head[at.transfer]!],
        primaries: primaries[head[at.colorimetric]!],
        rate: industry ? (rateOf(real(at.filmRate)) ?? rateOf(real(at.tvRate))) : undefined,
        timecode: industry ? timecodeOf(word(at.timecode)) : undefined,
        pixelAspect: dpxAspect(word(at.aspectAcross), word(at.aspectDown)),
        sequenceLength: length > 1 && length <= 10_000_000 ? length : undefined,
        more: apart
          ? [
              [
                'Stored as',
                `${apart}, ${bits} bits, ${coding.matrix === 'bt709' ? 'BT.709' : 'BT.601'}, ${coding.range} range`,
              ],
            ]
          : [],
      },
      ...textsOf(head, industry, word),
      dataAt: Math.min(dataAt, file.size),
      cutShort: runLength ? undefined : lacking(file.size, needs),
    };
  },
  async read(path, facts): Promise<Image> {
    return withBytes(path, async (bytes) => {
      const element = elementOf(bytes);
      if (isUnpackedHere(element)) return unpacked(bytes, element, facts);
      refuseBeyondLibav(facts);
      const frame = await decodePacket(AV_CODEC_ID_DPX, bytes);
      try {
        return imageOf(frame);
      } finally {
        frame.free();
      }
    });
  },
  async write(path, image, settings) {
    await writePieces(path, withHeader(await pictureData(image), image, settings));
  },
} satisfies StillFormat;

/** The picture as it lies behind the header: by the encoder, whose own header is left out, where it has to be packed or filled up. */
async function pictureData(image: Image): Promise<Buffer> {
  if (image.sample === 'u10') {
    const words = Buffer.allocUnsafe(image.width * image.height * 4);
    pixelAddon.packTens(image.data as Uint16Array, words);
    return words;
  }
  const samples = Buffer.from(image.data.buffer, image.data.byteOffset, image.data.byteLength);
  // Rows that end on a whole word are their samples, high byte first; the encoder fills the others up.
  if (image.sample !== 'u12' && samples.length % (image.height * 4) === 0)
    return image.sample === 'u8' ? samples : Buffer.from(samples).swap16();
  const coded = await encodePacket(Codec.findEncoder(AV_CODEC_ID_DPX)!, forEncoder(image));
  const big = coded.toString('latin1', 0, 4) === 'SDPX';
  return coded.subarray(big ? coded.readUInt32BE(at.dataOffset) : coded.readUInt32LE(at.dataOffset));
}

/** RGB as the encoder takes it: interleaved for 8 and 16 bits, planes of green, blue and red for 12. */
function forEncoder({ width, height, sample, data }: Image) {
  if (sample === 'u8') return { width, height, format: AV_PIX_FMT_RGB24, bytes: Buffer.from(data as Uint8Array) };
  const samples = data as Uint16Array;
  if (sample === 'u16') {
    const bytes = Buffer.from(Buffer.from(samples.buffer, samples.byteOffset, samples.byteLength)).swap16();
    return { width, height, format: AV_PIX_FMT_RGB48BE, bytes };
  }
  const pixels = width * height;
  const planes = new Uint16Array(pixels * 3);
  for (const [plane, channel] of [1, 2, 0].entries())
    for (let pixel = 0; pixel < pixels; pixel += 1) planes[plane * pixels + pixel] = samples[pixel * 3 + channel]!;
  const bytes = Buffer.from(planes.buffer).swap16();
  return { width, height, format: AV_PIX_FMT_GBRP12BE, bytes };
}

/** Code of printing density for a log curve, of linear, of BT.709; 0, user defined, for what the table has no code for (table 5B). */
const transferCodes: Partial<Record<Transfer, number>> = { 'film-log': 1, linear: 2, bt709: 6 };

/**
 * A picture behind a header of ours, high byte first (ST 268-1, tables 1 to 5): the encoder leaves out the industry
 * headers, which hold rate and timecode, and says nothing of what the samples are.
 */
function withHeader(
  picture: Buffer,
  { width, height, sample }: Image,
  { transfer, primaries: colours, rate, timecode, pixelAspect, texts = [] }: WriteSettings,
): Buffer[] {
  const bits = Number(sample.slice(1));
  // Fields that say nothing are all ones, texts zeros.
  const head = Buffer.alloc(at.bytes, 0xff);
  for (const [from, to] of at.texts) head.fill(0, from, to);
  head.write('SDPX', 0, 'latin1');
  head.write('V2.0', at.version, 'latin1');
  head.write('Shale', at.creator, 'latin1');
  head.writeUInt32BE(at.bytes, at.dataOffset);
  head.writeUInt32BE(at.bytes + picture.length, at.fileBytes);
  head.writeUInt32BE(at.genericBytes, at.genericLength);
  head.writeUInt32BE(at.bytes - at.genericBytes, at.industryLength);
  head.writeUInt32BE(0, at.userLength);
  head.writeUInt16BE(0, at.orientation);
  head.writeUInt16BE(1, at.elements);
  head.writeUInt32BE(width, at.columns);
  head.writeUInt32BE(height, at.rows);
  head.writeUInt32BE(0, at.signed);
  head.writeUInt32BE(0, at.referenceLow);
  head.writeUInt32BE(2 ** bits - 1, at.referenceHigh);
  head[at.descriptor] = 50;
  head[at.transfer] = transferCodes[transfer] ?? 0;
  head[at.colorimetric] = transfer === 'film-log' ? 1 : colours === 'bt709' ? 6 : 0;
  head[at.bits] = bits;
  head.writeUInt16BE(bits === 10 || bits === 12 ? 1 : 0, at.packing);
  head.writeUInt16BE(0, at.encoding);
  head.writeUInt32BE(at.bytes, at.elementOffset);
  // Rows are filled up to whole words; three samples of 10 bits are one already.
  const rowBytes = width * 3 * (bits === 8 ? 1 : 2);
  head.writeUInt32BE(bits === 10 ? 0 : (4 - (rowBytes % 4)) % 4, at.linePadding);
  head.writeUInt32BE(0, at.endPadding);
  head.writeUInt32BE(pixelAspect?.num ?? 1, at.aspectAcross);
  head.writeUInt32BE(pixelAspect?.den ?? 1, at.aspectDown);
  if (rate) {
    head.writeFloatBE(rate.num / rate.den, at.filmRate);
    head.writeFloatBE(rate.num / rate.den, at.tvRate);
  }
  for (const [name, text] of texts) {
    const field = name === 'creator' ? undefined : textFields[name.toLowerCase()];
    if (field) head.write(text, field[0], field[1], 'latin1');
    else if (name.toLowerCase() === 'user bits' && /^[0-9a-f]{8}$/i.test(text))
      head.writeUInt32BE(parseInt(text, 16), userBits);
  }
  const digits = timecode?.replace(/\D/g, '');
  if (digits?.length === 8) head.writeUInt32BE(parseInt(digits, 16), at.timecode);
  return [head, picture];
}
