import {
  existsSync,
  linkSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { realDisk } from '../disk/disk.ts';
import { carryOutRename, Died, type RenameWork } from './carry.ts';
import { readRecord, stepOf } from './journal.ts';
import { MemoryDisk } from './memoryDisk.ts';
import { renameOrder } from './order.ts';
import { recoverRenames } from './recover.ts';
import { planUndo } from './undo.ts';
import { runs } from '@shale/core/testRuns.ts';

const nobody = () => false;
const journals = '/journals';

interface Case {
  mode: 'rename' | 'copy' | 'link' | 'move';
  /** Whether the target root is another disk. */
  across: boolean;
  there: string[];
  rows: [string, string][];
}

const name = fc.constantFrom('a', 'b', 'c', 'd', 'e', 'f', 'A');
const folder = fc.constantFrom('', 'x/', 'x/y/');
const path = fc.tuple(folder, name).map(([place, own]) => place + own);

/** A random rename that a plan would let through: every target is free once all that leave have left. */
const cases: fc.Arbitrary<Case> = fc
  .record({
    mode: fc.constantFrom('rename' as const, 'copy' as const, 'link' as const, 'move' as const),
    across: fc.boolean(),
    there: fc.uniqueArray(path, { minLength: 1, maxLength: 8 }),
    to: fc.uniqueArray(path, { minLength: 8, maxLength: 8 }),
    take: fc.nat(7),
  })
  .map(({ mode, across, there, to, take }) => {
    const away = mode === 'move' && across;
    const sources = there.slice(0, take + 1);
    let rows = sources
      .map((from, at): [string, string] => [from, to[at]!])
      .filter(([from, target]) => away || from !== target);
    const leaves = mode === 'rename' || (mode === 'move' && !across);
    for (let again = true; again;) {
      const leaving = new Set(leaves ? rows.map(([from]) => from) : []);
      const fit = away ? rows : rows.filter(([, target]) => !there.includes(target) || leaving.has(target));
      again = fit.length < rows.length;
      rows = fit;
    }
    return { mode, across: away, there, rows };
  })
  .filter(({ rows }) => rows.length > 0);

const rootsOf = ({ across }: Case): [string, string] => (across ? ['/one', '/two'] : ['/one', '/one']);

function diskFor(one: Case): MemoryDisk {
  const disk = new MemoryDisk((at) => (at.startsWith('/two') ? 2 : 1));
  disk.folders.add('/one').add('/two');
  for (const at of one.there) disk.put(`/one/${at}`, `holds ${at}`);
  return disk;
}

function workOf(one: Case): RenameWork {
  const [from, into] = rootsOf(one);
  const rows = { from: one.rows.map(([old]) => old), to: one.rows.map(([, next]) => next) };
  return { id: 'r1', mode: one.mode, from, into, roots: ['one', 'two'], rows, sentence: 'test' };
}

/** The tree that a rename should leave, worked out without it. */
function wanted(one: Case): string[] {
  const disk = diskFor(one);
  const [, into] = rootsOf(one);
  const moved = one.rows.map(([from]) => disk.files.get(`/one/${from}`)!);
  if (one.mode === 'rename' || one.mode === 'move') for (const [from] of one.rows) disk.files.delete(`/one/${from}`);
  one.rows.forEach(([, to], at) => disk.put(`${into}/${to}`, moved[at]!.holds));
  return disk.tree();
}

/** Cheaper than a matcher where it holds, as it does a hundred thousand times. */
const same = (one: string[], other: string[]): boolean => one.join('\n') === other.join('\n');

async function dead(work: () => Promise<unknown>): Promise<boolean> {
  try {
    await work();
    return false;
  } catch (error) {
    if (!(error instanceof Died)) throw error;
    return true;
  }
}

test('killed at any step, and again while it recovers: the old names or the new ones, and undone to the old', async () => {
  let kills = 0;
  await fc.assert(
    fc.asyncProperty(cases, fc.nat(12), async (one, again) => {
      const before = diskFor(one).tree();
      const after = wanted(one);
      for (let dies = 1; ; dies += 1) {
        const disk = diskFor(one);
        disk.dies = dies;
        const killed = await dead(() => carryOutRename(workOf(one), { disk, journals }));
        if (killed) {
          kills += 1;
          // The first start after it is killed as well, at some step of its own.
          disk.revive(again + 1);
          await dead(() => recoverRenames(disk, journals, nobody));
          disk.revive();
          await recoverRenames(disk, journals, nobody);
        }
        disk.revive();
        const now = disk.tree();
        const record = await readRecord(disk, journals, 'r1');
        const done = record !== undefined && stepOf(record, 'done') !== undefined;
        if (!same(now, done ? after : before)) expect(now).toEqual(done ? after : before);
        if (!killed) expect(done).toBe(true);
        if (done) {
          const { work, problems } = await planUndo(record, disk, 'r2', false);
          if (problems.length > 0) expect(problems).toEqual([]);
          await carryOutRename(work, { disk, journals });
          if (!same(disk.tree(), before)) expect(disk.tree()).toEqual(before);
          if (!killed)
            await expect(planUndo((await readRecord(disk, journals, 'r1'))!, disk, 'r3', false)).rejects.toMatchObject({
              code: 'not-undoable',
            });
        }
        if (!killed) break;
      }
    }),
    { numRuns: runs(1200) },
  );
  expect(kills).toBeGreaterThan(runs(1200) * 8);
}, 180_000);

test('an undo that is killed at any step leaves the new names or the old ones', async () => {
  await fc.assert(
    fc.asyncProperty(cases, async (one) => {
      const before = diskFor(one).tree();
      for (let dies = 1; ; dies += 1) {
        const disk = diskFor(one);
        const record = await carryOutRename(workOf(one), { disk, journals });
        const after = disk.tree();
        const { work } = await planUndo(record, disk, 'r2', false);
        disk.revive(dies);
        const killed = await dead(() => carryOutRename(work, { disk, journals }));
        disk.revive();
        await recoverRenames(disk, journals, nobody);
        const undone = stepOf((await readRecord(disk, journals, 'r1'))!, 'undone') !== undefined;
        if (!same(disk.tree(), undone ? before : after)) expect(disk.tree()).toEqual(undone ? before : after);
        if (!killed) break;
      }
    }),
    { numRuns: 250 },
  );
});

test('the order never puts a file where another is', () => {
  fc.assert(
    fc.property(
      fc.uniqueArray(fc.nat(12), { minLength: 1, maxLength: 12 }),
      fc.uniqueArray(fc.nat(12), { minLength: 12, maxLength: 12 }),
      (from, to) => {
        const names = (list: number[]) => list.map(String);
        const { aside, order } = renameOrder(names(from), names(to.slice(0, from.length)));
        expect([...order].sort()).toEqual(from.map((_, at) => at).sort());
        const taken = new Set(from.filter((_, at) => !aside.includes(at)));
        for (const row of order) {
          if (!aside.includes(row)) taken.delete(from[row]!);
          expect(taken.has(to[row]!)).toBe(false);
          taken.add(to[row]!);
        }
      },
    ),
  );
  expect(renameOrder(['1', '2', '3'], ['2', '3', '4'])).toEqual({ aside: [], order: [2, 1, 0] });
  expect(renameOrder(['a', 'b'], ['b', 'a']).aside).toHaveLength(2);
});

describe('on a real disk', () => {
  let root: string;
  beforeEach(() => {
    root = mkdtempSync(join(tmpdir(), 'shale-names-'));
    mkdirSync(join(root, 'a'));
    for (let frame = 1; frame <= 20; frame += 1) writeFileSync(join(root, 'a', `p.${frame}.png`), `frame ${frame}`);
  });
  afterEach(() => rmSync(root, { recursive: true, force: true }));

  const work = (rows: [string, string][], more: Partial<RenameWork> = {}): RenameWork => ({
    id: 'r1',
    mode: 'rename',
    from: root,
    into: root,
    roots: ['a', 'a'],
    rows: { from: rows.map(([from]) => from), to: rows.map(([, to]) => to) },
    sentence: 'test',
    ...more,
  });
  const means = () => ({ disk: realDisk, journals: join(root, '.journals') });
  const shifted = Array.from({ length: 20 }, (_, at): [string, string] => [`a/p.${at + 1}.png`, `a/p.${at + 2}.png`]);
  const names = (at = 'a') => readdirSync(join(root, at)).sort();
  const holds = (at: string) => readFileSync(join(root, at), 'utf8');

  test('1-20 becomes 2-21 and back', async () => {
    const before = names();
    const record = await carryOutRename(work(shifted), means());
    expect(holds('a/p.2.png')).toBe('frame 1');
    expect(holds('a/p.21.png')).toBe('frame 20');
    expect(names()).toHaveLength(20);
    const { work: undo } = await planUndo(record, realDisk, 'r2', false);
    await carryOutRename(undo, means());
    expect(names()).toEqual(before);
    expect(holds('a/p.1.png')).toBe('frame 1');
  });

  test('a name that another program takes in the middle: everything is as it was', async () => {
    const before = names();
    const disk = {
      ...realDisk,
      async renameAll(from: readonly string[], to: readonly string[]) {
        writeFileSync(join(root, 'a', 'p.21.png'), 'a stranger');
        return realDisk.renameAll(from, to);
      },
    };
    await expect(carryOutRename(work(shifted), { ...means(), disk })).rejects.toMatchObject({ code: 'taken' });
    expect(names()).toEqual([...before, 'p.21.png'].sort());
    expect(holds('a/p.21.png')).toBe('a stranger');
    expect(holds('a/p.20.png')).toBe('frame 20');
  });

  test('a file that is taken away in the middle: the others have their old names', async () => {
    const disk = {
      ...realDisk,
      async renameAll(from: readonly string[], to: readonly string[]) {
        rmSync(join(root, 'a', 'p.7.png'), { force: true });
        return realDisk.renameAll(from, to);
      },
    };
    const outcome = carryOutRename(work(shifted), { ...means(), disk });
    await expect(outcome).rejects.toMatchObject({ code: 'rename-stuck', fact: expect.stringContaining('a/p.7.png') });
    expect(names()).toHaveLength(19);
    expect(holds('a/p.20.png')).toBe('frame 20');
    expect(holds('a/p.1.png')).toBe('frame 1');
  });

  test('a file that is gone before it begins: nothing is touched', async () => {
    rmSync(join(root, 'a', 'p.3.png'));
    const before = names();
    await expect(carryOutRename(work(shifted), means())).rejects.toMatchObject({ code: 'source-changed' });
    expect(names()).toEqual(before);
    expect(existsSync(join(root, '.journals'))).toBe(false);
  });

  test('copies keep their times, and a full disk takes all of them back, with the folder', async () => {
    const copies = shifted.map(([from], at): [string, string] => [from, `out/deep/p.${at}.png`]);
    let left = 5;
    const disk = {
      ...realDisk,
      async copy(from: string, to: string) {
        if ((left -= 1) < 0) throw Object.assign(new Error('no space'), { code: 'ENOSPC' });
        return realDisk.copy(from, to);
      },
    };
    await expect(carryOutRename(work(copies, { mode: 'copy' }), { ...means(), disk })).rejects.toMatchObject({
      code: 'disk-full',
    });
    expect(existsSync(join(root, 'out'))).toBe(false);
    const record = await carryOutRename(work(copies, { id: 'r2', mode: 'copy' }), means());
    expect(statSync(join(root, 'out/deep/p.0.png')).mtimeMs).toBeCloseTo(statSync(join(root, 'a/p.1.png')).mtimeMs, -1);
    // A copy that was worked on is not taken away, the others are.
    writeFileSync(join(root, 'out/deep/p.4.png'), 'worked on');
    expect((await planUndo(record, realDisk, 'r3', false)).problems[0]).toMatchObject({
      code: 'touched-since',
      fact: expect.stringContaining('p.4.png'),
    });
    const rest = await planUndo(record, realDisk, 'r3', true);
    expect(rest.problems).toEqual([]);
    await carryOutRename(rest.work, means());
    expect(names('out/deep')).toEqual(['p.4.png']);
    expect(names()).toHaveLength(20);
  });

  test('a copy whose original is gone is the only one left, and stays', async () => {
    const record = await carryOutRename(work([['a/p.1.png', 'out/p.1.png']], { mode: 'copy' }), means());
    rmSync(join(root, 'a/p.1.png'));
    const { problems, work: undo } = await planUndo(record, realDisk, 'r2', true);
    expect(problems.map(({ code }) => code)).toEqual(['nothing-changes']);
    expect(undo.rows.from).toEqual([]);
  });

  test('links share their inode, and a stop in the middle leaves none', async () => {
    const links = shifted.map(([from], at): [string, string] => [from, `out/p.${at}.png`]);
    const stop = new AbortController();
    const disk = { ...realDisk, link: async (from: string, to: string) => (stop.abort(), linkSync(from, to)) };
    const many = Array.from({ length: 150 }, (_, at): [string, string] => [shifted[at % 20]![0], `out/q.${at}.png`]);
    await expect(
      carryOutRename(work(many, { mode: 'link' }), { ...means(), disk, signal: stop.signal }),
    ).rejects.toMatchObject({ code: 'stopped' });
    expect(existsSync(join(root, 'out'))).toBe(false);
    await carryOutRename(work(links, { id: 'r2', mode: 'link' }), means());
    expect(statSync(join(root, 'out/p.0.png')).ino).toBe(statSync(join(root, 'a/p.1.png')).ino);
  });

  test('capital letters alone', async () => {
    await carryOutRename(work([['a/p.1.png', 'a/P.1.png']]), means());
    expect(names()).toContain('P.1.png');
    expect(names()).not.toContain('p.1.png');
  });

  test('a rename that another living process carries out is let be', async () => {
    const disk = { ...realDisk, renameAll: () => Promise.reject(new Died()) };
    await expect(carryOutRename(work(shifted), { ...means(), disk })).rejects.toBeInstanceOf(Died);
    expect(await recoverRenames(realDisk, means().journals)).toEqual([]);
    expect((await recoverRenames(realDisk, means().journals, nobody)).map(({ outcome }) => outcome)).toEqual([
      'undone',
    ]);
  });
});
