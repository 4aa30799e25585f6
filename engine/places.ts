import type { Role } from '@shale/core';

/** Where the roots of a plan lie on this machine, absolute. */
export interface Places {
  /** Whether links are followed wherever they lead: whoever names a file on a command line may read all that he may. */
  follows?: boolean;
  source: string;
  target: string;
  /** Roots of second sources, by what they are for. */
  others?: Partial<Record<Role, string>>;
  /** Roots of the sequences that channels are taken from, in their order. */
  joined?: string[];
  /** The root of a sound that is not the clip's own. */
  sound?: string;
  /** Roots of the shots that follow, in their order. */
  shots?: string[];
}

/** Where the shot of a row lies. */
export const shotRoot = ({ source, shots }: Places, shot: number): string => (shot === 0 ? source : shots![shot - 1]!);
