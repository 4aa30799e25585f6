import type { Image } from '@shale/core';
import { makeRate } from '@shale/core';
import { exrAddon, type ExrAttribute, type ExrPart } from '../exr/addon.ts';
import { exrEnd } from './exrEnd.ts';
import { aspectOf, primariesBy, refuseAbsurdSize, type StillFormat, type StillHeader } from './format.ts';
import { CutShort, type HeaderFile } from './headerFile.ts';

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

/** Layers beside the main picture: named parts, and what stands before the last dot of a channel's name. */
function layersOf(parts: ExrPart[], main: ExrPart): string[] {
  const layers = new Set<string>();
  for (const part of parts) {
    if (part !== main && part.name) layers.add(part.name);
    for (const { name } of part.channels) if (name.includes('.')) layers.add(name.slice(0, name.lastIndexOf('.')));
  }
  return [...layers];
}

const missing = 'not all of its picture is there';

async function header(file: HeaderFile): Promise<StillHeader> {
  const { dataAt, whole } = exrEnd(file);
  const parts = await exrAddon.readHeader(file.path).catch((error: unknown) => {
    throw whole ? error : new CutShort(missing);
  });
  const { part, channels, hasAlpha } = picturePart(parts);
  const [left, top, right, bottom] = part.displayWindow;
  const width = right - left + 1;
  const height = bottom - top + 1;
  refuseAbsurdSize(width, height);
  const valueOf = (wanted: string) => part.attributes.find(({ name }) => name === wanted)?.value;
  const timecode = valueOf('timeCode');
  const points = valueOf('chromaticities');
  const aspect = valueOf('pixelAspectRatio');
  const others = parts
    .flatMap((one) => one.channels.map(({ name }) => name))
    .filter((name) => !channels.includes(name));
  const layers = layersOf(parts, part);
  return {
    facts: {
      width,
      height,
      format: 'exr',
      sample: sampleOf(part, channels),
      channels: [...channels, ...others],
      hasAlpha,
      primaries: Array.isArray(points) ? primariesBy(points) : undefined,
      rate: rateOf(part.attributes),
      timecode: typeof timecode === 'string' ? timecode : undefined,
      pixelAspect: Array.isArray(aspect) ? aspectOf(aspect[0]!) : undefined,
      layers: layers.length > 0 ? layers : undefined,
      compression: part.compression,
      more: [
        ...(parts.length > 1 ? [['Parts', String(parts.length)] as [string, string]] : []),
        ...(part.tiled ? [['Layout', 'tiles'] as [string, string]] : []),
      ],
    },
    dataAt,
    cutShort: part.complete && whole ? undefined : missing,
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
  header,
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
