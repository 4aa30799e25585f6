import { resolve } from 'node:path';
import { plural } from '@shale/core';
import { verifyFolder } from '@shale/engine';
import type { Session } from './session.ts';

export interface VerifyOptions {
  manifest?: string;
  json?: boolean;
}

/** Holds a folder against its manifest. @returns 0 where every listed file is what it was, 1 where one is not */
export async function verifyCommand(
  folder: string,
  options: VerifyOptions,
  { out, err, watched }: Session,
): Promise<number> {
  const shows = watched && !options.json;
  const manifest = options.manifest === undefined ? undefined : resolve(options.manifest);
  const found = await verifyFolder(resolve(folder), manifest, (done, of) => {
    if (shows) err(`\r${done}/${of}`);
  });
  if (shows) err('\n');
  const { whole, missing, changed, unknown, unlisted } = found;
  if (options.json) out(`${JSON.stringify(found, null, 2)}\n`);
  else {
    for (const path of missing) out(`missing: ${path}\n`);
    for (const { path, why } of changed) out(`changed: ${path}: ${why}\n`);
    for (const path of unknown) out(`not checked: ${path}: the manifest has no digest of it that is known here\n`);
    if (unlisted.length > 0)
      out(
        `${plural(unlisted.length, 'file')} not listed: ${unlisted.slice(0, 5).join(', ')}${unlisted.length > 5 ? ' ...' : ''}\n`,
      );
    out(`${plural(whole, 'file')} whole, ${missing.length} missing, ${changed.length} changed, by ${found.manifest}\n`);
  }
  return missing.length + changed.length + unknown.length > 0 ? 1 : 0;
}
