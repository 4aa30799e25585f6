import { mkdir, readdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import pLimit from 'p-limit';
import {
  exrCompressionSchema,
  parseSpec,
  pictureFormats,
  stillWrites,
  type SettingName,
  type SpecInput,
  type WrittenStillId,
} from '@shale/core';
import { declaredAs, folderOf, kindsOfStill, makeStills, type Kind } from './kinds.ts';
import { library } from './library.ts';
import type { Ground, Outcome } from './proof.ts';

type Write = SpecInput['write'] & Pick<Required<SpecInput['write']>, 'format' | 'sample'>;

/** Something that is written, as its record offers it: which formats, depths and compressions there are is taken from there. */
interface Delivery {
  words: string;
  write: Write & { alpha: 'none' | 'straight' | 'premultiplied' };
}

/** All values of settings that are chosen among a few. */
const choices: Partial<Record<SettingName, readonly unknown[]>> = {
  exrCompression: exrCompressionSchema.options,
  tiffCompression: ['none', 'lzw', 'deflate'],
  jpegChroma: ['4:4:4', '4:2:0'],
  lossless: [true, false],
};

/** Every depth, compression and alpha of a format. */
function deliveriesOf(format: WrittenStillId): Delivery[] {
  const writes = stillWrites(format);
  const alphas = !writes.alpha
    ? (['none'] as const)
    : writes.alphaRule
      ? (['none', writes.alphaRule] as const)
      : (['none', 'straight', 'premultiplied'] as const);
  return writes.samples.flatMap((sample) =>
    alphas.flatMap((alpha) => {
      const plain = { format, sample, alpha, transfer: curveOf(format) } as const;
      const names = writes.settings?.(parseSpec({ version: 1, write: plain }).write) ?? [];
      const varied = names.filter((name) => choices[name] !== undefined);
      const variants = varied.flatMap((name) => choices[name]!.map((value) => ({ [name]: value })));
      return (variants.length > 0 ? variants : [{}]).map((variant) => ({
        words: [format, sample, ...Object.values(variant).map(String), alpha].join(' '),
        write: { ...plain, ...variant },
      }));
    }),
  );
}

/** A curve that the format can say. */
function curveOf(format: WrittenStillId): Kind['transfer'] {
  const { light, told } = stillWrites(format);
  if (light) return 'linear';
  return typeof told.colour === 'object' && !told.colour.transfers.includes('srgb') ? 'bt709' : 'srgb';
}

/** How much of a lossy result may be off on average, in values: what its quality of 92 or its standard settings keep of noise. */
function lossOf({ write }: Delivery, kind: Kind): number | undefined {
  const lossy = stillWrites(write.format as WrittenStillId).lossy?.(parseSpec({ version: 1, write }).write);
  if (lossy === undefined) return undefined;
  if (write.format === 'jpeg') return write.jpegChroma === '4:2:0' ? 0.25 : 0.05;
  if (write.format === 'exr') return kind.transfer === 'linear' ? 0.15 : 0.05;
  return write.format === 'webp' ? 0.25 : 0.2;
}

/** What is asked for beside the format. */
const ways = {
  whole: {},
  cropped: { picture: { crop: { left: 5, top: 3, width: 31, height: 17 } } },
  renumbered: { names: { stem: 'other', first: 998, closeUp: true } },
  'one frame': {},
} as const;
type Way = keyof typeof ways;

const numbers = [7, 8];

interface Case {
  kind: Kind;
  delivery: Delivery;
  way: Way;
  name: string;
}

/** Which cases: all, or those that stand for the others. */
function casesOf(kinds: readonly Kind[], { quick, only }: Ground): Case[] {
  const deliveries = pictureFormats.flatMap(deliveriesOf);
  const firsts = new Set(pictureFormats.map((format) => deliveries.find(({ write }) => write.format === format)));
  return kinds.flatMap((kind, at) =>
    deliveries
      .filter(({ write }) => write.alpha === 'none' || kind.alpha !== 'none')
      .flatMap((delivery, of) =>
        (Object.keys(ways) as Way[])
          .map((way) => ({ kind, delivery, way, name: `${kind.name} to ${delivery.words}, ${way}` }))
          .filter(({ name }) => name.includes(only))
          // Every kind that stands for others goes to one format after another, and to each in another way.
          .filter((_, way) => !quick || (kind.quick && quickly(at, of, way, firsts.has(delivery), deliveries.length))),
      ),
  );
}

const quickly = (kind: number, delivery: number, way: number, isFirst: boolean, all: number): boolean =>
  way === (kind + delivery) % 4 && (isFirst || (kind * 7 + delivery) % Math.ceil(all / 6) === 0);

/** What a result is held against. */
interface Held {
  kind: string;
  at: number;
  source: string;
  result: string;
  crop?: object;
  write: object;
}

/** Every readable kind of still to every written format, depth, compression and alpha. */
export async function proveStills(ground: Ground): Promise<Outcome[]> {
  const kinds = await kindsOfStill();
  const cases = casesOf(kinds, ground);
  const used = [...new Set(cases.map(({ kind }) => kind.name))];
  const sources = join(ground.folder, 'stills');
  await mkdir(sources, { recursive: true });
  const lacking = await makeStills(sources, used, numbers);
  const lane = pLimit(3);
  const outcomes: Outcome[] = [];
  const together = 300;
  for (let from = 0; from < cases.length; from += together) {
    const batch = cases.slice(from, from + together);
    const ran = await Promise.all(
      batch.map((one, at) => lane(() => convert(one, sources, join(ground.folder, 'out', String(from + at)), ground))),
    );
    const held = ran.flatMap((one) => one.held);
    const verdicts = await library<(string | null)[]>('stills.py', { do: 'hold', results: held });
    let next = 0;
    batch.forEach(({ kind, delivery, name }, at) => {
      const { wrong, held: here } = ran[at]!;
      const faults = here.map(() => verdicts[next++]).filter((fault) => fault !== null);
      outcomes.push({
        row: kind.name,
        column: delivery.write.format,
        name,
        ...(lacking[kind.name] !== undefined
          ? { lacking: lacking[kind.name]! }
          : (wrong ?? faults[0])
            ? { wrong: (wrong ?? faults[0])! }
            : {}),
      });
    });
    await rm(join(ground.folder, 'out'), { recursive: true, force: true });
  }
  return outcomes;
}

/** Converts by the command line, and says what is to be looked at. */
async function convert(
  { kind, delivery, way }: Case,
  sources: string,
  out: string,
  { shale }: Ground,
): Promise<{ wrong?: string; held: Held[] }> {
  await mkdir(out, { recursive: true });
  const spec = join(out, 'spec.json');
  await writeFile(spec, JSON.stringify({ version: 1, write: delivery.write, ...ways[way] }));
  const folder = join(sources, folderOf(kind));
  const alone = way === 'one frame';
  const pattern = join(folder, alone ? `shot.0008.${kind.ext}` : `shot.####.${kind.ext}`);
  const results = join(out, 'results');
  const said = await shale.run('convert', pattern, '--spec', spec, '--out', results, '--json', ...declaredAs(kind));
  if (said.code !== 0) return { wrong: `exit code ${said.code}: ${firstFault(said.err, said.out)}`, held: [] };
  const found = (await readdir(results)).sort();
  const [at, first, stem] = [
    alone ? [8] : numbers,
    way === 'renumbered' ? 998 : alone ? 8 : 7,
    way === 'renumbered' ? 'other' : 'shot',
  ];
  const { without = [], alpha: holdsAlpha } = stillWrites(delivery.write.format as WrittenStillId);
  const names = at.map((_, index) => `${stem}.${String(first + index).padStart(4, '0')}.`);
  const fits = found.length === names.length && found.every((name, index) => name.startsWith(names[index]!));
  if (!fits) return { wrong: `it wrote ${found.join(', ')} and not ${names.join('*, ')}*`, held: [] };
  return {
    held: at.map((number, index) => ({
      kind: kind.name,
      at: number,
      source: join(folder, `shot.${String(number).padStart(4, '0')}.${kind.ext}`),
      result: join(results, found[index]!),
      ...(way === 'cropped' ? { crop: ways.cropped.picture.crop } : {}),
      write: { ...delivery.write, without, mayAddAlpha: holdsAlpha, lossy: lossOf(delivery, kind) },
    })),
  };
}

const firstFault = (err: string, out: string): string => {
  const failed = /"fact": "([^"]+)"/.exec(out)?.[1];
  return (err.trim().split('\n')[0] || failed || out.slice(0, 200)).replace(/^shale: /, '');
};
