import { resolve } from 'node:path';
import { Argument, Command, CommanderError } from 'commander';
import { problemOf, ruleWordSchema, ShaleError } from '@shale/core';
import { completionFor } from './completion.ts';
import { convertCommand } from './convert.ts';
import type { ConvertOptions } from './options.ts';
import { receiveCommand, renameCommand, undoCommand, type RenameOptions } from './rename.ts';
import { scanCommand } from './scan.ts';
import { refuse, refused, type Session } from './session.ts';
import { soundCommand, type SoundOptions } from './sound.ts';
import { verifyCommand, type VerifyOptions } from './verify.ts';

/** @throws ShaleError `bad-option` */
function frameNumberOf(text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  const parsed = /^-?\d{1,2}$/.test(text) ? ruleWordSchema.safeParse({ frameNumber: Number(text) }) : undefined;
  if (parsed?.success) return parsed.data.frameNumber;
  throw new ShaleError({
    code: 'bad-option',
    fact: `--frame-number ${text} is not a position of a number.`,
    wayOut: 'Write 1 for the first number of a name, -1 for the last, 0 if none counts frames.',
    subject: 'frame-number',
  });
}

/** What convert and plan are asked with alike. */
const converting = (command: Command): Command =>
  command
    .argument('<sources...>', 'folders, files, patterns as shots/pan.####.exr, or names with wildcards in quotes')
    .option('--out <folder>', 'where the results go; fields are filled in, as results/{folder}')
    .option('--to <name>', 'their name: a stem, or with its fields, as {stem}_v2.{frame:4}.{ext}')
    .option(
      '--format <format>',
      'png, exr, tiff, jpeg, tga, dpx, webp, h264, prores4444, gif, apng, webpanim, lottie, sheet and others',
    )
    .option('--depth <depth>', '8, 10, 12, 16, half or float')
    .option('--scale <size>', '50%, 1280x720, 1280x or x720')
    .option('--frames <ranges>', 'as 1-50,60')
    .option(
      '--crop <box>',
      'fit: to all that is not clear in any frame; centred: the same, centred; or a box as 640x360+10+20',
    )
    .option('--quality <number>', 'of lossy stills, 1 to 100; of videos as their codec counts')
    .option(
      '--limit <bytes>',
      'of a small moving picture, such as 256KB: size, colours and quality are reduced until it fits',
    )
    .option('--give <floors>', 'what may be reduced for the limit, and how far: size=20,colours=32:2,rate=12')
    .option('--lossless', 'keeps every sample where a format can do both')
    .option('--colours <number>', 'of a GIF, 2 to 256')
    .option('--dither <kind>', 'of a GIF: none, ordered, floyd-steinberg, sierra, burkes, atkinson and others')
    .option('--plays <times>', 'how often a GIF, an animated PNG or WebP plays: a number, or forever')
    .option('--container <name>', 'mp4, mov or mxf where a codec goes into several; png or webp of a sprite sheet')
    .option('--side <pixels>', 'of a sprite sheet: the most pixels of a side of its picture')
    .option('--back', 'there and back: the frames, then once more to the second, backwards')
    .option('--odd-size <way>', 'if a codec needs even sides: pad repeats the last line, crop cuts it off')
    .option('--write-alpha <kind>', 'how alpha is written: straight, premultiplied, none or matte')
    .option('--spec <file...>', 'a spec, or several for several outputs, as JSON or as the page exported them')
    .option('--named <name>', 'which of the specs in the file')
    .option('--receiver <name>', 'keeps the rules of a receiver: the id of a shipped one, or a JSON file')
    .option('--rate <rate>', 'declares the rate, as 24 or 24000/1001')
    .option('--alpha <kind>', 'declares alpha: none, straight, premultiplied or ignore')
    .option(
      '--transfer <curve>',
      'declares the transfer: srgb, linear, bt709, gamma-2.2, gamma-2.4, film-log, pq or hlg',
    )
    .option('--primaries <name>', 'declares the primaries: bt709, p3, bt2020 or acescg')
    .option('--every-layer', 'makes a sequence of the main picture and of every layer, {layer} in their names')
    .option('--fit-content', 'the same as --crop fit')
    .option(
      '--edit <file>',
      'an edit list (EDL, OTIO): its cuts follow one another; the folder of its sources is named',
    )
    .option('--markers <file>', 'an edit list or a table of markers, for stills at them')
    .option('--replace', 'replaces files that have the names of results')
    .option('--json', 'print receipts, or plans, as JSON: of several one a line');

const convertExamples = `
Examples:
  shale convert shots/pan.####.exr --format png --depth 8 --out results
  shale convert shots --format h264 --rate 24 --to '{folder}_review.mp4' --out reviews
  shale convert loop --format gif --scale 50% --colours 64 --out small
  shale convert 'shots/*.exr' --format png --scale 50% --out 'small/{folder}'
  shale convert shots --spec frames.json review.json --only-new --out 'results/{folder}'
`;

