import { execFileSync } from 'node:child_process';
import { mkdir, readdir, rename, rm, stat, symlink } from 'node:fs/promises';
import { setTimeout as wait } from 'node:timers/promises';
import { writeStill } from '@shale/media';
import type { Work } from './carry-out.ts';
import { frameOf, settings, wanted, Yard } from './testing.ts';

let yard: Yard;
beforeAll(async () => {
  yard = await Yard.make();
});
beforeEach(() => yard.clear());
afterAll(() => yard.leave());

describe('source files that become others', () => {
  /** Another picture of the very size, under the same name. */
  const replace = async (frame: number) => {
    const other = yard.at('other.png');
    await writeStill(other, 'png', frameOf(frame + 100), { ...settings, effort: 9 });
    await rename(other, yard.at('in', `f_${frame}.png`));
  };

  test('between scan and run forbid it, and are named; by choice they are taken, and told', async () => {
    await yard.putFrames(5);
    const plan = await yard.planOf();
    await wait(20);
    await replace(3);
    await expect(yard.carry(plan)).rejects.toMatchObject({
      code: 'source-changed',
      fact: 'f_#.png changed since it was scanned; 1 file is newer: f_3.png.',
    });
    const { written, failed } = await yard.carry(plan, { takesChanged: true });
    expect(failed).toEqual([]);
    const told = written.sort((a, b) => a.index - b.index).map(({ sources }) => sources[0]!);
    expect(told.map(({ file, changed }) => [file, changed ?? false])).toEqual(
      [1, 2, 3, 4, 5].map((frame) => [`f_${frame}.png`, frame === 3]),
    );
    for (const { file, sum, bytes } of told) {
      const path = yard.at('in', file);
      const [theirs] = execFileSync('xxh128sum', [path], { encoding: 'utf8' }).split(' ');
      expect([sum, bytes]).toEqual([`xxh128:${theirs}`, (await stat(path)).size]);
    }
  });

  test('in the middle of a job stop their own frames alone', async () => {
    await yard.putFrames(60, 64);
    const plan = await yard.planOf();
    let replaced: Promise<void> | undefined;
    const { written, failed } = await yard.carry(plan, {
      onWritten: ({ index }) => {
        if (index < 50) replaced ??= replace(60);
      },
    });
    await replaced;
    expect(failed).toMatchObject([{ code: 'source-changed', sourceFrame: 60 }]);
    expect(written).toHaveLength(59);
  });

  test('a source folder that goes away stops the job once, and it goes on when that is back', async () => {
    await yard.putFrames(60, 64);
    const plan = await yard.planOf();
    let gone: Promise<void> | undefined;
    let stamps: Work['stamps'];
    const settled = new Set<number>();
    const first = yard.carry(plan, {
      onStamps: (taken) => void (stamps = taken),
      onWritten: ({ index }) => {
        settled.add(index);
        gone ??= rename(yard.at('in'), yard.at('away'));
      },
    });
    await expect(first).rejects.toMatchObject({ code: 'folder-gone' });
    await gone;
    await expect(yard.carry(plan, { stamps, settled })).rejects.toMatchObject({ code: 'folder-gone' });
    // The empty place of a disk that is gone is not taken for it.
    await mkdir(yard.at('in'));
    const { failed } = await yard.carry(plan, {
      stamps,
      settled: new Set([...settled, 57, 58, 59].filter((at) => at < 59)),
    });
    expect(failed.every(({ code }) => code === 'file-gone')).toBe(true);
    await rm(yard.at('in'), { recursive: true });
    await rename(yard.at('away'), yard.at('in'));
    const last = await yard.carry(plan, { stamps, settled });
    expect([last.failed, last.names.length]).toEqual([[], 60]);
  });
});

test('a target folder whose name becomes a link out of its root takes nothing there', async () => {
  await yard.putFrames(40, 64);
  await mkdir(yard.at('out', 'shot'));
  await mkdir(yard.at('outside'));
  const plan = await yard.planOf({ ...wanted, into: { root: 'out', folder: 'shot' } });
  let swapped: Promise<void> | undefined;
  await yard
    .carry(plan, {
      onWritten: () => {
        swapped ??= rename(yard.at('out', 'shot'), yard.at('out', 'moved')).then(() =>
          symlink('../outside', yard.at('out', 'shot')),
        );
      },
    })
    .catch((error: { code: string }) => expect(['outside-root', 'folder-gone']).toContain(error.code));
  await swapped;
  expect(await readdir(yard.at('outside'))).toEqual([]);
  expect((await readdir(yard.at('out', 'moved'))).filter((name) => name.endsWith('.part'))).toEqual([]);
});

test('a source frame whose name becomes a link out of its root is not read', async () => {
  await yard.putFrames(3);
  const plan = await yard.planOf();
  await rename(yard.at('in', 'f_2.png'), yard.at('secret.png'));
  await symlink('../secret.png', yard.at('in', 'f_2.png'));
  const { failed, written } = await yard.carry(plan, { takesChanged: true });
  expect(failed).toMatchObject([{ code: 'outside-root', sourceFrame: 2 }]);
  expect(written).toHaveLength(2);
});
