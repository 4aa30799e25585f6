import { randomBytes } from 'node:crypto';
import { mkdtemp, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, dirname, join, parse, resolve } from 'node:path';
import {
  plural,
  orWords,
  planSound,
  planSwap,
  printLevel,
  problemOf,
  ShaleError,
  soundConversionSchema,
  type SoundConversion,
  type SoundFacts,
  type SoundReceipt,
  soundSwapSchema,
  swapCodecs,
} from '@shale/core';
import { keptSound, runFew } from '@shale/engine';
import { unknownValue } from './options.ts';
import { refuse, refused, type Session } from './session.ts';

export interface SoundOptions {
  out?: string;
  to?: string;
  format?: string;
  stream?: string;
  depth?: string;
  dither?: string;
  rate?: string;
  channels?: string;
  gain?: string;
  loudness?: string;
  peak?: string;
  bitrate?: string;
  samples?: string;
  under?: string;
  delay?: string;
  codec?: string;
  replace?: boolean;
  dry?: boolean;
  json?: boolean;
}

const notPossible = (option: string, text: string, wayOut: string) =>
  new ShaleError({ code: 'bad-option', fact: `--${option} ${text} is not possible.`, wayOut, subject: option });

/** Where results of a folder go, and what marks them until they are whole. */
function intoFolder(named: string) {
  const into = resolve(named);
  return { target: dirname(into), folder: basename(into), job: randomBytes(6).toString('hex') };
}

/** What is asked for, as the page and the API ask for it. @throws ShaleError `bad-option` naming the option */
function askedBy(options: SoundOptions): SoundConversion {
  const { samples, replace, format, depth, dither, channels } = options;
  const part = samples === undefined ? undefined : /^(\d+)-(\d+)$/.exec(samples);
  if (part === null)
    throw notPossible('samples', samples!, 'Write the first and the last sample, counted from 0, as 0-47999.');
  const number = (text: string | undefined) =>
    text === undefined ? undefined : text.trim() === '' ? NaN : Number(text);
  const parsed = soundConversionSchema.safeParse({
    ...{ format, depth, dither, channels },
    ...{ stream: number(options.stream), rate: number(options.rate), bitrate: number(options.bitrate) },
    ...{ gain: number(options.gain), loudness: number(options.loudness), peak: number(options.peak) },
    ...(part ? { part: { from: Number(part[1]), to: Number(part[2]) + 1 } } : {}),
    existing: replace ? 'replace' : 'refuse',
  });
  if (parsed.success) return parsed.data;
  const { path, message } = parsed.error.issues[0]!;
  const option = path[0] === 'part' ? 'samples' : String(path[0]);
  throw notPossible(option, String(options[option as keyof SoundOptions]), `${message}.`);
}

const isFile = (path: string): Promise<boolean> =>
  stat(path).then(
    (told) => told.isFile(),
    () => false,
  );

const notThere = (name: string) =>
  new ShaleError({
    code: 'file-gone',
    fact: `${name} is not a file that exists.`,
    wayOut: 'Check its name and folder.',
    subject: name,
  });

