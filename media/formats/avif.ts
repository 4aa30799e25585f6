import { readFile, writeFile } from 'node:fs/promises';
import { lacking, primariesByCode, refuseAbsurdSize, transferByCode, type StillFormat } from './format.ts';
import { NotRead } from '../notRead.ts';
import { sequenceOf, sequencePicture } from './avifSequence.ts';
import type { HeaderFile } from './headerFile.ts';
import { encodeWithSharp, readWithSharp } from './sharp.ts';

interface Box {
  type: string;
  /** Where its contents begin, and where it ends. */
  from: number;
  to: number;
}

/** The boxes between two places (ISO/IEC 14496-12, 4.2). */
function boxesIn(file: HeaderFile, from: number, to: number): Box[] {
  const boxes: Box[] = [];
  let at = from;
  while (at + 8 <= to && boxes.length < 4096) {
    const head = file.read(at, 16);
    if (head.length < 8) break;
    const short = head.readUInt32BE(0);
    const wide = short === 1 && head.length >= 16;
    const size = wide ? Number(head.readBigUInt64BE(8)) : short === 0 ? to - at : short;
    if (size < 8) throw new Error('its boxes are damaged');
    boxes.push({ type: head.toString('latin1', 4, 8), from: at + (wide ? 16 : 8), to: at + size });
    at += size;
  }
  return boxes;
}

/** Whether a track of a sequence holds alpha: its handler is that of auxiliary video (ISO/IEC 23008-12, 7.5.2). */
function hasAlphaTrack(file: HeaderFile, top: readonly Box[]): boolean {
  const within = (box: Box, type: string) =>
    boxesIn(file, box.from, Math.min(box.to, file.size)).filter((one) => one.type === type);
  return top
    .filter(({ type }) => type === 'moov')
    .flatMap((moov) => within(moov, 'trak'))
    .flatMap((track) => within(track, 'mdia'))
    .flatMap((media) => within(media, 'hdlr'))
    .some(({ from }) => file.read(from + 8, 4).toString('latin1') === 'auxv');
}

/** AVIF by its boxes (ISO/IEC 23008-12, 6.5), its picture through libvips, which gives 10 and 12 bits in the upper ones of 16. */
export const avif = {
  recognises: (head) => head.toString('latin1', 4, 8) === 'ftyp' && /avi[fs]/.test(head.toString('latin1', 8, 40)),
  async header(file) {
    const top = boxesIn(file, 0, file.size);
    const within = (box: Box | undefined, type: string, skip = 0): Box | undefined =>
      box && boxesIn(file, box.from + skip, Math.min(box.to, file.size)).find((one) => one.type === type);
    const meta = top.find(({ type }) => type === 'meta');
    const properties = within(within(meta, 'iprp', 4), 'ipco');
    if (!properties) throw new Error('it names no picture');
    const all = boxesIn(file, properties.from, properties.to);
    const sizes = all
      .filter(({ type }) => type === 'ispe')
      .map(({ from }) => file.need(from + 4, 8))
      .map((bytes) => ({ width: bytes.readUInt32BE(0), height: bytes.readUInt32BE(4) }));
    const { width, height } = sizes.reduce(
      (best, one) => (one.width * one.height > best.width * best.height ? one : best),
      {
        width: 0,
        height: 0,
      },
    );
    refuseAbsurdSize(width, height);
    const depth = all.find(({ type }) => type === 'pixi');
    const bits = depth ? file.need(depth.from + 5, 1)[0]! : 8;
    const colour = all
      .filter(({ type }) => type === 'colr')
      .map(({ from }) => file.need(from, 8))
      .find((bytes) => bytes.toString('latin1', 0, 4) === 'nclx');
    const hasAlpha = all.some(
      ({ type, from, to }) =>
        type === 'auxC' &&
        file
          .read(from, to - from)
          .toString('latin1')
          .includes('alpha'),
    );
    const ends = Math.max(...top.map(({ to }) => to));
    const isSequence = file.head.toString('latin1', 8, 12) === 'avis' && top.some(({ type }) => type === 'moov');
    if (isSequence && hasAlphaTrack(file, top))
      throw new NotRead('its alpha is a separate track', 'Ask for another format with alpha.');
    const sequence = isSequence ? await sequenceOf(file.path) : undefined;
    return {
      facts: {
        width,
        height,
        format: 'avif',
        sample: bits === 10 ? 'u10' : bits === 12 ? 'u12' : 'u8',
        channels: hasAlpha ? ['R', 'G', 'B', 'A'] : ['R', 'G', 'B'],
        hasAlpha,
        transfer: colour ? transferByCode(colour.readUInt16BE(6)) : undefined,
        primaries: colour ? primariesByCode(colour.readUInt16BE(4)) : undefined,
        compression: 'av1',
        ...(sequence && sequence.pictures > 1 ? sequence : {}),
        more: [],
      },
      dataAt: 0,
      cutShort: lacking(file.size, ends),
    };
  },
  async read(path, { sample, pictures = 1 }, picture) {
    if (pictures > 1) return sequencePicture(path, picture);
    const bytes = await readFile(path);
    if (sample === 'u8') return readWithSharp(bytes, 'u8');
    const image = await readWithSharp(bytes, 'u16');
    const shift = sample === 'u10' ? 6 : 4;
    return { ...image, sample, data: (image.data as Uint16Array).map((code) => code >> shift) };
  },
  async write(path, image, { quality }) {
    // Effort 4 takes six times as long for 3 to 8 % fewer bytes.
    const how = { quality, effort: 3, chromaSubsampling: '4:4:4' } as const;
    await writeFile(path, await encodeWithSharp(image, (pipeline) => pipeline.avif(how)), { flag: 'wx' });
  },
} satisfies StillFormat;
