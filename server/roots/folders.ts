import { existsSync } from 'node:fs';
import { access, constants, mkdir, readdir, readFile, realpath, rename, stat, writeFile } from 'node:fs/promises';
import { homedir } from 'node:os';
import { basename, dirname, join, sep } from 'node:path';
import { z } from 'zod';
import { ShaleError } from '@shale/core';
import type { Browsed, NewRoot } from '@shale/contract';
import { log } from '../log.ts';
import { rootSchema, type RootConfig } from './config.ts';

const keptSchema = z.object({ roots: z.array(rootSchema) });

/** Folders that one answer lists at the most. */
const mostListed = 2000;

/** Where folders may be added from where the operator says nothing: home, and where disks are mounted. */
export const usualPlaces = (): string[] =>
  [homedir(), '/mnt', '/media', '/run/media', '/srv', '/Volumes'].filter((path) => existsSync(path));

const isWithin = (path: string, above: string): boolean =>
  path === above || path.startsWith(above.endsWith(sep) ? above : above + sep);

const refuse = (code: string, fact: string, wayOut: string, subject: string): ShaleError =>
  new ShaleError({ code, fact, wayOut, subject });

/** Folders that people add from the page: kept in a file of the server's own, confined to places that the operator allows. */
export class AddedFolders {
  private roots: RootConfig[] = [];

  constructor(
    /** The file in which they are kept. */
    private readonly file: string,
    /** Below which folders may be added and looked through. */
    private readonly places: readonly string[],
    /** Shale's own data, which is no footage. */
    private readonly data: string,
  ) {}

  /** What was added before; what cannot be read is logged and begun anew. */
  async begin(): Promise<RootConfig[]> {
    if (!existsSync(this.file)) return [];
    try {
      this.roots = keptSchema
        .parse(JSON.parse(await readFile(this.file, 'utf8')))
        .roots.map((one) => ({ ...one, added: true }));
    } catch (error) {
      log('error', `${this.file} cannot be read, and is put aside: ${String(error)}`);
      await rename(this.file, `${this.file}.unreadable`);
    }
    return this.roots;
  }

  /** Folders below one, of those that may be looked through; the places themselves where none is named. @throws ShaleError `outside-places`, `folder-gone`, `folder-denied` */
  async browse(path: string | undefined): Promise<Browsed> {
    if (path === undefined || path === '') {
      return {
        path: '',
        above: null,
        folders: this.places.map((place) => ({ name: place, path: place })),
        more: 0,
        mayWrite: false,
      };
    }
    const real = await this.allowed(path);
    const entries = await readdir(real, { withFileTypes: true }).catch((error: NodeJS.ErrnoException) => {
      throw error.code === 'EACCES' || error.code === 'EPERM'
        ? refuse(
            'folder-denied',
            `${path} cannot be read by the account that runs Shale.`,
            'Give it the right to read there, or choose another.',
            path,
          )
        : refuse('folder-gone', `${path} no longer exists.`, 'Choose another.', path);
    });
    const names = entries.filter((entry) => entry.isDirectory() && !entry.name.startsWith('.')).map(({ name }) => name);
    const compare = new Intl.Collator('en', { numeric: true }).compare;
    const isPlace = this.places.some((place) => real === place);
    return {
      path: real,
      above: isPlace ? '' : dirname(real),
      folders: names
        .sort(compare)
        .slice(0, mostListed)
        .map((name) => ({ name, path: join(real, name) })),
      more: Math.max(0, names.length - mostListed),
      mayWrite: await access(real, constants.W_OK).then(
        () => true,
        () => false,
      ),
    };
  }

  /**
   * Makes a root of a folder, and keeps it.
   * @param there the roots that are there already
   * @param anywhere true where whoever looks after the machine asks, who is not held to the places
   * @throws ShaleError `outside-places`, `folder-gone`, `folder-denied`, `not-writable`, `taken`
   */
  async add({ path, name, writable }: NewRoot, there: readonly RootConfig[], anywhere = false): Promise<RootConfig> {
    const real = await this.allowed(path, anywhere);
    const told = await stat(real);
    if (!told.isDirectory()) throw refuse('folder-gone', `${path} is a file.`, 'Name the folder that it is in.', path);
    await access(real, constants.R_OK | constants.X_OK).catch(() => {
      throw refuse(
        'folder-denied',
        `${path} cannot be read by the account that runs Shale.`,
        'Give it the right to read there, or choose another.',
        path,
      );
    });
    if (writable)
      await access(real, constants.W_OK).catch(() => {
        throw refuse(
          'not-writable',
          `${path} cannot be written by the account that runs Shale.`,
          'Give it the right to write there, or add it as read-only.',
          path,
        );
      });
    const same = there.find((root) => root.path === real);
    if (same)
      throw refuse('taken', `${path} is there already, as ${same.name}.`, 'Choose it in the list of roots.', path);
    const words = name?.trim() || basename(real) || real;
    const config: RootConfig = {
      id: freeId(words, there),
      name: words.slice(0, 80),
      path: real,
      writable,
      added: true,
    };
    await this.keep([...this.roots, config]);
    return config;
  }

  /** Takes a folder off the list again; nothing on the disk is touched. @throws ShaleError `not-added` */
  async remove(id: string): Promise<void> {
    if (!this.roots.some((one) => one.id === id))
      throw refuse(
        'not-added',
        `The root "${id}" was not added from the page.`,
        'Remove it from shale.config.json, and start Shale again.',
        id,
      );
    await this.keep(this.roots.filter((one) => one.id !== id));
  }

  /** The real path of a folder that may be looked through. */
  private async allowed(path: string, anywhere = false): Promise<string> {
    const real = await realpath(path).catch(() => {
      throw refuse(
        'folder-gone',
        `There is no folder ${path}.`,
        'Check its spelling, and that its disk is mounted.',
        path,
      );
    });
    const places = await Promise.all(this.places.map((place) => realpath(place).catch(() => place)));
    if (!anywhere && !places.some((place) => isWithin(real, place)))
      throw refuse(
        'outside-places',
        `${path} is outside the allowed places: ${this.places.join(', ')}.`,
        'Choose one inside them; an operator adds more with "places" in shale.config.json.',
        path,
      );
    const own = await realpath(this.data).catch(() => this.data);
    if (isWithin(real, own))
      throw refuse('outside-places', `${path} is Shale’s own data.`, 'Choose another folder.', path);
    return real;
  }

  private async keep(roots: RootConfig[]): Promise<void> {
    const text = JSON.stringify({ roots: roots.map(({ added: _, own: __, ...one }) => one) }, null, 2);
    await mkdir(dirname(this.file), { recursive: true });
    await writeFile(`${this.file}.part`, `${text}\n`);
    await rename(`${this.file}.part`, this.file);
    this.roots = roots;
  }
}

/** An id of lower-case letters, digits and dashes that no root has. */
function freeId(name: string, there: readonly RootConfig[]): string {
  const plain =
    name
      .normalize('NFKD')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 32) || 'folder';
  const taken = new Set(there.map(({ id }) => id));
  for (let number = 1; ; number += 1) {
    const id = number === 1 ? plain : `${plain}-${number}`;
    if (!taken.has(id)) return id;
  }
}
