import { chromaticities, makeRate, type Facts, type Image } from '@shale/core';
import { exrAddon, type ExrAttribute, type ExrPart } from '../exr/addon.ts';
import { exrEnd } from './exrEnd.ts';
import {
  aspectOf,
  primariesBy,
  refuseAbsurdSize,
  type StillFormat,
  type ReadPicture,
  type StillHeader,
  type Windows,
  type WriteSettings,
} from './format.ts';
import { CutShort, type HeaderFile } from './headerFile.ts';
import { NotRead } from '../notRead.ts';

/** What is read of a file: a part of it, and the channels that are its colours and alpha. */
interface Chosen {
  part: ExrPart;
  index: number;
  /** One colour is grey; two are red and green, and blue is 0. */
  colours: string[];
  alpha: string | undefined;
  /** Whether the colours are luminance and chroma, which become red, green and blue. */
  luminance?: boolean;
}

/** Luminance and the differences of red and blue from it (OpenEXR, "Luminance/Chroma Images"). */
const luminanceChroma = ['Y', 'RY', 'BY'];

/** Names that three channels of a layer go by: colours, directions, positions, coordinates. */
const triples = [
  ['R', 'G', 'B'],
  ['X', 'Y', 'Z'],
  ['x', 'y', 'z'],
  ['r', 'g', 'b'],
  ['red', 'green', 'blue'],
];

/**
 * What channels are as a picture, whatever they are called: three are red, green and blue in the order of a known triple or
 * their own, two red and green, one is grey; an A beside them is alpha, and alone it is grey. Of more than three the first
 * triple that is known, else the first alone. @param names without what stands before their last dot
 */
function pictureOf(names: readonly string[]): { colours: string[]; alpha: string | undefined } | undefined {
  const alpha = ['A', 'a', 'alpha'].find((name) => names.includes(name));
  const rest = names.filter((name) => name !== alpha);
  if (rest.length === 0) return alpha === undefined ? undefined : { colours: [alpha], alpha: undefined };
  const triple = triples.find((known) => known.every((name) => rest.includes(name)));
  const luminance = rest.includes('Y') && !triple ? ['Y'] : undefined;
  const ordered = ['R', 'G', 'B'].filter((name) => rest.includes(name));
  const known = triple ?? luminance ?? (ordered.length > 0 ? ordered : undefined);
  return { colours: known ?? (rest.length <= 3 ? rest : rest.slice(0, 1)), alpha };
}

/** A channel's name without what stands before its last dot, where that is its layer's. */
const inLayer = (name: string, prefix: string): string | undefined =>
  name.startsWith(prefix) && !name.slice(prefix.length).includes('.') ? name.slice(prefix.length) : undefined;

/** What the channels of a part are that begin with a layer's name and a dot; with no prefix those that have none. */
function chosenOf(part: ExrPart, index: number, prefix: string): Chosen | undefined {
  const picture = pictureOf(part.channels.flatMap(({ name }) => inLayer(name, prefix) ?? []));
  if (!picture) return undefined;
  const whole = (name: string) => prefix + name;
  const names = part.channels.map(({ name }) => name);
  const luminance = index === 0 && prefix === '' && luminanceChroma.every((name) => names.includes(name));
  if (luminance && picture.colours[0] === 'Y')
    return { part, index, colours: luminanceChroma, alpha: picture.alpha, luminance };
  return {
    ...{ part, index },
    colours: picture.colours.map(whole),
    alpha: picture.alpha === undefined ? undefined : whole(picture.alpha),
  };
}

/**
 * A layer: a part by its name, the channels with a name's beginning, or one channel by its own name.
 * @throws Error where the file has no such layer
 */
function layerPart(parts: ExrPart[], layer: string): Chosen {
  const flat = parts.map((part, index) => ({ part, index })).filter(({ part }) => !part.deep);
  for (const { part, index } of flat) {
    const found = chosenOf(part, index, `${layer}.`) ?? (part.name === layer ? chosenOf(part, index, '') : undefined);
    if (found) return found;
    if (part.channels.some(({ name }) => name === layer)) return { part, index, colours: [layer], alpha: undefined };
  }
  const all = layersOf(parts);
  throw new Error(`it has no layer "${layer}"${all.length > 0 ? `, but ${all.join(', ')}` : ' nor any other'}`);
}

const isMain = (names: readonly string[]): boolean => ['R', 'G', 'B', 'Y'].some((name) => names.includes(name));

