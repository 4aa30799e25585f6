// `npm run backup -- FILE` and `npm run restore -- FILE`: the database of a data folder, whether its server runs or not.
import { join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { problemOf, ShaleError } from '@shale/core';
import { backUp, restore } from './backup.ts';
import { takeData } from './lock.ts';
import { runningDatabase, startDatabase } from './store/mariadb.ts';
import { Store } from './store/store.ts';

const [what, path] = process.argv.slice(2);
const project = fileURLToPath(new URL('..', import.meta.url));
const data = resolve(process.env.SHALE_DATA ?? join(project, '.shale'));

async function main(): Promise<void> {
  if ((what !== 'backup' && what !== 'restore') || !path)
    throw new ShaleError({
      code: 'bad-option',
      fact: 'No file named.',
      wayOut: `Write npm run ${what ?? 'backup'} -- FILE`,
    });
  const running = await runningDatabase(join(data, 'db'));
  // What is put in place of all there is must not be worked with meanwhile: the server's lock says whether it is.
  const free = running && what === 'backup' ? () => undefined : takeData(data);
  const database = running ?? (await startDatabase(join(data, 'db')));
  try {
    const store = await Store.open(database);
    const rows = await store.withAll((knex) => (what === 'backup' ? backUp : restore)(knex, resolve(path)));
    console.log(
      `${rows.toLocaleString('en-GB')} rows ${what === 'backup' ? `written to ${path}` : `restored from ${path}`}`,
    );
    await store.close();
  } finally {
    if (!running) await database.stop();
    free();
  }
}

main().catch((error: unknown) => {
  const { fact, wayOut } = problemOf(error);
  console.error(`shale: ${fact}\n  ${wayOut}`);
  process.exit(1);
});
