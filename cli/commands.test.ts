import { cp, mkdir, mkdtemp, readdir, readFile, rm, stat, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Receipt } from '@shale/core';
import { outside, shale, shaleProcess } from './testing/outside.ts';

// Every command, called as the program calls it; one goes through a process of its own.

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-commands-'));
  await mkdir(join(folder, 'loop'));
  // Straight alpha by another library; frame 4 is missing.
  const made = { with: 'oiio', width: 24, height: 16, channels: 4 };
  outside([{ do: 'make', path: join(folder, 'loop', 'loop.%04d.png'), count: 6, ...made }]);
  for (const frame of [0, 4]) await rm(join(folder, 'loop', `loop.000${frame}.png`));
  await writeFile(join(folder, 'loop', 'notes.txt'), 'nothing');
  const hourAgo = new Date(Date.now() - 3_600_000);
  for (const name of await readdir(join(folder, 'loop'))) await utimes(join(folder, 'loop', name), hourAgo, hourAgo);
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const pattern = () => join(folder, 'loop', 'loop.####.png');
const declared = ['--alpha', 'straight', '--transfer', 'srgb'];

describe('scan', () => {
  const sequence = {
    folder: '',
    pattern: 'loop.####.png',
    frames: '1-3,5',
    count: 4,
    missing: '4',
    padding: 4,
    ...{ width: 24, height: 16, format: 'png', sample: 'u8', channels: ['R', 'G', 'B', 'A'], alpha: true },
    bytes: expect.any(Number),
    findings: [
      {
        code: 'missing-frames',
        severity: 'fault',
        sentence: 'Frame 4 is missing between the first and the last.',
        wayOut: expect.any(String),
      },
    ],
  };

  test('prints what is there as JSON, under the name that it was asked by', async () => {
    const { code, out, err } = await shale('scan', join(folder, 'loop'), '--json');
    expect([code, err]).toEqual([0, '']);
    expect(JSON.parse(out)).toEqual({
      root: join(folder, 'loop'),
      sequences: [sequence],
      clips: [],
      stills: [],
      sounds: [],
      other: [{ folder: '', name: 'notes.txt' }],
    });
  });

  test('a person says which number counts the frames, and a pattern says it by itself', async () => {
    const grid = join(folder, 'grid');
    await mkdir(grid);
    // Two by three files whose names say nothing of which number is the frame.
    outside([
      { do: 'make', path: join(grid, 'a1_%d.png'), count: 3, with: 'oiio', width: 8, height: 8, channels: 3 },
      { do: 'make', path: join(grid, 'a2_%d.png'), count: 3, with: 'oiio', width: 8, height: 8, channels: 3 },
    ]);
    const names = async (...more: string[]) => {
      const { out, code } = await shale('scan', grid, '--json', ...more);
      expect(code).toBe(0);
      const { sequences, stills } = JSON.parse(out) as { sequences: { pattern: string }[]; stills: { name: string }[] };
      return [...sequences.map((one) => one.pattern), ...stills.map((one) => one.name)];
    };
    expect(await names()).toEqual(['a1_#.png', 'a2_#.png']);
    expect(await names('--frame-number', '1')).toEqual(['a#_0.png', 'a#_1.png', 'a#_2.png']);
    expect(await names('--frame-number', '0')).toHaveLength(6);
    const { code, err } = await shale('scan', grid, '--frame-number', 'last');
    expect([code, err]).toEqual([2, expect.stringContaining('bad-option')]);
    const spec = join(folder, 'grid.json');
    await writeFile(
      spec,
      JSON.stringify({ version: 1, write: { format: 'png', sample: 'u8', alpha: 'none', transfer: 'srgb' } }),
    );
    const out = join(folder, 'turned');
    const made = await shale('convert', join(grid, 'a#_1.png'), '--spec', spec, '--out', out, '--transfer', 'srgb');
    expect([made.code, made.err]).toEqual([0, '']);
    expect((await readdir(out)).sort()).toEqual(['a.0001.png', 'a.0002.png']);
  });

  test('every picture is decoded where that is asked for, and damage answers 1', async () => {
    const whole = await shale('scan', join(folder, 'loop'), '--decode', '--json');
    expect(whole.code).toBe(0);
    expect((JSON.parse(whole.out) as { sequences: { decoded: number }[] }).sequences[0]!.decoded).toBe(4);
    const hurt = join(folder, 'hurt');
    await cp(join(folder, 'loop'), hurt, { recursive: true, preserveTimestamps: true });
    const path = join(hurt, 'loop.0003.png');
    const [bytes, { mtime }] = [await readFile(path), await stat(path)];
    bytes[Math.floor(bytes.length / 2)]! ^= 0xff;
    await writeFile(path, bytes);
    await utimes(path, mtime, mtime);
    expect((await shale('scan', hurt)).out).not.toContain('damaged');
    const found = await shale('scan', hurt, '--decode');
    expect([found.code, found.out]).toEqual([1, expect.stringContaining('Frame 3 damaged')]);
  });

  test('a damaged and an empty frame are treated as missing where that is chosen, and refused for a video where not', async () => {
    const hurt = join(folder, 'hold');
    await mkdir(hurt);
    outside([
      { do: 'make', path: join(hurt, 'bell.%04d.png'), count: 8, with: 'oiio', width: 32, height: 16, channels: 3 },
    ]);
    const path = join(hurt, 'bell.0003.png');
    const bytes = await readFile(path);
    bytes[Math.floor(bytes.length / 2)]! ^= 0xff;
    await writeFile(path, bytes);
    await writeFile(join(hurt, 'bell.0000.png'), '');
    const hourAgo = new Date(Date.now() - 3_600_000);
    for (const name of await readdir(hurt)) await utimes(join(hurt, name), hourAgo, hourAgo);
    const spec = join(folder, 'hold.json');
    const convert = async (more: object, out: string) => {
      const write = { format: 'ffv1', sample: 'u8', alpha: 'none', transfer: 'srgb' };
      await writeFile(spec, JSON.stringify({ version: 1, write, ...more }));
      return shale(
        'convert',
        join(hurt, 'bell.####.png'),
        '--spec',
        spec,
        '--out',
        join(folder, out),
        '--rate',
        '24',
        '--json',
      );
    };
    const refused = await convert({}, 'held-none');
    expect([refused.code, refused.err]).toEqual([2, expect.stringContaining('damaged-frames')]);
    const held = await convert({ damaged: 'as-missing', missing: 'hold' }, 'held');
    expect([held.code, held.err]).toEqual([0, '']);
    // The first has none before it: the one after stands for it. The other repeats the one before.
    const receipt = JSON.parse(held.out) as Receipt;
    expect(receipt.video).toMatchObject({ frames: 8 });
    expect(receipt.losses.map(({ sentence }) => sentence)).toContain('Frames 0, 3 are damaged and treated as missing');
    const stills = { write: { format: 'tiff', sample: 'u8', alpha: 'none', transfer: 'srgb' } };
    const left = await convert({ ...stills, damaged: 'as-missing' }, 'left');
    expect([left.code, left.err]).toEqual([0, '']);
    expect(await readdir(join(folder, 'left'))).toHaveLength(6);
    // One by one they fail, and all others are written.
    const failed = await convert(stills, 'failed');
    expect(failed.code).toBe(1);
    expect(await readdir(join(folder, 'failed'))).toHaveLength(6);
  });

  test('says it in lines', async () => {
    const { out } = await shale('scan', join(folder, 'loop'));
    expect(out).toContain('loop.####.png  1-3,5  [Frame 4 missing');
  });

  test('in a process of its own says the same', async () => {
    const [here, there] = await Promise.all([
      shale('scan', join(folder, 'loop'), '--json'),
      shaleProcess('scan', join(folder, 'loop'), '--json'),
    ]);
    expect(there).toEqual(here);
  });

  test('a folder without anything to read is told so, and no failure', async () => {
    const bare = join(folder, 'bare');
    await mkdir(bare, { recursive: true });
    await writeFile(join(bare, 'notes.txt'), 'x');
    const { code, out, err } = await shale('scan', bare);
    expect([code, out]).toEqual([0, '']);
    expect(err).toContain('Nothing in');
    expect(err).toContain('1 other file');
  });

  test('of a folder that is not there is refused', async () => {
    const { code, out, err } = await shale('scan', join(folder, 'nowhere'), '--json');
    expect([code, out]).toEqual([2, '']);
    expect(err).toMatch(/^shale: .*nowhere.*\n {2}.+ \([a-z-]+\)\n$/);
  });
});

