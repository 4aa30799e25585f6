import { resolve } from 'node:path';
import { Command, CommanderError } from 'commander';
import { problemOf, ruleWordSchema, ShaleError } from '@shale/core';
import { convertCommand, type ConvertOptions } from './convert.ts';
import { receiveCommand, renameCommand, undoCommand, type RenameOptions } from './rename.ts';
import { scanCommand } from './scan.ts';
import { refuse, refused, type Session } from './session.ts';
import { verifyCommand, type VerifyOptions } from './verify.ts';

/** @throws ShaleError `bad-option` */
function frameNumberOf(text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  const parsed = /^-?\d{1,2}$/.test(text) ? ruleWordSchema.safeParse({ frameNumber: Number(text) }) : undefined;
  if (parsed?.success) return parsed.data.frameNumber;
  throw new ShaleError({
    code: 'bad-option',
    fact: `--frame-number ${text} is not the place of a number.`,
    wayOut: 'Write 1 for the first number of a name, -1 for the last, 0 if none counts frames.',
    subject: 'frame-number',
  });
}

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

  program
    .command('convert')
    .description('converts one sequence by a spec')
    .argument('<pattern>', 'folder and pattern, as shots/pan.####.exr')
    .requiredOption('--spec <file>', 'the spec, as JSON, or a file of specs that the page exported')
    .option('--named <name>', 'which of the specs in the file')
    .requiredOption('--out <folder>', 'where the results go')
    .option('--rate <rate>', 'declares the rate, as 24 or 24000/1001')
    .option('--alpha <kind>', 'declares alpha: none, straight, premultiplied or ignore')
    .option(
      '--transfer <curve>',
      'declares the transfer: srgb, linear, bt709, gamma-2.2, gamma-2.4, film-log, pq or hlg',
    )
    .option('--primaries <name>', 'declares the primaries: bt709, p3, bt2020 or acescg')
    .option('--every-layer', 'makes a sequence of the main picture and of every layer, {layer} in their names')
    .option('--fit-content', 'crops to all that is not clear in any frame')
    .option(
      '--edit <file>',
      'an edit list (EDL, OTIO): its cuts follow one another; <pattern> is the folder of its sources',
    )
    .option('--markers <file>', 'an edit list or a table of markers, for stills at them')
    .option('--dry', 'print the plan and write nothing')
    .option('--json', 'print the receipt, or the plan, as JSON')
    .action((pattern: string, options: ConvertOptions) => done(convertCommand(pattern, options, session)));

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
    .option('--separator <character>', 'what stands before the number')
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
    .option('--manifest <file>', 'which one; the newest in the folder where none is named')
    .option('--json', 'print JSON')
    .action((folder: string, options: VerifyOptions) => done(verifyCommand(folder, options, session)));

  try {
    await program.parseAsync([...args], { from: 'user' });
    return code;
  } catch (error) {
    // What commander refuses it has told already.
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : refused;
    return refuse(session, problemOf(error));
  }
}
