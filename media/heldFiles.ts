import { basename } from 'node:path';

/** Where files lie that are held open and read by their descriptor, by the path that the system gives that. */
const places = new Map<string, string>();

/**
 * Says where a file lies that is read through a path of its descriptor (`/proc/self/fd/7`), so that messages name it.
 * @returns takes that back, once it is closed
 */
export function held(path: string, lies: string): () => void {
  places.set(path, lies);
  return () => void places.delete(path);
}

/** Where a file lies: the path itself but for one that is held open. */
export const placeOfFile = (path: string): string => places.get(path) ?? path;

/** A file's name as messages tell it. */
export const nameOfFile = (path: string): string => basename(placeOfFile(path));
