/** What a file is, by its ending alone; a probe of the header has the last word. */
export type FileKind = 'picture' | 'clip' | 'sound' | 'other';

const endings: Record<Exclude<FileKind, 'other'>, readonly string[]> = {
  picture: 'png jpg jpeg jpe tif tiff tga exr dpx cin bmp webp gif apng pnm pgm ppm pam pfm jxl avif'.split(' '),
  clip: 'mp4 mov m4v mkv webm avi mxf mpg mpeg m2v ts mts m2ts wmv ogv y4m'.split(' '),
  sound: 'wav aif aiff flac mp3 m4a aac ogg opus bwf'.split(' '),
};

const byEnding = new Map<string, FileKind>(
  Object.entries(endings).flatMap(([kind, list]) => list.map((ending) => [ending, kind as FileKind] as const)),
);

/** The ending of a name in lower case without its dot; empty where there is none. */
export function endingOf(name: string): string {
  const dot = name.lastIndexOf('.');
  return dot > 0 ? name.slice(dot + 1).toLowerCase() : '';
}

/** Hidden files, partial downloads and folder databases are `other`, whatever their ending. */
export function fileKind(name: string): FileKind {
  if (name.startsWith('.') || name.endsWith('~') || /^thumbs\.db$/i.test(name)) return 'other';
  return byEnding.get(endingOf(name)) ?? 'other';
}
