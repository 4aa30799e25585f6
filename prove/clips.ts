import { mkdir, readdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import pLimit from 'p-limit';
import { codecs, type CodecId, type SpecInput } from '@shale/core';
import { each, rates, readKinds, type ClipKind } from './clipKinds.ts';
import type { Ground, Outcome } from './proof.ts';
import type { Said } from '@shale/cli/testing/shale.ts';

/** Codecs of videos: small moving pictures are held against another library in cli/animations.test.ts. */
const videoFormats = (Object.keys(codecs) as CodecId[]).filter((id) => !('animation' in codecs[id]));
const count = 12;
const first = 101;

/** What other libraries say of a result. */
interface Seen {
  error?: string;
  numbers: number[];
  /** How far patches of colour and their opacity are from those that were made, in values. */
  colour: number;
  opacity: number;
  layout: string;
  rate: string;
  times: number[];
  size: [number, number];
  sound?: { samples: number; most: number | null };
}

const secondsOf = (rate: string, frames: number): number => {
  const [num, den = 1] = rate.split('/').map(Number) as [number, number?];
  return (frames * den) / num;
};

/** A video that is written, as its record offers it. */
interface Delivery {
  codec: CodecId;
  sample: 'u8' | 'u10' | 'u12' | 'u16';
  alpha: 'none' | 'straight' | 'premultiplied';
  chroma?: '4:2:0' | '4:2:2' | '4:4:4';
  container?: 'mp4' | 'mov' | 'mxf';
  rate: (typeof rates)[number];
  name: string;
}

/** Every codec in every depth, alpha, density of colour and container; each at one rate after another, the first of all at every rate. */
function deliveries({ quick, only }: Ground): Delivery[] {
  const all: Delivery[] = [];
  for (const codec of videoFormats) {
    const {
      writes,
      chroma,
      containers,
      rates: named,
    } = codecs[codec] as (typeof codecs)['h264'] & {
      rates?: readonly string[];
    };
    const alphas = !(writes as { alpha: boolean }).alpha
      ? (['none'] as const)
      : (writes as { alphaRule?: string }).alphaRule === 'straight'
        ? (['none', 'straight'] as const)
        : (['none', 'straight', 'premultiplied'] as const);
    const places: readonly Delivery['container'][] = containers.length > 1 ? containers : [undefined];
    for (const sample of writes.samples as readonly Delivery['sample'][])
      for (const alpha of alphas)
        for (const one of (chroma as readonly Delivery['chroma'][] | undefined) ?? [undefined])
          for (const container of places) {
            // VP9 has alpha with 8 bits and 4:2:0 alone.
            if (codec === 'vp9' && alpha !== 'none' && (sample !== 'u8' || one !== '4:2:0')) continue;
            const isFirst = !all.some((other) => other.codec === codec);
            const held = rates.filter((rate) => rate !== '12' || (container !== 'mxf' && !named));
            const at = isFirst && !quick ? held : [held[all.length % held.length]!];
            for (const rate of at) {
              const name = ['frames to', codec, sample, alpha, one, container, 'at', rate].filter(Boolean).join(' ');
              all.push({ codec, sample, alpha, chroma: one, container, rate, name });
            }
          }
  }
  const shown = all.filter(({ name }) => name.includes(only));
  return quick ? videoFormats.flatMap((codec) => shown.filter((one) => one.codec === codec).slice(0, 1)) : shown;
}

/** What is wrong with pictures that came, in words. */
function faultOf(seen: Seen, numbers: number[], near: number, clear = 0): string | undefined {
  if (seen.error !== undefined) return `another library cannot read it: ${seen.error}`;
  if (seen.numbers.join() !== numbers.join())
    return `it holds pictures ${seen.numbers.join(' ')} and not ${numbers.join(' ')}`;
  if (seen.colour > near) return `colour is ${seen.colour.toFixed(4)} off`;
  if (seen.opacity > clear) return `alpha is ${seen.opacity.toFixed(4)} off`;
  return undefined;
}

const upTo = (from: number, many: number): number[] => Array.from({ length: many }, (_, at) => from + at);

/** Frames to every codec, with sound under some. */
async function proveWritten(ground: Ground): Promise<Outcome[]> {
  const { shale, folder } = ground;
  const made = deliveries(ground);
  await each([
    { do: 'frames', folder: join(folder, 'plain'), first, count, bits: 16 },
    { do: 'frames', folder: join(folder, 'clear'), first, count, bits: 16, alpha: true },
  ]);
  const lane = pLimit(2);
  const ran = await Promise.all(
    made.map(({ codec, sample, alpha, chroma, container, rate }, at) =>
      lane(async () => {
        const out = join(folder, 'video', String(at));
        await mkdir(out, { recursive: true });
        const video = { ...(chroma && { chroma }), ...(container && { container }), speed: 8, blankEnd: 'write' };
        const write = { format: codec, sample, alpha, transfer: 'srgb' };
        const spec = { version: 1, write, video } as unknown as SpecInput;
        await writeFile(join(out, 'spec.json'), JSON.stringify(spec));
        const source = join(folder, alpha === 'none' ? 'plain' : 'clear', 'shot.####.png');
        const said = await shale.run(
          ...['convert', source, '--spec', join(out, 'spec.json'), '--out', join(out, 'to'), '--json', '--rate', rate],
        );
        const [file] = await readdir(join(out, 'to')).catch(() => []);
        return { said, path: file && join(out, 'to', file) };
      }),
    ),
  );
  const seen = await each<Seen>(ran.map(({ path }) => ({ do: 'look clip', path: path ?? '' })));
  return made.map((one, at) => {
    const { said } = ran[at]!;
    const wrong = said.code !== 0 ? `exit code ${said.code}: ${said.err.split('\n')[0]}` : wrongWith(one, seen[at]!);
    return { row: one.codec, column: 'frames to it', name: one.name, ...(wrong ? { wrong } : {}) };
  });
}

/** How far each depth may be off: its own steps, and what the codec loses of flat colour. */
const steps = { u8: 0.5 / 255, u10: 0.5 / 1023, u12: 0.5 / 4095, u16: 0.5 / 65535 };

function wrongWith({ codec, sample, alpha, chroma, rate }: Delivery, seen: Seen): string | undefined {
  const isLossless = codec === 'ffv1' || codec === 'pngmov';
  // Colour differences round by up to a step each, and lossy codecs keep flat colour within a few.
  const near = isLossless ? steps[sample] + 1e-6 : 0.02;
  if (alpha === 'premultiplied') {
    // Patches are darker by their alpha; only their order and their alpha are held.
    const numbers = faultOf({ ...seen, colour: 0 }, upTo(first, count), 1, 0.01);
    if (numbers) return numbers;
  } else {
    const fault = faultOf(seen, upTo(first, count), near, alpha === 'none' || isLossless ? 0.003 : 0.01);
    if (fault) return fault;
  }
  const density = { '4:2:0': '420', '4:2:2': '422', '4:4:4': '444' };
  if (chroma && !seen.layout.includes(density[chroma])) return `its layout is ${seen.layout}, not ${chroma}`;
  const bits = sample === 'u8' ? /^(?!.*(10|12|16))/ : new RegExp(`(${sample.slice(1)}|1[26]|48|64)`);
  if (!bits.test(seen.layout)) return `its layout is ${seen.layout}, not ${sample}`;
  const off = seen.times.findIndex((time, at) => Math.abs(time - seen.times[0]! - secondsOf(rate, at)) > 0.00051);
  if (off >= 0) return `picture ${off} stands at ${seen.times[off]} s, not ${secondsOf(rate, off)}`;
  const [num, den] = seen.rate.split('/').map(Number) as [number, number?];
  if (Math.abs(num / (den ?? 1) - 1 / secondsOf(rate, 1)) > 0.01)
    return `its rate is told as ${seen.rate}, not ${rate}`;
  return undefined;
}

/** A kind of clip that is read, written by other libraries. */
/** Clips of every kind to frames: all, some in the middle, and their sound beside them. */
async function proveRead(ground: Ground): Promise<Outcome[]> {
  const { shale, folder, quick, only } = ground;
  const cases = readKinds
    .flatMap((kind, at) =>
      (quick || kind.codec !== 'libx264' || kind.layout !== 'yuv420p'
        ? [kind.rate ?? rates[at % rates.length]!]
        : rates
      ).map((rate) => ({
        kind,
        rate,
        name: `${kind.codec} ${kind.layout} in ${kind.ending} at ${rate} to frames`,
      })),
    )
    .filter(({ name }) => name.includes(only))
    .filter((_, at) => !quick || at % 4 === 0);
  const paths = cases.map(({ kind }, at) => join(folder, 'clips', String(at), `plate.${kind.ending}`));
  const lacking = await each<{ error?: string }>(
    cases.map(({ kind: { codec, layout, options, alpha, sound, matrix }, rate }, at) => ({
      ...{ do: 'clip', path: paths[at], codec, layout, options, alpha, rate, count, sound, matrix },
    })),
  );
  const lane = pLimit(3);
  const ran = await Promise.all(
    cases.map(({ kind }, at) =>
      lane(async () => {
        const out = join(folder, 'frames', String(at));
        await mkdir(out, { recursive: true });
        const write = { format: 'png', sample: 'u16', alpha: kind.alpha ? 'straight' : 'none', transfer: 'bt709' };
        const spec = join(out, 'spec.json');
        const sound = { from: kind.sound ? 'own' : 'none', beside: kind.sound !== undefined };
        const run = async (frames: string, to: string) => {
          await writeFile(spec, JSON.stringify({ version: 1, frames, write, sound }));
          const declared = ['--rate', cases[at]!.rate, '--alpha', 'straight', '--transfer', 'bt709'];
          const said = await shale.run(
            'convert',
            paths[at]!,
            '--spec',
            spec,
            '--out',
            join(out, to),
            '--json',
            ...declared,
          );
          const found = (await readdir(join(out, to)).catch(() => [])).sort().map((name) => join(out, to, name));
          return {
            said,
            paths: found.filter((path) => path.endsWith('.png')),
            wav: found.find((path) => path.endsWith('.wav')),
          };
        };
        const whole = await run('all', 'all');
        const scanned = await shale.run('scan', join(folder, 'clips', String(at)), '--json');
        return { whole, some: await run('5-8', 'some'), scanned };
      }),
    ),
  );
  const seen = await each<Seen>(
    ran.flatMap(({ whole, some }, at) => [
      {
        ...{ do: 'look frames', paths: whole.paths, sound: whole.wav },
        samples: Math.floor(secondsOf(cases[at]!.rate, count) * 48_000),
      },
      { do: 'look frames', paths: some.paths },
    ]),
  );
  return cases.flatMap(({ kind, rate, name }, at) => {
    const lacks = lacking[at]!.error;
    const row = `${kind.codec} ${kind.ending}`;
    const one = (column: string, which: 'whole' | 'some', numbers: number[], here: Seen): Outcome => {
      const { said } = ran[at]![which];
      const wrong =
        said.code !== 0
          ? `exit code ${said.code}: ${said.err.split('\n')[0] || said.out.slice(0, 300)}`
          : (faultOf(
              here,
              numbers,
              (kind.near ?? 0.008) + (kind.layout.startsWith('gray') ? 1 : 0),
              kind.alpha ? 0.01 : 0,
            ) ?? (which === 'whole' && kind.sound ? wrongSound(here, rate) : undefined));
      return {
        ...{ row, column, name: which === 'some' ? `${name}, some` : name },
        ...(lacks ? { lacking: lacks } : wrong ? { wrong } : {}),
      };
    };
    return [
      one('to frames', 'whole', upTo(0, count), seen[at * 2]!),
      one('some of them', 'some', upTo(5, 4), seen[at * 2 + 1]!),
      {
        ...{ row, column: 'what is said', name: `${name}, scanned` },
        ...(lacks ? { lacking: lacks } : wrongScan(ran[at]!.scanned.out, kind, rate)),
      },
    ];
  });
}

/** What `scan --json` says of a clip. */
interface Scanned {
  clips: {
    count: number;
    width: number;
    height: number;
    rate?: string;
    alpha: boolean;
    sound: object | null;
    findings: { code: string; severity: string }[];
  }[];
}

/** Whether a scan says the exact rate, the count, alpha and sound, and finds no fault where none is. */
function wrongScan(out: string, kind: ClipKind, rate: string): { wrong?: string } {
  const [clip] = (JSON.parse(out) as Scanned).clips;
  if (!clip) return { wrong: 'the scan does not find it' };
  const faults = clip.findings.filter(({ severity, code }) => severity === 'fault' || code === 'variable-rate');
  const said = {
    rate: clip.rate,
    count: clip.count,
    alpha: clip.alpha,
    sound: clip.sound !== null,
    faults: faults.length,
  };
  // Windows Media and Ogg count in thousandths or by their own clock; what they say is what their times come to.
  const wanted = { rate, count, alpha: kind.alpha === true, sound: kind.sound !== undefined, faults: 0 };
  const off = (Object.keys(wanted) as (keyof typeof wanted)[]).filter((key) => said[key] !== wanted[key]);
  if (off.length === 0) return {};
  return {
    wrong: `the scan says ${off.map((key) => `${key} ${said[key]} for ${wanted[key]}`).join(', ')}${faults[0] ? ` (${faults[0].code})` : ''}`,
  };
}

function wrongSound({ sound }: Seen, rate: string): string | undefined {
  const wanted = Math.floor(secondsOf(rate, count) * 48_000);
  if (!sound) return 'its sound was not written';
  if (Math.abs(sound.samples - wanted) > 1) return `its sound has ${sound.samples} samples, not ${wanted}`;
  return sound.most === 0 ? undefined : `its sound is ${sound.most} off`;
}

/** Sound laid under frames: to the sample where it is kept without loss. */
async function proveSound(ground: Ground): Promise<Outcome[]> {
  const { shale, folder, quick, only } = ground;
  const cases = (
    [
      { format: 'prores422', sample: 'u10', codec: 'pcm', exact: true },
      { format: 'ffv1', sample: 'u8', codec: 'pcm', exact: true },
      { format: 'h264', sample: 'u8', codec: 'aac', exact: false },
      { format: 'vp9', sample: 'u8', codec: 'aac', exact: false },
    ] as const
  )
    .map((one) => ({ ...one, name: `sound under ${one.format}` }))
    .filter(({ name }, at) => name.includes(only) && (!quick || at < 2));
  if (cases.length === 0) return [];
  await each([
    { do: 'frames', folder: join(folder, 'silent'), first, count: 24 },
    { do: 'wav', path: join(folder, 'silent', 'tone.wav'), seconds: '3/2' },
  ]);
  const ran: { said: Said; path: string }[] = [];
  for (const { format, sample, codec } of cases) {
    const out = join(folder, 'sounding', format);
    await mkdir(out, { recursive: true });
    const spec = {
      ...{
        version: 1,
        write: { format, sample, alpha: 'none', transfer: 'srgb' },
        video: { speed: 8, blankEnd: 'write' },
      },
      sound: { from: { root: '.', folder: '', name: 'tone.wav' }, codec },
    };
    await writeFile(join(out, 'spec.json'), JSON.stringify(spec));
    const pattern = join(folder, 'silent', 'shot.####.png');
    const said = await shale.run(
      ...['convert', pattern, '--spec', join(out, 'spec.json'), '--out', join(out, 'to'), '--json', '--rate', '24'],
    );
    const [file] = await readdir(join(out, 'to')).catch(() => []);
    ran.push({ said, path: join(out, 'to', file ?? '') });
  }
  const seen = await each<Seen>(ran.map(({ path }) => ({ do: 'look clip', path })));
  return cases.map(({ format, exact, name }, at) => {
    const { said } = ran[at]!;
    const { sound, error } = seen[at]!;
    const wrong =
      said.code !== 0
        ? `exit code ${said.code}: ${said.err.split('\n')[0]}`
        : (error ??
          (!sound
            ? 'it has no sound'
            : exact && sound.samples !== 48_000
              ? `it has ${sound.samples} samples, not 48000`
              : exact && sound.most !== 0
                ? `its sound is ${sound.most} off`
                : undefined));
    return { row: format, column: 'sound', name, ...(wrong ? { wrong } : {}) };
  });
}

/** Frames to every codec, clips of every kind to frames, sound under and beside them. */
export async function proveClips(ground: Ground): Promise<Outcome[]> {
  const outcomes = [...(await proveWritten(ground)), ...(await proveRead(ground)), ...(await proveSound(ground))];
  await rm(join(ground.folder, 'frames'), { recursive: true, force: true });
  return outcomes;
}
