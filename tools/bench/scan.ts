import { mkdirSync, readdirSync, lstatSync, rmSync, writeFileSync } from 'node:fs';
import { lstat, mkdtemp, readdir, readFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { crc32 } from 'node:zlib';
import { groupNames } from '@shale/core';
import { listFolder, momentNow, scanFolder, WorkerPool } from '@shale/engine';
import { middle } from './measuring.ts';

const rounds = 5;

/** A 1 x 1 PNG with a comment that makes each file another, as small as files of frames get. */
function tinyPng(seed: number): Buffer {
  const chunk = (type: string, data: Buffer): Buffer => {
    const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
    const whole = Buffer.alloc(body.length + 8);
    whole.writeUInt32BE(data.length, 0);
    body.copy(whole, 4);
    whole.writeUInt32BE(crc32(body), whole.length - 4);
    return whole;
  };
  const header = Buffer.from([0, 0, 0, 1, 0, 0, 0, 1, 8, 0, 0, 0, 0]);
  const data = Buffer.from([0x78, 0x9c, 0x63, 0x60, 0x00, 0x00, 0x00, 0x02, 0x00, 0x01]);
  const signature = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
  const comment = chunk('tEXt', Buffer.from(`n\0${seed}${'.'.repeat(seed % 40)}`));
  return Buffer.concat([
    signature,
    chunk('IHDR', header),
    comment,
    chunk('IDAT', data),
    chunk('IEND', Buffer.alloc(0)),
  ]);
}

/** Files of a folder for the bench: frames of one sequence, or names that make none. */
export function putTiny(folder: string, count: number, name: (at: number) => string): void {
  mkdirSync(folder, { recursive: true });
  for (let at = 0; at < count; at += 1) writeFileSync(join(folder, name(at)), tinyPng(at));
}

/** What must be done whatever one makes of it: the names, and each file's size and time. */
function bare(folder: string): number {
  let bytes = 0;
  for (const entry of readdirSync(folder, { withFileTypes: true })) bytes += lstatSync(`${folder}/${entry.name}`).size;
  return bytes;
}

async function bareAsync(folder: string): Promise<void> {
  const names = await readdir(folder);
  for (let at = 0; at < names.length; at += 128)
    await Promise.all(names.slice(at, at + 128).map((name) => lstat(join(folder, name))));
}

function time(work: () => unknown): number {
  const start = performance.now();
  work();
  return performance.now() - start;
}

/** Listing a folder and sorting it out, against the bare calls; then with every header, through the processes. */
async function scans(folder: string, counts: number[]): Promise<void> {
  console.log('Scanning one folder of frames; bare is readdir and lstat of every file by the quickest calls there are');
  const pool = new WorkerPool(2);
  pool.warm();
  for (const count of counts) {
    const frames = join(folder, `frames-${count}`);
    putTiny(frames, count, (at) => `pan.${String(at).padStart(6, '0')}.png`);
    bare(frames);
    listFolder(frames, '', momentNow());
    const pairs = Array.from({ length: rounds }, () => [
      time(() => listFolder(frames, '', momentNow())),
      time(() => bare(frames)),
    ]);
    const ours = middle(pairs.map(([time]) => time!));
    const theirs = middle(pairs.map(([, time]) => time!));
    const start = performance.now();
    await bareAsync(frames);
    const asked = performance.now() - start;
    const first = performance.now();
    const kept = () => join(folder, `kept-${count}.bin`);
    let early = 0;
    for await (const scanned of scanFolder(frames, '', pool, { readingsOf: kept }))
      if (scanned.unfinished) early = performance.now() - first;
    const whole = performance.now() - first;
    const second = performance.now();
    for await (const _ of scanFolder(frames, '', pool, { readingsOf: kept }));
    const again = performance.now() - second;
    console.log(
      `  ${String(count).padStart(7)} files  listed and sorted ${ours.toFixed(0)} ms, bare ${theirs.toFixed(0)} ms, ratio ${middle(pairs.map(([a, b]) => a! / b!)).toFixed(2)}` +
        ` (bare by promises ${asked.toFixed(0)} ms)\n                 with every header and end ${whole.toFixed(0)} ms${early ? `, first seen after ${early.toFixed(0)} ms` : ''}; again, nothing changed ${again.toFixed(0)} ms`,
    );
  }
  await pool.close();
}

/** Names alone, a million of them as a listing gives them: in no order. */
function grouping(): void {
  const count = 1_000_000;
  const mixed = (name: (at: number) => string) =>
    Array.from({ length: count }, (_, at) => Buffer.from(name((at * 7919) % count)).toString());
  const pad = (at: number) => String(at).padStart(7, '0');
  const folders: [string, string[]][] = [
    ['one sequence', mixed((at) => `depot_pan_v02.${pad(at)}.exr`)],
    [
      '100 sequences',
      mixed((at) => `shot_${'abcdefghij'[at % 10]}${'abcdefghij'[Math.floor(at / 10) % 10]}.${pad(at)}.exr`),
    ],
    ['8 cameras, two runs that vary', mixed((at) => `cam${at % 8}_pan.${pad(at)}.exr`)],
  ];
  console.log(`\nGrouping ${count.toLocaleString('en-GB')} names`);
  for (const [words, names] of folders) {
    const times = Array.from({ length: 3 }, () => time(() => groupNames(names)));
    console.log(
      `  ${words}: ${(Math.min(...times) / 1000).toFixed(2)} s at best, ${Math.round((count * 1000) / Math.min(...times)).toLocaleString('en-GB')} names/s`,
    );
  }
}

/** Header facts of the demo's own frames, against opening each and reading its first 16 KiB. */
async function headers(demo: string): Promise<void> {
  const folders = [
    'plates/depot_pan',
    'turntables/bell_turn',
    'yard_cams/yard_cam_a',
    'walks/conductor_walk_12fps',
    'plates/timetable_scan',
  ];
  console.log('\nHeaders and ends of 1,000 files, on one process of two');
  const pool = new WorkerPool(2);
  pool.warm();
  for (const folder of folders) {
    const at = join(demo, folder);
    const names = await readdir(at);
    const many = Array.from({ length: 1000 }, (_, index) => names[index % names.length]!);
    const bytes = many.map((name) => lstatSync(join(at, name)).size);
    const modified = many.map((name) => lstatSync(join(at, name)).mtimeMs);
    const look = () => pool.run('look', { folder: at, names: many, bytes, modified });
    await look();
    const start = performance.now();
    await look();
    const ours = performance.now() - start;
    const from = performance.now();
    for (const name of many) await readFile(join(at, name));
    console.log(
      `  ${folder.split('/').pop()!.padEnd(24)} ${ours.toFixed(0)} ms, ${Math.round(1e6 / ours).toLocaleString('en-GB')} files/s; reading them whole takes ${(performance.now() - from).toFixed(0)} ms`,
    );
  }
  await pool.close();
}

/** The bench of Intake's work without a page. */
export async function scanBench(demo: string): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'shale-scan-'));
  try {
    await scans(folder, [1000, 10_000, 100_000]);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
  grouping();
  await headers(demo);
}
