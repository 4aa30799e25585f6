import { appendFile, mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { declare, describeFolder, makePlan, noCounts, parseSpec, type Written } from '@shale/core';
import { jobSchema } from '@shale/contract';
import { Journal, nothingSettled, type Settled } from './journal.ts';
import { JobLog } from './log.ts';
import { RunningJob } from './running.ts';

let folder: string;
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'shale-jobs-'));
});
afterEach(() => rm(folder, { recursive: true, force: true }));

const written = (index: number): Written => ({
  index,
  frame: 1001 + index,
  sourceFrame: 1 + index,
  name: `g.${1001 + index}.png`,
  bytes: 10,
  sha256: 'ab',
  sources: [],
  check: 'identical',
  most: 0,
  counts: noCounts(),
});
const failure = (frame: number) => ({
  code: 'damaged-file',
  fact: 'It is.',
  wayOut: 'Again.',
  frame,
  sourceFrame: frame - 1000,
  name: `g.${frame}.png`,
});

function plan() {
  const frames = [1, 2, 3, 5, 6];
  const zeros = frames.map(() => 0);
  const names = frames.map((frame) => `f_${frame}.png`);
  const { source } = describeFolder('', { names, bytes: zeros, modified: zeros }).sequences[0]!;
  const facts = {
    width: 1,
    height: 1,
    format: 'png',
    sample: 'u8' as const,
    channels: ['R', 'G', 'B', 'A'],
    hasAlpha: true,
    more: [],
  };
  const spec = parseSpec({
    version: 1,
    write: { format: 'png', sample: 'u8', alpha: 'straight', transfer: 'srgb' },
    names: { stem: 'g', first: 1001 },
  });
  return makePlan('m', { ...source, facts }, declare({ ...source, facts }), spec);
}

describe('the journal', () => {
  test('gives back what was noted, the last word counting', async () => {
    const journal = new Journal(folder, 'j');
    await journal.open();
    void journal.add({ written: written(0) });
    void journal.add({ failed: failure(1002), index: 1 });
    void journal.add({ failed: failure(1003), index: 2 });
    void journal.add({ retry: [1] });
    await journal.close();
    const settled = await new Journal(folder, 'j').read();
    expect([...settled.written.keys()]).toEqual([0]);
    expect([...settled.failed.keys()]).toEqual([2]);
  });

  test('a line cut off by a crash is left out, and what is noted after it is not lost', async () => {
    const first = new Journal(folder, 'j');
    await first.open();
    void first.add({ written: written(0) });
    await first.close();
    await appendFile(join(folder, 'j.ndjson'), JSON.stringify({ written: written(1) }).slice(0, 40));
    const second = new Journal(folder, 'j');
    await second.open();
    void second.add({ written: written(2) });
    await second.close();
    expect([...(await new Journal(folder, 'j').read()).written.keys()]).toEqual([0, 2]);
  });

  test('none is an empty one', async () => expect((await new Journal(folder, 'none').read()).written.size).toBe(0));
});

describe('a job as it is told', () => {
  const row = () => ({
    id: 'j',
    plan: 'p',
    source: 's',
    state: 'running' as const,
    priority: 'normal' as const,
    place: 0,
    view: null,
    workSeconds: 2,
    problem: null,
    created: 0,
    started: null,
    finished: null,
    batch: null,
    output: 0,
    madeAs: null,
  });

  const made = (settled: Settled) =>
    new RunningJob(row(), plan(), new Journal(folder, 'j'), new JobLog(folder, 'j'), settled);

  test('counts what is settled, keeps gaps, takes up where the journal ends', () => {
    const settled = {
      ...nothingSettled(),
      written: new Map([
        [0, written(0)],
        [1, written(1)],
      ]),
      failed: new Map([[2, failure(1003)]]),
    };
    const job = made(settled);
    const view = jobSchema.parse(job.view());
    expect(view).toMatchObject({
      total: 5,
      written: 2,
      failed: 1,
      bytes: 20,
      span: { first: 1001, last: 1006 },
      rate: null,
    });
    expect(view.leftOut).toEqual([{ first: 1004, last: 1004, step: 1 }]);
    expect(view.failedFrames).toEqual([{ first: 1003, last: 1003, step: 1 }]);
    expect([...job.settled]).toEqual([0, 1, 2]);
    job.settle({ ...nothingSettled(), written: settled.written });
    expect([...job.settled]).toEqual([0, 1]);
    expect(job.view()).toMatchObject({ written: 2, failed: 0, sourceChanged: false });
  });

  test('what was made again takes the place of nothing later', () => {
    const job = made({ ...nothingSettled(), again: new Set([1]), retried: new Set([2]) });
    expect([[...job.again], [...job.retried]]).toEqual([[1], [2]]);
    job.settle(nothingSettled());
    expect([job.again.size, job.retried.size]).toEqual([0, 0]);
  });

  test('of a video that rests the whole pieces stay, and count neither as done anew nor as lost', () => {
    const job = made(nothingSettled());
    job.video = { done: 300, of: 600, bytes: 9, safe: 240, before: 0 };
    job.videoRests();
    expect(job.video).toMatchObject({ done: 240, safe: 240, before: 240 });
    const loaded = (done: number) =>
      new RunningJob(
        { ...row(), state: 'stopped', view: { ...job.view(), video: { done, of: 600 } } },
        plan(),
        new Journal(folder, 'j'),
        new JobLog(folder, 'j'),
        nothingSettled(),
      );
    expect(loaded(240).video).toMatchObject({ done: 240, safe: 240, before: 240 });
    expect(loaded(0).video).toBeUndefined();
    job.video = { done: 100, of: 600, bytes: 9, safe: 0, before: 0 };
    job.videoRests();
    expect(job.video).toBeUndefined();
  });

  test('adds its working time up over stops', () => {
    const job = made(nothingSettled());
    job.start();
    job.pause();
    job.pause();
    expect(job.view().workSeconds).toBeGreaterThanOrEqual(2);
    expect(job.view().workSeconds).toBeLessThan(3);
  });
});
