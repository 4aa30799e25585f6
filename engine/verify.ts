import { readdir, readFile, stat } from 'node:fs/promises';
import { basename, join, relative, resolve } from 'node:path';
import { XMLParser } from 'fast-xml-parser';
import { readSums, ShaleError, type ListedInManifest } from '@shale/core';
import { holdFile } from './beneath.ts';
import { digestsOf } from './digests.ts';

/** Digests that a hash list may have and that can be worked out here. */
const known = ['c4', 'md5', 'sha1'] as const;

/** What looking through a folder by its manifest found. */
export interface Verified {
  /** The manifest that was read, absolute, and when it was written, ISO 8601. */
  manifest: string;
  /** Files that are what the manifest says. */
  whole: number;
  missing: string[];
  changed: { path: string; why: string }[];
  /** Files of whose digests none can be worked out here. */
  unknown: string[];
  /** Files of the folder that the manifest does not list. */
  unlisted: string[];
}

/** The nodes under a name: one or many, or none. */
const all = <T>(value: T | T[] | undefined): T[] => (value === undefined ? [] : Array.isArray(value) ? value : [value]);

interface HashNode {
  path?: string | { '#text'?: string; '@size'?: string };
  [digest: string]: unknown;
}

/** Reads a hash list of ASC MHL 2.0. @throws ShaleError `bad-manifest` */
function readHashList(text: string, path: string): ListedInManifest[] {
  const parser = new XMLParser({
    ignoreAttributes: false,
    attributeNamePrefix: '@',
    parseTagValue: false,
    parseAttributeValue: false,
    processEntities: true,
    removeNSPrefix: true,
  });
  const root = parser.parse(text) as { hashlist?: { hashes?: { hash?: HashNode | HashNode[] } } };
  if (!root.hashlist?.hashes)
    throw new ShaleError({
      code: 'bad-manifest',
      fact: `${basename(path)} is not an ASC hash list.`,
      wayOut: 'Name a .mhl file of version 2, or a list as sha256sum writes it.',
      subject: path,
    });
  return all(root.hashlist.hashes.hash).flatMap((node) => {
    const told = node.path;
    const name = typeof told === 'string' ? told : told?.['#text'];
    if (name === undefined) return [];
    const size = typeof told === 'object' ? Number(told['@size']) : NaN;
    const digests: ListedInManifest['digests'] = {};
    for (const kind of known) {
      const value = all(node[kind] as string | { '#text': string } | undefined)[0];
      if (value !== undefined) digests[kind] = typeof value === 'string' ? value : value['#text'];
    }
    return [{ path: name, ...(Number.isFinite(size) ? { bytes: size } : {}), digests }];
  });
}

/** The newest manifest of a folder: a hash list, or sums. @throws ShaleError `no-manifest` */
async function findManifest(folder: string): Promise<string> {
  const names = await readdir(folder).catch(() => {
    throw new ShaleError({
      code: 'folder-not-found',
      fact: `There is no folder ${folder}.`,
      wayOut: 'Check the path, or whether the disk is mounted.',
      subject: folder,
    });
  });
  const inHistory = await readdir(join(folder, 'ascmhl')).catch(() => []);
  const found = [
    ...inHistory.filter((name) => name.endsWith('.mhl')).map((name) => join(folder, 'ascmhl', name)),
    ...names.filter((name) => /\.(mhl|sha256|sha1|md5)$/i.test(name)).map((name) => join(folder, name)),
  ];
  const aged = await Promise.all(found.map(async (path) => ({ path, at: (await stat(path)).mtimeMs })));
  const [newest] = aged.sort((a, b) => b.at - a.at);
  if (newest) return newest.path;
  throw new ShaleError({
    code: 'no-manifest',
    fact: `${folder} has no manifest.`,
    wayOut: 'Name one with --manifest: a .sha256 list, or an ASC .mhl.',
    subject: folder,
  });
}

/**
 * Holds the files of a folder against a manifest: each is read whole, and every digest that the manifest has of it worked out.
 * @param manifest by default the newest in the folder
 * @throws ShaleError `no-manifest`, `bad-manifest`, `folder-not-found`
 */