/** Does what a command line says. @param args without the program's own name @returns the exit code */
export async function runCommand(args: readonly string[], session: Session): Promise<number> {
  const program = new Command('shale')
    .description('Finds, checks and converts numbered frame sequences.')
    .showHelpAfterError()
    .configureOutput({ writeOut: session.out, writeErr: session.err })
    .exitOverride();
  let code = 0;
  const done = async (work: Promise<number>): Promise<void> => {
    code = await work;
  };

  program
    .command('scan')
    .description('lists the sequences, clips, stills and sounds below a folder')
    .argument('<folder>')
    .option(
      '--frame-number <number>',
      'which number of a name counts the frames: 1 for the first, -1 for the last, 0 for none',
    )
    .option('--decode', 'decodes every picture, and tells of those that are damaged')
    .option('--json', 'print JSON')
    .action((folder: string, options: { json?: boolean; decode?: boolean; frameNumber?: string }) => {
      const frameNumber = frameNumberOf(options.frameNumber);
      return done(scanCommand(resolve(folder), { ...options, frameNumber, shown: folder }, session));
    });

  converting(program.command('convert').description('converts sequences, clips and stills'))
    .option('--only-new', 'makes what is missing or changed since the command line made it last')
    .option('--watch', 'goes on until it is stopped: what comes is made once it is whole')
    .option('--skip', 'leaves out sources that cannot run, instead of refusing all')
    .option('--dry', 'print the plans and write nothing, as shale plan does')
    .addHelpText('after', convertExamples)
    .action((named: string[], options: ConvertOptions) => done(convertCommand(named, options, session)));

  converting(program.command('plan').description('prints what convert would write, and writes nothing')).action(
    (named: string[], options: ConvertOptions) => done(convertCommand(named, { ...options, dry: true }, session)),
  );

  program
    .command('rename')
    .description('gives files new names; prints them and does nothing without --go')
    .argument(
      '<patterns...>',
      'folder and pattern each, as shots/pan.####.exr, in the order in which they are counted and joined',
    )
    .option('--rules <file>', 'a stack of naming rules, as JSON, or a file of them that the page exported')
    .option('--named <name>', 'which of the naming rules in the file')
    .option('--template <name>', 'the form of the name, as {stem}.{frame:4}.{ext}')
    .option('--first <number>', 'the first number')
    .option('--step <number>', 'from one number to the next')
    .option('--digits <number>', 'digits at least, or auto: as many as the range needs')
    .option('--close-gaps', 'counts on where a frame is missing')
    .option('--separator <character>', 'what comes before the number')
    .option('--find <text>', 'text to find in the stem')
    .option('--with <text>', 'what it becomes', '')
    .option('--expression', '--find is an RE2 expression')
    .option('--case <kind>', 'lower, upper or words')
    .option('--plain', 'letters and digits without accents')
    .option('--rate <rate>', 'declares the rate, for {rate}')
    .option('--receiver <name>', 'keeps the rules of a receiver: the id of a shipped one, or a JSON file')
    .option('--copy', 'copies, with --into')
    .option('--link', 'hard links, with --into')
    .option('--move', 'moves, with --into')
    .option('--into <folder>', 'another folder, with fields as {stem}')
    .option('--join', 'one numbering over all')
    .option('--go', 'carries it out')
    .option('--json', 'print JSON')
    .action((patterns: string[], options: RenameOptions) => done(renameCommand(patterns, options, session)));

  program
    .command('sound')
    .description('measures sounds, of clips too; with --out writes them as WAV, FLAC, AAC or Opus')
    .argument('<files...>')
    .option('--out <folder>', 'where the results go')
    .option('--to <stem>', 'their name without its ending')
    .option('--format <format>', 'wav, flac, aac or opus')
    .option('--depth <depth>', '16, 24, float or source')
    .option('--dither <kind>', 'triangular or none')
    .option('--rate <rate>', 'samples a second, as 48000')
    .option('--channels <kind>', 'keep, mono, stereo or split: a file for each channel')
    .option('--gain <decibels>', 'louder, or quieter below 0')
    .option('--loudness <LUFS>', 'brings it to a loudness by EBU R 128, as -23')
    .option('--peak <dBTP>', 'the highest true peak that a loudness may lead to; -1 by default')
    .option('--bitrate <kilobits>', 'a second, of AAC and Opus')
    .option('--stream <number>', 'which stream of sound, from 1')
    .option('--samples <range>', 'a part, as 0-47999')
    .option(
      '--under <clip>',
      'writes this clip with the files as its sound, each a track; its pictures are not coded again',
    )
    .option('--delay <seconds>', 'by which they begin later there: 0.5, or frames over their rate as 12/24')
    .option('--codec <codec>', 'of sound in a clip: aac or pcm in MOV; others have one of their own')
    .option('--replace', 'replaces files that have the names of results')
    .option('--dry', 'prints what would be written, and writes nothing')
    .option('--json', 'print JSON, a line for each')
    .action((files: string[], options: SoundOptions) => done(soundCommand(files, options, session)));

  program
    .command('undo')
    .description('brings the old names of a rename back')
    .argument('<id>')
    .option('--rest', 'undoes what can be undone where something was touched since')
    .action((id: string, options: { rest?: boolean }) => done(undoCommand(id, options, session)));

  program
    .command('receive')
    .description('opens a folder strictly by the rules of a receiver and says what it would load')
    .argument('<folder>')
    .requiredOption('--receiver <name>', 'the id of a shipped one, or a JSON file')
    .option('--json', 'print JSON')
    .action((folder: string, options: { receiver: string; json?: boolean }) =>
      done(receiveCommand(folder, options, session)),
    );

  program
    .command('verify')
    .description('holds the files of a folder against its manifest: sums as sha256sum writes them, or an ASC hash list')
    .argument('<folder>')
    .option('--manifest <file>', 'which one; by default the newest in the folder')
    .option('--json', 'print JSON')
    .action((folder: string, options: VerifyOptions) => done(verifyCommand(folder, options, session)));

  program
    .command('completion')
    .description('prints what a shell needs to complete commands and options: eval "$(shale completion bash)"')
    .addArgument(new Argument('<shell>').choices(['bash', 'zsh']))
    .action((shell: 'bash' | 'zsh') => session.out(completionFor(shell, program)));

  try {
    await program.parseAsync([...args], { from: 'user' });
    return code;
  } catch (error) {
    // What commander refuses it has told already.
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : refused;
    return refuse(session, problemOf(error));
  }
}