/** The main picture: the first flat part that has R, G, B or Y; else what the first has without a layer, else its first layer. */
function picturePart(parts: ExrPart[]): Chosen {
  const flat = parts.map((part, index) => ({ part, index })).filter(({ part }) => !part.deep);
  const first =
    flat.find(({ part }) => isMain(part.channels.map(({ name }) => name))) ??
    flat.find(({ part }) => part.channels.some(({ name }) => !name.includes('.'))) ??
    flat.find(({ part }) => part.channels.length > 0);
  if (!first) throw new NotRead('it has only deep pixels, with many samples each, which Shale cannot read');
  const { part, index } = first;
  const [{ name }] = part.channels as [ExrPart['channels'][0]];
  const layer = name.slice(0, name.lastIndexOf('.') + 1);
  return chosenOf(part, index, '') ?? chosenOf(part, index, layer)!;
}

/** The names under which a picture's channels are known everywhere else: grey, or red, green and blue, and alpha. */
const standing = ({ colours, alpha }: Chosen): string[] => [
  ...(colours.length === 1 ? ['Y'] : ['R', 'G', 'B']),
  ...(alpha === undefined ? [] : ['A']),
];

/** What stands for what, where channels are called otherwise. */
function shownAs({ colours, alpha, luminance }: Chosen): [string, string][] {
  if (luminance) return [['Channels', 'luminance and chroma, converted to red, green and blue']];
  const named = [...colours, ...(alpha === undefined ? [] : [alpha])].join();
  if (['R,G,B', 'R,G,B,A', 'Y', 'Y,A'].includes(named)) return [];
  const words = colours.length === 1 ? ['grey'] : ['red', 'green', 'blue'];
  const told = words.map((word, at) => (colours[at] === undefined ? `${word} is 0` : `${word} is ${colours[at]}`));
  return [['Channels', [...told, ...(alpha === undefined ? [] : [`alpha is ${alpha}`])].join(', ')]];
}

/** Luminance and chroma are brought to colours in halves by the library. */
const sampleOf = ({ part, colours, alpha, luminance }: Chosen) =>
  !luminance && part.channels.some(({ name, type }) => (colours.includes(name) || name === alpha) && type !== 'half')
    ? 'f32'
    : 'f16';

function rateOf(attributes: ExrAttribute[]) {
  const value = attributes.find(({ name, type }) => name === 'framesPerSecond' && type === 'rational')?.value;
  if (!Array.isArray(value) || !(value[0]! > 0 && value[1]! > 0)) return undefined;
  return makeRate(value[0]!, value[1]!);
}

/**
 * Layers beside the main picture: named parts, what stands before the last dot of a channel's name, and channels that are
 * none of its own, as a depth.
 */
function layersOf(parts: ExrPart[], main?: Chosen): string[] {
  const layers = new Set<string>();
  const own = new Set([...(main?.colours ?? []), main?.alpha]);
  for (const part of parts) {
    if (part !== main?.part && part.name) layers.add(part.name);
    for (const { name } of part.channels) {
      if (name.includes('.')) layers.add(name.slice(0, name.lastIndexOf('.')));
      else if (part === main?.part && !own.has(name)) layers.add(name);
    }
  }
  return [...layers];
}

const missing = 'part of its picture is missing';

async function header(file: HeaderFile): Promise<StillHeader> {
  const { dataAt, whole } = exrEnd(file);
  const parts = await exrAddon.readHeader(file.path).catch((error: unknown) => {
    throw whole ? error : new CutShort(missing);
  });
  const main = picturePart(parts);
  const { part, colours, alpha } = main;
  const channels = [...colours, ...(alpha === undefined ? [] : [alpha])];
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
  const layers = layersOf(parts, main);
  return {
    facts: {
      width,
      height,
      format: 'exr',
      sample: sampleOf(main),
      ...windowOf(part),
      stored: storedNames(parts),
      channels: [...standing(main), ...others],
      hasAlpha: alpha !== undefined,
      primaries: Array.isArray(points) ? primariesBy(points) : undefined,
      rate: rateOf(part.attributes),
      timecode: typeof timecode === 'string' ? timecode : undefined,
      pixelAspect: Array.isArray(aspect) ? aspectOf(aspect[0]!) : undefined,
      layers: layers.length > 0 ? layers : undefined,
      compression: part.compression,
      more: [
        ...(parts.length > 1 ? [['Parts', String(parts.length)] as [string, string]] : []),
        ...(part.tiled ? [['Layout', 'tiles'] as [string, string]] : []),
        ...shownAs(main),
      ],
    },
    ...textsOf(part.attributes),
    dataAt,
    cutShort: part.complete && whole ? undefined : missing,
    attributes: part.attributes.filter(({ name }) => !own.has(name)),
    read: (layer, window) => read(file.path, layer === null ? main : layerPart(parts, layer), window === 'data'),
  };
}

/** Attributes that say how a file is laid out: those of what is written are its own. */
export const layoutAttributes: ReadonlySet<string> = new Set(
  (
    'channels compression dataWindow displayWindow lineOrder screenWindowCenter screenWindowWidth tiles type ' +
    'name version chunkCount view dwaCompressionLevel'
  ).split(' '),
);

