import { library } from './library.ts';

/** A kind of file that is read, as `kinds.py` tells of it. */
export interface Kind {
  name: string;
  ext: string;
  channels: number;
  quick: boolean;
  alpha: 'none' | 'straight' | 'premultiplied';
  transfer: 'srgb' | 'linear' | 'bt709';
}

/** Every kind of still that other libraries, or plain writers, make. */
export const kindsOfStill = (): Promise<Kind[]> => library('stills.py', { do: 'kinds' });

/** Makes pictures of some kinds, each in a folder of its own. @returns why some are not made, by their kind */
export const makeStills = (folder: string, kinds: string[], numbers: number[]): Promise<Record<string, string>> =>
  library('stills.py', { do: 'make', folder, kinds, numbers });

/** The folder of a kind below that of all, as `stills.py` names it. */
export const folderOf = ({ name }: Kind): string => name.replaceAll(' ', '_').replaceAll(':', '');

/** What its files do not say, and what they do, declared to the command line. */
export const declaredAs = ({ channels, alpha, transfer }: Kind): string[] => [
  ...['--rate', '24', '--transfer', transfer],
  ...['--alpha', channels % 2 === 1 ? 'none' : alpha === 'none' ? 'ignore' : alpha],
];
