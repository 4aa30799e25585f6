import { cpSync, mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { buildPage } from '../tools/steps.mjs';
import { House, prepared } from './house.ts';

/** Sets a database up once, with what a scan finds in the demo: every house of the tests begins with a copy of it. */
export default async function prepare(): Promise<void> {
  // A server of today and a page of yesterday do not understand each other.
  buildPage();
  rmSync(prepared, { recursive: true, force: true });
  const house = new House();
  await house.start();
  await house.rested();
  await house.stop();
  mkdirSync(prepared, { recursive: true });
  for (const name of ['db', 'readings']) cpSync(join(house.data, name), join(prepared, name), { recursive: true });
  await house.leave();
}
