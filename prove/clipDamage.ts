import { mkdir, readdir, readFile, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import pLimit from 'p-limit';
import { makeClips, readKinds, type ClipKind } from './clipKinds.ts';
import { damages } from './damages.ts';
import type { Ground, Outcome } from './proof.ts';

const count = 24;

/** Whole packets of a transport stream that are not there (ISO/IEC 13818-1, 2.4.3.2). */
const lost = (at: number, many: number) => (bytes: Buffer) => {
  const from = Math.floor((bytes.length / 188) * at) * 188;
  return Buffer.concat([bytes.subarray(0, from), bytes.subarray(from + many * 188)]);
};
const lostPackets: Record<string, (bytes: Buffer) => Buffer> = {
  'one packet lost': lost(0.35, 1),
  'some packets lost': lost(0.5, 7),
  'many packets lost': lost(0.6, 40),
};

/** Kinds whose data bears a checksum. Of the others a turned bit may be another picture that is as good as the first. */
const tellsAll = ({ codec, options }: ClipKind): boolean => codec === 'png' || options?.slicecrc === '1';

/** Containers of which a missing end or stretch cannot be seen: nothing in them says how long they are. */
const tellsNothing = /^mpg$/;

const rowOf = ({ codec, ending, options }: ClipKind): string =>
  `${codec}${options?.slicecrc ? ' with checksums' : ''} in ${ending}`;

/** Damage that leaves nothing to be guessed: what is there is whole, and what is not is not there. */
const leavesHoles = /^cut|lost$/;

/** Damage to clips: every picture that comes is one that was in the whole clip, in its order, and what is missing is told. */
export async function proveClipDamage({ shale, folder, quick, only }: Ground): Promise<Outcome[]> {
  // One of each codec in each container; a short proof takes every third.
  const kinds = readKinds
    .filter((kind, at) => readKinds.findIndex((one) => rowOf(one) === rowOf(kind)) === at)
    .filter((kind, at) => rowOf(kind).includes(only) && (!quick || at % 4 === 0));
  const wholes = kinds.map((kind, at) => join(folder, 'whole', String(at), `plate.${kind.ending}`));
  const lacking = await makeClips(kinds, wholes, count);
  const spec = join(folder, 'spec.json');
  const write = { format: 'png', sample: 'u16', alpha: 'none', transfer: 'bt709', effort: 1 };
  await writeFile(
    spec,
    JSON.stringify({ version: 1, write, names: { template: '{stem}.{frame:4}.{ext}' }, readBack: false }),
  );
  const lane = pLimit(3);

  async function frames(path: string, to: string) {
    const said = await shale.run(
      ...['convert', path, '--spec', spec, '--out', to, '--json', '--rate', '24', '--alpha', 'ignore'],
      ...['--transfer', 'bt709', '--primaries', 'bt709'],
    );
    const names = (await readdir(to).catch(() => [])).sort();
    return { said, pictures: await Promise.all(names.map((name) => readFile(join(to, name)))) };
  }

  async function one(kind: ClipKind, whole: Buffer, known: Buffer[], damage: string, at: number): Promise<Outcome> {
    const row = rowOf(kind);
    const place = join(folder, String(at), damage.replaceAll(' ', '_'));
    await mkdir(place, { recursive: true });
    const torn = join(place, `torn.${kind.ending}`);
    await writeFile(torn, { ...damages, ...lostPackets }[damage]!(whole));
    const hourAgo = new Date(Date.now() - 3_600_000);
    await utimes(torn, hourAgo, hourAgo);
    const outcome = { row, name: `${row}, ${damage}` };
    const { said, pictures } = await frames(torn, join(place, 'out'));
    const places = pictures.map((bytes) => known.findIndex((other) => other.equals(bytes)));
    const isSame = places.every((found, index) => found >= 0 && (index === 0 || found > places[index - 1]!));
    if (!isSame) {
      const told = !tellsAll(kind) && !leavesHoles.test(damage);
      const wrong = `pictures ${places.flatMap((found, index) => (found < 0 ? [index] : [])).join(' ')} are not what was in the clip`;
      return { ...outcome, column: told ? 'cannot be told' : 'not told', ...(told ? {} : { wrong }) };
    }
    if (pictures.length === known.length) return { ...outcome, column: 'whole all the same' };
    if (said.code !== 0) return { ...outcome, column: 'refused' };
    const scan = JSON.parse((await shale.run('scan', place, '--json')).out) as { clips: { findings: unknown[] }[] };
    const isFound = scan.clips.some(({ findings }) => findings.length > 0);
    if (!isFound && tellsNothing.test(kind.ending)) return { ...outcome, column: 'cannot be told' };
    return {
      ...outcome,
      column: 'found by the scan',
      ...(isFound ? {} : { wrong: `${pictures.length} pictures of ${known.length} came, and nothing says so` }),
    };
  }

  const outcomes = await Promise.all(
    kinds.map((kind, at) =>
      lane(async (): Promise<Outcome[]> => {
        const row = rowOf(kind);
        if (lacking[at] !== undefined) return [{ row, column: 'whole', name: row, lacking: lacking[at] }];
        const whole = await readFile(wholes[at]!);
        const { said, pictures } = await frames(wholes[at]!, join(folder, String(at), 'whole'));
        if (pictures.length !== count)
          return [
            { row, column: 'whole', name: row, wrong: `the whole clip is not converted: ${said.err || said.out}` },
          ];
        const done: Outcome[] = [];
        for (const damage of [...Object.keys(damages), ...(kind.ending === 'ts' ? Object.keys(lostPackets) : [])])
          done.push(await one(kind, whole, pictures, damage, at));
        return done;
      }),
    ),
  );
  return outcomes.flat();
}
