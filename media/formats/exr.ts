import type { Facts, Image } from '@shale/core';
import { makeRate } from '@shale/core';
import { exrAddon, type ExrAttribute, type ExrPart } from '../exr/addon.ts';
import { refuseAbsurdSize, type StillFormat } from './format.ts';

/** The first part that is a flat picture with R, G, B or Y. */
function picturePart(parts: ExrPart[]): { part: ExrPart; index: number; channels: string[]; hasAlpha: boolean } {
  for (const [index, part] of parts.entries()) {
    if (part.deep) continue;
    const names = new Set(part.channels.map(({ name }) => name));
    const colours = ['R', 'G', 'B'].some((name) => names.has(name))
      ? ['R', 'G', 'B']
      : names.has('Y')
        ? ['Y']
        : undefined;
    if (!colours) continue;
    const lacking = colours.find((name) => !names.has(name));
    if (lacking) throw new Error(`it has no channel ${lacking} beside its other colours`);
    const hasAlpha = names.has('A');
    return { part, index, channels: hasAlpha ? [...colours, 'A'] : colours, hasAlpha };
  }
  const all = parts.flatMap(({ channels }) => channels.map(({ name }) => name));
  throw new Error(`it has no channels R, G, B or Y, but ${all.slice(0, 6).join(', ') || 'none'}`);
}

const sampleOf = (part: ExrPart, channels: string[]) =>
  part.channels.some(({ name, type }) => channels.includes(name) && type !== 'half') ? 'f32' : 'f16';

function rateOf(attributes: ExrAttribute[]) {
  const value = attributes.find(({ name, type }) => name === 'framesPerSecond' && type === 'rational')?.value;
  if (!Array.isArray(value) || !(value[0]! > 0 && value[1]! > 0)) return undefined;
  return makeRate(value[0]!, value[1]!);
}

async function probe(path: string): Promise<Facts> {
  const parts = await exrAddon.readHeader(path);
  const { part, channels, hasAlpha } = picturePart(parts);
  if (!part.complete) throw new Error('it is cut short: not all of its picture is there');
  const [left, top, right, bottom] = part.displayWindow;
  const width = right - left + 1;
  const height = bottom - top + 1;
  refuseAbsurdSize(width, height);
  const timecode = part.attributes.find(({ name }) => name === 'timeCode')?.value;
  const others = parts
    .flatMap((one) => one.channels.map(({ name }) => name))
    .filter((name) => !channels.includes(name));
  return {
    width,
    height,
    format: 'exr',
    sample: sampleOf(part, channels),
    channels: [...channels, ...others],
    hasAlpha,
    rate: rateOf(part.attributes),
    timecode: typeof timecode === 'string' ? timecode : undefined,
    compression: part.compression,
    more: [
      ...(parts.length > 1 ? [['Parts', String(parts.length)] as [string, string]] : []),
      ...(part.tiled ? [['Layout', 'tiles'] as [string, string]] : []),
    ],
  };
}

async function read(path: string): Promise<Image> {
  const { part, index, channels } = picturePart(await exrAddon.readHeader(path));
  const sample = sampleOf(part, channels);
  const pixels = await exrAddon.readPixels(path, index, channels, sample === 'f32');
  return {
    width: pixels.width,
    height: pixels.height,
    channels: channels.length as Image['channels'],
    sample,
    data: sample === 'f32' ? new Float32Array(pixels.data) : new Uint16Array(pixels.data),
  };
}

const channelNames = [[], ['Y'], ['Y', 'A'], ['R', 'G', 'B'], ['R', 'G', 'B', 'A']];

/** OpenEXR, half and float, every compression, scanlines and tiles, through our addon. */
export const exr: StillFormat = {
  id: 'exr',
  recognises: (head) => head.length >= 4 && head.readUInt32LE(0) === 0x01312f76,
  probe,
  read,
  async write(path, image, { exrCompression }) {
    await writeExr(path, image, { compression: exrCompression });
  },
};

/** Writes with attributes of the caller's choice, such as framesPerSecond. */
export async function writeExr(
  path: string,
  image: Image,
  {
    compression,
    attributes = [],
    dwaLevel = 45,
  }: { compression: string; attributes?: ExrAttribute[]; dwaLevel?: number },
): Promise<void> {
  const { width, height, channels, sample, data } = image;
  await exrAddon.writePixels(
    {
      path,
      width,
      height,
      channels: channelNames[channels]!,
      isFloat: sample === 'f32',
      compression,
      dwaLevel,
      attributes,
    },
    data as Uint16Array | Float32Array,
  );
}
