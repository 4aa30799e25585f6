import { stills } from '../formats/index.ts';

/** What a file is, by its ending alone; a probe of the header has the last word. */
export type FileKind = 'picture' | 'clip' | 'sound' | 'other';

const endings: Record<Exclude<FileKind, 'other'>, readonly string[]> = {
  picture: Object.values(stills).flatMap((still): readonly string[] => still.endings),
  clip: 'mp4 mov m4v mkv webm avi mxf mpg mpeg m2v ts mts m2ts wmv ogv y4m'.split(' '),
  sound: 'wav aif aiff flac mp3 m4a aac ogg opus bwf'.split(' '),
};

/** Grows by the endings met in other letters (`PNG`), so that each is made small only once. */
const byEnding = new Map<string, FileKind>(
  Object.entries(endings).flatMap(([kind, list]) => list.map((ending) => [ending, kind as FileKind] as const)),
);

/** Hidden files, partial downloads and folder databases are `other`, whatever their ending. */
export function fileKind(name: string): FileKind {
  const first = name.charCodeAt(0);
  const last = name.charCodeAt(name.length - 1);
  // `.hidden`, `~$open`, `backup~`
  if (first === 46 || first === 126 || last === 126) return 'other';
  return kindOfEnding(name.slice(dotOf(name) + 1));
}

/** Where the ending's dot stands; the last place where there is none, so that the ending is empty. */
const dotOf = (name: string): number => {
  const dot = name.lastIndexOf('.');
  return dot > 0 ? dot : name.length;
};

function kindOfEnding(ending: string): FileKind {
  const known = byEnding.get(ending);
  if (known !== undefined) return known;
  const kind = byEnding.get(ending.toLowerCase());
  if (kind === undefined) return 'other';
  byEnding.set(ending, kind);
  return kind;
}
