import { createRequire } from 'node:module';
import { fileURLToPath } from 'node:url';

/** Our own addon for the names of many files, off the event loop, and for opening below a folder. */
export interface DiskAddon {
  /**
   * Gives files other names in order, never over an existing one, and stops at the first that fails.
   * @returns how many were done, and the system's error (0 where there is none)
   */
  renameAll(from: readonly string[], to: readonly string[]): Promise<{ done: number; errno: number; message: string }>;
  /** Who each name leads to, as `device:inode:bytes:nanoseconds`; with `:other` where it is no plain file, empty where nothing is. */
  identify(paths: readonly string[]): Promise<string[]>;
  /**
   * Opens what lies below a folder, wherever links lead meanwhile: `openat2` with `RESOLVE_BENEATH`.
   * @param flags of `open`
   * @returns the descriptor, or the system's error as a negative number (`EXDEV` where it leads out)
   */
  openBeneath(root: string, below: string, flags: number): number;
  /** XXH3 of 128 bits over all that is behind a descriptor, in hexadecimal: tells whether bytes are the same many times as quickly as SHA-256. @throws Error of the system */
  xxh128(fd: number): Promise<string>;
}

export const diskAddon = createRequire(import.meta.url)(
  fileURLToPath(new URL('./build/Release/shale_disk.node', import.meta.url)),
) as DiskAddon;
