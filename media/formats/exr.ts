import { chromaticities, makeRate, type Image } from '@shale/core';
import { exrAddon, type ExrAttribute, type ExrPart } from '../exr/addon.ts';
import { exrEnd } from './exrEnd.ts';
import {
  aspectOf,
  primariesBy,
  refuseAbsurdSize,
  type StillFormat,
  type StillHeader,
  type WriteSettings,
} from './format.ts';
import { CutShort, type HeaderFile } from './headerFile.ts';

/** What is read of a file: a part of it, and the channels that are its colours and alpha. */
interface Chosen {
  part: ExrPart;
  index: number;
  channels: string[];
  hasAlpha: boolean;
}

/** Names that three channels of a layer go by when they are not colours: directions, positions, coordinates. */
const triples = [
  ['R', 'G', 'B'],
  ['X', 'Y', 'Z'],
  ['x', 'y', 'z'],
  ['r', 'g', 'b'],
];

/**
 * A layer: a part by its name, or the channels with a name's beginning. Three channels become red, green and blue, one becomes
 * grey, an A beside them alpha. @throws Error where the file has no such layer
 */
function layerPart(parts: ExrPart[], layer: string): Chosen {
  for (const [index, part] of parts.entries()) {
    if (part.deep) continue;
    const names = part.channels.map(({ name }) => name);
    const prefix = names.some((name) => name.startsWith(`${layer}.`))
      ? `${layer}.`
      : part.name === layer
        ? ''
        : undefined;
    if (prefix === undefined) continue;
    const own = names.filter((name) => name.startsWith(prefix) && !name.slice(prefix.length).includes('.'));
    const has = (name: string) => own.includes(prefix + name);
    const alpha = ['A', 'a'].filter(has).slice(0, 1);
    const colours =
      triples.find((names) => names.every(has)) ??
      own
        .map((name) => name.slice(prefix.length))
        .filter((name) => !alpha.includes(name))
        .slice(0, 1);
    const channels = [...colours, ...alpha].map((name) => prefix + name);
    if (colours.length > 0) return { part, index, channels, hasAlpha: alpha.length > 0 };
  }
  const all = layersOf(parts);
  throw new Error(`it has no layer "${layer}"${all.length > 0 ? `, but ${all.join(', ')}` : ' nor any other'}`);
}

/** The main picture: the first part that is flat and has R, G, B or Y; else the only layer's channels there are. */
function picturePart(parts: ExrPart[]): Chosen {
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
function layersOf(parts: ExrPart[], main?: ExrPart): string[] {
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
  const main = picturePart(parts);
  const { part, channels, hasAlpha } = main;
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
    attributes: part.attributes.filter(({ name }) => !own.has(name)),
    read: (layer) => read(file.path, layer === null ? main : layerPart(parts, layer)),
  };
}

/** Attributes that belong to how a file is laid out, or that are written from facts. */
const own = new Set(
  (
    'channels compression dataWindow displayWindow lineOrder pixelAspectRatio screenWindowCenter screenWindowWidth tiles type ' +
    'name version chunkCount view dwaCompressionLevel chromaticities framesPerSecond timeCode'
  ).split(' '),
);

async function read(path: string, { part, index, channels }: Chosen): Promise<Image> {
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
export const exr = {
  layered: true,
  recognises: (head) => head.length >= 4 && head.readUInt32LE(0) === 0x01312f76,
  header,
  async write(path, image, settings) {
    const { exrCompression, dwaLevel, effort, attributes = [] } = settings;
    await writeExr(path, image, {
      compression: exrCompression,
      dwaLevel,
      zipLevel: effort,
      attributes: [...attributes, ...attributesOf(settings)],
    });
  },
} satisfies StillFormat;

/** What the standard attributes say of a picture (OpenEXR, "Standard Optional Attributes"). */
function attributesOf({ rate, timecode, pixelAspect, primaries }: WriteSettings): ExrAttribute[] {
  return [
    { name: 'chromaticities', type: 'chromaticities', value: [...chromaticities[primaries]] },
    ...(rate ? [{ name: 'framesPerSecond', type: 'rational', value: [rate.num, rate.den] }] : []),
    ...(timecode ? [{ name: 'timeCode', type: 'timecode', value: timecode }] : []),
    ...(pixelAspect ? [{ name: 'pixelAspectRatio', type: 'float', value: [pixelAspect.num / pixelAspect.den] }] : []),
  ];
}

/** Writes with attributes of the caller's choice, such as framesPerSecond. */
export async function writeExr(
  path: string,
  image: Image,
  {
    compression,
    attributes = [],
    dwaLevel = 45,
    zipLevel = 4,
  }: { compression: string; attributes?: ExrAttribute[]; dwaLevel?: number; zipLevel?: number },
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
      zipLevel,
      attributes,
    },
    data as Uint16Array | Float32Array,
  );
}
