import { execFileSync, spawn, type ChildProcess } from 'node:child_process';
import { cpSync, existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { programs } from '../tools/programs.mjs';
import { freePort } from '@shale/server/store/mariadb.ts';

const project = fileURLToPath(new URL('..', import.meta.url));

/** What `prepare.ts` left for houses to begin with. */
export const prepared = join(project, 'test-results', 'prepared');

/** A real server of its own: own port, own data folder, the drawn demo. It can be stopped, killed and started again. */
export class House {
  readonly data = mkdtempSync(join(tmpdir(), 'shale-e2e-'));
  port = 0;
  private child: ChildProcess | undefined;

  constructor(private readonly env: Record<string, string> = {}) {
    if (existsSync(prepared)) cpSync(prepared, this.data, { recursive: true });
  }

  get url(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  async start(): Promise<void> {
    this.port ||= await freePort();
    const { server, worker } = await programs();
    const child = spawn(process.execPath, [server], {
      cwd: project,
      env: {
        ...process.env,
        SHALE_WORKER: worker,
        SHALE_PORT: String(this.port),
        SHALE_DATA: this.data,
        SHALE_DEMO: process.env.SHALE_DEMO ?? join(project, '.shale', 'demo', 'tram_museum'),
        SHALE_CONFIG: join(this.data, 'shale.config.json'),
        ...this.env,
      },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    this.child = child;
    await new Promise<void>((resolve, reject) => {
      child.stdout.on('data', (text: Buffer) => text.toString().includes('Shale is ready') && resolve());
      child.once('exit', (code) => reject(new Error(`the server ended with ${code}`)));
    });
  }

  /** Whether the very process that was started still runs. */
  get lives(): boolean {
    return this.child !== undefined && this.child.exitCode === null && this.child.signalCode === null;
  }

  /** Numbers of its worker processes. */
  workers(): number[] {
    return execFileSync('ps', ['-o', 'pid=,args=', '--ppid', String(this.child!.pid)], { encoding: 'utf8' })
      .split('\n')
      .filter((line) => line.includes('worker'))
      .map((line) => Number.parseInt(line, 10));
  }

  /** Ends it as the kernel would: nothing is tidied up. */
  async kill(): Promise<void> {
    await this.end('SIGKILL');
  }

  async stop(): Promise<void> {
    await this.end('SIGTERM');
  }

  async leave(): Promise<void> {
    await this.stop();
    rmSync(this.data, { recursive: true, force: true });
  }

  private async end(signal: NodeJS.Signals): Promise<void> {
    const { child } = this;
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    await new Promise<void>((resolve) => {
      child.once('exit', () => resolve());
      child.kill(signal);
    });
  }

  async get<T>(path: string): Promise<T> {
    return (await (await fetch(`${this.url}/api${path}`)).json()) as T;
  }

  async send(
    method: 'POST' | 'PUT' | 'DELETE' | 'GET',
    path: string,
    body?: unknown,
  ): Promise<{ status: number; body: Record<string, unknown> }> {
    const response = await fetch(`${this.url}/api${path}`, {
      method,
      headers: { 'content-type': 'application/json' },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    return { status: response.status, body: (await response.json()) as Record<string, unknown> };
  }

  /** Waits until no scan is under way: what is listed then is all there is. */
  async rested(): Promise<void> {
    for (let tries = 0; tries < 300; tries += 1) {
      const roots = await this.get<{ scanning: boolean; scanned: string | null }[]>('/roots');
      if (roots.every(({ scanning, scanned }) => !scanning && scanned !== null)) return;
      await new Promise((done) => setTimeout(done, 200));
    }
    throw new Error('the scans do not end');
  }

  /** The id of a source by the beginning of its name, once the scan has found it. */
  async source(name: string): Promise<string> {
    for (let tries = 0; tries < 150; tries += 1) {
      const found = (await this.get<{ id: string; name: string }[]>('/sources')).find((one) =>
        one.name.startsWith(name),
      );
      if (found) return found.id;
      await new Promise((done) => setTimeout(done, 200));
    }
    throw new Error(`the scan did not find ${name}`);
  }
}
