import { createHash } from 'node:crypto';
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import sharp from 'sharp';
import { House } from '../house.ts';

/** What came of one case. */
export interface Outcome {
  /** Files that should be there and are not. */
  lost: number;
  /** Files whose bytes are not those of an undisturbed run. */
  torn: number;
  /** Results that the record has more than once, or files that nobody asked for. */
  doubled: number;
  /** Half files. */
  left: number;
  /** Things that a person had to do. */
  manual: number;
}

export const nothingWrong: Outcome = { lost: 0, torn: 0, doubled: 0, left: 0, manual: 0 };

export const frames = 20;
const renamed = 600;

/** Pictures of the video: a piece and a bit. */
const pictures = 320;

interface JobTold {
  id: string;
  state: string;
  written: number;
  failed: number;
  problem: { code: string; fact: string } | null;
}

const sha = (path: string): string => createHash('sha256').update(readFileSync(path)).digest('hex');

/** A server with footage of its own, and what can be done to it. */
export class Rig {
  readonly own = mkdtempSync(join(tmpdir(), 'shale-torture-'));
  readonly house = new House();
  private number = 0;
  /** Bytes of an undisturbed run, by name. */
  private reference = new Map<string, string>();
  /** Bytes of an undisturbed video. */
  private videoReference = '';

  async begin(): Promise<void> {
    await this.footage('plate', frames);
    await this.footage('reel', pictures);
    const { data } = this.house;
    mkdirSync(join(this.own, 'names'), { recursive: true });
    for (let frame = 1; frame <= renamed; frame += 1)
      writeFileSync(join(this.own, 'names', `n_${String(frame).padStart(4, '0')}.png`), `frame ${frame}`);
    const roots = [
      { id: 'shots', name: 'Shots', path: this.own, writable: true },
      { id: 'small', name: 'Small', path: join(data, 'small'), writable: true },
    ];
    mkdirSync(join(data, 'small'), { recursive: true });
    writeFileSync(join(data, 'shale.config.json'), JSON.stringify({ roots }));
    await this.house.start();
    await this.house.source('plate');
    await this.house.rested();
    const job = await this.start('undisturbed');
    await this.ended(job);
    for (const name of this.filesOf('undisturbed'))
      this.reference.set(name, sha(join(this.folder('undisturbed'), name)));
    const video = await this.startVideo('undisturbed_video');
    await this.ended(video);
    this.videoReference = sha(join(this.folder('undisturbed_video'), this.filesOf('undisturbed_video')[0]!));
  }

  async leave(): Promise<void> {
    await this.house.leave();
    rmSync(this.own, { recursive: true, force: true });
  }

  /** Draws noise that takes a while to write, as a sequence in a folder of its own. */
  async footage(name: string, count: number, folder = join(this.own, name)): Promise<void> {
    mkdirSync(folder, { recursive: true });
    const noise = Uint8Array.from(
      { length: 320 * 240 * 3 },
      (_, at) => (Math.imul(at + 1, 2_654_435_761) >>> 13) & 255,
    );
    const first = join(folder, `${name}_1.png`);
    await sharp(noise, { raw: { width: 320, height: 240, channels: 3 } })
      .png()
      .toFile(first);
    const before = new Date(Date.now() - 3_600_000);
    for (let frame = 2; frame <= count; frame += 1) copyFileSync(first, join(folder, `${name}_${frame}.png`));
    for (let frame = 1; frame <= count; frame += 1) utimesSync(join(folder, `${name}_${frame}.png`), before, before);
  }

  /** A name that no case had before. */
  next(kind: string): string {
    return `${kind}_${(this.number += 1)}`;
  }

  folder(into: string, root = 'results'): string {
    return join(this.house.data, root, into);
  }

  filesOf(into: string, root = 'results'): string[] {
    const folder = this.folder(into, root);
    return existsSync(folder) ? readdirSync(folder).sort() : [];
  }

  /** Starts a conversion of the plate into a folder. */
  async start(into: string, root = 'results', plate = 'plate'): Promise<string> {
    await this.whole();
    const source = await this.house.source(plate);
    return this.post(source, {
      version: 1,
      write: { format: 'png', sample: 'u8', alpha: 'none', transfer: 'srgb', effort: 9 },
      picture: { resize: { to: { by: 'percent', percent: 200 } } },
      names: { stem: 'r' },
      into: { root, folder: into },
    });
  }

  /** Starts a video of more than one piece. */
  async startVideo(into: string): Promise<string> {
    await this.whole();
    const source = await this.house.source('reel');
    await this.house.send('PUT', `/sources/${source}/word`, { rate: { num: 24, den: 1 } });
    return this.post(source, {
      version: 1,
      write: { format: 'ffv1', sample: 'u8', alpha: 'none', transfer: 'bt709' },
      names: { stem: 'r' },
      into: { root: 'results', folder: into },
    });
  }