describe('convert', () => {
  const convert = async (spec: object, ...more: string[]) => {
    const path = join(folder, 'spec.json');
    await writeFile(path, JSON.stringify(spec));
    return shale('convert', pattern(), '--spec', path, '--out', join(folder, 'out'), ...declared, ...more);
  };
  const write = { format: 'webp', sample: 'u8', alpha: 'straight', transfer: 'srgb' };
  const spec = { version: 1, frames: '1-3', write };

  test('prints the plan and writes nothing when it is asked dry', async () => {
    const { code, out } = await convert(spec, '--dry');
    expect(code).toBe(0);
    expect(out).toContain('loop.0001.png -> loop.0001.webp');
    await expect(readdir(join(folder, 'out'))).rejects.toMatchObject({ code: 'ENOENT' });
    const plan = JSON.parse((await convert(spec, '--dry', '--json')).out) as { files: number };
    expect(plan.files).toBe(3);
  });

  test('refuses what a spec does not have, by its field, before anything is written', async () => {
    for (const [picture, said] of [
      [{ crop: { left: 0, top: 0, width: 0, height: 5 } }, 'picture.crop.width'],
      [{ crop: { left: 0, top: 0, width: 60_000, height: 5 } }, 'The crop reaches to'],
      [{ resize: { to: { by: 'size', width: 100_000, height: null } } }, 'picture.resize'],
      [{ layer: 'depth' }, 'only its main picture'],
      [{ sharpen: 3 }, 'sharpen'],
    ] as const) {
      const { code, err } = await convert({ ...spec, picture });
      expect([code, err]).toEqual([2, expect.stringContaining(said)]);
    }
    expect((await convert({ ...spec, version: 2 })).err).toContain('version 2');
    expect((await convert({ ...spec, frames: '70-80' })).err).toContain('(no-frames)');
    expect((await shale('convert', pattern(), '--spec', join(folder, 'none.json'), '--out', folder)).code).toBe(2);
    expect((await shale('convert', pattern(), '--out', folder)).err).toContain('--spec');
    expect(await readdir(join(folder, 'out')).catch(() => [])).toEqual([]);
  });

  test('writes it, prints the receipt, and does not write over what is there', async () => {
    const { code, out } = await convert(spec, '--fit-content', '--json');
    expect(code).toBe(0);
    expect(JSON.parse(out) as Receipt).toMatchObject({ written: 3, failed: [], check: { identical: 3 } });
    expect(await readdir(join(folder, 'out'))).toHaveLength(3);
    const again = await convert(spec);
    expect([again.code, again.err]).toEqual([2, expect.stringContaining('(output-exists)')]);
    const { code: lines, out: said } = await convert({ ...spec, existing: 'replace' });
    expect(lines).toBe(0);
    expect(said).toContain('3 of 3 files written, 3 read back identical.');
  });

  test('carries out the cuts of an edit list over sources below a folder, or refuses all of it by its lines', async () => {
    const yard = join(folder, 'edit');
    for (const name of ['bell', 'depot']) await mkdir(join(yard, name), { recursive: true });
    const made = { with: 'oiio', count: 8, width: 32, height: 16, channels: 3 };
    outside([
      { do: 'make', path: join(yard, 'bell', 'bell.%04d.png'), ...made },
      { do: 'make', path: join(yard, 'depot', 'depot.%04d.png'), ...made },
    ]);
    const cut = (at: number, name: string, from: number, to: number, record: number) =>
      [
        `00${at}  AX  V  C  00:00:00:0${from} 00:00:00:0${to} 01:00:00:0${record} 01:00:00:0${record + to - from}`,
        `* FROM CLIP NAME: ${name}`,
      ].join('\n');
    const list = join(folder, 'yard.edl');
    const spec = join(folder, 'edit.json');
    await writeFile(
      spec,
      JSON.stringify({ version: 1, write: { format: 'tiff', sample: 'u8', alpha: 'none', transfer: 'srgb' } }),
    );
    const edit = (out: string, ...more: string[]) =>
      shale('convert', yard, '--edit', list, '--spec', spec, '--out', join(folder, out), '--rate', '24', ...more);
    await writeFile(list, `TITLE: Yard\n${cut(1, 'depot', 2, 5, 0)}\n${cut(2, 'bell', 0, 2, 3)}\n`);
    const { code, out, err } = await edit('edited', '--json');
    expect(code).toBe(0);
    expect(err).toContain('edit-no-timecode');
    expect(JSON.parse(out) as Receipt).toMatchObject({ written: 5 });
    expect(await readdir(join(folder, 'edited'))).toHaveLength(5);
    await writeFile(list, `TITLE: Yard\n${cut(1, 'depot', 2, 5, 0)}\n${cut(2, 'horse', 0, 2, 3)}\n`);
    const refused = await edit('edited-not');
    expect([refused.code, refused.err]).toEqual([2, expect.stringContaining('edit-reel-unknown')]);
    await expect(readdir(join(folder, 'edited-not'))).rejects.toMatchObject({ code: 'ENOENT' });
    const none = await shale('convert', yard, '--edit', spec, '--spec', spec, '--out', join(folder, 'edited-not'));
    expect([none.code, none.err]).toEqual([2, expect.stringContaining('list-unknown')]);
  });

  test('of which a frame cannot be read ends with 1, and names it', async () => {
    await writeFile(join(folder, 'loop', 'loop.0006.png'), 'no picture');
    const some = await convert({ ...spec, frames: '5-6', names: { stem: 'some' } });
    expect(some.code).toBe(1);
    expect(some.out).toContain('1 of 2 files written');
    expect(some.out).toContain('some.0006.webp: ');
    await rm(join(folder, 'loop', 'loop.0006.png'));
  });
});

