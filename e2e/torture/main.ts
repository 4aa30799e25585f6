// `npm run torture`: what the server outlives, one disturbance after another, counted in a table.
// Usage: npm run torture -- [--quick] [--kills N] [--only TEXT] [--counts FILE]
import { execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync, readdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import sharp from 'sharp';
import { frames, nothingWrong, Rig, type Outcome } from './rig.ts';

const option = (name: string): string | undefined => {
  const at = process.argv.indexOf(name);
  return at < 0 ? undefined : process.argv[at + 1];
};
const quick = process.argv.includes('--quick');
const kills = Number(option('--kills') ?? (quick ? 1 : 34));
const only = option('--only') ?? '';

interface Case {
  name: string;
  times: number;
  run: (rig: Rig) => Promise<Outcome>;
}

/** A moment somewhere in the work. */
const somewhere = (most: number): Promise<void> => wait(Math.random() * most);

/** Whether small disks can be mounted here: by root, outside of most containers. */
function mounts(): boolean {
  const place = join('/tmp', `shale-mount-${process.pid}`);
  mkdirSync(place);
  try {
    execFileSync('mount', ['-t', 'tmpfs', 'tmpfs', place], { stdio: 'ignore' });
    execFileSync('umount', [place]);
    return true;
  } catch {
    return false;
  } finally {
    rmSync(place, { recursive: true, force: true });
  }
}

const killCases = (['worker', 'server', 'database'] as const).flatMap((what): Case[] => [
  {
    name: `${what} killed in frames`,
    times: kills,
    run: async (rig) => {
      const into = rig.next('frames');
      const id = await rig.start(into);
      await somewhere(1500);
      await rig.kill(what);
      await rig.ended(id);
      return rig.outcome(id, into);
    },
  },
  {
    name: `${what} killed in a video`,
    times: kills,
    run: async (rig) => {
      const into = rig.next('video');
      const id = await rig.startVideo(into);
      await somewhere(4000);
      await rig.kill(what);
      await rig.ended(id);
      return rig.videoOutcome(into);
    },
  },
  {
    name: `${what} killed in a rename`,
    times: kills,
    run: (rig) =>
      rig.rename(async () => {
        await somewhere(200);
        await rig.kill(what);
      }),
  },
]);

/** Stops by itself with a code, is mended, and goes on by one press of Continue. */
async function stopsAndGoesOn(rig: Rig, id: string, codes: string[], mend: () => Promise<void> | void): Promise<void> {
  await rig.until(`job ${id} stops for ${codes.join(' or ')}`, async () => {
    const { state, problem } = await rig.job(id);
    return state === 'stopped' && codes.includes(problem?.code ?? '');
  });
  await mend();
  const { status, body } = await rig.house.send('POST', `/jobs/${id}/continue`, {});
  if (status !== 200) throw new Error(`it does not go on: ${JSON.stringify(body)}`);
  await rig.ended(id);
}

const mountCases: Case[] = [
  {
    name: 'target disk full',
    times: quick ? 1 : 5,
    run: async (rig) => {
      const small = join(rig.house.data, 'small');
      execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=1m', 'tmpfs', small]);
      try {
        const into = rig.next('full');
        const id = await rig.start(into, 'small');
        await stopsAndGoesOn(rig, id, ['disk-full'], () => {
          execFileSync('mount', ['-o', 'remount,size=64m', small]);
        });
        return await rig.outcome(id, into, 'small');
      } finally {
        execFileSync('umount', ['-l', small]);
      }
    },
  },
  {
    name: 'target disk read-only when it is to go on',
    times: quick ? 1 : 5,
    run: async (rig) => {
      const small = join(rig.house.data, 'small');
      execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64m', 'tmpfs', small]);
      try {
        const into = rig.next('readonly');
        const id = await rig.start(into, 'small');
        await rig.until('something is written', async () => (await rig.job(id)).written > 0);
        // A disk with files that are open for writing does not become read-only.
        await rig.house.send('POST', `/jobs/${id}/stop`);
        execFileSync('mount', ['-o', 'remount,ro', small]);
        const refused = await rig.house.send('POST', `/jobs/${id}/continue`, {});
        execFileSync('mount', ['-o', 'remount,rw', small]);
        if (refused.body.code !== 'not-writable') throw new Error(`it went on: ${JSON.stringify(refused.body)}`);
        await rig.house.send('POST', `/jobs/${id}/continue`, {});
        await rig.ended(id);
        return await rig.outcome(id, into, 'small');
      } finally {
        execFileSync('umount', ['-l', small]);
      }
    },
  },
  {
    name: 'source disk goes away',
    times: quick ? 1 : 5,
    run: async (rig) => {
      const name = rig.next('away').replace('_', '');
      const place = join(rig.own, name);
      const real = join(rig.house.data, `real-${name}`);
      mkdirSync(place);
      mkdirSync(real);
      await rig.footage(name, frames, real);
      execFileSync('mount', ['--bind', real, place]);
      await rig.whole();
      await rig.house.send('POST', '/roots/shots/scan');
      await rig.house.source(name);
      const into = rig.next('away');
      const id = await rig.start(into, 'results', name);
      await rig.until('something is written', async () => (await rig.job(id)).written > 0);
      execFileSync('umount', ['-l', place]);
      try {
        await stopsAndGoesOn(rig, id, ['folder-gone'], () => {
          execFileSync('mount', ['--bind', real, place]);
        });
        return await rig.outcome(id, into);
      } finally {
        spawnSync('umount', ['-l', place]);
      }
    },
  },
];

const otherCases: Case[] = [
  {
    name: 'a source file becomes another picture',
    times: quick ? 1 : 10,
    run: async (rig) => {
      const name = rig.next('swap').replace('_', '');
      await rig.footage(name, frames);
      await rig.whole();
      await rig.house.source(name);
      await rig.house.rested();
      const into = rig.next('swap');
      const id = await rig.start(into, 'results', name);
      await somewhere(300);
      const other = join(rig.own, `${name}.new`);
      const noise = Uint8Array.from({ length: 320 * 240 * 3 }, (_, at) => (Math.imul(at + 7, 40_503) >>> 9) & 255);
      await sharp(noise, { raw: { width: 320, height: 240, channels: 3 } })
        .png()
        .toFile(other);
      renameSync(other, join(rig.own, name, `${name}_${frames}.png`));
      await rig.until('it has come to its end', async () =>
        ['incomplete', 'stopped', 'done'].includes((await rig.job(id)).state),
      );
      const told = await rig.job(id);
      const receipt = await rig.house.get<{ failed?: { code: string }[] }>(`/receipts/${id}`);
      const isTold =
        told.problem?.code === 'source-changed' || (receipt.failed ?? []).some(({ code }) => code === 'source-changed');
      // Done is right only where its turn had come before: then it holds what was planned.
      if (told.state === 'done') return rig.outcome(id, into);
      return { ...nothingWrong, torn: isTold ? 0 : 1 };
    },
  },
  {
    name: 'database frozen for ten seconds',
    times: quick ? 1 : 5,
    run: async (rig) => {
      const into = rig.next('frozen');
      const id = await rig.start(into);
      await rig.kill('database', 'SIGSTOP');
      await wait(5000);
      const health = await fetch(`${rig.house.url}/api/health`);
      const began = Date.now();
      await fetch(`${rig.house.url}/api/sources`);
      const slow = Date.now() - began > 4000;
      await wait(5000);
      await rig.kill('database', 'SIGCONT');
      await rig.ended(id);
      const came = await rig.outcome(id, into);
      return { ...came, manual: (health.status === 503 ? 0 : 1) + (slow ? 1 : 0) };
    },
  },
  {
    name: 'database frozen for good',
    times: quick ? 0 : 2,
    run: async (rig) => {
      const into = rig.next('dead');
      const id = await rig.start(into);
      await rig.kill('database', 'SIGSTOP');
      await rig.until('health is whole again', async () => {
        await wait(1000);
        return (await fetch(`${rig.house.url}/api/health`)).status === 200;
      });
      await rig.ended(id);
      return rig.outcome(id, into);
    },
  },
  {
    name: 'results taken away while it runs',
    times: quick ? 1 : 5,
    run: async (rig) => {
      const into = rig.next('taken');
      const id = await rig.start(into);
      await rig.until('something is written', async () => (await rig.job(id)).written > 2);
      const [first] = readdirSync(rig.folder(into)).filter((name) => name.endsWith('.png'));
      rmSync(join(rig.folder(into), first!));
      await rig.until('it is told', async () => (await rig.job(id)).state === 'incomplete');
      await rig.house.send('POST', `/jobs/${id}/continue`, {});
      await rig.ended(id);
      return rig.outcome(id, into);
    },
  },
];

/** Thirty who look, one frame after another, beside a running job: how long they wait. */
async function viewers(rig: Rig): Promise<{ p50: number; p99: number; unanswered: number; api: number }> {
  await rig.footage('seen', 200);
  const source = await rig.house.source('seen');
  await rig.house.rested();
  const id = await rig.start(rig.next('beside'));
  const times: number[] = [];
  const apis: number[] = [];
  let unanswered = 0;
  const until = Date.now() + (quick ? 5000 : 30_000);
  const ask = async (path: string, list: number[]) => {
    const began = performance.now();
    const answer = await fetch(`${rig.house.url}/api${path}`, { signal: AbortSignal.timeout(60_000) }).catch(
      () => undefined,
    );
    if (!answer?.ok) unanswered += 1;
    else {
      await answer.arrayBuffer();
      list.push(performance.now() - began);
    }
  };
  await Promise.all([
    ...Array.from({ length: 30 }, async (_, viewer) => {
      for (let at = 0; Date.now() < until; at += 1)
        await ask(`/sources/${source}/frames/${((viewer * 7 + at) % 200) + 1}/preview?width=${320 + viewer}`, times);
    }),
    (async () => {
      for (; Date.now() < until; await wait(100)) await ask('/jobs', apis);
    })(),
  ]);
  await rig.ended(id);
  const quantile = (list: number[], q: number) => [...list].sort((a, b) => a - b)[Math.floor(list.length * q)] ?? 0;
  return { p50: quantile(times, 0.5), p99: quantile(times, 0.99), unanswered, api: quantile(apis, 0.99) };
}

const rig = new Rig();
let passed = 0;
let failed = 0;
const rows: (Outcome & { name: string; times: number; seconds: number; why?: string })[] = [];
try {
  await rig.begin();
  const mayMount = mounts();
  if (!mayMount) console.log('No right to mount a small disk here: full, read-only and vanished disks are left out.');
  for (const { name, times, run } of [...killCases, ...(mayMount ? mountCases : []), ...otherCases]) {
    if (!name.includes(only)) continue;
    const sum = { ...nothingWrong };
    const began = Date.now();
    let why: string | undefined;
    let ran = 0;
    for (; ran < times && !why; ran += 1) {
      try {
        const came = await run(rig);
        for (const key of Object.keys(sum) as (keyof Outcome)[]) sum[key] += came[key];
      } catch (error) {
        why = (error as Error).message;
      }
    }
    if (times === 0) continue;
    const isWhole = !why && Object.values(sum).every((count) => count === 0);
    if (isWhole) passed += 1;
    else failed += 1;
    rows.push({ name, times: ran, ...sum, seconds: Math.round((Date.now() - began) / 1000), ...(why ? { why } : {}) });
    console.log(`${isWhole ? 'whole ' : 'FAILED'} ${name}: ${JSON.stringify(rows.at(-1))}`);
  }
  if ('viewers'.includes(only)) {
    const seen = await viewers(rig);
    console.log(
      `30 viewers beside a job: half of the previews within ${seen.p50.toFixed(0)} ms, 99 of 100 within ${seen.p99.toFixed(0)} ms, ${seen.unanswered} unanswered; 99 of 100 lists of jobs within ${seen.api.toFixed(0)} ms`,
    );
    if (seen.unanswered > 0) failed += 1;
    else passed += 1;
  }
} finally {
  await rig.leave();
}
console.table(rows.map(({ why: _, ...row }) => row));
const counts = option('--counts');
if (counts) writeFileSync(counts, JSON.stringify({ passed, failed }));
console.log(`${passed} whole, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