  private async post(source: string, spec: object): Promise<string> {
    const { status, body } = await this.house.send('POST', '/jobs', { source, spec });
    if (status !== 201) throw new Error(`the job was refused: ${JSON.stringify(body)}`);
    return body.id as string;
  }

  /** Waits until the server and what it stands on are whole. */
  whole(): Promise<void> {
    return this.until('all is whole', async () => (await fetch(`${this.house.url}/api/health`)).status === 200);
  }

  job(id: string): Promise<JobTold> {
    return this.house.get<JobTold>(`/jobs/${id}`);
  }

  /** Waits until something is so. @throws after two minutes */
  async until(what: string, isSo: () => Promise<boolean> | boolean): Promise<void> {
    for (const began = Date.now(); Date.now() - began < 120_000; await wait(60))
      if (await Promise.resolve(isSo()).catch(() => false)) return;
    throw new Error(`it did not come to this in two minutes: ${what}`);
  }

  async ended(id: string): Promise<void> {
    let seen: JobTold | undefined;
    await this.until(`job ${id} is done`, async () => (seen = await this.job(id)).state === 'done').catch(
      (error: Error) => {
        throw new Error(`${error.message}: ${JSON.stringify(seen)}`);
      },
    );
  }

  /** What became of a conversion that is done. */
  async outcome(id: string, into: string, root = 'results'): Promise<Outcome> {
    const wrong = { ...nothingWrong };
    const files = this.filesOf(into, root);
    wrong.left = files.filter((name) => name.endsWith('.part')).length;
    const whole = files.filter((name) => !name.endsWith('.part'));
    for (const [name, sum] of this.reference) {
      if (!whole.includes(name)) wrong.lost += 1;
      else if (sha(join(this.folder(into, root), name)) !== sum) wrong.torn += 1;
    }
    wrong.doubled = whole.filter((name) => !this.reference.has(name)).length;
    const manifest = await (await fetch(`${this.house.url}/api/receipts/${id}/manifest`)).text();
    wrong.doubled += Math.abs(manifest.trim().split('\n').length - this.reference.size);
    return wrong;
  }

  async videoOutcome(into: string): Promise<Outcome> {
    const files = this.filesOf(into);
    const [video] = files.filter((name) => !name.endsWith('.part'));
    return {
      ...nothingWrong,
      lost: video ? 0 : 1,
      torn: video && sha(join(this.folder(into), video)) !== this.videoReference ? 1 : 0,
      doubled: Math.max(0, files.length - 1),
      left: files.filter((name) => name.endsWith('.part')).length,
    };
  }

  /** Kills what is named; a server is started again, as `npm start` does. */
  async kill(what: 'worker' | 'server' | 'database', signal: NodeJS.Signals = 'SIGKILL'): Promise<void> {
    if (what === 'server') {
      await this.house.kill();
      await this.house.start();
      return;
    }
    const pids = what === 'worker' ? this.house.workers() : [this.databasePid];
    const pid = pids[Math.floor(Math.random() * pids.length)];
    if (pid) process.kill(pid, signal);
  }

  get databasePid(): number {
    return Number(readFileSync(join(this.house.data, 'db', 'pid'), 'utf8'));
  }

  /** Renames all files of a folder, or back; gives their names when it has come to rest. */
  async rename(disturb: () => Promise<void>): Promise<Outcome> {
    const here = () => readdirSync(join(this.own, 'names')).sort();
    const before = here();
    await this.whole();
    const stem = this.next('m');
    await this.house.rested();
    const [source] = (
      await this.house.get<{ id: string; folder: string; kind: string }[]>('/sources?root=shots&folder=names')
    ).filter(({ kind }) => kind === 'sequence');
    const spec = { version: 1, rules: [{ kind: 'template', template: `${stem}_{frame:4}.{ext}` }] };
    const plan = await this.house.send('POST', '/renames/plan', { sources: [source!.id], spec });
    if (plan.status >= 400) throw new Error(`no names were worked out: ${JSON.stringify(plan.body)}`);
    const started = await this.house.send('POST', '/renames', {
      sources: [source!.id],
      spec,
      digest: plan.body.digest,
    });
    if (started.status >= 400) throw new Error(`the rename was refused: ${JSON.stringify(started.body)}`);
    await disturb();
    await this.until('the rename has come to rest', async () =>
      (await this.house.get<{ state: string }[]>('/renames')).every(({ state }) => state !== 'running'),
    );
    const after = here();
    const fresh = after.filter((name) => name.startsWith(`${stem}_`)).length;
    const texts = new Set(after.map((name) => readFileSync(join(this.own, 'names', name), 'utf8')));
    return {
      ...nothingWrong,
      lost: renamed - texts.size,
      torn: fresh > 0 && fresh < renamed ? Math.min(fresh, renamed - fresh) : 0,
      doubled: Math.max(0, after.length - before.length),
    };
  }
}