describe('rename', () => {
  const names = async () => (await readdir(join(folder, 'cli'))).sort();
  const cli = () => join(folder, 'cli', 'cli_#.png');
  beforeAll(async () => {
    await mkdir(join(folder, 'cli'));
    const made = { with: 'oiio', width: 8, height: 4, channels: 3 };
    outside([{ do: 'make', path: join(folder, 'cli', 'cli_%d.png'), count: 13, ...made }]);
    await rm(join(folder, 'cli', 'cli_0.png'));
  });

  test('plans dry, carries out, and is undone', async () => {
    const dry = await shale('rename', cli(), '--digits', '4', '--separator', '.', '--first', '0', '--json');
    expect(dry.code).toBe(0);
    expect((JSON.parse(dry.out) as { rows: { to: string }[] }).rows[11]!.to).toBe(join(folder, 'cli', 'cli.0011.png'));
    expect(await names()).toContain('cli_1.png');
    expect((await shale('rename', cli(), '--digits', '4')).err).toContain('Nothing is renamed yet: add --go.');
    const done = await shale('rename', cli(), '--digits', '4', '--go', '--json');
    expect((await names())[0]).toBe('cli_0001.png');
    const { id } = JSON.parse(done.out) as { id: string };
    expect((await shale('receive', join(folder, 'cli'), '--receiver', 'archive')).out).toContain('It loads nothing.');
    const undone = await shale('undo', id);
    expect([undone.code, undone.err]).toEqual([0, 'shale: 12 files have their old names again.\n']);
    expect((await names())[0]).toBe('cli_1.png');
    expect((await shale('undo', id)).code).toBe(2);
    expect((await shale('undo', 'nothing')).err).toContain('(rename-not-found)');
  });

  test('refuses what is wrong with 2, and touches nothing', async () => {
    const refused = [
      ['--template', '{stem'],
      ['--receiver', 'nobody'],
      ['--first', 'one'],
      ['--find', 'tram'],
      ['--odd'],
    ];
    for (const args of refused) {
      const { code, err } = await shale('rename', cli(), ...args, '--go');
      expect(err).toMatch(/^(shale|error): /);
      expect(code).toBe(2);
    }
    expect((await names())[0]).toBe('cli_1.png');
  });

  test('by a receiver says what it would trip over, and keeps its rules', async () => {
    const { code, out, err } = await shale('rename', cli(), '--receiver', 'viewport-plate');
    expect(code).toBe(0);
    expect(out).toContain(`${join(folder, 'cli', 'cli_1.png')} -> ${join(folder, 'cli', 'cli.0000.png')}`);
    expect(err).toContain('3D viewport plate: ');
  });
});

test('what is no command, and a call for help, are answered', async () => {
  expect((await shale('dance')).code).toBe(2);
  const help = await shale('--help');
  expect(help.code).toBe(0);
  for (const command of ['scan', 'convert', 'rename', 'undo', 'receive']) expect(help.out).toContain(command);
});