/** Measures a sound over every sample. */
async function measured(path: string, stream: number | null, { pool, signal }: Session): Promise<SoundFacts> {
  const folder = await mkdtemp(join(tmpdir(), 'shale-sound-'));
  try {
    const to = join(folder, 'measured');
    await pool.run('soundScan', { file: { path, stream }, to }, { signal });
    return (await keptSound(to)).facts;
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

const lufs = (loudness: number | null) =>
  loudness === null ? 'loudness not measurable' : `${loudness.toFixed(1)} LUFS`;

function factsInWords(name: string, facts: SoundFacts): string {
  const { rate, channels, samples, depth, codec, loudness, range, truePeaks, sounds, silences, clipped, damaged } =
    facts;
  const bits = depth === 'coded' ? codec : depth === 'float' ? 'float' : `${depth} bits`;
  const count = (sample: number) => sample.toLocaleString('en-GB');
  return [
    name,
    `  ${bits}, ${rate / 1000} kHz, ${plural(channels, 'channel')}, ${count(samples)} samples (${(samples / rate).toFixed(3)} s)`,
    `  ${lufs(loudness)}${range === null ? '' : `, range ${range.toFixed(1)} LU`}, true peak ${printLevel(Math.max(0, ...truePeaks), 'dBTP')}`,
    sounds ? `  first sound at sample ${count(sounds.from)}, last at ${count(sounds.to - 1)}` : '  silent',
    ...(silences.count > 0 ? [`  silent in ${plural(silences.count, 'place')}`] : []),
    ...(clipped.count > 0
      ? [`  clipped in ${plural(clipped.count, 'place')}, ${plural(clipped.samples, 'sample')}`]
      : []),
    ...(damaged ? [`  damaged from sample ${count(damaged.at)}: ${damaged.fact}`] : []),
    '',
  ].join('\n');
}

function receiptInWords({ sentence, losses, gain, same, files }: SoundReceipt): string {
  return [
    sentence,
    ...losses.map((loss) => `  ${loss}`),
    ...(gain === 0 ? [] : [`  ${gain > 0 ? '+' : ''}${gain.toFixed(2)} dB`]),
    ...files.map(
      ({ name, bytes, loudness, truePeak }) =>
        `  ${name}: ${bytes.toLocaleString('en-GB')} bytes, ${lufs(loudness)}, true peak ${printLevel(truePeak, 'dBTP')}`,
    ),
    same === null ? '  Read back and measured.' : '  Read back: every sample is the one that was written.',
    '',
  ].join('\n');
}

/** Seconds as an exact fraction. @throws ShaleError `bad-option` */
function delayOf(text = '0'): { num: number; den: number } {
  const [, num, den] = /^(-?\d{1,7})\/(\d{1,7})$/.exec(text) ?? [];
  if (num !== undefined && Number(den) > 0) return { num: Number(num), den: Number(den) };
  if (/^-?\d{1,6}(\.\d{1,6})?$/.test(text)) return { num: Math.round(Number(text) * 1e6), den: 1e6 };
  const wayOut = 'Write seconds, as 0.5, or frames over their rate, as 12/24; below 0 it begins within the sound.';
  throw notPossible('delay', text, wayOut);
}

/** Writes a clip with other sound: each file becomes a track. */
async function putUnder(
  clip: string,
  named: readonly string[],
  options: SoundOptions,
  session: Session,
): Promise<void> {
  const { pool, out, signal } = session;
  const codec = swapCodecs.find((one) => one === options.codec);
  if (options.codec !== undefined && !codec)
    throw unknownValue('codec', options.codec, `Choose ${orWords(swapCodecs)}.`);
  for (const one of [clip, ...named]) if (!(await isFile(resolve(one)))) throw notThere(one);
  const { bitrate, existing, stream } = askedBy(options);
  const plan = planSwap(
    basename(clip),
    named.map((one) => basename(one)),
    soundSwapSchema.parse({ codec, delay: delayOf(options.delay), bitrate }),
    options.to ?? null,
  );
  if (options.dry || options.out === undefined) {
    out(options.json ? `${JSON.stringify(plan)}\n` : `${plan.sentence}\n`);
    return;
  }
  const sounds = named.map((one) => ({ path: resolve(one), stream }));
  const where = intoFolder(options.out);
  const work = { plan, path: resolve(clip), sounds, ...where, replaces: existing === 'replace' };
  const receipt = await runFew(pool, 'soundSwap', work, signal);
  const { sentence, name, bytes, pictures } = receipt;
  if (options.json) out(`${JSON.stringify(receipt)}\n`);
  else
    out(
      `${sentence}\n  ${name}: ${bytes.toLocaleString('en-GB')} bytes. Read back: ${plural(pictures, 'picture')}, each the clip\u2019s own.\n`,
    );
}

/** Measures sounds; with `--out` writes them as it is asked for. @returns the exit code */
export async function soundCommand(named: readonly string[], options: SoundOptions, session: Session): Promise<number> {
  const { pool, out, signal } = session;
  const asked = askedBy(options);
  if (options.under !== undefined) {
    try {
      await putUnder(options.under, named, options, session);
      return 0;
    } catch (error) {
      return refuse(session, problemOf(error));
    }
  }
  let code = 0;
  for (const one of named) {
    const path = resolve(one);
    try {
      if (!(await isFile(path))) throw notThere(one);
      const facts = await measured(path, asked.stream, session);
      if (options.out === undefined && !options.dry) {
        out(options.json ? `${JSON.stringify({ file: one, ...facts })}\n` : factsInWords(one, facts));
        continue;
      }
      const plan = planSound({ name: basename(one), stem: options.to ?? parse(one).name, facts }, asked);
      if (options.dry) {
        out(
          options.json
            ? `${JSON.stringify(plan)}\n`
            : `${[plan.sentence, ...plan.losses.map((loss) => `  ${loss}`)].join('\n')}\n`,
        );
        continue;
      }
      const work = { plan, path, ...intoFolder(options.out!), replaces: asked.existing === 'replace' };
      const receipt = await runFew(pool, 'soundWrite', work, signal);
      out(options.json ? `${JSON.stringify(receipt)}\n` : receiptInWords(receipt));
    } catch (error) {
      refuse(session, problemOf(error));
      code = named.length === 1 ? refused : 1;
    }
  }
  return code;
}
