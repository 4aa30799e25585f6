import { ClipReader, fileIdentity } from '@shale/media';
import type { Fields, Image } from '@shale/core';

/** Readers that a process keeps open for questions about single pictures; the one that was not asked for longest is closed. */
const most = 4;
/** How long they stay open after the last question, in milliseconds. */
const patience = 20_000;

const open = new Map<string, Promise<ClipReader>>();
let closing: NodeJS.Timeout | undefined;

async function closeAll(): Promise<void> {
  const readers = [...open.values()];
  open.clear();
  for (const reader of readers) await (await reader.catch(() => undefined))?.close();
}

/** A picture of a clip by its number. @throws ShaleError naming the file, and the picture where it is that which is damaged */
export async function pictureOfClip(path: string, number: number, fields: Fields = 'keep'): Promise<Image> {
  const key = `${await fileIdentity(path)}\0${fields}`;
  const reader = open.get(key) ?? ClipReader.open(path, { fields, threads: 2 });
  open.delete(key);
  open.set(key, reader);
  clearTimeout(closing);
  closing = setTimeout(() => void closeAll(), patience);
  closing.unref();
  if (open.size > most) {
    const [oldest, first] = open.entries().next().value!;
    open.delete(oldest);
    void first.then((one) => one.close()).catch(() => undefined);
  }
  try {
    return await (await reader).picture(number);
  } catch (error) {
    if ((await reader.catch(() => undefined)) === undefined) open.delete(key);
    throw error;
  }
}
