import { cpus } from 'node:os';
import { resolve } from 'node:path';
import { Command } from 'commander';
import { spansPerProcess, WorkerPool } from '@shale/engine';
import { problemOf } from '@shale/core';
import { convertCommand } from './convert.ts';
import { scanCommand } from './scan.ts';

/** Exit codes: 0 done, 1 some frames failed, 2 refused before anything was written. */
const refused = 2;

async function withPool(work: (pool: WorkerPool) => Promise<number>): Promise<void> {
  const pool = new WorkerPool(cpus().length, {}, spansPerProcess);
  try {
    process.exitCode = await work(pool);
  } catch (error) {
    const { code, fact, wayOut } = problemOf(error);
    process.stderr.write(`shale: ${fact}\n  ${wayOut} (${code})\n`);
    process.exitCode = refused;
  } finally {
    await pool.close();
  }
}

const program = new Command('shale')
  .description('Finds, checks and converts numbered frame sequences.')
  .showHelpAfterError()
  .exitOverride((error) => process.exit(error.exitCode === 0 ? 0 : refused));

program
  .command('scan')
  .description('lists the sequences, clips, stills and sounds below a folder')
  .argument('<folder>')
  .option('--json', 'print JSON')
  .action((folder: string, options: { json?: boolean }) =>
    withPool((pool) => scanCommand(resolve(folder), { ...options, shown: folder }, pool)),
  );

program
  .command('convert')
  .description('converts one sequence by a spec')
  .argument('<pattern>', 'folder and pattern, as shots/pan.####.exr')
  .requiredOption('--spec <file>', 'the spec, as JSON')
  .requiredOption('--out <folder>', 'where the results go')
  .option('--rate <rate>', 'declares the rate, as 24 or 24000/1001')
  .option('--alpha <kind>', 'declares alpha: none, straight, premultiplied or ignore')
  .option('--transfer <curve>', 'declares the transfer: srgb or linear')
  .option('--dry', 'print the plan and write nothing')
  .option('--json', 'print the receipt, or the plan, as JSON')
  .action((pattern: string, options) => withPool((pool) => convertCommand(pattern, options, pool)));

await program.parseAsync();
