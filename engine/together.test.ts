import { execFileSync } from 'node:child_process';
import { mkdir, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { setTimeout as wait } from 'node:timers/promises';
import type { Failure, Plan, SpecInput, Written } from '@shale/core';
import { carryOut, type Work } from './carry-out.ts';
import { Company } from './company.ts';
import { Together } from './together.ts';
import { wanted, Yard } from './testing.ts';

let yard: Yard;
beforeAll(async () => {
  yard = await Yard.make();
});
beforeEach(() => yard.clear());
afterAll(() => yard.leave());

const outputs: SpecInput[] = [
  { ...wanted, into: { root: 'out', folder: 'whole' } },
  {
    ...wanted,
    into: { root: 'out', folder: 'half' },
    picture: { resize: { to: { by: 'percent', percent: 50 } } },
  },
  {
    ...wanted,
    into: { root: 'out', folder: 'tiff' },
    write: { ...wanted.write, format: 'tiff', alpha: 'premultiplied' },
  },
];

interface Ran {
  written: Written[];
  failed: Failure[];
}

/** Carries plans out at once, brought together. */
function runAll(plans: readonly Plan[], more: (at: number) => Partial<Work> = () => ({})): Promise<Ran[]> {
  const together = new Together(yard.pool);
  const seats = plans.map((plan) => together.join(plan));
  return Promise.all(
    plans.map(async (plan, at) => {
      const written: Written[] = [];
      const failed: Failure[] = [];
      await mkdir(yard.at('out', plan.into.folder), { recursive: true });
      await carryOut({
        ...{ plan, places: yard.places, job: `test${at}`, pool: yard.pool, seat: seats[at]!, ...more(at) },
        onWritten: (one) => {
          written.push(one);
          more(at).onWritten?.(one);
        },
        onFailed: (failure) => failed.push(failure),
      }).finally(() => seats[at]?.leave());
      return { written, failed };
    }),
  );
}
const plansOf = (specs = outputs) => Promise.all(specs.map((spec) => yard.planOf(spec)));
const sums = ({ written }: Ran) => [...written].sort((a, b) => a.index - b.index).map(({ sha256 }) => sha256);
const files = (folder: string) => readdir(yard.at('out', folder)).then((names) => names.sort());

test('outputs that are made together are, byte for byte, those that are made alone; each source file is told of each', async () => {
  await yard.putFrames(60);
  const plans = await plansOf();
  const together = await runAll(plans);
  await rm(yard.at('out'), { recursive: true });
  await mkdir(yard.at('out'));
  for (const [at, plan] of plans.entries()) {
    const [alone] = await runAll([plan]);
    expect(together[at]!.failed).toEqual([]);
    expect(together[at]!.written).toHaveLength(60);
    expect(sums(together[at]!)).toEqual(sums(alone!));
    expect(together[at]!.written.every(({ sources }) => sources?.length === 1)).toBe(true);
  }
});

test('a frame that is damaged fails in each of them; names that exist fail in theirs alone', async () => {
  await yard.putFrames(20);
  const plans = await plansOf();
  const whole = await readFile(yard.at('in', 'f_5.png'));
  await writeFile(yard.at('in', 'f_5.png'), whole.subarray(0, 200));
  await mkdir(yard.at('out', 'half'));
  await writeFile(yard.at('out', 'half', 'g.0009.png'), 'mine');
  const ran = await runAll(plans, () => ({ takesChanged: true }));
  expect(ran.map(({ failed }) => failed.map(({ sourceFrame }) => sourceFrame).sort((a, b) => a - b))).toEqual([
    [5],
    [5, 9],
    [5],
  ]);
  expect(ran.map(({ written }) => written.length)).toEqual([19, 18, 19]);
  expect(await readFile(yard.at('out', 'half', 'g.0009.png'), 'utf8')).toBe('mine');
});

test('one that is stopped does not hold the others; nothing half stays', async () => {
  await yard.putFrames(60);
  const stop = new AbortController();
  const ran = await runAll(await plansOf(), (at) =>
    at === 1 ? { signal: stop.signal, onWritten: () => stop.abort() } : {},
  );
  expect(ran[0]!.written).toHaveLength(60);
  expect(ran[2]!.written).toHaveLength(60);
  expect(ran[1]!.written.length).toBeLessThan(60);
  expect(await files('half')).toHaveLength(ran[1]!.written.length);
});

test('other frames, fewer frames and what is settled already are made all the same', async () => {
  await yard.putFrames(30);
  const plans = await plansOf([outputs[0]!, { ...outputs[1]!, frames: '1-30x2' }, outputs[2]!]);
  const ran = await runAll(plans, (at) => (at === 2 ? { settled: new Set([0, 1, 2, 28, 29]) } : {}));
  expect(ran.map(({ written }) => written.length)).toEqual([30, 15, 25]);
  expect(await files('half')).toHaveLength(15);
});

test('a process that ends in the middle costs none of them a frame', async () => {
  await yard.putFrames(60);
  let killed = false;
  const ran = await runAll(await plansOf(), (at) => ({
    onWritten: () => {
      if (killed || at !== 0) return;
      killed = true;
      execFileSync('kill', ['-9', String(yard.pool.pids[0])]);
    },
  }));
  expect(killed).toBe(true);
  expect(ran.map(({ written, failed }) => [written.length, failed.length])).toEqual([
    [60, 0],
    [60, 0],
    [60, 0],
  ]);
});

test('one that is stopped while it waits for another does not wait any more', async () => {
  await yard.putFrames(4);
  const [plan, other] = await plansOf();
  const together = new Together(yard.pool);
  // It has a seat, and never asks.
  const absent = together.join(other!)!;
  const seat = together.join(plan!)!;
  const stop = new AbortController();
  await mkdir(yard.at('out', plan!.into.folder), { recursive: true });
  const written: Written[] = [];
  const began = performance.now();
  const run = carryOut({
    ...{ plan: plan!, places: yard.places, job: 'test', pool: yard.pool, seat, signal: stop.signal },
    onWritten: (one) => written.push(one),
    onFailed: () => undefined,
  });
  await wait(700);
  expect(written).toEqual([]);
  stop.abort();
  await run;
  expect(performance.now() - began).toBeLessThan(9500);
  absent.leave();
  seat.leave();
});

test('one that is stopped is done with at once, however slow the others are', async () => {
  const [slow, quick] = [Company.enter({ id: -2, size: 2 }, 1), Company.enter({ id: -2, size: 2 }, 1)];
  const held = { isClosed: false, close: async () => void (held.isClosed = true) };
  await slow.company.open('clip', async () => held);
  let done = 0;
  const all = Promise.all(Array.from({ length: 9 }, (_, at) => quick.take(at, async () => void (done += 1))));
  await wait(20);
  expect(done).toBe(2);
  quick.stop();
  await all;
  await quick.leave();
  // What is still read by others stays open; the slow one goes on by itself.
  expect(held.isClosed).toBe(false);
  for (let at = 0; at < 6; at += 1) await slow.take(at, async () => undefined);
  await slow.leave();
  expect(held.isClosed).toBe(true);
});

test('a picture is read once for all members, who keep step; one that leaves is not waited for', async () => {
  let reads = 0;
  const read = async (at: number) => {
    reads += 1;
    await wait(1);
    return { at };
  };
  let most = 0;
  const done = [0, 0, 0];
  const member = async (which: number, pause: number, leaves: number) => {
    const one = Company.enter({ id: -1, size: 3 }, 1);
    for (let at = 0; at < leaves; at += 1)
      await one.take(at, async () => {
        expect((await one.company.read(`picture ${at}`, () => read(at))).at).toBe(at);
        await wait(pause);
        done[which]! += 1;
        const open = done.filter((count, other) => other !== 2 || count < 5);
        most = Math.max(most, Math.max(...open) - Math.min(...open));
      });
    await one.leave();
  };
  await Promise.all([member(0, 0, 20), member(1, 3, 20), member(2, 1, 5)]);
  expect(done).toEqual([20, 20, 5]);
  expect(reads).toBe(20);
  expect(most).toBeLessThanOrEqual(2);
});