/** Those, and what is written from facts. */
const own = new Set([...layoutAttributes, 'pixelAspectRatio', 'chromaticities', 'framesPerSecond', 'timeCode']);

/** Attributes beside those of layout and colour, as texts. */
function textsOf(attributes: readonly ExrAttribute[]): Pick<StillHeader, 'texts'> {
  const texts = attributes
    .filter(({ name }) => !own.has(name))
    .map(({ name, value }): [string, string] => [name, typeof value === 'string' ? value : value.join(' ')]);
  return texts.length > 0 ? { texts } : {};
}

/** Two channels as red and green of three, with nothing in blue. */
function withBlue<T extends Float32Array | Uint16Array>(from: T, into: T, alpha: boolean): T {
  const [has, gives] = alpha ? [3, 4] : [2, 3];
  for (let at = 0, to = 0; at < from.length; at += has, to += gives) {
    into[to] = from[at]!;
    into[to + 1] = from[at + 1]!;
    if (alpha) into[to + 3] = from[at + 2]!;
  }
  return into;
}

/** A channel of a further part, as it is called beside those of the first. */
export const inPart = (part: ExrPart, index: number, name: string): string =>
  index === 0 || part.name === '' ? name : `${part.name}.${name}`;

/** Every channel of the flat parts, by the name that it is told by. */
const storedNames = (parts: readonly ExrPart[]): string[] => [
  ...new Set(
    parts.flatMap((part, index) => (part.deep ? [] : part.channels.map(({ name }) => inPart(part, index, name)))),
  ),
];

/** Where the pixels of a part are against its display window, where that is not just there. */
function windowOf({ dataWindow, displayWindow }: ExrPart): Pick<Facts, 'window'> {
  if (dataWindow.every((value, at) => value === displayWindow[at])) return {};
  const [left, top, right, bottom] = dataWindow;
  return {
    window: {
      left: left - displayWindow[0],
      top: top - displayWindow[1],
      width: right - left + 1,
      height: bottom - top + 1,
    },
  };
}

/** @param whole whether all of the data window is read, in place of the display window */
async function read(path: string, chosen: Chosen, whole: boolean): Promise<ReadPicture> {
  const { part, index, colours, alpha, luminance } = chosen;
  const channels = [...colours, ...(alpha === undefined ? [] : [alpha])];
  const sample = sampleOf(chosen);
  const pixels = luminance
    ? await exrAddon.readLuminance(path, alpha !== undefined, whole)
    : await exrAddon.readPixels(path, index, channels, sample === 'f32', whole);
  const found = sample === 'f32' ? new Float32Array(pixels.data) : new Uint16Array(pixels.data);
  const { width, height } = pixels;
  const count = (colours.length === 2 ? channels.length + 1 : channels.length) as Image['channels'];
  const into = () =>
    sample === 'f32' ? new Float32Array(width * height * count) : new Uint16Array(width * height * count);
  const data = colours.length === 2 ? withBlue(found, into(), alpha !== undefined) : found;
  const { dataWindow, displayWindow: display } = part;
  return {
    image: { width, height, channels: count, sample, data },
    ...(whole ? { windows: { data: dataWindow, display } } : {}),
  };
}

const channelNames = [[], ['Y'], ['Y', 'A'], ['R', 'G', 'B'], ['R', 'G', 'B', 'A']];

/** OpenEXR, half and float, every compression, scanlines and tiles, through our addon. */
export const exr = {
  layered: true,
  recognises: (head) => head.length >= 4 && head.readUInt32LE(0) === 0x01312f76,
  header,
  async write(path, image, settings) {
    const { exrCompression, dwaLevel, effort, texts = [], windows } = settings;
    // What came of OpenEXR keeps its types; texts of other formats become attributes of text.
    const attributes = settings.attributes ?? texts.map(asAttribute);
    await writeExr(path, image, {
      compression: exrCompression,
      dwaLevel,
      zipLevel: effort,
      attributes: [...attributes, ...attributesOf(settings)],
      windows,
    });
  },
} satisfies StillFormat;

/** A text of another format as an attribute: `input device` is `inputDevice`. */
const asAttribute = ([name, value]: [string, string]): ExrAttribute => ({
  name: name.replace(/[ _-]+(\w)/g, (_, letter: string) => letter.toUpperCase()).slice(0, 255),
  type: 'string',
  value,
});

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
    windows,
  }: {
    compression: string;
    attributes?: ExrAttribute[];
    dwaLevel?: number;
    zipLevel?: number;
    windows?: Windows;
  },
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
      ...(windows ? { dataWindow: windows.data, displayWindow: windows.display } : {}),
    },
    data as Uint16Array | Float32Array,
  );
}
