import { fork, type ChildProcess } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import { cpus } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** Scenes, the heaviest first, so that the processes end together. */
const order = [
  'depot_pan',
  'lines',
  'yard_cams',
  'bell_turn',
  'platform_plate',
  'night_run',
  'timetable_scan',
  'ticket_loop',
  'lost_property',
  'conductor_walk',
  'announcement',
];

const scene = fileURLToPath(new URL('./scene.ts', import.meta.url));

/** Processes that draw. */
const drawing = new Set<ChildProcess>();

/** Draws scenes one after another in a process of its own, until none is left. A process costs seconds to start: one draws many. */
function drawScenes(left: string[], folder: string): Promise<void> {
  return new Promise((resolve, reject) => {
    const child = fork(scene, [folder], { execArgv: ['--import', 'tsx'] });
    drawing.add(child);
    let name = left.shift();
    const next = () => {
      if (name === undefined) child.disconnect();
      else child.send(name);
    };
    child.on('message', () => {
      name = left.shift();
      next();
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

/** Scenes that an earlier version did not draw, which have a folder of their own. */
const later = ['lines'];

/**
 * Draws the tram museum's footage into `folder` unless it is there. It is drawn beside it and renamed when whole, so
 * that a stopped start never leaves half of it.
 * @returns whether anything was drawn
 */
export async function drawDemo(folder: string, only: readonly string[] = order): Promise<boolean> {
  const isThere = existsSync(folder);
  const names = isThere ? later.filter((name) => only.includes(name) && !existsSync(join(folder, name))) : only;
  if (names.length === 0) return false;
  const half = `${folder}.drawing`;
  await rm(half, { recursive: true, force: true });
  await mkdir(half, { recursive: true });
  const left = [...names];
  await Promise.all(
    cpus()
      .slice(0, names.length)
      .map(() => drawScenes(left, half)),
  );
  if (isThere) {
    for (const name of names) await rename(join(half, name), join(folder, name));
    await rm(half, { recursive: true });
  } else await rename(half, folder);
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
