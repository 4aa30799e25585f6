import { createRequire } from 'node:module';
import { fileURLToPath } from 'node:url';

/** Our own addon for the names of many files; both run off the event loop. */
export interface DiskAddon {
  /**
   * Gives files other names in order, never over an existing one, and stops at the first that fails.
   * @returns how many were done, and the system's error (0 where there is none)
   */
  renameAll(from: readonly string[], to: readonly string[]): Promise<{ done: number; errno: number; message: string }>;
  /** Who each name leads to, as `device:inode:bytes:nanoseconds`; with `:other` where it is no plain file, empty where nothing is. */
  identify(paths: readonly string[]): Promise<string[]>;
}

export const diskAddon = createRequire(import.meta.url)(
  fileURLToPath(new URL('./build/Release/shale_disk.node', import.meta.url)),
) as DiskAddon;
