import { fork, type ChildProcess } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdir, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { cpus } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import pLimit from 'p-limit';

/** Scenes: first those that are quickly there to be looked at, then the heaviest, so that the processes end together. */
const order = [
  'announcement',
  'ticket_loop',
  'lines',
  'conductor_walk',
  'depot_pan',
  'yard_cams',
  'bell_turn',
  'platform_plate',
  'night_run',
  'timetable_scan',
  'lost_property',
];

const scene = fileURLToPath(new URL('./scene.ts', import.meta.url));

/** Processes that draw. */
const drawing = new Set<ChildProcess>();

/**
 * Draws scenes one after another in a process of its own, until none is left. A process costs seconds to start: one draws many.
 * @param draws the folder that a scene is drawn in
 */
function drawScenes(left: string[], draws: (name: string) => string, onDrawn: (name: string) => Promise<void>) {
  return new Promise<void>((resolve, reject) => {
    const child = fork(scene, [], { execArgv: ['--import', 'tsx'] });
    drawing.add(child);
    let name = left.shift();
    const next = () => {
      if (name === undefined) child.disconnect();
      else child.send({ name, folder: draws(name) });
    };
    child.on('message', (drawn: string) => {
      onDrawn(drawn).then(() => {
        name = left.shift();
        next();
      }, reject);
    });
    child.once('error', reject);
    child.once('exit', (code) => {
      drawing.delete(child);
      if (code === 0 && name === undefined) resolve();
      else reject(new Error(`drawing ${name} ended with ${code}`));
    });
    next();
  });
}

/** Gives a file or folder its place; where a folder of that name is there, all that is in it goes into that. */
async function settle(from: string, to: string): Promise<void> {
  if (!existsSync(to)) return rename(from, to);
  for (const name of await readdir(from)) await settle(join(from, name), join(to, name));
}

/** Which scenes are drawn: told beside the footage. Earlier versions drew all of them at once, and told nothing. */
const toldIn = (folder: string): string => `${folder}.drawn.json`;

async function drawnIn(folder: string): Promise<string[]> {
  if (!existsSync(toldIn(folder))) return existsSync(join(folder, 'lines')) ? order : [];
  return JSON.parse(await readFile(toldIn(folder), 'utf8')) as string[];
}

/**
 * Draws the tram museum's footage into `folder`, what of it is not there. Each scene is drawn beside it and takes its place when it is
 * whole, so that whoever looks meanwhile sees one after another, and a stopped start leaves no half of any.
 * @returns whether anything was drawn
 */
export async function drawDemo(folder: string, only: readonly string[] = order): Promise<boolean> {
  const drawn = await drawnIn(folder);
  const left = only.filter((name) => !drawn.includes(name));
  if (left.length === 0) return false;
  const half = `${folder}.drawing`;
  await rm(half, { recursive: true, force: true });
  for (const one of [half, folder]) await mkdir(one, { recursive: true });
  const settled = pLimit(1);
  const onDrawn = (name: string) =>
    settled(async () => {
      await settle(join(half, name), folder);
      drawn.push(name);
      await writeFile(toldIn(folder), JSON.stringify(drawn));
    });
  await Promise.all(
    cpus()
      .slice(0, left.length)
      .map(() => drawScenes(left, (name) => join(half, name), onDrawn)),
  );
  await rm(half, { recursive: true });
  return true;
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const [folder = '', ...only] = process.argv.slice(2);
  process.once('SIGTERM', () => {
    for (const child of drawing) child.kill('SIGTERM');
    process.exit(143);
  });
  const drawn = await drawDemo(folder, only.length > 0 ? only : undefined);
  console.log(drawn ? `drawn into ${folder}` : `${folder} is there already`);
}