export async function verifyFolder(
  folder: string,
  manifest?: string,
  onFile: (done: number, of: number) => void = () => undefined,
): Promise<Verified> {
  const path = manifest ?? (await findManifest(folder));
  const text = await readFile(path, 'utf8').catch(() => {
    throw new ShaleError({
      code: 'no-manifest',
      fact: `There is no manifest ${path}.`,
      wayOut: 'Name an existing one.',
      subject: path,
    });
  });
  const isList = /\.mhl$/i.test(path);
  const { files, odd } = isList ? { files: readHashList(text, path), odd: 0 } : readSums(text);
  if (files.length === 0 || odd > 0)
    throw new ShaleError({
      code: 'bad-manifest',
      fact: `${basename(path)} ${files.length === 0 ? 'lists no file' : `has ${odd} lines that are not checksums`}.`,
      wayOut: 'Name a list as sha256sum writes it, or an ASC .mhl of version 2.',
      subject: path,
    });
  const found: Verified = { manifest: path, whole: 0, missing: [], changed: [], unknown: [], unlisted: [] };
  for (const [at, one] of files.entries()) {
    await verifyOne(folder, one, found);
    onFile(at + 1, files.length);
  }
  const listed = new Set(files.map((one) => one.path));
  const own = relative(resolve(folder), resolve(path));
  for (const entry of await readdir(folder, { withFileTypes: true }))
    if (entry.isFile() && !listed.has(entry.name) && entry.name !== own && !/\.(mhl|sha256)$/i.test(entry.name))
      found.unlisted.push(entry.name);
  found.unlisted.sort();
  return found;
}

async function verifyOne(folder: string, { path, bytes, digests }: ListedInManifest, found: Verified): Promise<void> {
  const wanted = Object.entries(digests);
  if (wanted.length === 0) {
    found.unknown.push(path);
    return;
  }
  let one;
  try {
    one = holdFile(folder, path);
  } catch (error) {
    const { code } = error as { code?: string };
    if (code === 'ENOENT' || code === 'ENOTDIR') found.missing.push(path);
    else found.changed.push({ path, why: `it cannot be read: ${(error as Error).message}` });
    return;
  }
  try {
    if (bytes !== undefined && one.told.size !== bytes) {
      found.changed.push({ path, why: `it has ${one.told.size} bytes, and the manifest says ${bytes}` });
      return;
    }
    const came = await digestsOf(
      one.fd,
      wanted.map(([kind]) => kind),
    );
    const differs = wanted.find(([kind, digest]) => came[kind] !== digest);
    if (differs) found.changed.push({ path, why: `its ${differs[0]} is ${came[differs[0]]}` });
    else found.whole += 1;
  } finally {
    one.close();
  }
}

/** What a hash list needs of files, each held against its SHA-256. @throws ShaleError `result-changed`, `file-gone` naming the file */
export async function hashFiles(
  folder: string,
  files: readonly { name: string; sha256: string }[],
): Promise<{ path: string; bytes: number; modified: string; md5: string; c4: string }[]> {
  const hashed = [];
  for (const { name, sha256 } of files) {
    let one;
    try {
      one = holdFile(folder, name);
    } catch {
      throw new ShaleError({
        code: 'file-gone',
        fact: `${name} no longer exists.`,
        wayOut: 'Put it back, or make it again.',
        subject: name,
      });
    }
    try {
      const came = await digestsOf(one.fd, ['sha256', 'md5', 'c4']);
      if (came.sha256 !== sha256)
        throw new ShaleError({
          code: 'result-changed',
          fact: `${name} is not what was written: its contents have changed.`,
          wayOut: 'Make it again; a new list would vouch for the changed file.',
          subject: name,
        });
      const { size: bytes, mtime } = one.told;
      hashed.push({ path: name, bytes, modified: mtime.toISOString(), md5: came.md5!, c4: came.c4! });
    } finally {
      one.close();
    }
  }
  return hashed;
}
