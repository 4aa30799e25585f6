import { copyFile, mkdir, readdir, readFile, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import pLimit from 'p-limit';
import { proveClipDamage } from './clipDamage.ts';
import { damages } from './damages.ts';
import { declaredAs, folderOf, kindsOfStill, makeStills, type Kind } from './kinds.ts';
import type { Ground, Outcome } from './proof.ts';

/**
 * Kinds whose files carry nothing that tells every damage of their samples: no checksum at all, or, as with LZW and run
 * lengths, only codes that may happen to be wrong. docs/formats.md says so of each.
 */
const tellsLittle =
  /^(jpeg|tga|dpx|bmp|ppm|pgm|pam|pfm|gif|webp|jxl|tiff (grey|rgb|rgba|grey\+alpha|planes rgb|palette|float$|float grey|jpeg|rgb 8 none|rgb 8 packbits|rgba 16 none|rgba 16 packbits)|tiff zstd|exr (none|rle|piz|b44|pxr24 float32|dwa|luminance alpha))/;

/** Damage of every kind, to stills and to clips. */
export const proveDamage = async (ground: Ground): Promise<Outcome[]> => [
  ...(await proveStillDamage(ground)),
  ...(await proveClipDamage(ground)),
];

/** Damage to every kind of still: it is refused, or the picture is whole all the same. */
async function proveStillDamage({ shale, folder, quick, only }: Ground): Promise<Outcome[]> {
  const kinds = (await kindsOfStill()).filter((kind) => (!quick || kind.quick) && kind.name.includes(only));
  const sources = join(folder, 'whole');
  await mkdir(sources, { recursive: true });
  await makeStills(
    sources,
    kinds.map(({ name }) => name),
    [7],
  );
  const lane = pLimit(3);
  const cases = kinds.flatMap((kind) => Object.keys(damages).map((damage) => ({ kind, damage })));
  return Promise.all(cases.map(({ kind, damage }) => lane(() => one(kind, damage))));

  async function one(kind: Kind, damage: string): Promise<Outcome> {
    const own = folderOf(kind);
    const whole = join(sources, own, `shot.0007.${kind.ext}`);
    const place = join(folder, own, damage.replaceAll(' ', '_'));
    await mkdir(place, { recursive: true });
    const bytes = await readFile(whole);
    const tornFile = join(place, `torn.0001.${kind.ext}`);
    await writeFile(tornFile, damages[damage]!(bytes));
    // A file that has just changed may still be written; this one is as it will stay.
    const hourAgo = new Date(Date.now() - 3_600_000);
    await utimes(tornFile, hourAgo, hourAgo);
    await copyFile(whole, join(place, `fine.0001.${kind.ext}`));
    const spec = join(place, 'spec.json');
    const write = { format: 'pfm', sample: 'f32', alpha: 'none', transfer: 'linear' };
    await writeFile(spec, JSON.stringify({ version: 1, write, readBack: false }));
    const convert = async (name: string) => {
      const to = join(place, name);
      const said = await shale.run(
        ...[
          'convert',
          join(place, `${name}.0001.${kind.ext}`),
          '--spec',
          spec,
          '--out',
          to,
          '--json',
          ...declaredAs(kind),
        ],
      );
      const [file] = await readdir(to).catch(() => []);
      return { said, pixels: file === undefined ? undefined : await readFile(join(to, file)) };
    };
    const torn = await convert('torn');
    const fine = await convert('fine');
    const outcome = { row: kind.name, name: `${kind.name}, ${damage}` };
    if (fine.said.code !== 0)
      return {
        ...outcome,
        column: 'whole',
        wrong: `the whole file is not converted: ${fine.said.err || fine.said.out}`,
      };
    if (torn.said.code === 0) {
      if (fine.pixels && torn.pixels?.equals(fine.pixels)) return { ...outcome, column: 'whole all the same' };
      const told = tellsLittle.test(kind.name);
      return {
        ...outcome,
        column: told ? 'cannot be told' : 'not told',
        ...(told ? {} : { wrong: 'a wrong picture came out' }),
      };
    }
    const tells = `${torn.said.err}${torn.said.out}`;
    const isNamed =
      tells.includes('torn.0001') &&
      /damaged-file|truncated-file|unknown-format|empty-file|cut short|cannot be read/.test(tells);
    if (torn.pixels) return { ...outcome, column: 'refused', wrong: 'it was refused, and a file was left' };
    return {
      ...outcome,
      column: 'refused',
      ...(isNamed ? {} : { wrong: `it is not said to be damaged: ${tells.slice(0, 200)}` }),
    };
  }
}
